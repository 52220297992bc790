import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { keptReckonings, riders } from "../api/queries";
import { day } from "../ui/days";
import { Button, Select } from "../ui/parts";
import type { Calculator, Said } from "./types";

interface Props {
  calc: Calculator;
  run: number | undefined;
  said: Said;
  unknown: string;
  ready: boolean;
  onOpen: (said: Said, unknown: string) => void;
}

/** Keep this answer with the open run or with a rider, and what was kept before. */
export function Kept({ calc, run, said, unknown, ready, onOpen }: Props) {
  const client = useQueryClient();
  const [rider, setRider] = useState<number | null>(null);
  const people = useQuery({ ...riders, enabled: run === undefined });
  const kept = useQuery({
    ...keptReckonings(run !== undefined ? { run } : { rider: rider ?? 0 }),
    enabled: run !== undefined || rider !== null,
  });
  const again = () => client.invalidateQueries({ queryKey: ["reckonings"] });
  const keep = useMutation({
    mutationFn: (what: { name: string; said: Said; unknown: string }) =>
      need(api.POST("/api/reckonings", { body: { ...what, ...(run !== undefined ? { run } : { rider }) } })),
    onSuccess: again,
  });
  const drop = useMutation({
    mutationFn: async (row: Schemas["KeptReckoning"]) => {
      await need(api.DELETE("/api/reckonings/{id}", { params: { path: { id: row.id } } }));
      return row;
    },
    onSuccess: again,
  });
  const rows = kept.data?.results ?? [];
  const error = keep.error ?? drop.error ?? kept.error ?? people.error;
  return (
    <section aria-label="Kept" className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
      <div className="flex flex-wrap items-center gap-2">
        {run === undefined && (
          <Select
            aria-label="Rider to keep it with"
            className="max-w-52"
            value={rider ?? ""}
            onChange={(e) => setRider(e.target.value ? Number(e.target.value) : null)}
          >
            <option value="">Choose a rider</option>
            {people.data?.results.map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </Select>
        )}
        <Button
          disabled={!ready || keep.isPending || (run === undefined && rider === null)}
          onClick={() => keep.mutate({ name: calc.id, said, unknown })}
        >
          {run !== undefined ? "Keep with this run" : "Keep with this rider"}
        </Button>
        {drop.data && (
          <Button
            tone="quiet"
            onClick={() => {
              const { name, said: was, unknown: of } = drop.data;
              drop.reset();
              keep.mutate({ name, said: was, unknown: of ?? "" });
            }}
          >
            Undo
          </Button>
        )}
      </div>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      {rows.length > 0 && (
        <ul className="grid max-h-72 divide-y divide-line overflow-y-auto">
          {rows.map((r) => (
            <li key={r.id} className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-2 py-1.5">
              <div>
                <b className="font-semibold">{r.title}</b>{" "}
                <span className="text-soft">· {day(r.kept.slice(0, 10))}</span>
                <p className="text-sm">{r.reckoning.says}</p>
              </div>
              <span className="flex">
                {r.name === calc.id && (
                  <Button tone="quiet" onClick={() => onOpen(r.said, r.unknown ?? "")}>
                    Open
                  </Button>
                )}
                <Button tone="quiet" disabled={drop.isPending} onClick={() => drop.mutate(r)}>
                  Let go
                </Button>
              </span>
            </li>
          ))}
        </ul>
      )}
      {kept.data && rows.length === 0 && <p className="text-sm text-soft">Nothing is kept here yet.</p>}
    </section>
  );
}
