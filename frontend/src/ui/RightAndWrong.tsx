import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { disciplines } from "../api/queries";
import { Button } from "./parts";

/** The drawn rider with a fault, left, beside the rider without; it moves when it is asked to. */
export function RightAndWrong({ discipline, fault, shows }: { discipline: string; fault: string; shows: string }) {
  const [moving, setMoving] = useState(false);
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
          With it, left; without it, right. Look at: {shows.charAt(0).toLowerCase() + shows.slice(1)}. A drawing, much
          exaggerated, and nobody you know.
        </span>
        <Button tone="quiet" aria-pressed={moving} className="text-sm" onClick={() => setMoving(!moving)}>
          {moving ? "Hold still" : "Move, slowly"}
        </Button>
      </figcaption>
    </figure>
  );
}

/** The figure of a fault, where it has one. */
export function FigureOf({ discipline, fault }: { discipline: string; fault: string }) {
  const book = useQuery(disciplines).data?.find((d) => d.id === discipline);
  const shows = book?.faults[fault]?.figure;
  return shows ? <RightAndWrong {...{ discipline, fault, shows }} /> : null;
}
