import { plain } from "../ui/places";
import { Input, Select } from "../ui/parts";
import { momentsOf, type Moves, type Same } from "./matched";

/** How the two move: phase by phase, or each at its own speed about a moment, looked at some seconds from it. */
export function Movement({
  same,
  moves,
  offset,
  onMoves,
  onOffset,
}: {
  same: Same | undefined;
  moves: Moves;
  /** As it was typed. */
  offset: string;
  onMoves: (moves: Moves) => void;
  onOffset: (offset: string) => void;
}) {
  const moments = same ? momentsOf(same) : [];
  return (
    <>
      <Select
        aria-label="How they move"
        style={{ width: "14rem" }}
        value={moves === "phase" ? "" : moves.moment}
        onChange={(e) => onMoves(e.target.value ? { moment: e.target.value } : "phase")}
      >
        <option value="">phase by phase (L)</option>
        {moments.map((moment) => (
          <option key={moment} value={moment}>
            own speed, at once at: {plain(moment)}
          </option>
        ))}
      </Select>
      {moves !== "phase" && (
        <span className="flex items-center gap-1 text-sm text-soft">
          look
          <Input
            aria-label="Seconds from that moment"
            type="number"
            step={0.01}
            min={-10}
            max={10}
            style={{ width: "5.5rem" }}
            value={offset}
            onChange={(e) => onOffset(e.target.value)}
          />
          s after it
        </span>
      )}
    </>
  );
}

/** The moment in words: "at the take off + 0.20 s". */
export const momentWords = (moment: string, offset: number) =>
  `at the ${plain(moment)}${offset ? ` ${offset < 0 ? "−" : "+"} ${Math.abs(offset).toFixed(2)} s` : ""}`;
