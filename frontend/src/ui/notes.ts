import type { Bench, Schemas, Unit } from "../api/client";
import { plain } from "./places";

export type Noted = Schemas["Note"];

/** Where a note holds, in words. */
export function whereOf(note: Noted, bench: Bench): string {
  if (note.scope === "run") return "whole run";
  if (note.scope === "side") return `${plain(note.side ?? "")} ${bench.unit_plural}`;
  const unit = note.unit === null ? `a ${bench.unit} that is not there any more` : `${bench.unit} ${note.unit}`;
  return note.phase && note.scope === "phase" ? `${unit}, ${plain(note.phase)}` : unit;
}

/** A note as a coach says it: what, and how surely. */
export const saidOf = (note: Noted) =>
  note.fault ? `${note.title}${note.seen ? (note.sure ? "" : " (maybe)") : ": looked, not there"}` : `“${note.words}”`;

/** What stands noted for a unit, its side or the run. */
export const notesAt = (bench: Bench, turn: Unit | undefined) =>
  bench.seen.filter(
    (n) =>
      n.scope === "run" ||
      (n.scope === "side" ? !!turn && [turn.side, turn.finest_side].includes(n.side) : n.unit === turn?.n),
  );
