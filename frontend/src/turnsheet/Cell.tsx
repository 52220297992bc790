import { Link } from "@tanstack/react-router";
import { Loader } from "lucide-react";

import type { Schemas } from "../api/client";
import { NumberIn } from "./NumberIn";

/** The rider in one phase of one unit, with the line that was read and its number; it leads to the frame. */
export function Cell({
  run,
  cell,
  picture,
  name,
  place,
  large,
}: {
  run: number;
  cell: Schemas["SheetCell"];
  picture: Schemas["CellPicture"];
  name: string;
  place: string;
  large: boolean;
}) {
  const line = picture.line.map(([x, y]) => `${100 * x!},${100 * y!}`).join(" ");
  return (
    <Link
      to="/runs/$run"
      params={{ run }}
      search={{ at: cell.t }}
      data-place={place}
      aria-label={`${name}: ${cell.read?.says ?? "no number"}, frame ${cell.frame}`}
      className={`grid ${large ? "w-72" : "w-44"} gap-0.5 rounded border-2 p-0.5 hover:bg-tint ${cell.read?.stands_out ? "border-deep" : "border-transparent"}`}
    >
      <span className="relative block aspect-square overflow-hidden rounded bg-tint">
        {picture.url ? (
          <>
            <img src={picture.url} alt="" loading="lazy" className="absolute inset-0 size-full object-cover" />
            {picture.line.length > 1 && (
              <svg aria-hidden viewBox="0 0 100 100" preserveAspectRatio="none" className="absolute inset-0 size-full">
                <polyline
                  points={line}
                  fill="none"
                  stroke="var(--picture-dark)"
                  strokeWidth="3.4"
                  strokeLinecap="round"
                  strokeLinejoin="round"
                />
                <polyline
                  points={line}
                  fill="none"
                  stroke="var(--picture-mark)"
                  strokeWidth="1.6"
                  strokeLinecap="round"
                  strokeLinejoin="round"
                />
              </svg>
            )}
          </>
        ) : (
          <span className="grid size-full place-items-center p-2 text-center text-sm text-soft">
            {picture.problem || <Loader aria-hidden className="size-4 animate-spin" />}
          </span>
        )}
      </span>
      <NumberIn read={cell.read} />
    </Link>
  );
}
