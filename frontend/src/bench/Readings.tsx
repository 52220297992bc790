import type { Bench, Reading, Unit } from "../api/client";
import { Explain } from "../ui/Explain";
import { plain, sentence } from "../ui/places";
import { notesAt, saidOf } from "../ui/notes";

interface Props {
  bench: Bench;
  turn?: Unit;
  phase?: string;
  picked: string | null;
  onPick: (key: string) => void;
}

/** The side that this unit is held against, where the run has two. */
function otherSide(bench: Bench, turn: Unit): string | undefined {
  const mine = turn.finest_side ?? turn.side;
  return bench.sides.find((s) => s.side !== mine)?.side;
}

export const keyOf = (r: { measure: string; limb: string | null }) => `${r.measure}|${r.limb ?? ""}`;

/** The numbers of this turn and phase: value ± U, the band for the level, the other side's mean. */
export function Readings({ bench, turn, phase, picked, onPick }: Props) {
  if (bench.units.length === 0)
    return (
      <div className="grid gap-2 p-3">
        <p className="font-semibold">No {bench.unit}s were found.</p>
        {bench.notes.length > 0 ? (
          bench.notes.map((note) => <p key={note}>{note}</p>)
        ) : (
          <p className="text-soft">
            Where you see one, go to its first frame and press Cut, then to its last and press Cut again. The
            clip&rsquo;s page says what the pictures hide.
          </p>
        )}
      </div>
    );
  if (bench.by_eye || turn?.counted)
    return (
      <div className="grid gap-1 p-3">
        <NotedHere {...{ bench, turn }} />
        {bench.notes.map((note) => (
          <p key={note} className="text-soft">
            {note}
          </p>
        ))}
      </div>
    );
  if (!turn)
    return <p className="p-3 text-soft">Between {bench.unit_plural} nothing is read. Step to one or jump with ↑ ↓.</p>;
  const here = bench.readings.filter((r) => r.unit === turn.n && r.phase === phase);
  const whole = bench.readings.filter((r) => r.unit === turn.n && r.phase === null);
  return (
    <>
      <NotedHere {...{ bench, turn }} />
      <Table title={`In the ${plain(phase ?? "")}`} rows={here} {...{ bench, turn, picked, onPick }} />
      <Table title={`Whole ${bench.unit}`} rows={whole} {...{ bench, turn, picked, onPick }} />
      <SideBySide bench={bench} />
      {bench.notes.map((note) => (
        <p key={note} className="border-t border-line px-3 py-2 text-sm text-soft">
          {note}
        </p>
      ))}
      {bench.refusals.length > 0 && (
        <details className="border-t border-line px-3 py-2 text-sm">
          <summary className="cursor-pointer font-semibold">
            Cannot be told from this clip ({new Set(bench.refusals.map((r) => r.measure)).size})
          </summary>
          <ul className="mt-1 grid gap-1 text-soft">
            {[...new Map(bench.refusals.map((r) => [r.measure, r])).values()].map((r) => (
              <li key={r.measure}>
                <b className="font-semibold text-ink">{bench.measures[r.measure]?.title}:</b> {r.words}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** What the coach's eye has of this unit, beside what was measured. */
function NotedHere({ bench, turn }: { bench: Bench; turn?: Unit }) {
  const here = notesAt(bench, turn);
  if (!here.length) return null;
  return (
    <p className="px-3 pt-2 text-sm">
      <b className="font-semibold">Your eye here:</b> {here.map(saidOf).join("; ")}
    </p>
  );
}

/** What differs between the two sides by more than the camera could make of nothing. */
function SideBySide({ bench }: { bench: Bench }) {
  const gaps = bench.gaps ?? [];
  if (!gaps.length) return null;
  const { first, second } = gaps[0]!;
  const sure = gaps.filter((g) => g.sure);
  const pair = `${sentence(first.side)} against ${plain(second.side)}`;
  if (!sure.length)
    return <p className="border-t border-line px-3 py-2 text-sm text-soft">{pair}: no sure difference.</p>;
  return (
    <details className="border-t border-line px-3 py-2 text-sm">
      <summary className="cursor-pointer font-semibold">
        {pair} ({sure.length} of {gaps.length} differ)
      </summary>
      <table className="mt-1 w-full">
        <thead>
          <tr className="text-left text-sm text-soft">
            <th className="font-semibold">Mean of all {bench.unit_plural}</th>
            <th className="text-right font-semibold">{plain(first.side)}</th>
            <th className="text-right font-semibold">{plain(second.side)}</th>
            <th className="text-right font-semibold">gap ± U</th>
          </tr>
        </thead>
        <tbody>
          {sure.map((g) => {
            const m = bench.measures[g.measure]!;
            return (
              <tr key={`${g.measure} ${g.phase} ${g.limb}`} className="border-t border-line">
                <td className="py-1">
                  {m.title}
                  <span className="text-soft">
                    {g.limb && ` ${g.limb}`}
                    {g.phase && `, ${plain(g.phase)}`}
                  </span>
                </td>
                <td className="text-right whitespace-nowrap">
                  {g.first.words}
                  <Unit unit={m.unit} short />
                </td>
                <td className="text-right whitespace-nowrap">
                  {g.second.words}
                  <Unit unit={m.unit} short />
                </td>
                <td className="text-right whitespace-nowrap">
                  <b className="font-semibold">{g.words}</b> <span className="text-soft">± {g.pm}</span>
                  <Unit unit={m.unit} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </details>
  );
}

function Table({
  title,
  rows,
  bench,
  turn,
  picked,
  onPick,
}: { title: string; rows: Reading[] } & Omit<Props, "phase">) {
  if (!rows.length) return null;
  const other = turn && otherSide(bench, turn);
  return (
    <table className="w-full">
      <thead>
        <tr className="text-left text-sm text-soft">
          <th className="px-3 pt-2 pb-1 font-semibold">{title}</th>
          <th className="pt-2 pb-1 text-right font-semibold">value ± U</th>
          <th className="w-24 pt-2 pb-1 text-center font-semibold">band</th>
          <th className="px-3 pt-2 pb-1 text-right font-semibold">{other && `${plain(other)} mean`}</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <Row key={keyOf(r)} r={r} bench={bench} other={other} picked={picked === keyOf(r)} onPick={onPick} />
        ))}
      </tbody>
    </table>
  );
}

function Row({
  r,
  bench,
  other,
  picked,
  onPick,
}: {
  r: Reading;
  bench: Bench;
  other?: string;
  picked: boolean;
  onPick: (key: string) => void;
}) {
  const m = bench.measures[r.measure]!;
  const band = bench.bands.find(
    (b) =>
      b.measure === r.measure && (b.phase === null || b.phase === r.phase) && (b.limb === null || b.limb === r.limb),
  );
  const mean = bench.sides.find(
    (s) => s.measure === r.measure && s.phase === r.phase && s.limb === r.limb && s.side === other,
  );
  return (
    <tr className={`border-t border-line ${picked ? "bg-tint" : ""}`}>
      <td className="px-3 py-1">
        <div className="flex items-center gap-0.5">
          <button
            type="button"
            className="min-w-0 text-left hover:underline"
            aria-pressed={picked}
            onClick={() => onPick(keyOf(r))}
          >
            {m.title}
            {r.limb && <span className="text-soft"> {r.limb}</span>}
          </button>
          <Explain what={m.title}>
            <p>{m.doc}</p>
            <p>
              <i>{m.formula}</i>
              {m.unit && `, in ${m.unit.trim()}`}
            </p>
            {m.views && <p className="text-soft">Shows {m.views}.</p>}
            {band && <p className="text-soft">Wanted at this level: {bandWords(band.lo, band.hi, m.unit)}.</p>}
          </Explain>
        </div>
      </td>
      <td className="py-1 text-right whitespace-nowrap">
        <b className="font-semibold">{r.words}</b> <span className="text-soft">± {r.pm}</span>
        <Unit unit={m.unit} />
      </td>
      <td className="px-1 py-1">{band && <BandBar r={r} lo={band.lo} hi={band.hi} unit={m.unit} />}</td>
      <td className="px-3 py-1 text-right whitespace-nowrap text-soft">
        {mean ? mean.words : "–"}
        {mean && <Unit unit={m.unit} short />}
      </td>
    </tr>
  );
}

const bandWords = (lo: number | null, hi: number | null, unit: string) =>
  `${lo === null ? "at most" : hi === null ? "at least" : "from"} ${lo ?? hi}${lo !== null && hi !== null ? ` to ${hi}` : ""}${unit}`;

/** What a number is counted in: behind it where it is a sign, under it where it is a few words. */
function Unit({ unit, short }: { unit: string; short?: boolean }) {
  if (unit.length <= 4) return <span className="text-soft">{unit}</span>;
  return short ? null : (
    <span className="ml-auto block max-w-28 text-xs whitespace-normal text-soft">{unit.trim()}</span>
  );
}

/** The band as a filled stretch and the reading's interval as a bar over it. */
function BandBar({ r, lo, hi, unit }: { r: Reading; lo: number | null; hi: number | null; unit: string }) {
  const U = 2 * r.u;
  const ends = [r.value - U, r.value + U, ...(lo === null ? [] : [lo]), ...(hi === null ? [] : [hi])];
  const a = Math.min(...ends);
  const room = Math.max((Math.max(...ends) - a) * 0.3, 1e-6);
  const from = a - room;
  const span = Math.max(...ends) + room - from;
  const x = (v: number) => (100 * (v - from)) / span;
  const inside = (lo === null || r.value >= lo) && (hi === null || r.value <= hi);
  const words = bandWords(lo, hi, unit);
  return (
    <svg
      viewBox="0 0 100 16"
      className="h-4 w-full"
      role="img"
      aria-label={`wanted ${words}; the value is ${inside ? "inside" : "outside"}`}
    >
      <title>{`Wanted: ${words}`}</title>
      <rect x={0} y={6} width={100} height={4} rx={2} fill="var(--line)" />
      <rect
        x={lo === null ? 0 : x(lo)}
        width={(hi === null ? 100 : x(hi)) - (lo === null ? 0 : x(lo))}
        y={4}
        height={8}
        fill="var(--good)"
        opacity={0.45}
      />
      <rect
        x={x(r.value - U)}
        width={Math.max(2, x(r.value + U) - x(r.value - U))}
        y={7}
        height={2}
        fill="var(--ink)"
      />
      {inside ? (
        <circle cx={x(r.value)} cy={8} r={4} fill="var(--ink)" />
      ) : (
        <path d={`M${x(r.value)} 2l5 6-5 6-5-6z`} fill="var(--bad)" />
      )}
    </svg>
  );
}
