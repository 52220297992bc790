import { useRef, useState } from "react";

interface Waiting<T> {
  id: number;
  what: T;
}

/**
 * Do one thing after another, in the order they were asked for, without keeping the coach waiting.
 *
 * What could not be done is kept in `failed` with the reason, to be tried again or let go: nothing is swallowed.
 */
export function useInOrder<T>(work: (what: T) => Promise<unknown>) {
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const count = useRef(0);
  const [waiting, setWaiting] = useState<Waiting<T>[]>([]);
  const [failed, setFailed] = useState<{ what: T; error: Error }[]>([]);
  const add = (what: T) => {
    const id = ++count.current;
    setWaiting((all) => [...all, { id, what }]);
    line.current = line.current
      .then(() => work(what))
      .catch((error: Error) => setFailed((all) => [...all, { what, error }]))
      .finally(() => setWaiting((all) => all.filter((w) => w.id !== id)));
  };
  return {
    add,
    waiting: waiting.map((w) => w.what),
    failed,
    again: () => {
      setFailed([]);
      failed.forEach((f) => add(f.what));
    },
    letGo: () => setFailed([]),
  };
}
