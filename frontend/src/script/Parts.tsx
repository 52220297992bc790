import type { Prescription, Schemas } from "../api/client";

const STAGE: Record<string, string> = { still: "Standing", slow: "Slowly", speed: "At speed", full: "For real" };

export function Strengths({ strengths }: { strengths: Prescription["strengths"] }) {
  if (!strengths.length) return null;
  return (
    <ul className="grid gap-1">
      {strengths.map((s) => (
        <li key={s.id} className="flex gap-2">
          <span aria-hidden className="font-bold text-good">
            ✓
          </span>{" "}
          {s.text}
        </li>
      ))}
    </ul>
  );
}

/** One drill as a ladder, each rung with its dose. */
export function Ladder({ drill }: { drill: Schemas["Drill"] }) {
  return (
    <div>
      <h3 className="mb-1 font-semibold">{drill.title}</h3>
      {drill.reason && <p className="mb-1 text-soft">{drill.reason}</p>}
      <ol className="grid gap-1.5">
        {drill.steps.map((s) => (
          <li key={s.stage + s.text} className="grid grid-cols-[5.5rem_1fr] gap-2">
            <span className="font-semibold text-soft">{STAGE[s.stage] ?? s.stage}</span>
            <span>
              {s.text} <span className="whitespace-nowrap text-soft">({s.dose})</span>
            </span>
          </li>
        ))}
      </ol>
      <p className="mt-1.5">
        <b className="font-semibold">It works when:</b> {drill.sign}
      </p>
      {drill.worse_first && (
        <p>
          <b className="font-semibold">At first:</b> {drill.worse_first}
        </p>
      )}
    </div>
  );
}
