import { useEffect, useRef, useState, type KeyboardEvent } from "react";

import type { FrameSource } from "../video/frames";
import { paint } from "../video/paint";
import { Button, Input, Select } from "../ui/parts";
import { Measure, useUnits } from "../ui/units";
import type { CameraPart, Footage, RiderMark } from "./types";

type Point = [number, number];
type Tool = "horizon" | "plumb" | "scale" | "lens" | "surface" | "fall" | "plane" | "rider";
const TOOLS: [Tool, string, string][] = [
  ["horizon", "Horizon", "Press two points far apart on the horizon, or on a water line far off."],
  ["plumb", "Something plumb", "Press the foot and the top of a pole, a wall or a tree that stands plumb."],
  ["scale", "Known length", "Press the two ends of something whose length you know, as far away as the rider."],
  [
    "lens",
    "Straight things",
    "Press three points or more along something that is straight in life, near the picture’s edge; then the next one.",
  ],
  ["surface", "Snow or water line", "Press two points on the surface under the rider."],
  ["fall", "Fall line", "Press a point and one straight downhill of it."],
  [
    "plane",
    "Rectangle on the ice",
    "Filmed from one side and above: press the four corners of a rectangle on the ice whose sides you know, one after the other all the way round.",
  ],
  [
    "rider",
    "The rider",
    "Where the wrong person is followed, or none: press the top of the rider’s head, then their feet. They are followed through the clip again.",
  ],
];
const PART_WORDS: Record<string, string> = {
  level: "Level",
  lens: "Lens",
  scale: "Scale",
  surface: "Surface",
  fall: "Fall line",
  plane: "Ice",
};
const POINTS: Partial<Record<Tool, number>> = { lens: Infinity, plane: 4 };
const ARROWS: Record<string, Point | undefined> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const number = (text: string) => Number(text.replace(",", "."));

interface Props {
  footage: Footage;
  source: FrameSource;
  busy: boolean;
  onSave: (part: CameraPart) => void;
  onPoint: (mark: RiderMark) => void;
}

