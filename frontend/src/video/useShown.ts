import { useEffect, useMemo, useState, type RefObject } from "react";

import type { Bench } from "../api/client";
import { FrameSource } from "./frames";
import { paint, type Part } from "./paint";

/**
 * Show exactly one frame of a run's clip, or a part of it, on a canvas; its number stands there as soon as it is shown.
 * What went wrong comes back, empty where nothing did. `part` is in pixels of the copy that is played.
 */
export function useShown(
  bench: Bench,
  frame: number,
  canvas: RefObject<HTMLCanvasElement | null>,
  part?: Part,
): string {
  const [problem, setProblem] = useState("");
  const clip = bench.run.clip!;
  const gone = clip.film_gone_at;
  // A slow-motion file runs on its own clock; the run's clock is the camera's.
  const stretch = bench.run.filmed_fps ? bench.run.filmed_fps / (clip.fps ?? 1) : 1;
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
  const { x, y, w, h } = part ?? {};
  useEffect(() => {
    if (gone) return;
    let current = true;
    source
      .frame(frame)
      .then(async (picture) => {
        const box = canvas.current;
        if (!current || !box) return;
        await paint(box, picture, x === undefined ? undefined : { x, y: y!, w: w!, h: h! }, () => current);
        if (!current) return;
        box.dataset.frame = String(frame);
        setProblem("");
      })
      .catch((e: Error) => current && setProblem(e.message));
    return () => {
      current = false;
    };
  }, [source, frame, canvas, x, y, w, h, gone]);
  return gone
    ? `The film was let go of on ${new Date(gone).toLocaleDateString()}. What was measured and said stays.`
    : problem;
}
