import type { Schemas } from "../api/client";

export type RunMap = Schemas["RunMap"];
export interface Frame {
  width: number;
  height: number;
  /** A place of the map on the page, in the drawing's own pixels. */
  at: (place: readonly number[]) => [number, number];
  /** Lengths along x and y of the map, on the page. */
  size: (u: readonly number[]) => [number, number];
  /** What is long rather than wide is laid along the page: y runs to the right then. */
  laid: boolean;
}

const [WIDE, TALL, EDGE] = [1000, 560, 46];

/** Fit a map onto the page; where a step is as long along x as along y, it stays so. */
export function framed(map: RunMap): Frame {
  const [dx, dy] = [map.x.hi - map.x.lo, map.y.hi - map.y.lo];
  const laid = map.equal && dy > 1.6 * dx;
  const [across, up] = laid ? [dy, dx] : [dx, dy];
  let [kx, ky] = [(WIDE - 2 * EDGE) / across, (TALL - 2 * EDGE) / up];
  if (map.equal) kx = ky = Math.min(kx, ky);
  const [width, height] = [across * kx + 2 * EDGE, up * ky + 2 * EDGE];
  return {
    width,
    height,
    laid,
    at: ([x, y]) =>
      laid
        ? [EDGE + (map.y.hi - y!) * kx, EDGE + (map.x.hi - x!) * ky]
        : [EDGE + (x! - map.x.lo) * kx, height - EDGE - (y! - map.y.lo) * ky],
    size: ([ux, uy]) => (laid ? [uy! * kx, ux! * ky] : [ux! * kx, uy! * ky]),
  };
}

/** The soft edge of a line: as far to both sides of each place as its U reaches square to the line. */
export function softEdge(line: RunMap["lines"][number], frame: Frame): string {
  if (!line.u.length) return "";
  const at = line.at.map(frame.at);
  const sides = at.map(([x, y], k) => {
    const [a, b] = [at[Math.max(k - 1, 0)]!, at[Math.min(k + 1, at.length - 1)]!];
    const [tx, ty] = [b[0] - a[0], b[1] - a[1]];
    const long = Math.hypot(tx, ty) || 1;
    const [nx, ny] = [-ty / long, tx / long];
    const [ux, uy] = frame.size(line.u[k]!);
    const half = Math.hypot(ux * nx, uy * ny);
    return [
      [x + nx * half, y + ny * half],
      [x - nx * half, y - ny * half],
    ] as const;
  });
  return [...sides.map((s) => s[0]), ...sides.map((s) => s[1]).reverse()]
    .map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`)
    .join(" ");
}
