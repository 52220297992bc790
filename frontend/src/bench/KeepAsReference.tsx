import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Bench, type Discipline, type Problem, type Schemas } from "../api/client";
import { references } from "../api/queries";
import { day } from "../ui/days";
import { Dialog } from "../ui/Dialog";
import { Button, Field, Input, Select } from "../ui/parts";

const inAYear = () => new Date(Date.now() + 365 * 86_400_000).toISOString().slice(0, 10);

/** Keep this run for others to be held against, with its rider's consent and an end; and let it go again. */
export function KeepAsReference({ bench, book }: { bench: Bench; book?: Discipline }) {
  const [open, setOpen] = useState(false);
  const { rider, id, discipline } = bench.run;
  const client = useQueryClient();
  const kept = useQuery({ ...references(discipline ?? ""), enabled: open });
  const [fault, setFault] = useState("");
  const [consent, setConsent] = useState("");
  const [until, setUntil] = useState(inAYear);
  const [othersToo, setOthersToo] = useState(false);
  const fresh = () => {
    void client.invalidateQueries({ queryKey: ["references"] });
    void client.invalidateQueries({ queryKey: ["against"] });
  };
  const keep = useMutation({
    mutationFn: (body: Schemas["ReferenceRequest"]) => need(api.POST("/api/references", { body })),
    onSuccess: () => {
      setConsent("");
      fresh();
    },
  });
  const letGo = useMutation({
    mutationFn: (pk: number) => need(api.DELETE("/api/references/{id}", { params: { path: { id: pk } } })),
    onSuccess: fresh,
  });
  const errors = (keep.error as Problem | null)?.fields ?? {};
  return (
    <>
      <Button tone="quiet" className="text-sm" onClick={() => setOpen(true)}>
        Keep as reference…
      </Button>
      <Dialog title={`${rider.name}'s run as a reference`} open={open} onOpen={setOpen}>
        <form
          className="grid gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate({ run: id, fault, consent, until, others_too: othersToo });
          }}
        >
          <p className="text-sm text-soft">
            Coaches of your club can then hold other riders&rsquo; runs against this one. Other riders see it only where
            whoever agrees also agrees to that.
          </p>
          <Field label="It shows well" error={errors.fault}>
            {(field) => (
              <Select id={field} value={fault} onChange={(e) => setFault(e.target.value)}>
                <option value="">the whole of it</option>
                {Object.entries(book?.faults ?? {}).map(([key, f]) => (
                  <option key={key} value={key}>
                    the opposite of: {f.title}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          <Field
            label="Who agreed to it"
            error={errors.consent}
            hint="The rider; for a minor, a guardian. Say how: in writing, by word on which day."
          >
            {(field) => (
              <Input id={field} maxLength={200} value={consent} onChange={(e) => setConsent(e.target.value)} />
            )}
          </Field>
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={othersToo} onChange={(e) => setOthersToo(e.target.checked)} />
            They also agree that other riders are shown it
          </label>
          <Field label="Until" error={errors.until} hint="After this day it is not offered any more.">
            {(field) => <Input id={field} type="date" value={until} onChange={(e) => setUntil(e.target.value)} />}
          </Field>
          {keep.error && !Object.keys(errors).length && (
            <p role="alert" className="text-bad">
              {keep.error.message}
            </p>
          )}
          <Button type="submit" tone="main" className="w-fit" disabled={keep.isPending}>
            Keep it
          </Button>
        </form>
        {!!kept.data?.results.length && (
          <section className="mt-4 border-t border-line pt-3">
            <h3 className="mb-1 font-semibold">Kept by the club</h3>
            <ul className="grid gap-1">
              {kept.data.results.map((r) => (
                <li key={r.id} className="flex items-center justify-between gap-2 text-sm">
                  <span>
                    <b className="font-semibold">{r.rider}</b>
                    {r.fault && `: ${book?.faults[r.fault]?.title ?? r.fault}`}
                    <span className={`block ${r.ended ? "text-bad" : "text-soft"}`}>
                      {r.ended ? "ended on" : "until"} {day(r.until)} · {r.consent}
                    </span>
                  </span>
                  <Button tone="quiet" disabled={letGo.isPending} onClick={() => letGo.mutate(r.id)}>
                    Let go
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        )}
        {letGo.error && (
          <p role="alert" className="text-bad">
            {letGo.error.message}
          </p>
        )}
      </Dialog>
    </>
  );
}
