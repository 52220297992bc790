import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { lazy, Suspense, useState } from "react";

import type { Schemas } from "../api/client";
import { book as bookQuery, cues } from "../api/queries";
import { day } from "../ui/days";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { Targets } from "./Targets";

// The charts are heavy; the rest of the Book is there before them.
const Plot = lazy(() => import("./Plot").then((m) => ({ default: m.Plot })));

/** A rider's runs over time: what was given and what became of it, measures, gear. */
export function BookPage() {
  const { rider } = useParams({ from: "/inside/riders/$rider/book" });
  const { discipline } = useSearch({ from: "/inside/riders/$rider/book" });
  const go = useNavigate();
  const data = useQuery(bookQuery(rider, discipline));
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Opening the Book" />;
  const b = data.data;
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <header className="flex flex-wrap items-center gap-2">
        <Link
          to="/riders"
          aria-label="Back to the riders"
          className="no-print grid size-9 place-items-center rounded hover:bg-tint"
        >
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <h1 className="mr-auto text-xl">
          The Book of <b>{b.rider}</b>
        </h1>
        {b.disciplines.length > 1 && (
          <Select
            aria-label="Discipline"
            value={b.discipline}
            onChange={(e) =>
              void go({ to: "/riders/$rider/book", params: { rider }, search: { discipline: e.target.value } })
            }
          >
            {b.disciplines.map((d) => (
              <option key={d.id} value={d.id}>
                {d.title} ({d.runs})
              </option>
            ))}
          </Select>
        )}
        {b.discipline && (
          <span className="no-print flex gap-2">
            <Button onClick={() => window.print()}>Print</Button>
            <a
              href={`/api/riders/${rider}/book/table?discipline=${b.discipline}`}
              download
              className="rounded border border-line bg-sheet px-3 py-1 font-semibold hover:bg-tint"
            >
              Numbers (CSV)
            </a>
          </span>
        )}
      </header>
      {!b.discipline ? (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">
          No run of {b.rider} is judged yet. What you give them, and what becomes of it, will stand here.
        </p>
      ) : (
        <>
          <Given rows={b.prescribed} />
          <Measures series={b.series} runs={b.runs} />
          <Gear runs={b.runs} />
          <Ledger discipline={b.discipline} />
        </>
      )}
    </div>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-base text-soft">{title}</h2>
      {children}
    </section>
  );
}

function Given({ rows }: { rows: Schemas["BookPrescribed"][] }) {
  return (
    <Part title="What was given, and what became of it">
      {rows.length === 0 && <p className="text-soft">No Script is approved yet.</p>}
      <ol className="grid gap-3">
        {rows.map((g) => (
          <li key={g.run} className="grid gap-1 border-t border-line pt-2 first:border-0 first:pt-0">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <b className="font-semibold">{day(g.on)}</b>
              <span>{g.fault}</span>
              <Link to="/runs/$run" params={{ run: g.run }} className="no-print text-sm underline">
                Bench
              </Link>
              {g.seen_in !== null && (
                <Link to="/pair" search={{ a: g.run, b: g.seen_in }} className="no-print text-sm underline">
                  Beside the next run
                </Link>
              )}
            </p>
            <p className="text-soft">“{g.cue}”</p>
            <Targets rows={g.targets} />
          </li>
        ))}
      </ol>
    </Part>
  );
}

function Measures({ series, runs }: { series: Schemas["BookSeries"][]; runs: Schemas["BookRun"][] }) {
  const [at, setAt] = useState(0);
  const chosen = series[at] ?? series[0];
  if (!chosen) return null;
  return (
    <Part title="Measures over time">
      <Select
        aria-label="Measure"
        className="no-print"
        value={series.indexOf(chosen)}
        onChange={(e) => setAt(Number(e.target.value))}
      >
        {series.map((s, k) => (
          <option key={s.title} value={k}>
            {s.title}
            {s.target ? " (a target)" : ""}
          </option>
        ))}
      </Select>
      <Suspense fallback={<Waiting what="Drawing" />}>
        <Plot series={chosen} runs={runs} />
      </Suspense>
    </Part>
  );
}

function Gear({ runs }: { runs: Schemas["BookRun"][] }) {
  const changed = runs.filter((r, k) => r.gear.length && r.gear.join() !== runs[k - 1]?.gear.join());
  return (
    <Part title="Gear and set-up, where it changed">
      {changed.length === 0 ? (
        <p className="text-soft">No gear is noted on these runs. It is noted with a run’s conditions.</p>
      ) : (
        <ul className="grid gap-0.5">
          {changed.map((r) => (
            <li key={r.run}>
              <b className="font-semibold">{day(r.on)}:</b> {r.gear.join(", ")}
            </li>
          ))}
        </ul>
      )}
    </Part>
  );
}

/** What came of each cue over the whole club. */
function Ledger({ discipline }: { discipline: string }) {
  const rows = useQuery(cues(discipline));
  if (rows.error)
    return (
      <Part title="What came of each cue, over the club">
        <p role="alert" className="text-bad">
          {rows.error.message}
        </p>
      </Part>
    );
  if (!rows.data?.length) return null;
  return (
    <Part title="What came of each cue, over the club">
      <ul className="grid gap-2">
        {rows.data.map((r) => (
          <li key={r.fault + r.level + r.cue}>
            <p>
              “{r.cue}”{" "}
              <span className="text-soft">
                for {r.title.charAt(0).toLowerCase() + r.title.slice(1)}, {r.level}
              </span>
            </p>
            <p className="text-sm text-soft">
              Given {times(r.given)}: {r.says}
              {r.worse > 0 && `, worse in ${r.worse}`}
              {r.not_yet > 0 && r.says.startsWith("moved") && `, ${r.not_yet} not filmed again yet`}.
            </p>
          </li>
        ))}
      </ul>
    </Part>
  );
}

const times = (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`);
