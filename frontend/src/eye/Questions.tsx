import { Pause, Play } from "lucide-react";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import { Button } from "../ui/parts";
import type { Given, Item, Scored } from "./types";
import { StripView } from "./StripView";
import { useLoop } from "./useLoop";

interface Props {
  item: Item;
  scored: Scored | null;
  busy: boolean;
  onGive: (given: Given) => void;
}

/** Keys that work wherever the page's own fields do not need them. */
function useKeys(handle: (e: globalThis.KeyboardEvent) => boolean) {
  const latest = useRef(handle);
  useEffect(() => {
    latest.current = handle;
  });
  useEffect(() => {
    const press = (e: globalThis.KeyboardEvent) => {
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        (e.target as HTMLElement).matches?.("input[type=text], select, textarea")
      )
        return;
      if (latest.current(e)) e.preventDefault();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);
}

function PlayBar({
  playing,
  onPlay,
  frame,
  count,
  onGo,
  label,
}: {
  playing: boolean;
  onPlay: () => void;
  frame: number;
  count: number;
  onGo: (f: number) => void;
  label: string;
}) {
  return (
    <div className="flex items-center gap-2">
      <Button onClick={onPlay} aria-label={playing ? "Pause" : "Play"} aria-keyshortcuts="Space">
        {playing ? <Pause aria-hidden className="size-4" /> : <Play aria-hidden className="size-4" />}
      </Button>
      <input
        type="range"
        aria-label={label}
        className="min-h-8 w-full accent-deep"
        min={0}
        max={count - 1}
        value={frame}
        onChange={(e) => onGo(Number(e.target.value))}
      />
    </div>
  );
}

/** What is seen, one loop or two that run together. */
export function Pictures({ item }: { item: Item }) {
  const count = Math.max(...item.strips.map((s) => s.count));
  const { frame, playing, setPlaying, go, step } = useLoop(count, item.strips[0]!.step_s);
  useKeys((e) => {
    if (e.key === " " && !(e.target as HTMLElement).matches("button, summary")) setPlaying(!playing);
    else if (e.key === "ArrowLeft" || e.key === "ArrowRight") step(e.key === "ArrowLeft" ? -1 : 1);
    else return false;
    return true;
  });
  const names = item.titles.length ? item.titles : item.strips.length > 1 ? ["The first", "The second"] : [];
  return (
    <div className="grid content-start gap-2">
      <div className={`grid gap-2 ${item.strips.length > 1 ? "grid-cols-2" : "mx-auto w-full max-w-md"}`}>
        {item.strips.map((s, k) => (
          <figure key={s.url} className="grid gap-1">
            <StripView strip={s} frame={Math.min(frame, s.count - 1)} label={names[k] ?? `Rider from ${item.view}`} />
            {names[k] && (
              <figcaption className="text-center font-semibold first-letter:uppercase">{names[k]}</figcaption>
            )}
          </figure>
        ))}
      </div>
      {count > 1 && (
        <PlayBar
          playing={playing}
          onPlay={() => setPlaying(!playing)}
          frame={frame}
          count={count}
          onGo={go}
          label="Moment"
        />
      )}
    </div>
  );
}

/** One of some choices, by a press or its number. */
export function Choices({ item, scored, busy, onGive }: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const give = (id: string) => {
    if (scored || busy) return;
    setChosen(id);
    onGive({ answer: id });
  };
  useKeys((e) => {
    const option = item.options[Number(e.key) - 1];
    if (!option) return false;
    give(option.id);
    return true;
  });
  return (
    <ol className="grid content-start gap-2">
      {item.options.map((o, k) => {
        const right = scored !== null && o.id === scored.answer;
        const wrong = scored !== null && o.id === chosen && !right;
        return (
          <li key={o.id}>
            <button
              type="button"
              disabled={scored !== null || busy}
              aria-pressed={o.id === chosen}
              onClick={() => give(o.id)}
              className={`flex min-h-10 w-full items-baseline gap-2 rounded border px-3 py-2 text-left enabled:hover:bg-tint ${
                right ? "border-good font-semibold" : wrong ? "border-bad" : "border-line"
              }`}
            >
              <kbd className="text-sm text-soft max-sm:hidden">{k + 1}</kbd>
              <span>
                {o.title}
                {right && <span className="sr-only"> (this is it)</span>}
                {wrong && <span className="sr-only"> (your answer)</span>}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

/** Choices put in order, the earliest first, by pressing one after the other. */
export function Order({ item, scored, busy, onGive }: Props) {
  const [order, setOrder] = useState<string[]>([]);
  // Keys may come faster than the page is drawn.
  const pressed = useRef<string[]>([]);
  const put = (next: string[]) => {
    pressed.current = next;
    setOrder(next);
  };
  const add = (id: string) => {
    if (scored || busy || pressed.current.includes(id)) return;
    put([...pressed.current, id]);
    if (pressed.current.length === item.options.length) onGive({ order: pressed.current });
  };
  const back = () => put(pressed.current.slice(0, -1));
  useKeys((e) => {
    if (e.key === "Backspace" && !scored) {
      back();
      return true;
    }
    const option = item.options[Number(e.key) - 1];
    if (!option) return false;
    add(option.id);
    return true;
  });
  return (
    <div className="grid content-start gap-2">
      <ol className="grid gap-2">
        {item.options.map((o, k) => {
          const mine = order.indexOf(o.id);
          const truly = scored?.order?.indexOf(o.id) ?? -1;
          return (
            <li key={o.id}>
              <button
                type="button"
                disabled={scored !== null || busy || mine >= 0}
                onClick={() => add(o.id)}
                className="flex min-h-10 w-full items-baseline gap-2 rounded border border-line px-3 py-2 text-left enabled:hover:bg-tint"
              >
                <kbd className="text-sm text-soft max-sm:hidden">{k + 1}</kbd>
                <span className="mr-auto">{o.title}</span>
                {mine >= 0 && <b className="font-semibold">{place(mine)}</b>}
                {truly >= 0 && truly !== mine && <span className="text-good">truly {place(truly)}</span>}
              </button>
            </li>
          );
        })}
      </ol>
      {!scored && (
        <Button tone="quiet" className="w-fit" disabled={!order.length || busy} onClick={back}>
          One back
        </Button>
      )}
    </div>
  );
}

const place = (k: number) => ["first", "then", "last"][k] ?? `${k + 1}.`;

/** A moment to stop at, frame by frame. */
export function Moment({ item, scored, busy, onGive }: Props) {
  const strip = item.strips[0]!;
  const { frame, playing, setPlaying, go, step } = useLoop(strip.count, strip.step_s);
  const [mine, setMine] = useState<number | null>(null);
  const give = () => {
    if (scored || busy) return;
    go(frame);
    setMine(frame);
    onGive({ frame });
  };
  useEffect(() => {
    if (scored?.frames && mine !== null)
      go(Math.round(scored.frames.reduce((a, b) => (Math.abs(b - mine) < Math.abs(a - mine) ? b : a))));
    // Once, when the truth comes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [scored]);
  useKeys((e) => {
    const far = e.shiftKey ? 5 : 1;
    if (e.key === "ArrowLeft" || e.key === "ArrowRight") step(e.key === "ArrowLeft" ? -far : far);
    else if (e.key === " " && !(e.target as HTMLElement).matches("button, summary")) setPlaying(!playing);
    else if (e.key === "Enter" && !scored && !(e.target as HTMLElement).matches("button, summary, a")) give();
    else return false;
    return true;
  });
  return (
    <>
      <div className="mx-auto grid w-full max-w-md gap-2">
        <StripView
          strip={strip}
          frame={frame}
          label={`Rider from ${item.view}, frame ${frame + 1} of ${strip.count}`}
        />
        <PlayBar
          playing={playing}
          onPlay={() => setPlaying(!playing)}
          frame={frame}
          count={strip.count}
          onGo={go}
          label="Frame"
        />
      </div>
      <div className="grid content-start gap-2">
        <p className="text-soft max-sm:hidden">← → step a frame, with Shift five; Space plays; Enter answers.</p>
        {!scored && (
          <Button tone="main" className="w-fit" disabled={busy} onClick={give}>
            This is it
          </Button>
        )}
        {scored && mine !== null && (
          <div className="flex gap-2">
            <Button onClick={() => go(mine)}>Yours</Button>
            <Button
              onClick={() =>
                go(Math.round(scored.frames!.reduce((a, b) => (Math.abs(b - mine) < Math.abs(a - mine) ? b : a))))
              }
            >
              The moment
            </Button>
          </div>
        )}
      </div>
    </>
  );
}

type Place = [number, number];
const BEGIN: Record<number, Place[]> = {
  2: [
    [0.5, 0.75],
    [0.5, 0.35],
  ],
  3: [
    [0.45, 0.3],
    [0.55, 0.5],
    [0.45, 0.7],
  ],
};

/** A line to be drawn: its points dragged, or moved by arrows. */
export function Line({ item, scored, busy, onGive }: Props) {
  const [line, setLine] = useState<Place[]>(() => BEGIN[item.points]!);
  const dragged = useRef<number | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const put = (k: number, [x, y]: Place) => setLine((old) => old.map((p, i) => (i === k ? [clamp(x), clamp(y)] : p)));
  const move = (e: PointerEvent) => {
    if (dragged.current === null || scored) return;
    const r = box.current!.getBoundingClientRect();
    put(dragged.current, [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height]);
  };
  const key = (k: number) => (e: KeyboardEvent) => {
    const far = e.shiftKey ? 0.03 : 0.005;
    const by = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[e.key];
    if (e.key === "Enter") give();
    if (!by || scored) return;
    e.preventDefault();
    put(k, [line[k]![0] + by[0]!, line[k]![1] + by[1]!]);
  };
  const give = () => {
    if (!scored && !busy) onGive({ line });
  };
  const points = (of: number[][]) => of.map((p) => `${100 * p[0]!},${100 * p[1]!}`).join(" ");
  return (
    <>
      <div className="mx-auto w-full max-w-lg">
        <StripView strip={item.strips[0]!} frame={0} label={`Rider from ${item.view}`}>
          <svg
            ref={box}
            viewBox="0 0 100 100"
            className="absolute inset-0 size-full touch-none"
            onPointerMove={move}
            onPointerUp={() => (dragged.current = null)}
          >
            <polyline points={points(line)} fill="none" stroke="var(--picture-dark)" strokeWidth={1.6} />
            <polyline points={points(line)} fill="none" stroke="var(--picture-mark)" strokeWidth={0.8} />
            {scored?.line && (
              <>
                <polyline points={points(scored.line)} fill="none" stroke="var(--picture-dark)" strokeWidth={1.8} />
                <polyline
                  points={points(scored.line)}
                  fill="none"
                  stroke="var(--coach)"
                  strokeWidth={0.9}
                  strokeDasharray="2.4 1.4"
                />
              </>
            )}
            {!scored &&
              line.map((p, k) => (
                <circle
                  key={k}
                  role="button"
                  tabIndex={0}
                  aria-label={`Point ${k + 1} of ${line.length}, ${Math.round(100 * p[0])} across, ${Math.round(100 * p[1])} down`}
                  cx={100 * p[0]}
                  cy={100 * p[1]}
                  r={3.6}
                  fill="var(--picture-mark)"
                  fillOpacity={0.35}
                  stroke="var(--picture-dark)"
                  strokeWidth={0.6}
                  className="cursor-grab"
                  onPointerDown={(e) => {
                    dragged.current = k;
                    box.current!.setPointerCapture(e.pointerId);
                    (e.currentTarget as SVGElement).focus();
                  }}
                  onKeyDown={key(k)}
                />
              ))}
          </svg>
        </StripView>
      </div>
      <div className="grid content-start gap-2">
        <p className="text-soft max-sm:hidden">
          Drag the points, or Tab to one and move it by arrows (Shift: far). Enter answers.
        </p>
        {!scored && (
          <Button tone="main" className="w-fit" disabled={busy} onClick={give}>
            This is it
          </Button>
        )}
        {scored && <p className="text-sm text-soft">Dashed: where it truly lies.</p>}
      </div>
    </>
  );
}

const clamp = (v: number) => Math.min(Math.max(v, 0), 1);
