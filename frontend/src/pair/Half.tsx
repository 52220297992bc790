import { useRef, type ReactNode } from "react";

import type { Bench } from "../api/client";
import { useShown } from "../video/useShown";
import type { Box } from "./matched";

/** One half of a pair: exactly one frame of its clip, cut and mirrored as asked, with whose it is on it. */
export function Half({
  bench,
  frame,
  part,
  mirror,
  words,
  name,
  clip,
  children,
}: {
  bench: Bench;
  frame: number;
  part: Box | null;
  mirror: boolean;
  words: string;
  name: string;
  /** How much of it is shown where it lies over the other one, in percent from the left. */
  clip?: number;
  /** What is laid over the picture. */
  children?: ReactNode;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const film = bench.run.clip!;
  const scale = (film.play_width ?? 1) / (film.width ?? 1);
  const cut = part ? { x: part.x * scale, y: part.y * scale, w: part.w * scale, h: part.h * scale } : undefined;
  const problem = useShown(bench, frame, canvas, cut);
  const [width, height] = part ? [960, 720] : [film.play_width ?? 960, film.play_height ?? 540];
  return (
    <figure
      className={`relative min-w-0 ${clip === undefined ? "" : "absolute inset-0"}`}
      style={clip === undefined ? undefined : { clipPath: `inset(0 0 0 ${clip}%)` }}
    >
      <canvas
        key={`${width}x${height}`}
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={`${name}: frame ${frame}`}
        data-testid={`half-${name}`}
        className={`w-full rounded bg-picture-dark ${mirror ? "-scale-x-100" : ""}`}
      />
      {children}
      <figcaption
        className={`absolute bottom-1.5 rounded bg-sheet/90 px-2 py-0.5 text-sm ${clip === undefined ? "left-1.5" : "right-1.5"}`}
      >
        <b className="font-semibold">{name}</b> {words}
        {mirror && " · mirrored"}
      </figcaption>
      {problem && (
        <p role="alert" className="absolute inset-x-2 top-2 rounded bg-sheet px-2 py-1 text-bad">
          {problem}
        </p>
      )}
    </figure>
  );
}
