import { useCallback, useEffect, useRef, useState } from "react";

import { nearest } from "./nearest";

export const SPEEDS = [1, 0.5, 0.25, 0.125];

/** Where the run stands: the current frame, stepping and jumping, and playback on the run's own clock. */
export function usePlayer(times: readonly number[], span?: [number, number]) {
  const [frame, setFrame] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(0.25);
  const [bounce, setBounce] = useState(false);
  const last = times.length - 1;
  const go = useCallback((i: number) => setFrame(Math.max(0, Math.min(last, i))), [last]);
  const step = useCallback((by: number) => setFrame((f) => Math.max(0, Math.min(last, f + by))), [last]);
  const now = useRef(frame);
  useEffect(() => {
    now.current = frame;
  }, [frame]);
  const [from, to] = bounce && span ? span : [0, times[last] ?? 0];
  useEffect(() => {
    if (!playing) return;
    let way = 1;
    let t = times[now.current] ?? 0;
    if (!bounce && now.current >= last) t = 0;
    let before = performance.now();
    let handle = requestAnimationFrame(function tick(at) {
      t += (way * speed * (at - before)) / 1000;
      before = at;
      if (t >= to) {
        if (!bounce) {
          setFrame(last);
          setPlaying(false);
          return;
        }
        way = -1;
        t = to;
      } else if (t <= from && bounce) {
        way = 1;
        t = from;
      }
      setFrame(nearest(times, t));
      handle = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(handle);
  }, [playing, speed, bounce, times, last, from, to]);
  return { frame, go, step, playing, setPlaying, speed, setSpeed, bounce, setBounce };
}
export type Player = ReturnType<typeof usePlayer>;
