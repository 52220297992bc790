import type { Schemas } from "../api/client";
import { plain } from "../ui/places";

export type Row = Schemas["ComparedRow"];
export type First = Schemas["FirstDifference"];
export interface Told {
  row: Row;
  words: Schemas["PairRow"];
}
const VERDICTS: Record<Row["verdict"], string> = {
  differs: "differs",
  may_differ: "may differ",
  same: "the same",
  cannot_tell: "cannot be told",
};
const ORDER: Row["verdict"][] = ["differs", "may_differ", "same", "cannot_tell"];

/** The rows of a comparison with their words: what the last Script set first, then what differs, the surest first. */
export const inOrder = ({ comparison, rows }: Schemas["Pair"]): Told[] =>
  comparison.rows
    .map((row, k) => ({ row, words: rows[k]! }))
    .sort(
      (x, y) =>
        Number(!x.words.target) - Number(!y.words.target) ||
        ORDER.indexOf(x.row.verdict) - ORDER.indexOf(y.row.verdict) ||
        Math.abs(y.row.difference) / (y.row.u || 1e-9) - Math.abs(x.row.difference) / (x.row.u || 1e-9),
    );

/** What differs between two units or runs: the first difference, what limits the comparison, and value beside value. */
export function Differences({
  pair,
  rows,
  when,
  chosen,
  onFirst,
  onRow,
}: {
  pair: Schemas["Pair"];
  rows: Told[];
  /** The moment that the rows are of; empty where they are of phases and units. */
  when: string;
  chosen: Row | null;
  onFirst: (first: First) => void;
  onRow: (row: Row) => void;
}) {
  const { same, comparison, chain } = pair;
  const first = comparison.first_difference;
  return (
    <aside aria-label="What differs" className="grid content-start gap-3 rounded border border-line bg-sheet p-3">
      <section>
        <h2 className="text-base">First difference</h2>
        {first ? (
          <button type="button" className="rounded p-1 text-left hover:bg-tint" onClick={() => onFirst(first)}>
            {first.says}
            {chain.length > 0 && <span className="block text-soft">{chain.join("; from it: ")}</span>}
          </button>
        ) : (
          <p className="text-soft">
            {same.length < 2
              ? "From where on is told of runs, not of single units."
              : "Nowhere do the two part by more than chance and their ± allow."}
          </p>
        )}
      </section>
      {comparison.fairness.length > 0 && (
        <section>
          <h2 className="text-base">What limits it</h2>
          <ul className="list-disc pl-5 text-sm">
            {comparison.fairness.map((f) => (
              <li key={f}>{f}</li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h2 className="text-base">{when ? `What differs ${when}` : "What differs, the surest first"}</h2>
        <ul className="divide-y divide-line">
          {rows.map(({ row, words }) => (
            <li key={`${row.measure}${row.phase}${row.limb}`}>
              <button
                type="button"
                aria-pressed={row === chosen}
                onClick={() => onRow(row)}
                className={`w-full px-1 py-1 text-left text-sm hover:bg-tint ${row === chosen ? "bg-tint" : ""}`}
              >
                <span className="flex justify-between gap-2">
                  <b className="font-semibold">
                    {words.title}
                    {row.phase && `, ${plain(row.phase)}`}
                  </b>
                  <span className={row.verdict === "differs" ? "font-semibold" : "text-soft"}>
                    {VERDICTS[row.verdict]}
                  </span>
                </span>
                <span className="text-soft">
                  A {words.a} · B {words.b} · A − B {words.difference}
                </span>
                {words.target && <span className="block">Set by the earlier Script: {words.target}</span>}
              </button>
            </li>
          ))}
        </ul>
        {rows.length === 0 && (
          <p className="text-soft">
            {when
              ? "Nothing is read in both at this moment. Give another number of seconds, or move phase by phase."
              : "There is no measure that both show."}
          </p>
        )}
      </section>
    </aside>
  );
}
