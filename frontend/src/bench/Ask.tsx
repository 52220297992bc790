import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Bench, Schemas } from "../api/client";
import { questions } from "../api/queries";
import { Button } from "../ui/parts";
import { joint } from "../ui/places";

interface Props {
  runId: number;
  bench: Bench;
  asked: Schemas["Question"] | null;
  onAsk: (q: Schemas["Question"] | null) => void;
  onRight: (q: Schemas["Question"]) => void;
  busy: boolean;
}

/** The few frames where one look of the coach's would take most doubt out of the verdict. */
export function Ask({ runId, bench, asked, onAsk, onRight, busy }: Props) {
  const list = useQuery(questions(runId, bench.version));
  const [all, setAll] = useState(false);
  const shown = all ? list.data : list.data?.slice(0, 3);
  return (
    <section aria-labelledby="ask" className="border-t-2 border-line px-3 py-2">
      <h2 id="ask" className="text-base">
        Look here first
      </h2>
      {list.isPending && <p className="text-sm text-soft">Working out where a look settles most</p>}
      {list.error && (
        <p role="alert" className="text-sm text-bad">
          {list.error.message}
        </p>
      )}
      {list.data?.length === 0 && <p className="text-sm text-soft">Nothing in doubt hangs on a single frame.</p>}
      <ol className="grid gap-1.5">
        {shown?.map((q) => {
          const here = asked?.frame === q.frame && asked.landmark === q.landmark;
          return (
            <li
              key={`${q.frame}${q.landmark}`}
              className={`rounded border px-2 py-1 ${here ? "border-deep bg-tint" : "border-line"}`}
            >
              <button
                type="button"
                className="text-left font-semibold hover:underline"
                aria-pressed={here}
                onClick={() => onAsk(q)}
              >
                Frame {q.frame}: {joint(q.landmark)}
              </button>
              <p className="text-sm">{q.why}.</p>
              <p className="text-sm text-soft">It would settle {q.settles}.</p>
              {here && (
                <p className="flex items-center gap-2 py-1 text-sm">
                  <span>Drag it to its place, or</span>
                  <Button disabled={busy} onClick={() => onRight(q)}>
                    It is right as it is
                  </Button>
                </p>
              )}
            </li>
          );
        })}
      </ol>
      {(list.data?.length ?? 0) > 3 && (
        <Button tone="quiet" className="text-sm" onClick={() => setAll(!all)}>
          {all ? "Show the first three" : `Show all ${list.data!.length}`}
        </Button>
      )}
    </section>
  );
}
