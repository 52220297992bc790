import { useCallback, useEffect, useRef, useState } from "react";

import type { Played } from "./time";
import { useVoice } from "./useVoice";

/** Where a Telling stands, and playing it with its voice. With `hold`, it stands at that moment until it is let go. */
export function useTold(run: number, played: Played, hold: number | null) {
  const [t, setT] = useState(0);
  const [playing, setPlaying] = useState(false);
  const { start, stop, problem } = useVoice(run, played.heard);
  const now = useRef(0);
  useEffect(() => {
    now.current = t;
  }, [t]);
  const go = useCallback(
    (to: number) => {
      setT(Math.max(0, Math.min(played.length_s, to)));
    },
    [played.length_s],
  );
  useEffect(() => {
    if (!playing) return;
    let handle = 0;
    let over = false;
    const end = hold ?? played.length_s;
    const from = now.current >= end - 0.02 && hold === null ? 0 : now.current;
    void start(from).then((clock) => {
      if (over) return;
      handle = requestAnimationFrame(function tick() {
        const at = clock();
        if (at >= end) {
          setT(hold === null ? end : end - 0.01);
          if (hold === null) setPlaying(false);
          return;
        }
        setT(at);
        handle = requestAnimationFrame(tick);
      });
    });
    return () => {
      over = true;
      cancelAnimationFrame(handle);
      stop();
    };
  }, [playing, played.length_s, hold, start, stop]);
  return { t, go, playing, setPlaying, problem };
}
export type ToldPlayer = ReturnType<typeof useTold>;
