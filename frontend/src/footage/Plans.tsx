import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { footage as footageQuery } from "../api/queries";
import { VIEWS } from "../ui/views";
import type { Footage } from "./types";

/** Where to stand and how to set the camera for the measures that are wanted. */
export function Plans({ footage }: { footage: Footage }) {
  const [wanted, setWanted] = useState<string[]>([]);
  const asked = useQuery({
    ...footageQuery(footage.run.id, wanted),
    enabled: wanted.length > 0,
    placeholderData: (old) => old,
  });
  const plans = (wanted.length > 0 ? asked.data?.plans : undefined) ?? footage.plans;
  const toggle = (id: string) => setWanted(wanted.includes(id) ? wanted.filter((w) => w !== id) : [...wanted, id]);
  return (
    <section aria-labelledby="plan" className="rounded border border-line bg-sheet p-3">
      <h2 id="plan" className="text-base">
        How to film next time
      </h2>
      <details className="my-1">
        <summary className="cursor-pointer text-soft">
          {wanted.length ? `For ${wanted.length} chosen measures` : "For everything this discipline is judged by"}
        </summary>
        <div className="mt-1 flex flex-wrap gap-1">
          {footage.measures.map((m) => (
            <button
              key={m.id}
              type="button"
              aria-pressed={wanted.includes(m.id)}
              onClick={() => toggle(m.id)}
              className={`rounded border px-2 py-0.5 text-sm ${wanted.includes(m.id) ? "border-deep bg-tint font-semibold" : "border-line"}`}
            >
              {m.title}
            </button>
          ))}
        </div>
      </details>
      {asked.error && (
        <p role="alert" className="text-bad">
          {asked.error.message}
        </p>
      )}
      <ol className="grid gap-3">
        {plans.map((p, k) => (
          <li key={p.view}>
            <details open={k === 0}>
              <summary className="cursor-pointer font-semibold">
                {k + 1}. {VIEWS[p.view as keyof typeof VIEWS] ?? p.view}
              </summary>
              <ul className="mt-1 list-disc pl-5">
                {p.words.map((w) => (
                  <li key={w}>{w}</li>
                ))}
              </ul>
              <p className="mt-1 text-sm text-soft">Shows {p.shows.join(", ").toLowerCase()}.</p>
            </details>
          </li>
        ))}
      </ol>
      {plans.length === 0 && <p>No camera view shows what was chosen.</p>}
    </section>
  );
}
