import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { places } from "../api/queries";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";
import { noWeek, WeekField, type Week } from "../ui/Week";

type Place = Schemas["Place"];

/** Where the club practises, and when it is open: ladders become sessions by it. */
export function Places({ may }: { may: boolean }) {
  const list = useQuery(places);
  const [editing, setEditing] = useState<Place | "new" | null>(null);
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-lg">Places</h2>
      {list.error ? (
        <Trouble error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Waiting what="Looking" />
      ) : (
        <>
          {list.data.length === 0 && (
            <p className="text-soft">
              Where you practise, and when it is open. A rider’s sessions are then planned by it.
            </p>
          )}
          <ul className="grid gap-2">
            {list.data.map((p) => (
              <li key={p.id} className="flex flex-wrap items-center gap-2">
                <b className="mr-auto font-semibold">{p.name}</b>
                <span className="text-sm text-soft">open on {p.week.filter((d) => d.length).length} days a week</span>
                {may && (
                  <Button aria-label={`Change ${p.name}`} onClick={() => setEditing(p)}>
                    Change
                  </Button>
                )}
              </li>
            ))}
          </ul>
          {may && editing === null && (
            <Button className="w-fit" onClick={() => setEditing("new")}>
              New place
            </Button>
          )}
          {editing !== null && (
            <Edit
              key={editing === "new" ? 0 : editing.id}
              place={editing === "new" ? null : editing}
              onDone={() => setEditing(null)}
            />
          )}
        </>
      )}
    </section>
  );
}

function Edit({ place, onDone }: { place: Place | null; onDone: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState(place?.name ?? "");
  const [week, setWeek] = useState<Week>(place?.week ?? noWeek());
  const done = async () => {
    await client.invalidateQueries({ queryKey: places.queryKey });
    void client.invalidateQueries({ queryKey: ["riders"] });
    onDone();
  };
  const save = useMutation({
    mutationFn: () =>
      place
        ? need(api.PATCH("/api/places/{id}", { params: { path: { id: place.id } }, body: { name, week } }))
        : need(api.POST("/api/places", { body: { name, week } })),
    onSuccess: done,
  });
  const gone = useMutation({
    mutationFn: () => need(api.DELETE("/api/places/{id}", { params: { path: { id: place!.id } } })),
    onSuccess: done,
  });
  const error = save.error ?? gone.error;
  return (
    <form
      className="grid gap-3 rounded border border-line bg-tint p-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field label="Name of the place">
        {(id) => <Input id={id} required maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />}
      </Field>
      <WeekField label="Open" value={week} onChange={setWeek} />
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      <span className="flex flex-wrap justify-end gap-2">
        {place && (
          <Sure
            label="Take out"
            title={`Take ${place.name} out?`}
            about="Riders who practise there have no place then; their sessions are planned by their own days alone."
            tone="bad"
            disabled={gone.isPending}
            onDo={() => gone.mutate()}
          />
        )}
        <Button type="button" tone="quiet" onClick={onDone}>
          Leave it
        </Button>
        <Button type="submit" tone="main" disabled={save.isPending}>
          Save the place
        </Button>
      </span>
    </form>
  );
}
