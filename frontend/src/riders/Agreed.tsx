import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Rider } from "../api/client";
import { ENDS, KINDS, type Kind } from "../ui/agreeing";
import { Button, Field, Input } from "../ui/parts";

/** What a rider or a guardian agrees to, each for itself, who said so and when. */
export function Agreed({ rider }: { rider: Rider }) {
  const [asking, setAsking] = useState<{ kind: Kind; given: boolean } | null>(null);
  return (
    <section className="mt-5 grid gap-3 border-t border-line pt-4">
      <h3 className="font-semibold">What {rider.name} agrees to</h3>
      <ul className="grid gap-3">
        {KINDS.map(([kind, words, unsaid]) => {
          const said = rider.consents.filter((c) => c.kind === kind).at(-1);
          const state = (rider.agreed as Partial<Record<Kind, boolean>>)[kind];
          return (
            <li key={kind} className="grid gap-1">
              <span className="flex flex-wrap items-center gap-2">
                <span className="mr-auto">{words}</span>
                <b className="font-semibold">{state === undefined ? "not said" : state ? "yes" : "no"}</b>
                {state !== true && (
                  <Button aria-label={`Yes: ${words}`} onClick={() => setAsking({ kind, given: true })}>
                    Yes
                  </Button>
                )}
                {state !== false && (
                  <Button aria-label={`No: ${words}`} onClick={() => setAsking({ kind, given: false })}>
                    No
                  </Button>
                )}
              </span>
              <span className="text-sm text-soft">
                {!said
                  ? unsaid
                  : `${said.person || "somebody"} said ${said.given ? "yes" : "no"}, noted by ${said.by}, ${new Date(said.at).toLocaleString()}`}
              </span>
              {asking?.kind === kind && (
                <Say rider={rider} {...asking} onDone={() => setAsking(null)} key={String(asking.given)} />
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Say({ rider, kind, given, onDone }: { rider: Rider; kind: Kind; given: boolean; onDone: () => void }) {
  const client = useQueryClient();
  const [person, setPerson] = useState("");
  const keep = useMutation({
    mutationFn: () =>
      need(api.POST("/api/riders/{id}/agreed", { params: { path: { id: rider.id } }, body: { kind, given, person } })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["riders"] });
      onDone();
    },
  });
  return (
    <form
      className="grid gap-2 rounded border border-line bg-tint p-3"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <Field
        label={`Who said ${given ? "yes" : "no"}, and how`}
        hint={given ? "The rider; for a minor, a guardian. In writing, by word on which day." : ENDS[kind]}
        error={keep.error?.message}
      >
        {(id) => <Input id={id} required maxLength={120} value={person} onChange={(e) => setPerson(e.target.value)} />}
      </Field>
      <span className="flex justify-end gap-2">
        <Button type="button" tone="quiet" onClick={onDone}>
          Leave it
        </Button>
        <Button type="submit" tone="main" disabled={keep.isPending}>
          {given ? "Note yes" : "Note no"}
        </Button>
      </span>
    </form>
  );
}
