import { useRef } from "react";

import type { Passage } from "./time";
import type { Recorder } from "./useRecorder";
import type { ToldPlayer } from "./useTold";

/** No Telling is longer, seconds. */
export const LONGEST_S = 1800;

interface Part {
  id: string;
  from_s: number;
  to_s: number;
}

/** When a passage's last act begins. */
const lastAct = (p: Passage) => Math.max(0, ...p.acts.map((a) => a.at_s));

/**
 * Speaking over passages: over one, or over several one after the other in one breath.
 *
 * What is said of each is known by its part of one recording, from its first piece on, so that a page that is closed keeps it.
 */
export function useSpeaking({
  recorder,
  player,
  passages,
  at,
  speaking,
  onSpeaking,
  onChange,
}: {
  recorder: Recorder;
  player: ToldPlayer;
  passages: Passage[];
  /** When each passage begins. */
  at: number[];
  speaking: string | null;
  onSpeaking: (passage: string | null) => void;
  onChange: (next: (p: Passage) => Passage) => void;
}) {
  const parts = useRef<Part[]>([]);
  const number = useRef<number | null>(null);
  const heard = (p: Passage): Passage => {
    const part = parts.current.find((x) => x.id === p.id);
    const recording = number.current;
    return part && recording !== null ? { ...p, sound: { recording, from_s: part.from_s, to_s: part.to_s } } : p;
  };

  const start = async (p: Passage, k: number) => {
    player.setPlaying(false);
    player.go(at[k]!);
    number.current = null;
    parts.current = [{ id: p.id, from_s: 0, to_s: LONGEST_S }];
    const has = await recorder.start((recording) => {
      number.current = recording;
      onChange(heard);
    });
    if (!has) return;
    onSpeaking(p.id);
    player.setPlaying(true);
  };

  const stop = async () => {
    player.setPlaying(false);
    const got = await recorder.stop();
    onSpeaking(null);
    if (got.recording === null) return;
    number.current = got.recording;
    parts.current.at(-1)!.to_s = got.length_s;
    onChange((p) => {
      const part = parts.current.find((x) => x.id === p.id);
      return part ? { ...heard(p), length_s: Math.max(part.to_s - part.from_s, lastAct(p) + 0.3) } : p;
    });
  };

  /** On to the next passage while one speaks; after the last one the recording ends. */
  const next = async () => {
    const k = passages.findIndex((p) => p.id === speaking);
    const after = passages[k + 1];
    if (k < 0) return;
    if (!after) return stop();
    const now = recorder.elapsed();
    parts.current.at(-1)!.to_s = now;
    parts.current.push({ id: after.id, from_s: now, to_s: LONGEST_S });
    onChange(heard);
    onSpeaking(after.id);
    player.go(at[k + 1]!);
    player.setPlaying(true);
  };

  return {
    speak: (p: Passage, k: number) => (speaking ? stop() : start(p, k)),
    next,
  };
}
