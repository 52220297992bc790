import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

export function Dialog({
  title,
  about,
  open,
  onOpen,
  children,
  wide,
  keep,
}: {
  title: string;
  about?: string;
  open: boolean;
  onOpen: (open: boolean) => void;
  children: ReactNode;
  wide?: boolean;
  /** A press beside it does not close it: something is being typed. */ keep?: boolean;
}) {
  return (
    <Radix.Root open={open} onOpenChange={onOpen}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-30 bg-picture-dark/45" />
        <Radix.Content
          onInteractOutside={(e) => keep && e.preventDefault()}
          {...(about ? {} : { "aria-describedby": undefined })}
          className={`fixed top-1/2 left-1/2 z-40 max-h-[92vh] w-[94vw] ${wide ? "max-w-3xl" : "max-w-lg"} -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-lg border border-line bg-sheet p-5 text-ink shadow-xl`}
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <Radix.Title className="text-lg">{title}</Radix.Title>
            <Radix.Close aria-label="Close" className="rounded p-1 hover:bg-tint">
              <X aria-hidden className="size-5" />
            </Radix.Close>
          </div>
          {about && <Radix.Description className="mb-3 text-soft">{about}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