/** Level, lens, scale and slope, and who the rider is, by marking things on one picture of the clip. */
export function CameraMarks({ footage, source, busy, onSave, onPoint }: Props) {
  const clip = footage.run.clip!;
  const [width, height] = [clip.width ?? 1, clip.height ?? 1];
  const last = footage.t.length - 1;
  const [frame, setFrame] = useState(Math.floor(last / 2));
  const [tool, setTool] = useState<Tool>("horizon");
  const [lines, setLines] = useState<Point[][]>([[]]);
  const units = useUnits();
  const [metres, setMetres] = useState("");
  const [sides, setSides] = useState<[string, string]>(["", ""]);
  const [problem, setProblem] = useState("");
  /** Where the arrows have moved the cross to; null while the mouse or a finger marks. */
  const [cross, setCross] = useState<Point | null>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);

  useEffect(() => {
    let current = true;
    source.frame(frame).then(
      async (picture) => {
        if (!current || !canvas.current) return;
        await paint(canvas.current, picture, undefined, () => current);
        if (!current) return;
        canvas.current.dataset.frame = String(frame);
        setProblem("");
      },
      (e: Error) => current && setProblem(e.message),
    );
    return () => {
      current = false;
    };
  }, [source, frame]);

  const wanted = POINTS[tool] ?? 2;
  const start = (next: Tool) => {
    setTool(next);
    setLines([[]]);
    setCross(null);
  };
  const show = (next: number) => {
    setFrame(next);
    // Two points of one thing belong to one picture; what is straight is so in every picture.
    if (tool !== "lens") setLines([[]]);
  };
  const press = (x: number, y: number) => {
    const now = lines.at(-1)!;
    // A point more than are meant begins again.
    const line: Point[] = now.length >= wanted ? [[x, y]] : [...now, [x, y]];
    setLines([...lines.slice(0, -1), line]);
  };
  const undo = () => {
    const now = lines.at(-1)!;
    const before = lines.slice(0, -1);
    setLines(now.length || !before.length ? [...before, now.slice(0, -1)] : before);
  };
  const keys = (e: KeyboardEvent) => {
    const by = ARROWS[e.key];
    const here = cross ?? [width / 2, height / 2];
    if (by) {
      const size = e.shiftKey ? 20 : e.altKey ? 1 : 5;
      setCross([
        Math.min(Math.max(here[0] + by[0] * size, 0), width),
        Math.min(Math.max(here[1] + by[1] * size, 0), height),
      ]);
    } else if (e.key === "Enter") press(...here);
    else if (e.key === "Backspace") undo();
    else if (e.key === "Escape") setCross(null);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const line = lines[0] ?? [];
  const known = tool === "scale" ? number(metres) > 0 : tool !== "plane" || sides.every((side) => number(side) > 0);
  const full = lines.filter((l) => l.length >= 3);
  const ready =
    tool === "lens"
      ? full.length > 0 && lines.every((l) => l.length === 0 || l.length >= 3)
      : line.length === wanted && known;
  const save = () => {
    if (tool === "horizon" || tool === "plumb") onSave({ level: { by: tool, frame, points: line } });
    else if (tool === "scale") onSave({ scale: { frame, points: line, metres: number(metres) } });
    else if (tool === "plane") onSave({ plane: { frame, points: line, sides_m: sides.map(number) } });
    else if (tool === "lens") onSave({ lens: { by: "lines", lines: full } });
    else if (tool === "rider") onPoint({ frame, head: line[0]!, feet: line[1]! });
    else onSave({ [tool]: { frame, points: line } });
    setLines([[]]);
  };
  const px = width / 900;
  const saved = savedLines(footage.camera, frame);
  return (
    <section aria-labelledby="camera" className="grid gap-2 rounded border border-line bg-sheet p-3">
      <h2 id="camera" className="text-base">
        Camera and rider
      </h2>
      <div role="group" aria-label="What to mark" className="flex flex-wrap gap-1">
        {TOOLS.filter(([id]) => id !== "plane" || footage.on_ice).map(([id, name]) => (
          <button
            key={id}
            type="button"
            aria-pressed={tool === id}
            onClick={() => start(id)}
            className={`rounded border px-2.5 py-1 ${tool === id ? "border-deep bg-tint font-semibold" : "border-line hover:bg-tint"}`}
          >
            {name}
          </button>
        ))}
      </div>
      <p className="text-soft">{TOOLS.find(([id]) => id === tool)![2]}</p>
      <div className="relative overflow-hidden rounded bg-stage">
        <canvas
          ref={canvas}
          width={clip.play_width}
          height={clip.play_height}
          className="block w-full"
          role="img"
          aria-label={`Frame ${frame} of the clip`}
        />
        <svg
          ref={svg}
          viewBox={`0 0 ${width} ${height}`}
          className="absolute inset-0 size-full cursor-crosshair touch-none"
          role="application"
          aria-label="Picture to mark on: arrows move a cross, Enter marks, Backspace takes the last point back"
          tabIndex={0}
          onKeyDown={keys}
          onFocus={(e) =>
            e.currentTarget.matches(":focus-visible") && setCross((now) => now ?? [width / 2, height / 2])
          }
          onPointerDown={(e) => {
            setCross(null);
            const box = svg.current!.getBoundingClientRect();
            press(((e.clientX - box.left) / box.width) * width, ((e.clientY - box.top) / box.height) * height);
          }}
        >
          {saved.map((points, k) => (
            <polyline
              key={k}
              points={points.map((p) => p.join(",")).join(" ")}
              fill="none"
              stroke="var(--on-picture)"
              strokeWidth={1.6 * px}
              strokeDasharray={`${5 * px} ${4 * px}`}
            />
          ))}
          {lines.map((points, k) => (
            <g key={k}>
              <polyline
                points={closed(points, tool)
                  .map((p) => p.join(","))
                  .join(" ")}
                fill="none"
                stroke="var(--picture-mark)"
                strokeWidth={2.4 * px}
              />
              {points.map(([x, y], j) => (
                <path
                  key={j}
                  d={`M${x - 7 * px} ${y}h${14 * px}M${x} ${y - 7 * px}v${14 * px}`}
                  stroke="var(--picture-mark)"
                  strokeWidth={2 * px}
                />
              ))}
            </g>
          ))}
          {cross && (
            <path
              d={`M${cross[0] - 16 * px} ${cross[1]}h${32 * px}M${cross[0]} ${cross[1] - 16 * px}v${32 * px}`}
              stroke="var(--on-picture)"
              strokeWidth={3 * px}
              strokeDasharray={`${4 * px} ${3 * px}`}
              data-cross={cross.join(",")}
            />
          )}
        </svg>
        {problem && (
          <p role="alert" className="absolute inset-x-0 bottom-0 bg-picture-dark/90 p-3 text-on-picture">
            {problem}
          </p>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex min-w-48 flex-1 items-center gap-2">
          Frame{" "}
          <input
            type="range"
            min={0}
            max={last}
            value={frame}
            onChange={(e) => show(Number(e.target.value))}
            className="flex-1 accent-(--deep)"
          />
          <span className="w-14 tabular-nums">{frame}</span>
        </label>
        {tool === "scale" && (
          <label className="flex items-center gap-2">
            {units === "metric" ? "Metres" : "Feet"}{" "}
            <Measure unit="m" value={metres} onChange={setMetres} style={{ width: "5rem" }} />
          </label>
        )}
        {tool === "plane" &&
          (["First side", "Next side"] as const).map((name, k) => (
            <label key={name} className="flex items-center gap-2">
              {name}, {units === "metric" ? "metres" : "feet"}{" "}
              <Measure
                unit="m"
                value={sides[k]!}
                onChange={(side) => setSides(k ? [sides[0], side] : [side, sides[1]])}
                style={{ width: "5rem" }}
              />
            </label>
          ))}
        {tool === "lens" && (
          <Button disabled={(lines.at(-1)?.length ?? 0) < 3} onClick={() => setLines([...lines, []])}>
            Next line
          </Button>
        )}
        <Button disabled={!lines.some((l) => l.length)} onClick={() => setLines([[]])}>
          Start again
        </Button>
        <Button tone="main" disabled={!ready || busy} onClick={save}>
          {tool === "rider" ? "Follow them" : "Save the mark"}
        </Button>
      </div>
      <div className="flex flex-wrap gap-x-6 gap-y-2 border-t border-line pt-2">
        <ByHand footage={footage} busy={busy} onSave={onSave} />
        <label className="flex items-center gap-2">
          Lens
          <Select
            value={footage.camera.lens?.by ?? ""}
            disabled={busy}
            onChange={(e) => onSave({ lens: e.target.value ? { by: e.target.value as "normal" } : null })}
            style={{ width: "11.5rem" }}
          >
            <option value="">Not said</option>
            <option value="normal">Phone, main lens</option>
            <option value="wide">Phone, wide lens</option>
            <option value="action">Action camera, wide</option>
            {footage.camera.lens?.by === "lines" && <option value="lines">By straight things</option>}
          </Select>
        </label>
      </div>
      <ul className="grid gap-1">
        {Object.entries(footage.camera_words).map(([part, words]) => (
          <li key={part} className="flex items-center gap-2">
            <span>
              <b className="font-semibold">{PART_WORDS[part]}:</b> {words}
            </span>
            <Button
              tone="quiet"
              className="text-sm"
              disabled={busy}
              onClick={() => onSave({ [part]: null })}
              aria-label={`Take back: ${PART_WORDS[part]}`}
            >
              Take back
            </Button>
          </li>
        ))}
      </ul>
      {footage.fall_words && (
        <p className="flex flex-wrap items-center gap-2">
          <span>{footage.fall_words}</span>
          <Button disabled={busy} onClick={() => onSave({ scale: { by: "fall" } })}>
            Use it as the scale
          </Button>
        </p>
      )}
      {Object.keys(footage.camera_words).length === 0 && (
        <p className="text-sm text-soft">Nothing is marked yet. The scale is taken from the rider&rsquo;s height.</p>
      )}
    </section>
  );
}

/** Degrees that the picture is askew, where there is nothing in it to mark. */
function ByHand({ footage, busy, onSave }: Omit<Props, "source" | "onPoint">) {
  const now = footage.camera.level?.by === "hand" ? String(footage.camera.level.roll_deg ?? "") : "";
  const [roll, setRoll] = useState(now);
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onSave({ level: { by: "hand", roll_deg: Number(roll.replace(",", ".").replace("−", "-")) } });
      }}
    >
      <label className="flex items-center gap-2 whitespace-nowrap">
        Turn by hand{" "}
        <Input
          value={roll}
          onChange={(e) => setRoll(e.target.value)}
          inputMode="decimal"
          style={{ width: "4.5rem" }}
          placeholder="0"
        />
        °
      </label>
      <Button
        type="submit"
        disabled={busy || !roll.trim() || Number.isNaN(Number(roll.replace(",", ".").replace("−", "-")))}
      >
        Turn
      </Button>
    </form>
  );
}

/** A line as it is drawn: four corners are closed to a rectangle. */
function closed(points: Point[], tool: Tool): Point[] {
  return tool === "plane" && points.length === 4 ? [...points, points[0]!] : points;
}

/** The lines that are marked in this frame already. */
function savedLines(camera: Footage["camera"], frame: number): Point[][] {
  const at = [camera.level, camera.scale, camera.surface, camera.fall].flatMap((m) =>
    m && m.frame === frame && m.points ? [m.points as Point[]] : [],
  );
  const ice = camera.plane?.frame === frame ? (camera.plane.points as Point[]) : [];
  if (ice.length) at.push(closed(ice, "plane"));
  return [...at, ...((camera.lens?.lines ?? []) as Point[][])];
}
