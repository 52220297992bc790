import type { Bench } from "../api/client";
import { BodyOutline } from "../stage/BodyOutline";
import type { Box } from "./matched";

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
  return (
    <svg
      aria-hidden
      viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
      preserveAspectRatio="none"
      className={`pointer-events-none absolute inset-0 size-full ${mirror ? "-scale-x-100" : ""}`}
    >
      <BodyOutline at={at} box={box} id={`outline-${bench.run.id}-${frame}`} />
    </svg>
  );
}
