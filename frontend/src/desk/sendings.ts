import { useSyncExternalStore } from "react";

import { Problem, sendClip, sendTracks } from "../api/client";

/** A file on its way to a run. It goes on whatever sheet or page is closed, until it is there, refused or cancelled. */
export interface Sending {
  run: number;
  share: number | null;
  waiting: boolean;
  problem: string;
  /** The run that has this very clip already. */
  elsewhere: number | null;
  cancel: () => void;
}

let all: readonly Sending[] = [];
const listeners = new Set<() => void>();

function put(run: number, more: Partial<Sending> | null) {
  const old = all.find((s) => s.run === run);
  all = [
    ...all.filter((s) => s.run !== run),
    ...(more
      ? [{ run, share: null, waiting: false, problem: "", elsewhere: null, cancel: () => undefined, ...old, ...more }]
      : []),
  ];
  listeners.forEach((f) => f());
}

/** The sending to a run, or what became of the last one; undefined where there was none. */
export function useSendingTo(run: number | null): Sending | undefined {
  return useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => all.find((s) => s.run === run),
  );
}

export const forget = (run: number) => put(run, null);

/** Send a file to a run and tell whether it arrived; what went wrong stays to be read. */
export async function sendTo(run: number, file: File, what: "upload" | "tracks" = "upload"): Promise<boolean> {
  const stop = new AbortController();
  put(run, { share: 0, waiting: false, problem: "", elsewhere: null, cancel: () => stop.abort() });
  try {
    const onShare = (share: number) => put(run, { share });
    if (what === "upload") await sendClip(run, file, onShare, (waiting) => put(run, { waiting }), stop.signal);
    else await sendTracks(run, file, onShare, stop.signal);
    put(run, null);
    return true;
  } catch (e) {
    put(run, {
      share: null,
      waiting: false,
      problem: (e as Error).message,
      elsewhere: e instanceof Problem ? e.run : null,
    });
    return false;
  }
}
