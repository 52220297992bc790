import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { ChevronLeft, Printer } from "lucide-react";
import { useState } from "react";

import type { Schemas } from "../api/client";
import { groups, places } from "../api/queries";
import { day } from "../ui/days";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { clock } from "../ui/Week";

type Group = Schemas["Group"];

/** Riders with the same main thing on the same step, put together on days that suit them: the day's sheet. */
export function GroupsPage() {
  const [place, setPlace] = useState("");
  const [minutes, setMinutes] = useState(45);
  const list = useQuery(groups(place ? Number(place) : null, minutes));
  const where = useQuery(places).data;
  return (
    <div className="mx-auto grid max-w-4xl gap-4 p-5">
      <header className="flex flex-wrap items-center gap-2 print:hidden">
        <Link to="/" aria-label="Back to the Desk" className="grid size-9 place-items-center rounded hover:bg-tint">
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <h1 className="mr-auto text-2xl">Practise together</h1>
        <Select aria-label="Place" className="max-w-56" value={place} onChange={(e) => setPlace(e.target.value)}>
          <option value="">Wherever</option>
          {where?.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Select>
        <Select
          aria-label="How long"
          className="max-w-36"
          value={minutes}
          onChange={(e) => setMinutes(Number(e.target.value))}
        >
          {[30, 45, 60, 90, 120].map((m) => (
            <option key={m} value={m}>
              {m} minutes
            </option>
          ))}
        </Select>
        <Button onClick={() => window.print()}>
          <Printer aria-hidden className="size-4" /> Print
        </Button>
      </header>
      {list.error ? (
        <Trouble error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Waiting what="Looking who can practise together" />
      ) : list.data.length === 0 ? (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">
          No two riders have the same main thing on the same step of a ladder. Such riders stand here together once
          their Scripts are approved.
        </p>
      ) : (
        list.data.map((g) => <Sheet key={`${g.discipline}${g.title}${g.drill}${g.stage}${g.day}${g.at}`} group={g} />)
      )}
    </div>
  );
}

function Sheet({ group: g }: { group: Group }) {
  return (
    <section className="grid gap-2 rounded-lg border border-line bg-sheet p-4 break-inside-avoid">
      <h2 className="text-lg">
        {g.day === null ? "No time suits two of them" : `${day(g.day)}, ${clock(g.at!)} to ${clock(g.at! + g.minutes)}`}
      </h2>
      <p>
        <b className="font-semibold">{g.title}</b> · {g.stage}: {g.drill}
      </p>
      <p>{g.text}</p>
      <p className="text-soft">
        {g.dose}. It works when: {g.sign}
      </p>
      <table className="w-full">
        <thead>
          <tr className="border-b border-line text-left text-soft">
            <th className="py-1 pr-3 font-semibold">Who</th>
            <th className="py-1 pr-3 font-semibold">Cue</th>
            <th className="py-1 font-semibold">Gear</th>
          </tr>
        </thead>
        <tbody>
          {g.riders.map((r) => (
            <tr key={r.rider} className="border-b border-line align-top last:border-0">
              <td className="py-1 pr-3">
                <Link to="/runs/$run/script" params={{ run: r.run }} className="underline">
                  {r.name}
                </Link>
                {r.number !== null && ` · ${r.number}`}
              </td>
              <td className="py-1 pr-3">{r.cue}</td>
              <td className="py-1">{r.gear.join("; ") || "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {g.day === null && (
        <p className="text-sm text-soft">Note on the Riders page when they can, or choose another place or length.</p>
      )}
    </section>
  );
}
