import { useEffect, useState } from "react";

/** Slower than life, so that something is seen. */
export const SLOWED = 2.5;

/** A frame that runs on by itself, over and over, while it is `playing`. */
export function useLoop(count: number, stepS: number, start = 0) {
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const [frame, setFrame] = useState(start);
  const [playing, setPlaying] = useState(!calm && count > 1);
  useEffect(() => {
    if (!playing || count < 2) return;
    const timer = setInterval(() => setFrame((f) => (f + 1) % count), stepS * 1000 * SLOWED);
    return () => clearInterval(timer);
  }, [playing, count, stepS]);
  const go = (to: number) => {
    setPlaying(false);
    setFrame(Math.min(Math.max(to, 0), count - 1));
  };
  // Keys may come faster than the page is drawn.
  const step = (by: number) => {
    setPlaying(false);
    setFrame((f) => Math.min(Math.max(f + by, 0), count - 1));
  };
  return { frame, playing, setPlaying, go, step };
}
