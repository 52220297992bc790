import type { ReactNode } from "react";

/** A part of the Book under its heading. */
export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-base text-soft">{title}</h2>
      {children}
    </section>
  );
}
