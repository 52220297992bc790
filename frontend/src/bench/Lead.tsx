import { useQuery } from "@tanstack/react-query";

import type { Bench, Schemas } from "../api/client";
import { leading } from "../api/queries";
import { Button } from "../ui/parts";
import { joint } from "../ui/places";

export type Press = Schemas["Press"];

/** What so many presses would tell, and the way through them. */
export function Lead({ runId, bench, onLead }: { runId: number; bench: Bench; onLead: (steps: Press[]) => void }) {
  const found = useQuery(leading(runId, bench.version)).data;
  if (!found?.steps.length) return null;
  const n = found.steps.length;
  const many = `${n} ${n === 1 ? "press" : "presses"} on ${found.points}`;
  return (
    <section aria-labelledby="lead" className="grid gap-1.5 border-t-2 border-line px-3 py-2">
      <h2 id="lead" className="text-base">
        Mark to tell more
      </h2>
      <p className="text-sm">
        {found.faults.length
          ? `${many} settle ${found.faults.length === 1 ? "one fault" : `${found.faults.length} faults`}: ${found.faults.slice(0, 3).join(", ")}${found.faults.length > 3 ? " and more" : ""}.`
          : `${many}, and the run can be split into ${bench.unit_plural}.`}
        {found.done > 0 && ` ${found.done} are there already.`}
      </p>
      <Button className="w-fit" onClick={() => onLead(found.steps)}>
        Lead me through them
      </Button>
    </section>
  );
}

/** Where the hand is led: what to mark in this frame, and how many are left. */
export function Led({
  steps,
  words,
  onSkip,
  onStop,
}: {
  steps: Press[];
  words: Record<string, string>;
  onSkip: () => void;
  onStop: () => void;
}) {
  const now = steps[0]!;
  return (
    <div role="status" className="flex flex-wrap items-center gap-2 rounded border border-deep bg-tint px-3 py-1.5">
      <span>
        Press on the <b className="font-semibold">{joint(now.landmark)}</b>
        {words[now.landmark] ? `, ${words[now.landmark]}` : ""}.{" "}
        {steps.length === 1 ? "The last one." : `${steps.length} left.`}
      </span>
      <Button onClick={onSkip}>Not to be seen: skip (K)</Button>
      <Button tone="quiet" onClick={onStop}>
        Stop (Esc)
      </Button>
    </div>
  );
}
