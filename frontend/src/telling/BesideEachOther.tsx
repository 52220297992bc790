import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";

import type { Bench, Schemas } from "../api/client";
import { bench as benchQuery } from "../api/queries";
import { useShown } from "../video/useShown";
import { Marks } from "./Marks";

/** Two halves in place of the picture: this run's frame, and the same moment of another. */
export function BesideEachOther({
  bench,
  frame,
  pair,
  marks,
}: {
  bench: Bench;
  frame: number;
  pair: Schemas["PairOver"];
  /** What lies over this run's picture. */
  marks: Schemas["Mark"][];
}) {
  const own = pair.run === bench.run.id;
  const asked = useQuery({ ...benchQuery(pair.run), enabled: !own });
  const other = own ? bench : asked.data;
  const half = pair.at[String(frame)]!;
  const clip = bench.run.clip!;
  const [w, h] = [clip.play_width ?? 1280, clip.play_height ?? 720];
  const size: [number, number] = h > w ? [w, Math.floor(h / 2)] : [Math.floor(w / 2), h];
  return (
    <div className={`absolute inset-0 grid gap-1 bg-on-picture ${h > w ? "grid-rows-2" : "grid-cols-2"}`}>
      <Half
        bench={bench}
        frame={frame}
        box={half.box}
        size={size}
        words={pair.words[0]!}
        mirror={false}
        marks={marks}
      />
      {other?.run.clip ? (
        <Half
          bench={other}
          frame={half.other}
          box={half.other_box}
          size={size}
          words={pair.words[1]!}
          mirror={pair.mirror}
        />
      ) : (
        <p className="bg-picture-dark p-3 text-on-picture">
          {asked.error ? asked.error.message : "Opening the other one"}
        </p>
      )}
    </div>
  );
}

function Half({
  bench,
  frame,
  box,
  size: [width, height],
  words,
  mirror,
  marks = [],
}: {
  bench: Bench;
  frame: number;
  box: number[];
  size: [number, number];
  words: string;
  mirror: boolean;
  marks?: Schemas["Mark"][];
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const clip = bench.run.clip!;
  const scale = (clip.play_width ?? 1) / (clip.width ?? 1);
  const [x, y, w, h] = box.map((v) => v * scale) as [number, number, number, number];
  // As much around the rider as fills the half.
  const much = Math.max(w / width, h / height);
  const part = {
    x: x + w / 2 - (much * width) / 2,
    y: y + h / 2 - (much * height) / 2,
    w: much * width,
    h: much * height,
  };
  const problem = useShown(bench, frame, canvas, part);
  return (
    <figure className="relative min-h-0 min-w-0 overflow-hidden bg-picture-dark">
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={`${words}: frame ${frame}`}
        className={`block size-full object-contain ${mirror ? "-scale-x-100" : ""}`}
      />
      {marks.length > 0 && (
        <svg
          viewBox={[part.x, part.y, part.w, part.h].map((v) => v / scale).join(" ")}
          className="absolute inset-0 size-full"
        >
          <Marks marks={marks} height={part.h / scale} />
        </svg>
      )}
      <figcaption className="absolute top-0 left-0 bg-picture-dark/90 px-2 py-0.5 text-sm text-on-picture">
        {problem || words}
      </figcaption>
    </figure>
  );
}
