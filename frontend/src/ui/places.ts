import type { Bench, Unit } from "../api/client";
import { nearest } from "../video/nearest";

/** The unit that holds time `t`, with the phases that lie before its start and after its end. */
export function unitAt(turns: Unit[], t: number): Unit | undefined {
  return (
    turns.find((turn) => t >= turn.start && t < turn.end) ??
    turns.find((turn) => Object.values(turn.phases).some((span) => within(span, t)))
  );
}

/** The phase of `turn` that holds `t`; the last phase that began where there is a gap. */
export function phaseAt(turn: Unit, t: number, order: string[]): string {
  const inside = order.filter((p) => p !== "transition").find((p) => within(turn.phases[p], t));
  if (inside) return inside;
  if (!turn.phases.transition)
    return (
      order.filter((p) => turn.phases[p] && turn.phases[p][0]! <= t).at(-1) ??
      order.find((p) => turn.phases[p]) ??
      order[0] ??
      ""
    );
  return within(turn.phases.transition, t)
    ? "transition"
    : t >= turn.end - 1e-6 || t > (turn.phases.finish?.[1] ?? Infinity)
      ? "finish"
      : "transition";
}

/** The phase to go to where none is asked for: the one in the middle. */
export const middlePhase = (bench: Bench) =>
  bench.phases.includes("belly") ? "belly" : (bench.phases[Math.floor(bench.phases.length / 2)] ?? "");

/** An id as a word: `take_off` is "take off". */
export const plain = (id: string) => id.replaceAll("_", " ");
export const sentence = (id: string) => plain(id).replace(/^./, (c) => c.toUpperCase());

const within = (span: number[] | undefined, t: number) => span !== undefined && t >= span[0]! && t < span[1]!;

/** Frame in the middle of a phase. */
export function frameOf(bench: Bench, turn: Unit, phase: string): number {
  const [a, b] = turn.phases[phase] ?? [turn.start, turn.end];
  return nearest(bench.t, (a! + b!) / 2);
}

/** Put `outside_` and `inside_` in a landmark's name to the foot that it is in this turn. */
export function ofUnit(point: string, turn: Unit | undefined): string {
  const outside = turn?.outside === "right" ? "r" : "l";
  const inside = outside === "l" ? "r" : "l";
  return point.replace(/^outside_/, `${outside}_`).replace(/^inside_/, `${inside}_`);
}

/** A point of a measure that is read on two limbs, on the one that is meant. */
export function ofLimb(point: string, limb: string): string {
  if (limb === "l" || limb === "r") return point.replace(/^(l|r|outside|inside)_/, `${limb}_`);
  return limb === "inside" ? point.replace(/^(outside|l|r)_/, "inside_") : point;
}

/** A landmark in words: `l_knee` is "left knee". */
export const joint = (name: string) => plain(name.replace(/^l_/, "left ").replace(/^r_/, "right "));
