import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import type { Bench, Unit } from "../api/client";
import { useShown } from "../video/useShown";
import { joint, ofUnit } from "../ui/places";
import { BodyOutline } from "./BodyOutline";
import { LIMBS } from "./limbs";

const ARROWS: Record<string, [number, number] | undefined> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const DERIVED = new Set(["mid_hip", "mid_shoulder", "mid_ankle", "mid_ear", "com"]);

export interface Label {
  words: string;
  points: string[];
}

interface Props {
  bench: Bench;
  xy: Float32Array;
  frame: number;
  turn?: Unit;
  label?: Label;
  show: { body: boolean; lines: boolean };
  /** The mended figure of this frame, laid over the rider. */
  ghost?: Record<string, readonly number[]>;
  close: boolean;
  /** The joint that the coach is asked for in this frame. */
  ask?: string;
  onMark: (landmark: string, x: number, y: number) => void;
  /** Marks on their way to the server, where they are drawn until it answers. */
  pending: { landmark: string; x: number; y: number }[];
}

/** The clip at exactly one frame, with the body, the plumb and surface lines and the angle being read. */
export function Stage({ bench, xy, frame, turn, label, show, close, ask, onMark, pending, ghost }: Props) {
  const clip = bench.run.clip!;
  const width = clip.width ?? 0;
  const height = clip.height ?? 0;
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ name: string; x: number; y: number; moved: boolean } | null>(null);
  const names = bench.points;
  /** Ends of gear that was found by itself and nobody has confirmed: drawn hollow. */
  const proposed = new Set(bench.found_gear.filter((g) => g.said === null).flatMap((g) => g.points));
  const inFrame = (name: string): [number, number] | null => {
    const k = names.indexOf(name);
    if (k < 0) return null;
    const base = (frame * names.length + k) * 2;
    const [x, y] = [xy[base]!, xy[base + 1]!];
    return Number.isFinite(x) && Number.isFinite(y) ? [x, y] : null;
  };
  const at = (name: string): [number, number] | null => {
    if (drag?.name === name) return [drag.x, drag.y];
    const sent = pending.findLast((p) => p.landmark === name);
    return sent ? [sent.x, sent.y] : inFrame(name);
  };

  const view = useMemo(() => {
    if (!close) return { x: 0, y: 0, w: width, h: height };
    return closeUp(bench, xy, frame, width, height);
  }, [close, bench, xy, frame, width, height]);

  const scale = (clip.play_width ?? width) / width;
  const part = close ? { x: view.x * scale, y: view.y * scale, w: view.w * scale, h: view.h * scale } : undefined;
  const problem = useShown(bench, frame, canvas, part);

  const toClip = (e: PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    return [
      view.x + ((e.clientX - box.left) / box.width) * view.w,
      view.y + ((e.clientY - box.top) / box.height) * view.h,
    ];
  };
  const px = view.w / 900;
  /** Gear that is not in this frame yet: a press anywhere puts it there, on a joint too. */
  const placing = ask && !inFrame(ask) ? ask : undefined;
  /** Move a joint, or the cross of what is being placed, by the arrows; Enter keeps it, Escape lets it go. */
  const moveBy = (e: KeyboardEvent, name: string) => {
    const by = ARROWS[e.key];
    const here = drag?.name === name ? drag : null;
    if (by) {
      const [x, y] = here ? [here.x, here.y] : (at(name) ?? [view.x + view.w / 2, view.y + view.h / 2]);
      const size = e.shiftKey ? 10 : 1;
      setDrag({ name, x: x + by[0] * size, y: y + by[1] * size, moved: true });
    } else if (e.key === "Enter" && here?.moved) {
      onMark(name, here.x, here.y);
      setDrag(null);
    } else if (e.key === "Escape" && here) setDrag(null);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const line = (a: [number, number] | null, b: [number, number] | null, key: string, style: object) =>
    a && b ? <line key={key} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} {...style} /> : null;
  const side = (name: string) =>
    name.startsWith("l_") ? "var(--stage-left)" : name.startsWith("r_") ? "var(--stage-right)" : "var(--on-picture)";
  const marks = label?.points.map((p) => at(ofUnit(p, turn))).filter((p) => p !== null) ?? [];
  const foot = at("mid_ankle");
  const tall = tallness(at);
  // Runs that were worked out before the camera could be levelled do not tell it.
  const roll = ((bench.roll_deg ?? 0) * Math.PI) / 180;

  return (
    <div className="relative overflow-hidden rounded bg-stage">
      <canvas
        ref={canvas}
        width={clip.play_width}
        height={clip.play_height}
        className="block w-full"
        role="img"
        aria-label={`Frame ${frame} of ${bench.run.rider.name}'s run`}
      />
      <svg
        ref={svg}
        viewBox={`${view.x} ${view.y} ${view.w} ${view.h}`}
        className="absolute inset-0 size-full touch-none select-none"
        onPointerMove={(e) => {
          if (!drag) return;
          const [x, y] = toClip(e);
          // A trembling finger moves nothing.
          if (drag.moved || Math.hypot(x - drag.x, y - drag.y) > 2.5 * px) setDrag({ ...drag, x, y, moved: true });
        }}
        onPointerUp={() => {
          if (drag?.moved) onMark(drag.name, drag.x, drag.y);
          setDrag(null);
        }}
        onPointerCancel={() => setDrag(null)}
        onClick={(e) => placing && onMark(placing, ...toClip(e as unknown as PointerEvent))}
        // A press must not take the keys: arrows go on stepping through the frames.
        onMouseDown={(e) => e.preventDefault()}
        {...(placing
          ? {
              tabIndex: 0,
              role: "application",
              "aria-label": `Place the ${joint(placing)}: arrows move the cross, Enter marks it`,
              onKeyDown: (e: KeyboardEvent) => moveBy(e, placing),
            }
          : {})}
      >
        {show.lines && foot && (
          <>
            <line
              x1={foot[0]}
              x2={foot[0] + 1.15 * tall * Math.sin(roll)}
              y1={foot[1]}
              y2={foot[1] - 1.15 * tall * Math.cos(roll)}
              stroke="var(--on-picture)"
              strokeWidth={1.6 * px}
              strokeDasharray={`${5 * px} ${4 * px}`}
              data-line="plumb"
            />
            {line(at("surface_a"), at("surface_b"), "surface", {
              stroke: "var(--on-picture)",
              strokeWidth: 1.4 * px,
              strokeDasharray: `${2 * px} ${3 * px}`,
            })}
            {!at("surface_a") && (
              <line
                x1={foot[0] - 0.5 * tall * Math.cos(roll)}
                x2={foot[0] + 0.5 * tall * Math.cos(roll)}
                y1={foot[1] - 0.5 * tall * Math.sin(roll)}
                y2={foot[1] + 0.5 * tall * Math.sin(roll)}
                stroke="var(--on-picture)"
                strokeWidth={1.2 * px}
                strokeDasharray={`${2 * px} ${3 * px}`}
                data-line="surface"
              />
            )}
          </>
        )}
        {show.body &&
          LIMBS.map(([a, b]) =>
            line(at(a), at(b), a + b, {
              stroke: side(a),
              strokeWidth: 2.4 * px,
              strokeLinecap: "round",
              opacity: 0.9,
              strokeDasharray: proposed.has(a)
                ? `${2 * px} ${5 * px}`
                : a.startsWith("r_") && b.startsWith("r_")
                  ? `${7 * px} ${3 * px}`
                  : undefined,
            }),
          )}
        {marks.length > 1 && (
          <g data-line="angle">
            {["var(--picture-dark)", "var(--picture-mark)"].map((colour, k) => (
              <polyline
                key={colour}
                points={marks.map((p) => p.join(",")).join(" ")}
                fill="none"
                stroke={colour}
                strokeWidth={(k ? 3.4 : 6.4) * px}
                strokeLinecap="round"
                strokeLinejoin="round"
              />
            ))}
          </g>
        )}
        {show.body &&
          names
            .filter((n) => !DERIVED.has(n) && !/^(surface|fall|horizon)_/.test(n))
            .map((n) => {
              const p = at(n);
              if (!p) return null;
              const r = (drag?.name === n ? 6 : 4) * px;
              const look = proposed.has(n)
                ? { fill: "none", stroke: side(n), strokeWidth: 2 * px, "data-proposed": n }
                : { fill: side(n), stroke: "var(--picture-dark)", strokeWidth: px };
              return (
                <g
                  key={n}
                  className={placing ? "pointer-events-none" : "cursor-grab"}
                  tabIndex={placing ? -1 : 0}
                  role="button"
                  aria-label={`${joint(n)}: arrows move it, Enter keeps it there`}
                  onKeyDown={(e) => moveBy(e, n)}
                  onBlur={() => setDrag(null)}
                  onPointerDown={(e) => {
                    e.preventDefault();
                    svg.current!.setPointerCapture(e.pointerId);
                    setDrag({ name: n, x: p[0], y: p[1], moved: false });
                  }}
                >
                  <title>{joint(n)}</title>
                  <circle cx={p[0]} cy={p[1]} r={12 * px} fill="transparent" data-landmark={n} />
                  {n.startsWith("r_") ? (
                    <rect x={p[0] - r * 0.85} y={p[1] - r * 0.85} width={1.7 * r} height={1.7 * r} {...look} />
                  ) : (
                    <circle cx={p[0]} cy={p[1]} r={r} {...look} />
                  )}
                </g>
              );
            })}
        {placing && drag?.name === placing && (
          <g stroke="var(--picture-mark)" strokeWidth={2 * px} data-cross>
            <line x1={drag.x - 10 * px} x2={drag.x + 10 * px} y1={drag.y} y2={drag.y} />
            <line x1={drag.x} x2={drag.x} y1={drag.y - 10 * px} y2={drag.y + 10 * px} />
          </g>
        )}
        {pending
          .filter((p) => !names.includes(p.landmark))
          .map((p, k) => (
            <circle
              key={k}
              cx={p.x}
              cy={p.y}
              r={5 * px}
              fill="var(--picture-mark)"
              stroke="var(--picture-dark)"
              strokeWidth={px}
              data-sent={p.landmark}
            />
          ))}
        {ask && !placing && at(ask) && (
          <circle
            cx={at(ask)![0]}
            cy={at(ask)![1]}
            r={14 * px}
            fill="none"
            stroke="var(--picture-mark)"
            strokeWidth={2.5 * px}
            strokeDasharray={`${6 * px} ${4 * px}`}
            pointerEvents="none"
            data-asked={ask}
          />
        )}
        {ghost && (
          <BodyOutline
            at={(name) => {
              const p = ghost[name];
              return p ? [p[0]!, p[1]!] : null;
            }}
            box={view}
            id="mended"
          />
        )}
      </svg>
      {placing && (
        <p className="pointer-events-none absolute inset-x-0 bottom-0 bg-picture-dark/85 p-2 text-center text-on-picture">
          Press where the {joint(placing)} is.
        </p>
      )}
      {label && marks.length > 1 && (
        <output className="pointer-events-none absolute top-2 right-2 rounded bg-picture-dark/85 px-2.5 py-1 text-lg font-semibold text-picture-mark">
          {label.words}
        </output>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-0 bottom-0 bg-picture-dark/90 p-3 text-on-picture">
          {problem}
        </p>
      )}
    </div>
  );
}

