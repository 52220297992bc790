import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import type { Bench, Unit } from "../api/client";
import { saidOf, whereOf } from "../ui/notes";
import { nearest } from "../video/nearest";

const W = 1000;
const H = 150;
const MID = H / 2;
const MOST_POINTS = 1400;
/** So many units can be told from each other in the width of the page. */
const UNITS_SHOWN = 16;

interface Props {
  bench: Bench;
  frame: number;
  turn?: Unit;
  phase?: string;
  onGo: (frame: number) => void;
  onMove: (oldT: number, t: number) => void;
  onDelete?: (t: number) => void;
  busy: boolean;
}

/**
 * The run as one band. It swings with the discipline's main signal: up in left turns and down in
 * right ones with the tilt of a rider on edges. Its thickness is the edge where there is one, its soft
 * border the ±, its knots the boundaries. Drag to scrub, drag a knot to move a boundary.
 */
export function Ribbon({ bench, frame, turn, phase, onGo, onMove, onDelete, busy }: Props) {
  const box = useRef<SVGSVGElement>(null);
  const [knot, setKnot] = useState<{ from: number; t: number } | null>(null);
  const [scrubbing, setScrubbing] = useState(false);
  const length = bench.t.at(-1) ?? 1;
  const x = (t: number) => (t / length) * W;

  // A long run is drawn wider than its box, so that its units can still be told and pressed.
  const [zoom, setZoom] = useState(() => Math.max(1, Math.ceil(bench.units.length / UNITS_SHOWN)));
  const shape = useMemo(() => {
    const n = bench.t.length;
    const every = Math.max(1, Math.ceil(n / (MOST_POINTS * zoom)));
    const { swing, swing_u: u, edge } = bench.ribbon;
    const floor = bench.ribbon.unit === "°" ? 12 : 1e-6;
    const peak = Math.max(floor, ...swing.map((v) => Math.abs(v ?? 0)));
    const up = [],
      down = [],
      softUp = [],
      softDown = [];
    for (let i = 0; i < n; i += every) {
      const px = x(bench.t[i]!).toFixed(1);
      const y = MID + ((swing[i] ?? 0) / peak) * (MID - 26);
      const thick = 2.2 + (edge ? Math.min(13, (Math.abs(edge[i] ?? 0) / 60) * 13) : 3);
      const soft = thick + Math.min(18, ((u[i] ?? 0) / peak) * (MID - 26) * 2);
      up.push(`${px},${(y - thick).toFixed(1)}`);
      down.unshift(`${px},${(y + thick).toFixed(1)}`);
      softUp.push(`${px},${(y - soft).toFixed(1)}`);
      softDown.unshift(`${px},${(y + soft).toFixed(1)}`);
    }
    return { band: [...up, ...down].join(" "), soft: [...softUp, ...softDown].join(" ") };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [bench, zoom]);
  // Drawn once for a run: only what moves with the frame is drawn again at every step.
  const band = useMemo(
    () => (
      <>
        <polygon points={shape.soft} fill="var(--soft)" opacity={0.18} />
        <polygon points={shape.band} fill="var(--soft)" opacity={0.7} />
        {bench.units.filter(cut).map((t) => (
          <polygon
            key={t.n}
            points={shape.band}
            clipPath={`url(#turn-${t.n})`}
            fill={t.side === "left" ? "url(#left-weave)" : t.side === "right" ? "var(--right)" : "var(--deep)"}
          />
        ))}
      </>
    ),
    [shape, bench.units],
  );
  const pane = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const p = pane.current;
    if (!p || zoom === 1) return;
    const at = ((bench.t[frame] ?? 0) / length) * p.scrollWidth;
    if (at < p.scrollLeft + 30 || at > p.scrollLeft + p.clientWidth - 30) p.scrollLeft = at - p.clientWidth / 2;
  }, [frame, zoom, bench.t, length]);

  const timeAt = (e: PointerEvent) => {
    const r = box.current!.getBoundingClientRect();
    return Math.max(0, Math.min(length, ((e.clientX - r.left) / r.width) * length));
  };
  const looks = useMemo(() => runsOf(bench.ribbon.look), [bench.ribbon.look]);
  const now = bench.t[frame] ?? 0;
  const phaseSpan = turn && phase ? turn.phases[phase] : undefined;
  const keys = (e: KeyboardEvent) => {
    const jump = { Home: 0, End: bench.t.length - 1, PageUp: frame - 30, PageDown: frame + 30 }[e.key];
    if (jump === undefined) return;
    e.preventDefault();
    onGo(jump);
  };

  const moveKnot = (e: KeyboardEvent, from: number) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by) {
      const to =
        bench.t[
          Math.max(
            0,
            Math.min(
              bench.t.length - 1,
              nearest(bench.t, knot?.from === from ? knot.t : from) + by * (e.shiftKey ? 10 : 1),
            ),
          )
        ]!;
      setKnot({ from, t: to });
      onGo(nearest(bench.t, to));
    } else if (e.key === "Enter" && knot?.from === from) {
      onMove(from, knot.t);
      setKnot(null);
    } else if (e.key === "Escape") setKnot(null);
    else if (e.key === "Delete" && onDelete) onDelete(from);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  return (
    <div className="relative rounded border border-line bg-sheet">
      {(zoom > 1 || bench.units.length > UNITS_SHOWN) && (
        <div className="absolute top-1 right-1 z-10 flex gap-1">
          {(
            [
              ["−", zoom / 2, "Show more of the run"],
              ["+", zoom * 2, "Show less of the run, larger"],
            ] as const
          ).map(([sign, to, words]) => (
            <button
              key={sign}
              type="button"
              aria-label={words}
              disabled={to < 1 || to > 64}
              onClick={() => setZoom(to)}
              className="size-7 rounded border border-line bg-sheet font-bold disabled:opacity-50"
            >
              {sign}
            </button>
          ))}
        </div>
      )}
      <div ref={pane} className="overflow-x-auto overflow-y-hidden">
        <div style={{ width: `${100 * zoom}%` }}>
          <svg
            ref={box}
            viewBox={`0 0 ${W} ${H}`}
            preserveAspectRatio="none"
            className="block h-36 w-full cursor-ew-resize touch-none select-none"
            role="group"
            aria-label="Ribbon"
            onPointerMove={(e) => {
              if (knot) {
                setKnot({ ...knot, t: timeAt(e) });
                onGo(nearest(bench.t, timeAt(e)));
              } else if (scrubbing) onGo(nearest(bench.t, timeAt(e)));
            }}
            onPointerUp={() => {
              if (knot && Math.abs(knot.t - knot.from) > 0.005) onMove(knot.from, bench.t[nearest(bench.t, knot.t)]!);
              setKnot(null);
              setScrubbing(false);
            }}
          >
            <defs>
              <pattern id="left-weave" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
                <rect width="7" height="7" fill="var(--left)" />
                <rect width="2" height="7" fill="var(--sheet)" opacity="0.45" />
              </pattern>
              {bench.units.map((t) => (
                <clipPath key={t.n} id={`turn-${t.n}`}>
                  <rect x={x(t.start)} y={0} width={Math.max(0, x(t.end) - x(t.start))} height={H} />
                </clipPath>
              ))}
            </defs>
            {turn && cut(turn) && (
              <rect x={x(turn.start)} width={x(turn.end) - x(turn.start)} y={0} height={H} fill="var(--tint)" />
            )}
            {phaseSpan && (
              <rect
                x={x(phaseSpan[0]!)}
                width={Math.max(1, x(phaseSpan[1]!) - x(phaseSpan[0]!))}
                y={0}
                height={H}
                fill="var(--line)"
                opacity={0.6}
              />
            )}
            <line
              x1={0}
              x2={W}
              y1={MID}
              y2={MID}
              stroke="var(--line)"
              strokeWidth={1}
              vectorEffect="non-scaling-stroke"
            />
            {band}
            {(bench.run?.clip?.missing_after ?? []).map((i) => {
              const at = x(((bench.t[i] ?? 0) + (bench.t[i + 1] ?? bench.t[i] ?? 0)) / 2);
              return (
                <line
                  key={`gap${i}`}
                  x1={at}
                  x2={at}
                  y1={0}
                  y2={H}
                  stroke="var(--bad)"
                  strokeWidth={2}
                  strokeDasharray="3 5"
                  data-gap={i}
                >
                  <title>Frames are missing here.</title>
                </line>
              );
            })}
            {bench.seen
              .filter((n) => n.t !== null)
              .map((n) => (
                <g
                  key={`note${n.id}`}
                  data-note={n.id}
                  className="cursor-pointer"
                  onPointerDown={() => onGo(nearest(bench.t, n.t!))}
                >
                  <title>{`${saidOf(n)}, ${whereOf(n, bench)}`}</title>
                  <rect x={x(n.t!) - 8} y={0} width={16} height={18} fill="transparent" />
                  {n.fault ? (
                    <path
                      d={`M${x(n.t!) - 5} 3h10l-5 11z`}
                      fill={n.seen ? "var(--ink)" : "var(--sheet)"}
                      stroke="var(--ink)"
                      strokeWidth={1.2}
                      vectorEffect="non-scaling-stroke"
                    />
                  ) : (
                    <rect x={x(n.t!) - 4} y={3} width={8} height={10} fill="var(--ink)" />
                  )}
                </g>
              ))}
            {looks.map(([a, b]) => (
              <rect
                key={a}
                x={x(bench.t[a]!)}
                width={Math.max(2, x(bench.t[b]!) - x(bench.t[a]!))}
                y={H - 5}
                height={5}
                fill="var(--warn)"
              >
                <title>The rider was lost here; have a look.</title>
              </rect>
            ))}
            <rect
              width={W}
              height={H}
              fill="transparent"
              role="slider"
              tabIndex={0}
              aria-label="Ribbon: the run over time"
              aria-valuemin={0}
              aria-valuemax={bench.t.length - 1}
              aria-valuenow={frame}
              aria-valuetext={`frame ${frame}, ${now.toFixed(2)} seconds${turn ? `, ${bench.unit} ${turn.n} ${turn.side ?? ""}, ${phase}` : ""}`}
              onKeyDown={keys}
              onPointerDown={(e) => {
                box.current!.setPointerCapture(e.pointerId);
                setScrubbing(true);
                onGo(nearest(bench.t, timeAt(e)));
              }}
            />
            <line
              pointerEvents="none"
              x1={x(now)}
              x2={x(now)}
              y1={0}
              y2={H}
              stroke="var(--ink)"
              strokeWidth={2}
              vectorEffect="non-scaling-stroke"
            />
            {bench.boundaries.map((b) => {
              const t = knot?.from === b.t ? knot.t : b.t;
              return (
                <g
                  key={b.t}
                  className="cursor-grab"
                  tabIndex={0}
                  role="button"
                  aria-label={`${boundaryWords(bench)} at ${t.toFixed(2)} s: arrows move it, Enter keeps it there, Delete takes it away`}
                  onKeyDown={(e) => moveKnot(e, b.t)}
                  onBlur={() => setKnot(null)}
                  onPointerDown={(e) => {
                    if (busy) return;
                    e.stopPropagation();
                    box.current!.setPointerCapture(e.pointerId);
                    setKnot({ from: b.t, t: b.t });
                  }}
                >
                  <title>{`${boundaryWords(bench)} at ${b.t.toFixed(2)} ± ${(2 * b.u).toFixed(2)} s${b.by === "coach" ? ", placed by you" : ""}; drag to move`}</title>
                  <rect x={x(t) - 9} width={18} y={MID - 24} height={48} fill="transparent" data-knot={b.t} />
                  <rect
                    x={x(t) - 3}
                    width={6}
                    y={MID - 11}
                    height={22}
                    rx={2}
                    fill={b.by === "coach" ? "var(--deep)" : "var(--sheet)"}
                    stroke="var(--ink)"
                    strokeWidth={1.5}
                    vectorEffect="non-scaling-stroke"
                  />
                </g>
              );
            })}
          </svg>
          <div className="relative h-7 border-t border-line text-sm" aria-hidden>
            {bench.units.map((t) => (
              <button
                key={t.n}
                type="button"
                tabIndex={-1}
                onClick={() => onGo(nearest(bench.t, (t.start + t.end) / 2))}
                className={`absolute top-0 h-full truncate text-center hover:bg-tint ${turn?.n === t.n ? "bg-tint font-bold" : ""}`}
                style={{
                  left: `${(100 * t.start) / length}%`,
                  width: `${(100 * (t.end - t.start)) / length}%`,
                  color: `var(--${t.side ?? "ink"})`,
                }}
              >
                {t.side === "left" ? `◂ ${t.n}` : t.side === "right" ? `${t.n} ▸` : t.n}
              </button>
            ))}
          </div>
        </div>
      </div>
    </div>
  );
}

/** Whether anybody knows when a unit was. */
const cut = (unit: Bench["units"][number]) => !unit.counted;
const boundaryWords = (bench: Bench) => (bench.unit === "turn" ? "Change of edges" : `Boundary of a ${bench.unit}`);

/** Join neighbouring frame numbers into ranges. */
function runsOf(frames: number[]): [number, number][] {
  const out: [number, number][] = [];
  for (const f of frames) {
    const lastRange = out.at(-1);
    if (lastRange && f - lastRange[1] <= 1) lastRange[1] = f;
    else out.push([f, f]);
  }
  return out;
}
