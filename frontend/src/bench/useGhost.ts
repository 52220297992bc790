import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import type { Bench } from "../api/client";
import { ghost } from "../api/queries";

/** The rider with the main thing mended, asked for by a key in a unit and shown in its frame. */
export function useGhost(bench: Bench, unit: number | undefined, go: (frame: number) => void) {
  const [asked, setAsked] = useState<number | null>(null);
  const found = useQuery({ ...ghost(bench.run.id, bench.version, asked ?? 0), enabled: asked !== null });
  const shown = asked !== null && asked === unit ? found.data : undefined;
  // Once it is there, the Bench goes to its frame.
  const gone = useRef<number | null>(null);
  useEffect(() => {
    if (asked === null) gone.current = null;
    else if (found.data && !found.data.lacking && found.data.row !== null && gone.current !== asked) {
      gone.current = asked;
      go(found.data.row);
    }
  }, [asked, found.data, go]);
  const toggle = () => setAsked(asked !== null && asked === unit ? null : (unit ?? null));
  const words =
    asked === null || asked !== unit
      ? ""
      : found.isFetching
        ? "Drawing the mended figure…"
        : (found.error?.message ?? (found.data?.lacking || found.data?.says) ?? "");
  return { shown: shown && !shown.lacking ? shown : undefined, words, toggle };
}
