import { TriangleAlert } from "lucide-react";
import { lazy, Suspense } from "react";

import type { Schemas } from "../api/client";

// The charts are heavy; the sentence is there before them.
const Plot = lazy(() => import("./Plot").then((m) => ({ default: m.Plot })));

/** The answer as a coach says it, what to heed, and how it moves. */
export function Answer({
  answer,
  late,
  onDrag,
}: {
  answer: Schemas["Answer"];
  /** The answer to what is typed now is still on its way. */
  late: boolean;
  onDrag: (key: string, text: string, unit: string) => void;
}) {
  return (
    <section aria-label="Answer" aria-busy={late} className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <div
        role="status"
        className={`grid gap-1 text-lg leading-snug ${late ? "opacity-40 transition-opacity delay-200" : ""}`}
      >
        {answer.says.map((s) => (
          <p key={s}>{s}</p>
        ))}
      </div>
      {answer.cautions.map((c) => (
        <p key={c} className="flex gap-2 text-warn">
          <TriangleAlert aria-hidden className="mt-1 size-4 shrink-0" />
          {c}
        </p>
      ))}
      {answer.plot && (
        <Suspense fallback={<div className="h-72" />}>
          <Plot plot={answer.plot} onDrag={onDrag} />
        </Suspense>
      )}
    </section>
  );
}
