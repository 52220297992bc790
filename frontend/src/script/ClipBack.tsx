import { useEffect, useRef, useState } from "react";

import type { Schemas } from "../api/client";
import { Button } from "../ui/parts";

export type SendBack = (
  file: File,
  onShare: (share: number, waiting: boolean) => void,
  stop: AbortSignal,
) => Promise<void>;

const STATES: Record<Schemas["ClipBack"]["state"], string> = {
  arriving: "did not arrive whole yet. Choose the same file again to go on",
  waits: "has arrived and waits to be looked at",
  ready: "has arrived; your coach can see it",
  unreadable: "has arrived, but cannot be judged",
};

/** A clip of the next try, back to the coach; it goes on by itself where the connection breaks. */
export function ClipBack({ sent, coach, onClip }: { sent: Schemas["ClipBack"][]; coach: string; onClip?: SendBack }) {
  const [share, setShare] = useState<number | null>(null);
  const [waiting, setWaiting] = useState(false);
  const [problem, setProblem] = useState("");
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const send = (file: File) => {
    stop.current = new AbortController();
    setProblem("");
    setShare(0);
    onClip!(
      file,
      (now, waits) => {
        setShare(now);
        setWaiting(waits);
      },
      stop.current.signal,
    ).then(
      () => setShare(null),
      (e: Error) => {
        setShare(null);
        setProblem(e.message);
      },
    );
  };
  return (
    <section className="no-print grid gap-1.5">
      <h2 className="text-lg">A clip back to {coach || "your coach"}</h2>
      {sent.map((x) => (
        <p key={x.run} className="rounded bg-tint px-3 py-1.5">
          {x.name} {STATES[x.state]}
          {x.problem ? `: ${x.problem}` : "."}
        </p>
      ))}
      {onClip && share === null && (
        <>
          <p className="text-sm text-soft">
            Filmed as before: from the same side, the whole run, and you not too small. It is judged against this page.
          </p>
          <input
            type="file"
            aria-label="Your clip"
            accept="video/*,.mp4,.mov,.m4v,.mkv,.webm,.avi"
            className="min-h-10 w-full rounded border border-line bg-sheet p-1.5"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) send(file);
              e.target.value = "";
            }}
          />
        </>
      )}
      {share !== null && (
        <div className="flex items-center gap-3">
          <progress className="h-3 flex-1" value={share} max={1} aria-label="Sending" />
          <span className="text-sm text-soft">
            {waiting ? "waiting for the connection" : `${Math.floor(100 * share)} %`}
          </span>
          <Button onClick={() => stop.current?.abort()}>Stop</Button>
        </div>
      )}
      {problem && (
        <p role="alert" className="text-sm text-bad">
          {problem}
        </p>
      )}
    </section>
  );
}
