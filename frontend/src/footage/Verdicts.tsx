import { Check, CircleHelp, Minus, TriangleAlert } from "lucide-react";

import type { Schemas } from "../api/client";

const SIGNS = {
  good: [Check, "text-good", "good"],
  fair: [Minus, "text-ink", "fair"],
  poor: [TriangleAlert, "text-bad", "poor"],
  unknown: [CircleHelp, "text-soft", "not known"],
} as const;

/** One line for each thing about the pictures; what it hides and what to do next time stand under it. */
export function Verdicts({ verdicts }: { verdicts: Schemas["Verdict"][] }) {
  return (
    <section aria-labelledby="check" className="rounded border border-line bg-sheet">
      <h2 id="check" className="px-3 pt-2 text-base">
        What these pictures can bear
      </h2>
      <ul>
        {verdicts.map((v) => {
          const [Sign, colour, word] = SIGNS[v.grade as keyof typeof SIGNS];
          return (
            <li key={v.id} className="grid grid-cols-[1.25rem_1fr] gap-2 border-b border-line px-3 py-2 last:border-b-0">
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
        })}
      </ul>
    </section>
  );
}
