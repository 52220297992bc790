import { useSyncExternalStore } from "react";

import { Problem, sendClip, sendTracks, type Target } from "../api/client";

/** A file on its way. It goes on whatever sheet or page is closed, until it is there, refused or cancelled. */
export interface Sending {
  to: Target;
  share: number | null;
  waiting: boolean;
  problem: string;
  /** The run that has this very clip already. */
  elsewhere: number | null;
  cancel: () => void;
}

let all: readonly Sending[] = [];
const listeners = new Set<() => void>();

function put(to: Target, more: Partial<Sending> | null) {
  const old = all.find((s) => s.to === to);
  all = [
    ...all.filter((s) => s.to !== to),
    ...(more
      ? [{ to, share: null, waiting: false, problem: "", elsewhere: null, cancel: () => undefined, ...old, ...more }]
      : []),
  ];
  listeners.forEach((f) => f());
}

/** The sending to a run or a film, or what became of the last one; undefined where there was none. */
export function useSendingTo(to: Target | null): Sending | undefined {
  return useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => all.find((s) => s.to === to),
  );
}

export const forget = (to: Target) => put(to, null);

/** Send a file and tell whether it arrived; what went wrong stays to be read. Tracks go to runs only. */
export async function sendTo(to: Target, file: File, what: "upload" | "tracks" = "upload"): Promise<boolean> {
  const stop = new AbortController();
  put(to, { share: 0, waiting: false, problem: "", elsewhere: null, cancel: () => stop.abort() });
  try {
    const onShare = (share: number) => put(to, { share });
    if (what === "tracks" && typeof to === "number") await sendTracks(to, file, onShare, stop.signal);
    else await sendClip(to, file, onShare, (waiting) => put(to, { waiting }), stop.signal);
    put(to, null);
    return true;
  } catch (e) {
    put(to, {
      share: null,
      waiting: false,
      problem: (e as Error).message,
      elsewhere: e instanceof Problem ? e.run : null,
    });
    return false;
  }
}
