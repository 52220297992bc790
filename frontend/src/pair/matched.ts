import type { Bench, Schemas } from "../api/client";

export type Same = Schemas["Same"];

/** How two units move: phase by phase, or each at its own speed with one moment (of `momentsOf`) at once. */
export type Moves = "phase" | { moment: string };

/** The moments of a unit: its start, where each later phase begins, its end; in the order of `Same`'s times. */
export const momentsOf = (same: Same): string[] => ["start", ...same.phases.slice(1), "end"];

/** Which of a unit's times a moment is; its start where the unit has no such phase. */
export const placeOf = (same: Same, moment: string) => Math.max(0, momentsOf(same).indexOf(moment));

/** A time of `a` in `b`: each phase stretched to the same length, or at its own speed about one moment. */
export function inOther(same: Same, t: number, moves: Moves, back = false): number {
  const [from, to] = back ? [same.b, same.a] : [same.a, same.b];
  if (moves !== "phase") {
    const k = placeOf(same, moves.moment);
    return to[k]! + (t - from[k]!);
  }
  if (t <= from[0]!) return to[0]! - (from[0]! - t);
  for (let k = 1; k < from.length; k++)
    if (t <= from[k]!) {
      const share = from[k]! > from[k - 1]! ? (t - from[k - 1]!) / (from[k]! - from[k - 1]!) : 1;
      return to[k - 1]! + share * (to[k]! - to[k - 1]!);
    }
  return to.at(-1)! + (t - from.at(-1)!);
}

/** The pair of units that holds a time of `a`; the nearest one between them. */
export function sameAt(all: readonly Same[], t: number): Same | undefined {
  const off = (s: Same) => Math.max(s.a[0]! - t, t - s.a.at(-1)!, 0);
  return all.reduce<Same | undefined>((best, s) => (!best || off(s) < off(best) ? s : best), undefined);
}

export interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** The rider's middle and height about a frame, in pixels; null where nobody is seen. */
function rider(bench: Bench, xy: Float32Array, frame: number) {
  const k = bench.points.length;
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let j = 0; j < k; j++) {
    if (/^(surface|fall|horizon)/.test(bench.points[j]!)) continue;
    const [x, y] = [xy[(frame * k + j) * 2]!, xy[(frame * k + j) * 2 + 1]!];
    if (!Number.isFinite(x) || !Number.isFinite(y)) continue;
    [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, y), Math.max(y1, y)];
  }
  return Number.isFinite(x0) ? { x: (x0 + x1) / 2, y: (y0 + y1) / 2, tall: y1 - y0 } : null;
}

/** The rider's usual height over the clip, pixels. */
export function usualHeight(bench: Bench, xy: Float32Array): number | null {
  const tall: number[] = [];
  for (let f = 0; f < bench.t.length; f += 10) {
    const r = rider(bench, xy, f);
    if (r) tall.push(r.tall);
  }
  tall.sort((a, b) => a - b);
  return tall[Math.floor(tall.length / 2)] ?? null;
}

/** The part of a picture in which the rider stands in the middle, as tall as in the other one. */
export function sameSize(bench: Bench, xy: Float32Array, frame: number, usual: number | null): Box | null {
  const r = rider(bench, xy, frame);
  if (!r || !usual) return null;
  const h = 1.6 * usual;
  const w = (h * 4) / 3;
  return { x: r.x - w / 2, y: r.y - h / 2, w, h };
}
