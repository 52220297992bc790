import {
  CartesianGrid,
  ErrorBar,
  Legend,
  ReferenceArea,
  ResponsiveContainer,
  Scatter,
  ScatterChart,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";

import type { Schemas } from "../api/client";
import { day } from "../ui/days";
import { plain } from "../ui/places";

type Series = Schemas["BookSeries"];

const LOOKS = [
  { fill: "var(--left)", shape: "circle" },
  { fill: "var(--right)", shape: "square" },
  { fill: "var(--soft)", shape: "diamond" },
] as const;

/** A measure over the rider's runs, one mark a run and side with its ±, and the band of the newest target. */
export function Plot({ series, runs }: { series: Series; runs: Schemas["BookRun"][] }) {
  const place = new Map(runs.map((r, k) => [r.run, k + 1]));
  const spread = series.sides.length;
  const lines = series.sides.map((s, k) => ({
    side: s.side,
    points: s.points.map((p) => ({
      ...p,
      // Marks of one run stand beside each other.
      x: (place.get(p.run) ?? 0) + (k - (spread - 1) / 2) * 0.12,
    })),
  }));
  const ends = series.sides.flatMap((s) => s.points.flatMap((p) => [p.value - p.pm, p.value + p.pm]));
  const edges = (series.target ?? []).filter((x) => x !== null);
  const [low, high] = [Math.min(...ends, ...edges), Math.max(...ends, ...edges)];
  const [from, to, ticks] = scale(low, high);
  const unit = series.unit ? ` ${series.unit}` : "";
  return (
    <figure>
      <div className="h-56" aria-hidden>
        <ResponsiveContainer>
          <ScatterChart margin={{ top: 8, right: 12, bottom: 4, left: 0 }} accessibilityLayer={false}>
            <CartesianGrid stroke="var(--line)" vertical={false} />
            <XAxis
              type="number"
              dataKey="x"
              domain={[0.5, runs.length + 0.5]}
              ticks={runs.map((_, k) => k + 1)}
              tickFormatter={(k: number) => short(runs[k - 1]?.on)}
              stroke="var(--soft)"
              tick={{ fill: "var(--soft)", fontSize: 12 }}
            />
            <YAxis
              type="number"
              dataKey="value"
              domain={[from, to]}
              ticks={ticks}
              tickFormatter={(v: number) => `${Number(v.toPrecision(3))}`}
              width={52}
              stroke="var(--soft)"
              tick={{ fill: "var(--soft)", fontSize: 12 }}
            />
            {series.target && (
              <ReferenceArea
                y1={series.target[0] ?? from}
                y2={series.target[1] ?? to}
                fill="var(--good)"
                fillOpacity={0.12}
                ifOverflow="hidden"
              />
            )}
            {lines.length > 1 && <Legend formatter={(name: string) => plain(name)} />}
            <Tooltip
              isAnimationActive={false}
              content={({ payload }) => {
                const p = payload[0]?.payload as Schemas["BookPoint"] | undefined;
                return p ? (
                  <div className="rounded border border-line bg-sheet px-2 py-1 text-sm">
                    {p.says} · {day(p.on)}
                  </div>
                ) : null;
              }}
            />
            {lines.map((line, k) => (
              <Scatter key={line.side} name={line.side} data={line.points} isAnimationActive={false} {...LOOKS[k % 3]!}>
                <ErrorBar dataKey="pm" direction="y" width={5} stroke={LOOKS[k % 3]!.fill} isAnimationActive={false} />
              </Scatter>
            ))}
          </ScatterChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-sm text-soft">
        {series.title}
        {unit && ` in${unit}`}, mean of each run with its ±{series.target ? "; green: the target" : ""}.
      </figcaption>
      <details>
        <summary className="min-h-7 cursor-pointer text-sm">The numbers</summary>
        <table className="text-sm">
          <thead>
            <tr className="text-left text-soft">
              <th className="pr-4 font-semibold">Run</th>
              {lines.map((line) => (
                <th key={line.side} className="pr-4 font-semibold">
                  {line.side === "both" ? "Mean" : plain(line.side)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {runs.map((r) => (
              <tr key={r.run}>
                <td className="pr-4">{short(r.on)}</td>
                {lines.map((line) => (
                  <td key={line.side} className="pr-4">
                    {line.points.find((p) => p.run === r.run)?.says ?? "–"}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </figure>
  );
}

/** Round numbers below, above and between two values. */
function scale(low: number, high: number): [number, number, number[]] {
  const wide = high - low || Math.abs(high) || 1;
  const rough = wide / 4;
  const ten = 10 ** Math.floor(Math.log10(rough));
  const step = ten * (rough / ten > 5 ? 10 : rough / ten > 2 ? 5 : rough / ten > 1 ? 2 : 1);
  const [from, to] = [Math.floor((low - 0.02 * wide) / step), Math.ceil((high + 0.02 * wide) / step)];
  return [from * step, to * step, Array.from({ length: to - from + 1 }, (_, k) => (from + k) * step)];
}

/** A day in a few letters. */
function short(iso?: string): string {
  if (!iso) return "";
  const [year, month, date] = iso.split("-").map(Number);
  return new Intl.DateTimeFormat(navigator.language, { day: "numeric", month: "short" }).format(
    new Date(year!, month! - 1, date),
  );
}
