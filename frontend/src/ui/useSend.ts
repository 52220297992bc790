import { useEffect, useRef, useState } from "react";

/** Sends a file; says how much of it is there, and whether it waits for the connection. */
export type Send = (file: File, onShare: (share: number, waiting: boolean) => void, stop: AbortSignal) => Promise<void>;

/** A clip on its way from a rider's phone: how far it is, what went wrong, and a way to stop it. */
export function useSend() {
  const [share, setShare] = useState<number | null>(null);
  const [waiting, setWaiting] = useState(false);
  const [problem, setProblem] = useState("");
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const send = async (how: Send, file: File) => {
    stop.current = new AbortController();
    setProblem("");
    setShare(0);
    try {
      await how(
        file,
        (now, waits) => {
          setShare(now);
          setWaiting(waits);
        },
        stop.current.signal,
      );
      return true;
    } catch (e) {
      setProblem((e as Error).message);
      return false;
    } finally {
      setShare(null);
    }
  };
  return { share, waiting, problem, send, stop: () => stop.current?.abort() };
}
export type Sending = ReturnType<typeof useSend>;
