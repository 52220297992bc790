import { useEffect, useMemo, useRef, useState, type ReactNode } from "react";

import type { Bench } from "../api/client";
import { FrameSource } from "../video/frames";
import { paint } from "../video/paint";
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
  const [problem, setProblem] = useState("");
  const film = bench.run.clip!;
  const stretch = bench.run.filmed_fps ? bench.run.filmed_fps / (film.fps ?? 1) : 1;
  const source = useMemo(
    () =>
      new FrameSource(
        `/api/runs/${bench.run.id}/video`,
        bench.t.map((t) => t * stretch),
      ),
    // The frames' times never change once a clip is in.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [bench.run.id, stretch],
  );
  useEffect(() => () => source.close(), [source]);
  const scale = (film.play_width ?? 1) / (film.width ?? 1);
  const [x, y, w, h] = part ? [part.x * scale, part.y * scale, part.w * scale, part.h * scale] : [];
  useEffect(() => {
    let current = true;
    source
      .frame(frame)
      .then(async (picture) => {
        const box = canvas.current;
        if (!current || !box) return;
        const cut = x === undefined ? undefined : { x, y: y!, w: w!, h: h! };
        await paint(box, picture, cut, () => current);
        if (current) {
          box.dataset.frame = String(frame);
          setProblem("");
        }
      })
      .catch((e: Error) => current && setProblem(e.message));
    return () => {
      current = false;
    };
  }, [source, frame, x, y, w, h]);
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
