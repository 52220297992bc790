import { useState } from "react";

import type { Schemas } from "../api/client";
import { Button } from "./parts";

/** The drawn rider with a fault, left, beside the rider without; it moves when it is asked to. */
export function RightAndWrong({
  discipline,
  fault,
  figure: { shows, in_motion },
}: {
  discipline: string;
  fault: string;
  figure: Schemas["Figure"];
}) {
  // What only shows in motion moves at once, unless the reader wants nothing to move.
  const [moving, setMoving] = useState(in_motion && !matchMedia("(prefers-reduced-motion: reduce)").matches);
  return (
    <figure className="grid gap-1">
      <img
        src={`/api/figures/${discipline}/${fault}${moving ? "?moving=true" : ""}`}
        alt={`Drawn rider with this fault, left, and without it, right. Look at: ${shows}.`}
        width={648}
        height={320}
        loading="lazy"
        className="h-auto w-full rounded border border-line"
      />
      <figcaption className="flex flex-wrap items-center justify-between gap-2 text-sm text-soft">
        <span>
          With it, left; without it, right. Look at: {shows.charAt(0).toLowerCase() + shows.slice(1)}
          {in_motion && " (it shows in motion only)"}. A drawing of a made-up rider, exaggerated.
        </span>
        <Button tone="quiet" aria-pressed={moving} className="text-sm" onClick={() => setMoving(!moving)}>
          {moving ? "Hold still" : "Move, slowly"}
        </Button>
      </figcaption>
    </figure>
  );
}
