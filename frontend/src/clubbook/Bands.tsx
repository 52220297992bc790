import { useState } from "react";

import { sentence } from "../ui/places";
import { Input } from "../ui/parts";
import { type OfBand, type Own, putBand, sameBand } from "./changes";

const said = (x: number | null | undefined) => (x == null ? "open" : String(x).replace("-", "−"));

/** The bands of a fault by level, each end beside the playbook's. An empty end is open. */
export function Bands({ bands, own, onChange }: { bands: OfBand[]; own: Own; onChange: (own: Own) => void }) {
  if (bands.length === 0) return <p className="text-soft">Seen by eye only: there is no band.</p>;
  return (
    <table className="w-full">
      <thead>
        <tr className="text-left text-soft">
          <th className="pr-3 font-semibold">Band</th>
          <th className="pr-3 font-semibold">From</th>
          <th className="pr-3 font-semibold">To</th>
          <th className="font-semibold">The playbook’s</th>
        </tr>
      </thead>
      <tbody>
        {bands.flatMap((b) =>
          Object.entries(b.band).map(([level, of]) => {
            const mine = own.bands.find((x) => sameBand(x, b, level));
            const now = mine?.band ?? of;
            const name = `${b.title}${b.where ? `, ${b.where}` : ""}${level === "all" ? "" : `, ${level}`}`;
            const set = (end: 0 | 1) => (x: number | null) =>
              onChange({
                ...own,
                bands: putBand(own.bands, b, level, end === 0 ? [x, now[1] ?? null] : [now[0] ?? null, x]),
              });
            return (
              <tr key={`${b.place}-${level}`} className="border-t border-line align-middle">
                <th scope="row" className="py-1.5 pr-3 text-left font-normal">
                  {b.title}
                  {b.where && <span className="text-soft"> {b.where}</span>}
                  {level !== "all" && <span className="text-soft"> · {sentence(level).toLowerCase()}</span>}
                </th>
                <td className="py-1.5 pr-3">
                  <End label={`${name}: from`} unit={b.unit} value={now[0] ?? null} onChange={set(0)} />
                </td>
                <td className="py-1.5 pr-3">
                  <End label={`${name}: to`} unit={b.unit} value={now[1] ?? null} onChange={set(1)} />
                </td>
                <td className={`py-1.5 whitespace-nowrap ${mine ? "" : "text-soft"}`}>
                  {said(of[0])} to {said(of[1])}
                  {b.unit && ` ${b.unit}`}
                </td>
              </tr>
            );
          }),
        )}
      </tbody>
    </table>
  );
}

function End({
  label,
  unit,
  value,
  onChange,
}: {
  label: string;
  unit: string;
  value: number | null;
  onChange: (x: number | null) => void;
}) {
  // What is being typed may be no number yet.
  const [text, setText] = useState<string | null>(null);
  return (
    <span className="flex items-center gap-1">
      <Input
        aria-label={label}
        className="w-20"
        inputMode="decimal"
        placeholder="open"
        value={text ?? (value === null ? "" : String(value))}
        onChange={(e) => {
          setText(e.target.value);
          const number = Number(e.target.value.replace("−", "-").replace(",", "."));
          if (e.target.value.trim() === "") onChange(null);
          else if (Number.isFinite(number)) onChange(number);
        }}
        onBlur={() => setText(null)}
      />
      {unit && <span className="text-soft">{unit}</span>}
    </span>
  );
}
