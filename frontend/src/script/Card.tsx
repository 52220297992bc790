import type { ReactNode } from "react";

/** A part of the Script under its heading. */
export function Card({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="rounded-lg border border-line bg-sheet p-4">
      <h2 className="mb-2 text-base text-soft">{title}</h2>
      {children}
    </section>
  );
}
