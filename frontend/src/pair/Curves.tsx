import { Fragment } from "react";

import type { Schemas } from "../api/client";

const [W, H] = [360, 120];

/** A signal of both on matched time, each with its ± as a band. */
export function Curves({ curves, at }: { curves: Schemas["Curves"]; at: number }) {
  const both = (["a", "b"] as const).map((k) => ({
    key: k,
    value: curves[k],
    u: k === "a" ? curves.a_u : curves.b_u,
  }));
  const ends = both.flatMap(({ value, u }) =>
    value.flatMap((v, i) => (v === null ? [] : [v - 2 * (u[i] ?? 0), v + 2 * (u[i] ?? 0)])),
  );
  if (!ends.length) return <p className="text-soft">Neither shows it here.</p>;
  const [lo, hi] = [Math.min(...ends), Math.max(...ends)];
  const y = (v: number) => H - ((v - lo) / (hi - lo || 1)) * H;
  const x = (i: number) => curves.at[i]! * W;
  const text = (points: number[][]) => points.map(([a, b]) => `${a!.toFixed(1)},${b!.toFixed(1)}`).join(" ");
  // Fine enough that the ends can be told apart.
  const fine = hi - lo < 1 ? 2 : hi - lo < 10 ? 1 : 0;
  const said = (v: number) =>
    v
      .toFixed(fine)
      .replace(/^-(0(\.0*)?)$/, "$1")
      .replace("-", "−");
  const range = `${said(lo)} to ${said(hi)}${curves.unit}`;
  return (
    <figure>
      <svg
        viewBox={`0 0 ${W} ${H}`}
        preserveAspectRatio="none"
        className="h-32 w-full rounded border border-line bg-sheet"
        role="img"
        aria-label={`${curves.title} of both over the unit, from ${range}`}
      >
        {curves.apart.map(([from, to]) => (
          <rect key={from} x={from! * W} y={0} width={(to! - from!) * W} height={H} fill="var(--warn)" opacity={0.12} />
        ))}
        {both.map(({ key, value, u }) => (
          <g key={key} className={key === "a" ? "text-deep" : "text-good"}>
            {seen(value, u).map((piece) => (
              <Fragment key={piece[0]!.i}>
                <polygon
                  points={text([
                    ...piece.map((p) => [x(p.i), y(p.v + p.u)]),
                    ...piece.toReversed().map((p) => [x(p.i), y(p.v - p.u)]),
                  ])}
                  fill="currentColor"
                  opacity={0.15}
                />
                <polyline
                  points={text(piece.map((p) => [x(p.i), y(p.v)]))}
                  fill="none"
                  stroke="currentColor"
                  strokeWidth={2}
                  vectorEffect="non-scaling-stroke"
                  strokeDasharray={key === "b" ? "6 4" : undefined}
                />
              </Fragment>
            ))}
          </g>
        ))}
        <line
          x1={at * W}
          x2={at * W}
          y1={0}
          y2={H}
          stroke="var(--ink)"
          strokeWidth={1}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="text-sm text-soft">
        {curves.title}, {range}. Whole line: A, dashed: B, each with its ±.{" "}
        {curves.apart.length > 0
          ? `They part beyond it from ${curves.apart.map(([a, b]) => `${Math.round(100 * a!)} to ${Math.round(100 * b!)} %`).join(" and ")} of the unit.`
          : "Nowhere do they part beyond it for long."}
      </figcaption>
    </figure>
  );
}

/** The stretches over which a signal was seen, with its U; nothing is drawn between them. */
function seen(value: (number | null)[], u: (number | null)[]): { i: number; v: number; u: number }[][] {
  const pieces: { i: number; v: number; u: number }[][] = [[]];
  value.forEach((v, i) => {
    if (v === null) pieces.push([]);
    else pieces.at(-1)!.push({ i, v, u: 2 * (u[i] ?? 0) });
  });
  return pieces.filter((piece) => piece.length > 0);
}
