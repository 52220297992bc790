import { CircleHelp } from "lucide-react";
import { Popover } from "radix-ui";
import type { ReactNode } from "react";

/** What a word means, where it stands: opened by a press, a touch or a key. */
export function Explain({ what, children }: { what: string; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`What is ${what}?`}
        className="inline-grid size-7 shrink-0 place-items-center self-center rounded align-middle text-soft hover:bg-tint"
      >
        <CircleHelp aria-hidden className="size-3.5" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          collisionPadding={8}
          className="z-50 grid max-w-72 gap-1 rounded border border-line bg-sheet px-3 py-2 text-sm text-ink shadow-lg"
        >
          <b className="font-semibold">{what}</b>
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
