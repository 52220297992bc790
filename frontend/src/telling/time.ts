import type { Schemas } from "../api/client";
import { nearest } from "../video/nearest";

export type Told = Schemas["Telling"];
export type Passage = Schemas["Passage"];
export type Act = Passage["acts"][number];
export type Played = Schemas["Played"];
type Overlay = Schemas["Overlay"];

/** The frame that a laid out Telling shows at `t` seconds; `times` are the run's frames. */
export function frameAt(stretches: Played["stretches"], t: number, times: readonly number[]): number {
  let now = stretches[0];
  if (!now) return 0;
  for (const s of stretches) if (s.from_s <= t) now = s;
  if (now.speed === 0) return now.frame;
  return Math.min(nearest(times, times[now.frame]! + (t - now.from_s) * now.speed), now.to_frame);
}

/** What lies over the picture at `t`. */
export const overAt = (overlays: Overlay[], t: number) => overlays.filter((o) => o.from_s <= t && t < o.to_s);

/** The shapes of an overlay in a frame. */
export function marksIn(o: Overlay, frame: number): Schemas["Mark"][] {
  return o.marks[String(frame)] ?? [];
}

export const captionAt = (captions: Played["captions"], t: number) =>
  captions.find((c) => c.from_s <= t && t < c.to_s)?.text ?? "";

/** When each passage begins, and after the last one the end. */
export function begins(told: Told): number[] {
  const out = [0];
  for (const p of told.passages) out.push(out.at(-1)! + p.length_s);
  return out;
}

/** Which passage is told at `t`, and how far into it. */
export function passageAt(told: Told, t: number): { k: number; into: number } {
  const at = begins(told);
  let k = 0;
  while (k < told.passages.length - 1 && at[k + 1]! <= t) k++;
  return { k, into: Math.max(0, t - (at[k] ?? 0)) };
}

/** The act that says which frame is shown so far into a passage: its place among the acts, or −1. */
export function showing(p: Passage, into: number): number {
  let found = -1;
  p.acts.forEach((a, j) => {
    if ((a.act === "stop" || a.act === "play") && a.at_s <= into + 1e-6 && (found < 0 || a.at_s >= p.acts[found]!.at_s))
      found = j;
  });
  return found;
}

export const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;

/** A new name for a passage. */
export const fresh = () => `p${crypto.getRandomValues(new Uint32Array(1))[0]!.toString(36)}`;

/** Seconds on a clock that only goes forward. */
export const seconds = () => performance.now() / 1000;
