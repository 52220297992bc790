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
export function Ladder({
  drill,
  ticks = [],
  begin = 0,
  onTick,
  onBegin,
}: {
  drill: Schemas["Drill"];
  ticks?: Schemas["Tick"][];
  /** The step that it begins with; those before it were done before. */
  begin?: number;
  /** Where a coach says with which step it begins. */
  onBegin?: (step: number) => void;
  /** Where the reader ticks what is done. */
  onTick?: (drill: string, step: number, done: boolean) => void;
}) {
  const done = new Set(ticks.filter((t) => t.drill === drill.id).map((t) => t.step));
  return (
    <div>
      <h3 className="mb-1 font-semibold">{drill.title}</h3>
      {drill.reason && <p className="mb-1 text-soft">{drill.reason}</p>}
      <ol className="grid gap-1.5">
        {drill.steps.map((s, k) => {
          const words = (
            <span>
              {s.text} <span className="whitespace-nowrap text-soft">({s.dose})</span>
              {!onTick && done.has(k) && <b className="font-semibold text-good"> ✓ done</b>}
              {begin > 0 && k === begin && <b className="font-semibold"> Begin here.</b>}
            </span>
          );
          return (
            <li key={s.stage + s.text} className={`grid grid-cols-[5.5rem_1fr] gap-2 ${k < begin ? "text-soft" : ""}`}>
              <span className="font-semibold text-soft">{STAGE[s.stage] ?? s.stage}</span>
              {onTick ? (
                <label className="flex min-h-7 gap-2">
                  <input
                    type="checkbox"
                    className="mt-1 size-5 shrink-0"
                    checked={done.has(k)}
                    onChange={(e) => onTick(drill.id, k, e.target.checked)}
                  />
                  {words}
                </label>
              ) : (
                words
              )}
            </li>
          );
        })}
      </ol>
      {onBegin && drill.steps.length > 1 && (
        <label className="mt-1.5 flex items-center gap-2 text-sm">
          <span className="text-soft">Begins with</span>
          <select
            className="min-h-7 rounded border border-line bg-sheet px-1"
            value={begin}
            onChange={(e) => onBegin(Number(e.target.value))}
          >
            {drill.steps.map((s, k) => (
              <option key={s.stage + s.text} value={k}>
                step {k + 1}, {(STAGE[s.stage] ?? s.stage).toLowerCase()}
              </option>
            ))}
          </select>
        </label>
      )}
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
