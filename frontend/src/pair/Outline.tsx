import type { Bench } from "../api/client";
import { LIMBS } from "../stage/limbs";
import type { Box } from "./matched";

/** Half the width of a limb, shares of the rider's height. */
const THICK = 0.035;

/** A rider's body as an outline, laid over the other picture. */
export function Outline({
  bench,
  xy,
  frame,
  part,
  mirror,
}: {
  bench: Bench;
  xy: Float32Array;
  frame: number;
  part: Box | null;
  mirror: boolean;
}) {
  const film = bench.run.clip;
  const box = part ?? { x: 0, y: 0, w: film?.width ?? 1, h: film?.height ?? 1 };
  const k = bench.points.length;
  const at = (name: string): [number, number] | null => {
    const j = bench.points.indexOf(name);
    const [x, y] = [xy[(frame * k + j) * 2]!, xy[(frame * k + j) * 2 + 1]!];
    return j < 0 || !Number.isFinite(x) || !Number.isFinite(y) ? null : [x, y];
  };
  const limbs = LIMBS.flatMap(([a, b]) => {
    const [p, q] = [at(a), at(b)];
    return p && q ? [`M${p[0].toFixed(1)},${p[1].toFixed(1)}L${q[0].toFixed(1)},${q[1].toFixed(1)}`] : [];
  }).join("");
  const [ear, hip, ankle] = [
    at("nose") ?? at("l_ear") ?? at("r_ear"),
    at("l_hip") ?? at("r_hip"),
    at("l_ankle") ?? at("r_ankle"),
  ];
  const tall = ear && ankle ? Math.hypot(ear[0] - ankle[0], ear[1] - ankle[1]) : box.h / 1.6;
  const wide = 2 * THICK * tall;
  const edge = Math.max(0.006 * box.w, 1.5);
  const head = ear && <circle cx={ear[0]} cy={ear[1]} r={wide} />;
  const trunk = ["l_shoulder", "r_shoulder", "r_hip", "l_hip"].map(at);
  const body = (
    <>
      {trunk.every((p) => p !== null) && (
        <polygon points={trunk.map((p) => p.join(",")).join(" ")} strokeLinejoin="round" />
      )}
      <path d={limbs} fill="none" strokeLinecap="round" strokeLinejoin="round" />
      {head}
    </>
  );
  const id = `outline-${bench.run.id}-${frame}`;
  return (
    <svg
      data-testid="outline"
      aria-hidden
      viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
      preserveAspectRatio="none"
      className={`pointer-events-none absolute inset-0 size-full ${mirror ? "-scale-x-100" : ""} ${hip ? "" : "opacity-60"}`}
    >
      {/* What is drawn wide less the same drawn narrower is its outline. */}
      <mask id={id} maskUnits="userSpaceOnUse" x={box.x} y={box.y} width={box.w} height={box.h}>
        <g fill="white" stroke="white" strokeWidth={wide + 2 * edge}>
          {body}
        </g>
        <g fill="black" stroke="black" strokeWidth={wide}>
          {body}
        </g>
      </mask>
      <rect x={box.x} y={box.y} width={box.w} height={box.h} fill="var(--picture-mark)" mask={`url(#${id})`} />
    </svg>
  );
}
