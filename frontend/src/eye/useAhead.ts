import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import { eyeNext } from "../api/queries";
import type { Item } from "./types";

/** The item that is asked and those after it, their pictures fetched before they are wanted. */
export function useAhead(first: Item[], wanted: { discipline: string; exercise: string }) {
  const client = useQueryClient();
  const [queue, setQueue] = useState(first);
  const [error, setError] = useState<Error | null>(null);
  const [dry, setDry] = useState(false);
  const had = useRef(new Set(first.map((i) => i.id)));
  const fetching = useRef(false);
  useEffect(() => {
    for (const item of queue) for (const strip of item.strips) new Image().src = strip.url;
  }, [queue]);
  const fill = useCallback(async () => {
    if (fetching.current) return;
    fetching.current = true;
    try {
      const more = await client.fetchQuery({ ...eyeNext({ ...wanted, count: 2 }, [...had.current]), staleTime: 0 });
      setDry(more.items.length === 0 && !more.making);
      setError(null);
      for (const item of more.items) had.current.add(item.id);
      setQueue((old) => [...old, ...more.items]);
    } catch (e) {
      setError(e as Error);
    } finally {
      fetching.current = false;
    }
  }, [client, wanted]);
  const short = queue.length < 2 && !dry;
  useEffect(() => {
    if (!short) return;
    void fill();
    // While riders are being made, it is asked again.
    const timer = setInterval(() => void fill(), 3000);
    return () => clearInterval(timer);
  }, [short, fill]);
  return { item: queue[0], next: () => setQueue((old) => old.slice(1)), waiting: !dry, error };
}
