import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, need, type Schemas } from "../api/client";
import { useDraft } from "../ui/drafts";
import { day } from "../ui/days";
import { Input } from "../ui/parts";
import { Part } from "./Part";

/** Gear and set-up where it changed: what it was before, and whether the rider felt it. */
export function GearLog({ rider, runs }: { rider: number; runs: Schemas["BookRun"][] }) {
  const changed = runs.flatMap((r, k) => {
    const before = runs.slice(0, k).findLast((x) => x.gear.length);
    return r.gear.length && r.gear.join() !== before?.gear.join() ? [{ now: r, before }] : [];
  });
  return (
    <Part title="Gear and set-up, where it changed">
      {changed.length === 0 ? (
        <p className="text-soft">No gear is noted on these runs. It is noted with a run’s conditions.</p>
      ) : (
        <ul className="grid gap-2">
          {changed.map(({ now, before }) => (
            <li key={now.run} className="grid gap-1">
              <span>
                <b className="font-semibold">{day(now.on)}:</b> {now.gear.join(", ")}
                {before && <span className="text-soft"> (before: {before.gear.join(", ")})</span>}
              </span>
              <Felt key={`${now.run}${now.felt}`} rider={rider} run={now} />
            </li>
          ))}
        </ul>
      )}
    </Part>
  );
}

function Felt({ rider, run }: { rider: number; run: Schemas["BookRun"] }) {
  const client = useQueryClient();
  const draft = useDraft(`felt/${run.run}`, run.felt);
  const save = useMutation({
    mutationFn: (felt: string) =>
      need(
        api.PATCH("/api/runs/{id}", {
          params: { path: { id: run.run } },
          body: { gear: { ...run.set_up, felt }, was: { gear: run.set_up } },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["book", rider] });
      draft.clear();
    },
  });
  return (
    <span className="grid gap-0.5">
      <label htmlFor={`felt-${run.run}`} className="flex flex-wrap items-center gap-2 text-sm">
        <span className="text-soft">How it felt</span>
        <Input
          id={`felt-${run.run}`}
          className="max-w-md"
          maxLength={200}
          value={draft.value}
          placeholder="Not noted"
          onChange={(e) => draft.set(e.target.value)}
          onBlur={() => draft.unsaved && save.mutate(draft.value.trim())}
        />
      </label>
      {save.error && (
        <span role="alert" className="text-sm text-bad">
          {save.error.message} What you wrote is still here.
        </span>
      )}
    </span>
  );
}
