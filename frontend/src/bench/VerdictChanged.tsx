import { X } from "lucide-react";
import { useState } from "react";

import type { Bench } from "../api/client";

/** What the last change did to the verdict, until the coach has read it. */
export function VerdictChanged({ bench }: { bench: Bench }) {
  const place = `read/${bench.run.id}`;
  const [read, setRead] = useState(() => localStorage.getItem(place));
  const change = bench.verdict_change;
  if (!change || read === bench.version) return null;
  const lists = [
    ["New", change.new],
    ["Gone", change.gone],
    ["Surer", change.surer],
    ["Less sure", change.less_sure],
  ] as const;
  return (
    <section
      role="status"
      aria-label="What the last change did"
      className="flex items-start gap-2 border-b border-line bg-tint px-3 py-2 text-sm"
    >
      <div className="grid flex-1 gap-0.5">
        <p>
          <b className="font-semibold">After the last change:</b>{" "}
          {change.main_changed
            ? change.main_now
              ? `the main thing is now “${change.main_now}”${change.main_before ? `, before it was “${change.main_before}”` : ""}.`
              : `nothing is the main thing any more; before it was “${change.main_before}”.`
            : change.main_now
              ? `the main thing stays “${change.main_now}”.`
              : "there is still no main thing."}
        </p>
        {lists.map(
          ([word, titles]) =>
            titles.length > 0 && (
              <p key={word}>
                <b className="font-semibold">{word}:</b> {titles.join(", ")}
              </p>
            ),
        )}
      </div>
      <button
        type="button"
        aria-label="I have read this"
        className="grid size-7 place-items-center rounded hover:bg-sheet"
        onClick={() => {
          localStorage.setItem(place, bench.version);
          setRead(bench.version);
        }}
      >
        <X aria-hidden className="size-4" />
      </button>
    </section>
  );
}
