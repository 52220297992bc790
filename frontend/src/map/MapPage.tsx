import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";

import type { Bench } from "../api/client";
import { bench as benchQuery, runMap } from "../api/queries";
import { OfRun } from "../ui/OfRun";
import { Button, SideMark, Trouble, Waiting } from "../ui/parts";
import { Drawing } from "./Drawing";
import type { RunMap } from "./scale";

/** The run from where no camera was. */
export function MapPage() {
  const { run } = useParams({ from: "/inside/runs/$run/map" });
  const bench = useQuery(benchQuery(run));
  const map = useQuery({ ...runMap(run, bench.data?.version ?? ""), enabled: !!bench.data });
  const error = bench.error ?? map.error;
  if (error) return <Trouble error={error} again={() => void map.refetch()} />;
  if (!bench.data || !map.data) return <Waiting what="Drawing the map" />;
  return <Shown bench={bench.data} map={map.data.map} />;
}

function Shown({ bench, map }: { bench: Bench; map: RunMap }) {
  const go = useNavigate();
  const [chosen, setChosen] = useState<number | null>(null);
  const run = bench.run.id;
  const units = bench.units.filter((u) => map.lines.some((l) => l.unit === u.n));
  const of = (n: number) => map.marks.filter((m) => m.unit === n && m.kind !== "tick" && m.words);
  return (
    <div className="mx-auto grid max-w-[90rem] grid-cols-1 gap-3 p-3">
      <OfRun
        run={run}
        title={
          <>
            {map.title} <span className="text-soft">· {bench.run.rider.name}</span>
          </>
        }
      >
        {!map.lacking && (
          <Button className="no-print" onClick={() => print()}>
            Print
          </Button>
        )}
      </OfRun>
      {map.lacking ? (
        <p className="rounded border border-line bg-sheet p-6">{map.lacking}</p>
      ) : (
        <div className="grid gap-3 lg:grid-cols-[minmax(0,1fr)_19rem]">
          <div className="grid content-start gap-2">
            <Drawing
              map={map}
              chosen={chosen}
              onPoint={setChosen}
              onGo={(t) => void go({ to: "/runs/$run", params: { run }, search: { at: t } })}
            />
            <ul className="list-disc pl-5 text-sm text-soft">
              {map.says.map((s) => (
                <li key={s}>{s}</li>
              ))}
            </ul>
          </div>
          <ul
            aria-label={`The ${bench.unit_plural}`}
            className="grid content-start divide-y divide-line rounded border border-line bg-sheet"
          >
            {units.map((u) => (
              <li key={u.n}>
                <Link
                  to="/runs/$run"
                  params={{ run }}
                  search={{ at: u.start }}
                  className={`block px-3 py-1.5 hover:bg-tint ${chosen === u.n ? "bg-tint" : ""}`}
                  onFocus={() => setChosen(u.n)}
                  onBlur={() => setChosen(null)}
                  onPointerEnter={() => setChosen(u.n)}
                  onPointerLeave={() => setChosen(null)}
                >
                  <b className="font-semibold">
                    {bench.unit} {u.n}
                  </b>{" "}
                  {u.side && <SideMark side={u.side} />}
                  {of(u.n).map((m, k) => (
                    <span key={k} className={`block text-sm ${m.kind === "costs" ? "text-bad" : "text-soft"}`}>
                      {m.words}
                    </span>
                  ))}
                </Link>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
