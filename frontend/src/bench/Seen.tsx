import { useQuery } from "@tanstack/react-query";

import type { Bench } from "../api/client";
import { eyeHints } from "../api/queries";
import { saidOf, whereOf, type Noted } from "../ui/notes";
import { Button } from "../ui/parts";

/** The coach's own eye on this run: every note, the way to its frame, and its taking back. */
export function Seen({
  bench,
  onOpen,
  onGo,
  onBack,
}: {
  bench: Bench;
  onOpen: () => void;
  onGo: (note: Noted) => void;
  onBack: (note: Noted) => void;
}) {
  const hints = useQuery({ ...eyeHints(bench.run.discipline ?? ""), enabled: bench.seen.length > 0 }).data?.hints ?? {};
  return (
    <section aria-labelledby="seen" className="border-t-2 border-line px-3 py-2">
      <div className="flex items-center justify-between gap-2">
        <h2 id="seen" className="text-base">
          Seen by you
        </h2>
        <Button className="text-sm" onClick={onOpen}>
          Note what you see (E)
        </Button>
      </div>
      {bench.seen.length === 0 ? (
        <p className="text-sm text-soft">Nothing yet. Whatever you see counts, above what is measured.</p>
      ) : (
        <ul className="mt-1 grid gap-0.5">
          {bench.seen.map((n) => (
            <li key={n.id} className="flex flex-wrap items-baseline justify-between gap-x-2">
              <span className="min-w-0">
                {saidOf(n)}{" "}
                {n.t !== null ? (
                  <button type="button" className="min-h-6 text-soft underline" onClick={() => onGo(n)}>
                    {whereOf(n, bench)}
                  </button>
                ) : (
                  <span className="text-soft">{whereOf(n, bench)}</span>
                )}
              </span>
              <Button
                tone="quiet"
                className="text-sm"
                onClick={() => onBack(n)}
                aria-label={`Take back: ${saidOf(n)}, ${whereOf(n, bench)}`}
              >
                Take back
              </Button>
              {n.fault && hints[n.fault] && <p className="basis-full text-sm text-soft">{hints[n.fault]}</p>}
            </li>
          ))}
          {hints[""] && <li className="text-sm text-soft">{hints[""]}</li>}
        </ul>
      )}
    </section>
  );
}
