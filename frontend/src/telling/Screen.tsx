import { useRef, useState, type PointerEvent } from "react";

import type { Bench, Schemas } from "../api/client";
import { useShown } from "../video/useShown";
import { BesideEachOther } from "./BesideEachOther";
import { Marks, MarkWords } from "./Marks";
import { marksIn } from "./time";

export const TOOLS = ["line", "arrow", "angle", "circle", "free", "text"] as const;
export type Tool = (typeof TOOLS)[number];
type Point = [number, number];
/** How many points a drawing takes; a free line as many as come. */
const TAKES: Record<Tool, number> = { line: 2, arrow: 2, angle: 3, circle: 2, free: 400, text: 1 };

/** The picture of a Telling at one moment, with all that lies over it; with a tool in hand, where one draws. */
export function Screen({
  bench,
  frame,
  over,
  caption,
  tool,
  onDrawn,
}: {
  bench: Bench;
  frame: number;
  over: Schemas["Overlay"][];
  caption: string;
  tool: Tool | null;
  onDrawn: (tool: Tool, points: Point[]) => void;
}) {
  const clip = bench.run.clip!;
  const [width, height] = [clip.width ?? 1280, clip.height ?? 720];
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [points, setPoints] = useState<Point[]>([]);
  const problem = useShown(bench, frame, canvas);
  const at = (e: PointerEvent): Point => {
    const box = svg.current!.getBoundingClientRect();
    const round = (x: number) => Math.round(10 * x) / 10;
    return [round(((e.clientX - box.left) / box.width) * width), round(((e.clientY - box.top) / box.height) * height)];
  };
  const finish = (drawn: Point[]) => {
    setPoints([]);
    if (tool && drawn.length >= Math.min(TAKES[tool], 2)) onDrawn(tool, drawn);
  };
  const marks = over.flatMap((o) => marksIn(o, frame));
  const drawing: Schemas["Mark"][] =
    tool && points.length > 1
      ? [{ kind: tool === "circle" || tool === "arrow" ? tool : "line", points, words: "", tone: "coach" }]
      : [];
  const figure = over.find((o) => o.figure)?.figure;
  const pair = over.find((o) => o.pair?.at[String(frame)])?.pair;
  const card = over.find((o) => o.title || o.lines.length);
  return (
    <div className="relative overflow-hidden rounded bg-stage">
      <canvas
        ref={canvas}
        width={clip.play_width}
        height={clip.play_height}
        className="block w-full"
        role="img"
        aria-label={`Frame ${frame} of ${bench.run.rider.name}'s run`}
      />
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${height}`}
        className={`absolute inset-0 size-full touch-none select-none ${tool ? "cursor-crosshair" : ""}`}
        onMouseDown={(e) => e.preventDefault()}
        onPointerDown={(e) => {
          if (!tool) return;
          svg.current!.setPointerCapture(e.pointerId);
          const p = at(e);
          if (tool === "text") finish([p, p]);
          // An angle's third point is set by a press of its own, after its first line.
          else if (tool === "angle" && points.length >= 2) setPoints([points[0]!, points[1]!, p]);
          else setPoints([p, p]);
        }}
        onPointerMove={(e) => {
          if (!tool || !points.length || !e.buttons) return;
          const p = at(e);
          if (tool === "free") {
            const last = points.at(-1)!;
            if (points.length < TAKES.free && Math.hypot(p[0] - last[0], p[1] - last[1]) > 3) setPoints([...points, p]);
          } else setPoints([...points.slice(0, -1), p]);
        }}
        onPointerUp={() => {
          if (!tool || !points.length) return;
          if (tool === "angle" && points.length < 3) return;
          finish(points);
        }}
        onPointerCancel={() => setPoints([])}
      >
        <Marks marks={[...marks, ...drawing]} height={height} />
      </svg>
      <MarkWords marks={marks} {...{ width, height }} />
      {pair && <BesideEachOther bench={bench} frame={frame} pair={pair} marks={marks} />}
      {tool && (
        <p className="pointer-events-none absolute inset-x-0 top-0 bg-picture-dark/85 p-1.5 text-center text-on-picture">
          {tool === "angle" && points.length >= 2
            ? "Now press where the second line ends."
            : tool === "text"
              ? "Press where the words are to stand."
              : tool === "angle"
                ? "Draw the first line, from its end to the corner."
                : "Draw on the picture."}
        </p>
      )}
      {figure && (
        <div className="absolute inset-0 grid place-items-center bg-black/65 p-[4%]">
          <img
            src={`/api/figures/${bench.run.discipline}/${figure}?moving=true`}
            alt="Drawn rider with this fault, left, and without it, right"
            className="max-h-full rounded"
          />
        </div>
      )}
      {card && (
        <div className="absolute inset-x-[6%] top-1/2 max-h-[80%] -translate-y-1/2 overflow-hidden bg-picture-dark/90 p-3 text-on-picture">
          <p className="text-lg font-semibold">{card.title}</p>
          {card.lines.map((l) => (
            <p key={l}>{l}</p>
          ))}
        </div>
      )}
      {caption && (
        <p
          data-testid="caption"
          className="pointer-events-none absolute inset-x-0 bottom-0 bg-picture-dark/85 px-3 py-1.5 text-center text-on-picture"
        >
          {caption}
        </p>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-0 top-0 bg-picture-dark/90 p-3 text-on-picture">
          {problem}
        </p>
      )}
    </div>
  );
}
