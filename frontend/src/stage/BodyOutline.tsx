import { LIMBS } from "./limbs";

interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}
/** Half the width of a limb, shares of the rider's height. */
const THICK = 0.035;

/** A body as an outline, in the units of the drawing that it stands in. */
export function BodyOutline({
  at,
  box,
  id,
}: {
  at: (name: string) => readonly [number, number] | null;
  /** What the drawing shows. */
  box: Box;
  id: string;
}) {
  const limbs = LIMBS.flatMap(([a, b]) => {
    const [p, q] = [at(a), at(b)];
    return p && q ? [`M${p[0].toFixed(1)},${p[1].toFixed(1)}L${q[0].toFixed(1)},${q[1].toFixed(1)}`] : [];
  }).join("");
  const head = at("nose") ?? at("l_ear") ?? at("r_ear");
  const ankle = at("l_ankle") ?? at("r_ankle");
  const tall = head && ankle ? Math.hypot(head[0] - ankle[0], head[1] - ankle[1]) : box.h / 1.6;
  const wide = 2 * THICK * tall;
  const edge = Math.max(0.006 * box.w, 1.5);
  const trunk = ["l_shoulder", "r_shoulder", "r_hip", "l_hip"].map(at);
  const body = (
    <>
      {trunk.every((p) => p !== null) && (
        <polygon points={trunk.map((p) => p.join(",")).join(" ")} strokeLinejoin="round" />
      )}
      <path d={limbs} fill="none" strokeLinecap="round" strokeLinejoin="round" />
      {head && <circle cx={head[0]} cy={head[1]} r={wide} />}
    </>
  );
  return (
    <g data-testid="outline" aria-hidden className="pointer-events-none">
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
    </g>
  );
}
