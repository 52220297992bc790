import { CircleHelp } from "lucide-react";

import type { Bench, Schemas } from "../api/client";
import { Button } from "../ui/parts";

/** What the picture says against what was said of it. Nothing is judged until the coach has answered. */
export function Doubt({
  doubt,
  busy,
  onAnswer,
}: {
  doubt: NonNullable<Bench["doubt"]>;
  busy: boolean;
  onAnswer: (answer: Schemas["AnswerRequest"]) => void;
}) {
  return (
    <section role="alert" aria-labelledby="doubt" className="grid gap-2 border-b-2 border-warn bg-tint px-3 py-3">
      <h2 id="doubt" className="flex items-center gap-2 text-base">
        <CircleHelp aria-hidden className="size-5 shrink-0" /> {doubt.asks}
      </h2>
      <p>{doubt.says.charAt(0).toUpperCase() + doubt.says.slice(1)}.</p>
      <div className="grid gap-1.5">
        {doubt.choices.map((c) => (
          <Button
            key={c.words}
            tone={c.value === null ? "plain" : "main"}
            disabled={busy}
            onClick={() => onAnswer({ kind: doubt.kind, value: c.value })}
            className="min-h-11 justify-center whitespace-normal"
          >
            {c.words}
          </Button>
        ))}
      </div>
      <p className="text-sm text-soft">
        Nothing is judged until this is settled. Another view can be set on the clip&rsquo;s page.
      </p>
    </section>
  );
}
