import type { Bench } from "../api/client";
import { BodyOutline } from "../stage/BodyOutline";
import type { Box } from "./matched";

/** The mended figure over the half that it belongs to. */
export function Mended({
  bench,
  joints,
  part,
}: {
  bench: Bench;
  joints: Record<string, readonly number[]>;
  part: Box | null;
}) {
  const film = bench.run.clip;
  const box = part ?? { x: 0, y: 0, w: film?.width ?? 1, h: film?.height ?? 1 };
  return (
    <svg
      aria-hidden
      viewBox={`${box.x} ${box.y} ${box.w} ${box.h}`}
      preserveAspectRatio="none"
      className="pointer-events-none absolute inset-0 size-full"
    >
      <BodyOutline
        at={(name) => {
          const p = joints[name];
          return p ? [p[0]!, p[1]!] : null;
        }}
        box={box}
        id="mended"
      />
    </svg>
  );
}
