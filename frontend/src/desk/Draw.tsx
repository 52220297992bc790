import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { draws } from "../api/queries";
import { moment } from "../ui/days";
import { Dialog } from "../ui/Dialog";
import { Button, Field, Input } from "../ui/parts";

/** Who is answered, where there are fewer places than riders: drawn, kept, and shown with what the chances came from. */
export function Draw({ open, onOpen, runs }: { open: boolean; onOpen: (open: boolean) => void; runs?: number[] }) {
  return (
    <Dialog
      title={runs ? `Draw among ${runs.length} chosen runs` : "Draw who is answered"}
      about="Each rider who waits has one place, with their oldest run. Whoever missed a draw has twice the chance in the next one; whoever was drawn the last time comes in only where places are left."
      open={open}
      onOpen={onOpen}
      wide
    >
      <Inside runs={runs} />
    </Dialog>
  );
}

function Inside({ runs }: { runs?: number[] }) {
  const client = useQueryClient();
  const known = useQuery(draws);
  const [places, setPlaces] = useState("5");
  const draw = useMutation({
    mutationFn: () => need(api.POST("/api/draws", { body: { places: Number(places), ...(runs ? { runs } : {}) } })),
    onSuccess: () => client.invalidateQueries({ queryKey: draws.queryKey }),
  });
  return (
    <div className="grid gap-4">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          draw.mutate();
        }}
      >
        <Field label="Places">
          {(id) => (
            <Input
              id={id}
              type="number"
              min={1}
              max={500}
              required
              className="max-w-24"
              value={places}
              onChange={(e) => setPlaces(e.target.value)}
            />
          )}
        </Field>
        <Button type="submit" tone="main" disabled={draw.isPending}>
          Draw
        </Button>
      </form>
      {(draw.error ?? known.error) && (
        <p role="alert" className="text-bad">
          {(draw.error ?? known.error)!.message}
        </p>
      )}
      {known.data?.length === 0 && <p className="text-soft">Nobody has been drawn yet.</p>}
      {known.data?.map((d, k) => (
        <details key={d.id} open={k === 0} className="rounded border border-line p-3">
          <summary className="cursor-pointer font-semibold">
            {moment(d.made)}
            {d.by && ` by ${d.by}`}: {d.entries.filter((e) => e.drawn).length} of {d.entries.length} drawn
          </summary>
          <One draw={d} />
        </details>
      ))}
    </div>
  );
}

function One({ draw }: { draw: Schemas["Draw"] }) {
  return (
    <div className="grid gap-2 pt-2">
      <table className="w-full text-left">
        <thead>
          <tr className="border-b border-line text-sm text-soft">
            <th className="py-1 font-normal">Place</th>
            <th className="font-normal">Rider</th>
            <th className="font-normal">Chance from</th>
          </tr>
        </thead>
        <tbody>
          {draw.entries.map((e) => (
            <tr key={e.rider} className={e.drawn ? "" : "text-soft"}>
              <td className="py-1">{e.drawn ? <b>{e.drawn}</b> : "not drawn"}</td>
              <td>
                <Link to="/runs/$run" params={{ run: e.run }} className="underline decoration-line underline-offset-4">
                  {e.name || "a rider who is erased"}
                </Link>
              </td>
              <td>
                {e.last
                  ? "drawn the last time"
                  : e.missed === 0
                    ? "no draw missed"
                    : `${e.missed} ${e.missed === 1 ? "draw" : "draws"} missed`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-sm text-soft">
        Seed <code>{draw.seed}</code>: with it and this list the draw can be worked out again. Those who were not drawn
        can get a kind line and a lesson sheet by{" "}
        <Link to="/together" className="underline">
          one answer to many
        </Link>
        .
      </p>
    </div>
  );
}