/** Height of the rider in pixels as drawn, for lines that suit the figure. */
function tallness(at: (name: string) => [number, number] | null): number {
  const top = at("nose") ?? at("mid_shoulder");
  const foot = at("mid_ankle");
  return top && foot ? Math.max(40, foot[1] - top[1]) : 200;
}

/** A window of the clip's own shape around the rider, steady over neighbouring frames. */
function closeUp(bench: Bench, xy: Float32Array, frame: number, width: number, height: number) {
  const k = bench.points.length;
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let f = Math.max(0, frame - 20); f <= Math.min(bench.t.length - 1, frame + 20); f += 5)
    for (let j = 0; j < k; j++) {
      const [x, y] = [xy[(f * k + j) * 2]!, xy[(f * k + j) * 2 + 1]!];
      if (!Number.isFinite(x) || bench.points[j]!.startsWith("surface")) continue;
      [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, y), Math.max(y1, y)];
    }
  if (!Number.isFinite(x0)) return { x: 0, y: 0, w: width, h: height };
  const h = Math.min(height, Math.max((y1 - y0) * 1.35, ((x1 - x0) * 1.35 * height) / width));
  const w = (h * width) / height;
  const clamp = (v: number, hi: number) => Math.max(0, Math.min(hi, v));
  return { x: clamp((x0 + x1) / 2 - w / 2, width - w), y: clamp((y0 + y1) / 2 - h / 2, height - h), w, h };
}
