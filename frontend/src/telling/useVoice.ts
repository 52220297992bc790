import { useCallback, useEffect, useRef, useState } from "react";

import { problemOf } from "../api/client";
import type { Played } from "./time";

/** Plays what is heard of a Telling from a moment on; the sound's own clock says how far it is. */
export function useVoice(run: number, heard: Played["heard"]) {
  const context = useRef<AudioContext | null>(null);
  const known = useRef(new Map<number, Promise<AudioBuffer>>());
  const sounding = useRef<AudioBufferSourceNode[]>([]);
  const [problem, setProblem] = useState("");
  const stop = useCallback(() => {
    for (const s of sounding.current) s.stop();
    sounding.current = [];
  }, []);
  useEffect(
    () => () => {
      stop();
      void context.current?.close();
    },
    [stop],
  );
  /** Start at `t`; resolves to a clock in seconds of the Telling. */
  const start = useCallback(
    async (t: number): Promise<() => number> => {
      stop();
      const wanted = heard.filter((h) => h.at_s + h.to_s - h.from_s > t);
      if (!wanted.length) {
        const began = performance.now();
        return () => t + (performance.now() - began) / 1000;
      }
      const audio = (context.current ??= new AudioContext());
      await audio.resume();
      const load = (id: number) => {
        let buffer = known.current.get(id);
        if (!buffer) {
          buffer = fetch(`/api/runs/${run}/telling/recordings/${id}`).then(async (r) => {
            if (!r.ok) throw await problemOf(r);
            return audio.decodeAudioData(await r.arrayBuffer());
          });
          known.current.set(id, buffer);
          buffer.catch(() => known.current.delete(id));
        }
        return buffer;
      };
      const ready = await Promise.allSettled(wanted.map((h) => load(h.recording)));
      setProblem(
        ready.some((r) => r.status === "rejected") ? "A recording cannot be played; record its passage anew." : "",
      );
      const began = audio.currentTime + 0.03;
      wanted.forEach((h, k) => {
        const got = ready[k]!;
        if (got.status !== "fulfilled") return;
        const source = audio.createBufferSource();
        source.buffer = got.value;
        source.connect(audio.destination);
        const late = Math.max(0, t - h.at_s);
        source.start(began + Math.max(0, h.at_s - t), h.from_s + late, h.to_s - h.from_s - late);
        sounding.current.push(source);
      });
      return () => t + Math.max(0, audio.currentTime - began);
    },
    [heard, run, stop],
  );
  return { start, stop, problem };
}
