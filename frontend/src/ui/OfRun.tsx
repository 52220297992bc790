import { Link } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import type { ReactNode } from "react";

/** The head of a page about one run: the way back to its Bench, what it is, and what can be done. */
export function OfRun({ run, title, children }: { run: number; title: ReactNode; children?: ReactNode }) {
  return (
    <header className="flex flex-wrap items-center gap-2">
      <Link
        to="/runs/$run"
        params={{ run }}
        aria-label="Back to the Bench"
        className="no-print grid size-9 place-items-center rounded hover:bg-tint"
      >
        <ChevronLeft aria-hidden className="size-5" />
      </Link>
      <h1 className="mr-auto text-xl">{title}</h1>
      {children}
    </header>
  );
}
