import { Dialog } from "../ui/Dialog";

const KEYS = [
  ["← →", "one frame back, on (with Shift: ten)"],
  ["↑ ↓", "unit before, next unit, same phase"],
  ["1 … 6", "phase of this unit"],
  ["Space", "play, pause"],
  ["S", "speed"],
  ["O", "bounce over this unit"],
  ["N", "close up"],
  ["V, W", "the next clip at the same instant; both views at once"],
  ["B, L, R", "this unit beside own best, beside the other side mirrored, this run beside the last one"],
  ["G", "the rider with the main thing mended, as an outline, in this unit"],
  ["F", "this run beside the club's reference"],
  ["H, P", "body, plumb and surface lines"],
  ["E", "note what you see: a fault, a sign, a strength, or words"],
  ["A, Shift A", "the same again, or looked and not there; in the next unit where it is noted already"],
  ["C, X", "cut here, delete the nearest cut"],
  ["Tab, arrows, Enter", "choose a joint or a cut, move it (with Shift: ten), keep it there"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
];

/** What each key does on the Bench. */
export function Keys({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog title="Keys on the Bench" open={open} onOpen={onOpen}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt className="font-semibold">{key}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
