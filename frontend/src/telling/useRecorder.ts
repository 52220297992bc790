import { useCallback, useEffect, useRef, useState } from "react";

import { Problem } from "../api/client";
import { sendSound } from "../api/client";

const KINDS = ["audio/webm;codecs=opus", "audio/ogg;codecs=opus", "audio/mp4"];
/** A piece is sent this often, and again after so long where it did not arrive, ms. */
const EVERY = 1000;
const AGAIN = 2000;

export interface Recorded {
  recording: number | null;
  length_s: number;
}

const REFUSED =
  "The microphone was refused. Allow it beside the address of this page, or go on without it: the Telling is sent with its captions, silent.";
const NONE = "No microphone was found. The Telling can be sent with its captions, silent.";

/** Records what is said, and sends it piece by piece while it is spoken: a page that is closed loses a second at the most. */
export function useRecorder(run: number) {
  const media = useRef<MediaRecorder | null>(null);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const made = useRef<{ id: number | null; size: number }>({ id: null, size: 0 });
  const began = useRef(0);
  const alive = useRef(true);
  const [recording, setRecording] = useState(false);
  const [problem, setProblem] = useState("");
  const [unsent, setUnsent] = useState(0);
  useEffect(() => {
    alive.current = true;
    return () => {
      alive.current = false;
      media.current?.stream.getTracks().forEach((x) => x.stop());
    };
  }, []);

  const send = useCallback(
    (piece: Blob, id: (n: number) => void) => {
      setUnsent((n) => n + 1);
      const mine = made.current;
      line.current = line.current.then(async () => {
        for (;;)
          try {
            const kept = await sendSound(run, mine.id, mine.size, piece);
            if (mine.id === null) id(kept.id);
            mine.id = kept.id;
            mine.size = kept.size;
            setUnsent((n) => n - 1);
            return;
          } catch (e) {
            // What the server refuses it would refuse again; what did not arrive is sent again until it does.
            if (e instanceof Problem && e.status < 500) {
              setProblem(e.message);
              setUnsent((n) => n - 1);
              return;
            }
            if (!alive.current) return;
            await new Promise((r) => setTimeout(r, AGAIN));
          }
      });
    },
    [run],
  );

  /** Begin; false where there is no microphone, and `problem` says why. `onKept` hears the recording's number once it has one. */
  const start = useCallback(
    async (onKept: (recording: number) => void): Promise<boolean> => {
      setProblem("");
      const kind =
        typeof MediaRecorder === "undefined" ? undefined : KINDS.find((k) => MediaRecorder.isTypeSupported(k));
      if (!kind) {
        setProblem("This browser cannot record. The Telling can be sent with its captions, silent.");
        return false;
      }
      let stream: MediaStream;
      try {
        stream = await navigator.mediaDevices.getUserMedia({ audio: true });
      } catch (e) {
        setProblem((e as Error).name === "NotFoundError" ? NONE : REFUSED);
        return false;
      }
      made.current = { id: null, size: 0 };
      const recorder = new MediaRecorder(stream, { mimeType: kind, audioBitsPerSecond: 64_000 });
      recorder.addEventListener("dataavailable", (e) => e.data.size && send(e.data, onKept));
      recorder.start(EVERY);
      media.current = recorder;
      began.current = performance.now();
      setRecording(true);
      return true;
    },
    [send],
  );

  /** End, and wait until all of it is kept. */
  const stop = useCallback(async (): Promise<Recorded> => {
    const recorder = media.current;
    const length_s = (performance.now() - began.current) / 1000;
    if (recorder && recorder.state !== "inactive") {
      const ended = new Promise((r) => recorder.addEventListener("stop", r, { once: true }));
      recorder.stop();
      await ended;
      recorder.stream.getTracks().forEach((x) => x.stop());
    }
    media.current = null;
    setRecording(false);
    await line.current;
    return { recording: made.current.id, length_s };
  }, []);

  /** Seconds since it began. */
  const elapsed = useCallback(() => (performance.now() - began.current) / 1000, []);

  return { start, stop, elapsed, recording, problem, unsent };
}
export type Recorder = ReturnType<typeof useRecorder>;
