import { useMemo, useRef, type PointerEvent } from "react";

import type { Bench } from "../api/client";
import { nearest } from "../video/nearest";
import { inOther, type Moves, type Same } from "./matched";

const [W, H] = [1000, 110];
const MID = H / 2;
const MOST_POINTS = 1200;
/** Less than this is drawn as little: a quiet signal is not blown up. */
const FLOOR_DEG = 12;

interface Point {
  t: number;
  v: number;
  u: number;
}

/**
 * The Ribbons of both laid over each other on A's time: each unit of B stretched to the one of A that it is held against.
 * A whole line is A, a dashed one B, each with its ±; drag to scrub.
 */
export function BothRibbons({
  a,
  b,
  same,
  mirror,
  moves,
  frame,
  onGo,
}: {
  a: Bench;
  b: Bench;
  same: readonly Same[];
  mirror: boolean;
  moves: Moves;
  frame: number;
  onGo: (frame: number) => void;
}) {
  const box = useRef<SVGSVGElement>(null);
  const scrubbing = useRef(false);
  const [from, to] = [same[0]?.a[0] ?? 0, same.at(-1)?.a.at(-1) ?? a.t.at(-1) ?? 1];
  const drawn = useMemo(() => {
    const ofA = [points(a, from, to, (t) => t, 1)];
    const ofB = same.map((s) => points(b, s.b[0]!, s.b.at(-1)!, (t) => inOther(s, t, moves, true), mirror ? -1 : 1));
    const all = [...ofA, ...ofB].flat();
    const floor = a.ribbon.unit === "°" ? FLOOR_DEG : 1e-6;
    const peak = all.reduce((most, p) => Math.max(most, Math.abs(p.v)), floor);
    const x = (t: number) => ((t - from) / (to - from || 1)) * W;
    const y = (v: number) => MID + (v / peak) * (MID - 10);
    const text = (p: [number, number][]) => p.map(([px, py]) => `${px.toFixed(1)},${py.toFixed(1)}`).join(" ");
    const shape = (line: Point[]) => ({
      line: text(line.map((p) => [x(p.t), y(p.v)])),
      soft: text([
        ...line.map((p): [number, number] => [x(p.t), y(p.v - 2 * p.u)]),
        ...line.toReversed().map((p): [number, number] => [x(p.t), y(p.v + 2 * p.u)]),
      ]),
    });
    return { a: ofA.map(shape), b: ofB.map(shape), x, peak };
  }, [a, b, same, mirror, moves, from, to]);
  // What is counted in other units lies on no common scale.
  if (same.length === 0 || a.ribbon.unit !== b.ribbon.unit) return null;
  const now = a.t[frame] ?? 0;
  const scrub = (e: PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    const share = Math.max(0, Math.min(1, (e.clientX - r.left) / r.width));
    onGo(nearest(a.t, from + share * (to - from)));
  };
  const said = `${drawn.peak.toFixed(drawn.peak < 5 ? 2 : 0)}${a.ribbon.unit}`;
  return (
    <figure className="grid gap-1">
      <svg
        ref={box}
        viewBox={`0 0 ${W} ${H}`}
        preserveAspectRatio="none"
        className="block h-24 w-full cursor-ew-resize touch-none rounded border border-line bg-sheet select-none"
        role="img"
        aria-label={`The Ribbons of A and B over each other, up to ${said} to either side`}
        onPointerDown={(e) => {
          scrubbing.current = true;
          box.current!.setPointerCapture(e.pointerId);
          scrub(e);
        }}
        onPointerMove={(e) => scrubbing.current && scrub(e)}
        onPointerUp={() => (scrubbing.current = false)}
        onPointerCancel={() => (scrubbing.current = false)}
      >
        {same.map((s) => (
          <line
            key={s.a[0]}
            x1={drawn.x(s.a[0]!)}
            x2={drawn.x(s.a[0]!)}
            y1={0}
            y2={H}
            stroke="var(--line)"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        <line x1={0} x2={W} y1={MID} y2={MID} stroke="var(--line)" vectorEffect="non-scaling-stroke" />
        {(["a", "b"] as const).map((which) => (
          <g key={which} className={which === "a" ? "text-deep" : "text-good"} data-ribbon={which}>
            {drawn[which].map((s, k) => (
              <g key={k}>
                <polygon points={s.soft} fill="currentColor" opacity={0.15} />
                <polyline
                  points={s.line}
                  fill="none"
                  stroke="currentColor"
                  strokeWidth={2}
                  strokeDasharray={which === "b" ? "6 4" : undefined}
                  vectorEffect="non-scaling-stroke"
                />
              </g>
            ))}
          </g>
        ))}
        <line
          x1={drawn.x(now)}
          x2={drawn.x(now)}
          y1={0}
          y2={H}
          stroke="var(--ink)"
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="text-sm text-soft">
        Both Ribbons, up to {said}, {moves === "phase" ? "phase by phase" : "each at its own speed"}
        {mirror && ", B mirrored"}. Whole line: A, dashed: B, each with its ±.
      </figcaption>
    </figure>
  );
}

/** A run's signal from `begin` to `end`, its times put elsewhere by `at`. */
function points(bench: Bench, begin: number, end: number, at: (t: number) => number, sign: 1 | -1): Point[] {
  const [first, last] = [nearest(bench.t, begin), nearest(bench.t, end)];
  const every = Math.max(1, Math.ceil((last - first) / MOST_POINTS));
  const out: Point[] = [];
  for (let i = first; i <= last; i += every) {
    const v = bench.ribbon.swing[i];
    if (v != null) out.push({ t: at(bench.t[i]!), v: sign * v, u: bench.ribbon.swing_u[i] ?? 0 });
  }
  return out;
}
