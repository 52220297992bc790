import { ArrowDown, ArrowUp, Mic, Scissors, Square, Trash2, VolumeX, X } from "lucide-react";

import { Button, Input } from "../ui/parts";
import type { Tool } from "./Screen";
import type { Act, Passage } from "./time";

const SPEEDS = [1, 0.5, 0.25, 0.125];
const DRAWN: Record<string, string> = {
  line: "a line",
  arrow: "an arrow",
  angle: "an angle",
  circle: "a circle",
  free: "a free line",
  text: "words",
};

/** One act in a few words. */
function said(a: Act): string {
  switch (a.act) {
    case "stop":
      return `stands on frame ${a.frame}`;
    case "play":
      return `plays ${a.frame} to ${a.to_frame}`;
    case "measure":
      return `line of ${a.words}`;
    case "draw":
      return `${DRAWN[a.kind]}${a.words ? `: ${a.words}` : ""}`;
    case "figure":
      return "right and wrong figure";
    case "ghost":
      return "the mended figure";
    case "card":
      return "a card to read";
    case "pair":
      return `${a.words[0] ?? ""} beside ${a.words[1] ?? ""}`;
  }
}

/** A passage as it can be changed: its caption, how long it lasts, what is shown and heard. */
export function PassageRow({
  passage: p,
  number,
  current,
  recording,
  busy,
  first,
  last,
  onGo,
  onChange,
  onDelete,
  onShift,
  onRecord,
  onNext,
  onTrim,
  onDraw,
}: {
  passage: Passage;
  number: number;
  current: boolean;
  /** It is being spoken now. */
  recording: boolean;
  busy: boolean;
  first: boolean;
  last: boolean;
  onGo: () => void;
  onChange: (next: Passage) => void;
  onDelete: () => void;
  onShift: (by: -1 | 1) => void;
  onRecord: () => void;
  /** Go on to the next one while it is being spoken. */
  onNext: () => void;
  onTrim: () => void;
  /** Draw one of its drawings in another place. */
  onDraw: (act: number, kind: Tool) => void;
}) {
  const name = `Passage ${number}`;
  const act = (j: number, next: Act | null) =>
    onChange({ ...p, acts: next ? p.acts.map((a, i) => (i === j ? next : a)) : p.acts.filter((_, i) => i !== j) });
  return (
    <li
      aria-current={current || undefined}
      className={`grid gap-1.5 border-b border-line px-3 py-2 ${current ? "bg-tint" : ""}`}
    >
      <div className="flex flex-wrap items-center gap-1">
        <Button tone="quiet" className="font-bold" onClick={onGo} aria-label={`Go to passage ${number}`}>
          {number}
        </Button>
        <span className="flex items-center gap-1 text-sm text-soft">
          <Input
            aria-label={`${name}, seconds`}
            type="number"
            min={0.2}
            max={600}
            step={0.1}
            className="max-w-20"
            value={Math.round(10 * p.length_s) / 10}
            onChange={(e) => Number(e.target.value) > 0 && onChange({ ...p, length_s: Number(e.target.value) })}
          />
          s
        </span>
        <Button
          tone={recording ? "bad" : "plain"}
          disabled={busy && !recording}
          onClick={onRecord}
          aria-label={
            recording ? "Stop recording" : p.sound ? `Record passage ${number} anew` : `Record passage ${number}`
          }
        >
          {recording ? <Square aria-hidden className="size-4" /> : <Mic aria-hidden className="size-4" />}
          {recording ? "Stop" : p.sound ? "Anew" : "Speak"}
        </Button>
        {recording && (
          <Button onClick={onNext} title="Go on speaking over the next one (N)">
            {last ? "End" : "Next one"} <kbd className="font-normal text-soft">N</kbd>
          </Button>
        )}
        {p.sound && !recording && (
          <>
            <Button
              tone="quiet"
              onClick={onTrim}
              title="Cut the silence before and after"
              aria-label={`Cut silence of passage ${number}`}
            >
              <Scissors aria-hidden className="size-4" />
            </Button>
            <Button
              tone="quiet"
              onClick={() => onChange({ ...p, sound: null })}
              aria-label={`Take the voice out of passage ${number}`}
            >
              <VolumeX aria-hidden className="size-4" />
            </Button>
          </>
        )}
        <span className="ml-auto flex">
          <Button
            tone="quiet"
            disabled={first || busy}
            onClick={() => onShift(-1)}
            aria-label={`Passage ${number} earlier`}
          >
            <ArrowUp aria-hidden className="size-4" />
          </Button>
          <Button
            tone="quiet"
            disabled={last || busy}
            onClick={() => onShift(1)}
            aria-label={`Passage ${number} later`}
          >
            <ArrowDown aria-hidden className="size-4" />
          </Button>
          <Button tone="quiet" disabled={busy} onClick={onDelete} aria-label={`Delete passage ${number}`}>
            <Trash2 aria-hidden className="size-4" />
          </Button>
        </span>
      </div>
      <textarea
        aria-label={`Caption of passage ${number}`}
        className="w-full rounded border border-line bg-sheet p-1.5"
        rows={2}
        maxLength={1000}
        value={p.caption}
        onFocus={onGo}
        onChange={(e) => onChange({ ...p, caption: e.target.value })}
      />
      {current && p.acts.length > 0 && (
        <ul className="grid gap-0.5 text-sm text-soft">
          {p.acts.map((a, j) => (
            <li key={j} className="flex flex-wrap items-center gap-1.5">
              {a.at_s.toFixed(1)} s: {said(a)}
              {a.act === "play" && (
                <select
                  aria-label="Speed"
                  className="min-h-7 rounded border border-line bg-sheet"
                  value={a.speed}
                  onChange={(e) => act(j, { ...a, speed: Number(e.target.value) })}
                >
                  {[...new Set([...SPEEDS, a.speed])].map((s) => (
                    <option key={s} value={s}>
                      {s === 1 ? "true speed" : `${Number(s.toFixed(3))} of true speed`}
                    </option>
                  ))}
                </select>
              )}
              {a.act === "draw" && (
                <>
                  <Button
                    tone="quiet"
                    className="min-h-7 px-1 text-sm"
                    disabled={busy}
                    onClick={() => onDraw(j, a.kind)}
                  >
                    Draw anew
                  </Button>
                  <label className="flex items-center gap-1">
                    <input
                      type="checkbox"
                      checked={a.follows}
                      onChange={(e) => act(j, { ...a, follows: e.target.checked })}
                    />
                    goes with the rider
                  </label>
                  <Input
                    aria-label="Words beside it"
                    className="max-w-40"
                    maxLength={200}
                    value={a.words}
                    onChange={(e) => act(j, { ...a, words: e.target.value })}
                  />
                </>
              )}
              <Button
                tone="quiet"
                className="min-h-7 px-1"
                onClick={() => act(j, null)}
                aria-label={`Take out: ${said(a)}`}
              >
                <X aria-hidden className="size-4" />
              </Button>
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}
