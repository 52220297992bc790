import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { club as clubQuery } from "../api/queries";
import { Button, Field, Select } from "../ui/parts";

const SPANS: [number, string][] = [
  [30, "30 days"],
  [90, "90 days"],
  [180, "half a year"],
  [365, "a year"],
  [730, "two years"],
  [1825, "five years"],
];

/** How long the club keeps films. */
export function Films({ club }: { club: Schemas["Club"] }) {
  const client = useQueryClient();
  const now = club.keeps_films_days;
  const [asked, setAsked] = useState<number | null | undefined>(undefined);
  const days = asked === undefined ? now : asked;
  const going = useQuery({
    queryKey: ["films-that-go", asked],
    queryFn: () => need(api.GET("/api/club/films", { params: { query: { days: asked! } } })),
    enabled: typeof asked === "number" && asked !== now,
  });
  const keep = useMutation({
    mutationFn: (keeps_films_days: number | null) =>
      need(api.PATCH("/api/club/settings", { body: { keeps_films_days } })),
    onSuccess: (fresh) => {
      client.setQueryData(clubQuery.queryKey, fresh);
      setAsked(undefined);
    },
  });
  const known = SPANS.some(([n]) => n === days) || days === null;
  const error = keep.error ?? going.error;
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-lg">Films</h2>
      <Field
        label="Films are kept"
        hint="Then film and pictures of a run go; its numbers, what was said and what was sent stay. Session films go whole. References are kept until their own end."
      >
        {(id) => (
          <Select
            id={id}
            className="max-w-64"
            value={days ?? ""}
            onChange={(e) => setAsked(e.target.value === "" ? null : Number(e.target.value))}
          >
            <option value="">as long as their runs</option>
            {!known && <option value={days}>{days} days</option>}
            {SPANS.map(([n, words]) => (
              <option key={n} value={n}>
                {words}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {asked !== undefined && asked !== now && (
        <p className="flex flex-wrap items-center gap-3 rounded border border-warn px-3 py-2">
          <span className="mr-auto">
            {asked === null
              ? "Films stay until their run is removed."
              : going.data
                ? `The films of ${going.data.count} ${going.data.count === 1 ? "run" : "runs"} go tonight, and cannot be brought back.`
                : "Counting…"}
          </span>
          <Button onClick={() => setAsked(undefined)}>Leave it as it was</Button>
          <Button
            tone="main"
            disabled={keep.isPending || (asked !== null && !going.data)}
            onClick={() => keep.mutate(asked)}
          >
            Keep them so long
          </Button>
        </p>
      )}
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </section>
  );
}
