import { Check, CircleHelp, Minus, TriangleAlert } from "lucide-react";

import type { Schemas } from "../api/client";

const SIGNS = {
  good: [Check, "text-good", "good"],
  fair: [Minus, "text-ink", "fair"],
  poor: [TriangleAlert, "text-bad", "poor"],
  unknown: [CircleHelp, "text-soft", "not known"],
} as const;

type Verdict = Schemas["Verdict"];

/** What is poor or fair first, with what it hides and what to do next time; what is good stands in one line to be opened. */
export function Verdicts({ verdicts }: { verdicts: Verdict[] }) {
  const good = verdicts.filter((v) => v.grade === "good");
  const unread = verdicts.filter((v) => v.grade === "unknown" && !v.hides);
  const rest = verdicts.filter((v) => v.grade !== "good" && !unread.includes(v));
  return (
    <section aria-labelledby="check" className="rounded border border-line bg-sheet">
      <h2 id="check" className="px-3 pt-2 text-base">
        What these pictures can bear
      </h2>
      <ul>
        {rest.map((v) => (
          <One key={v.id} verdict={v} />
        ))}
      </ul>
      {unread.length > 0 && (
        <p className="border-y border-line px-3 py-2 text-soft">
          <CircleHelp aria-hidden className="mr-2 inline size-4" />
          {listed(unread.map((v) => v.title))}: not read on this clip.
        </p>
      )}
      {good.length > 0 && (
        <details className="px-3 py-2">
          <summary className="cursor-pointer">
            <Check aria-hidden className="mr-1 inline size-4 text-good" />
            <b className="font-semibold">Good:</b> {good.map((v) => v.title.toLowerCase()).join(", ")}
          </summary>
          <ul className="-mx-3 mt-1 border-t border-line">
            {good.map((v) => (
              <One key={v.id} verdict={v} />
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

/** Sharpness and light; frame rate, size and light. */
function listed(titles: string[]): string {
  return new Intl.ListFormat("en", { type: "conjunction" }).format(titles.map((t, k) => (k ? t.toLowerCase() : t)));
}

function One({ verdict: v }: { verdict: Verdict }) {
  const [Sign, colour, word] = SIGNS[v.grade];
  return (
    <li className="grid grid-cols-[1.25rem_1fr] gap-2 border-b border-line px-3 py-2 last:border-b-0">
      <Sign aria-hidden className={`mt-0.5 size-4 ${colour}`} />
      <div>
        <p>
          <b className="font-semibold">{v.title}</b> <span className={`text-sm ${colour}`}>{word}</span>
        </p>
        <p>{v.words}</p>
        {v.hides && <p className="text-sm text-soft">{v.hides}</p>}
        {v.next_time && v.grade !== "good" && <p className="text-sm">Next time: {v.next_time}</p>}
      </div>
    </li>
  );
}
