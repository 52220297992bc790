import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { lazy, Suspense, useState } from "react";

import type { Schemas } from "../api/client";
import { book as bookQuery, cues } from "../api/queries";
import { day } from "../ui/days";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { GearLog } from "./GearLog";
import { Part } from "./Part";
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
          <GearLog rider={rider} runs={b.runs} />
          <Ledger discipline={b.discipline} />
        </>
      )}
    </div>
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
            {g.steps > 0 && <Done given={g} />}
            <Pictures pictures={g.pictures} />
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

/** How far the ladder was done. */
function Done({ given: g }: { given: Schemas["BookPrescribed"] }) {
  const last = g.ticked.at(-1);
  return (
    <details className="text-sm">
      <summary className="min-h-7 cursor-pointer">
        “{g.drill}”{g.begin > 0 && `, from step ${g.begin + 1}`}: {g.ticked.length} of {g.steps} steps ticked
        {last && `, last on ${new Date(last.at).toLocaleDateString()}`}
      </summary>
      <ul className="grid gap-0.5 pl-4">
        {g.ticked.map((t) => (
          <li key={t.step}>
            <span aria-hidden className="font-bold text-good">
              ✓
            </span>{" "}
            {t.step} <span className="text-soft">{new Date(t.at).toLocaleDateString()}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** The pictures that went with a Script, each one press away from its frame. */
function Pictures({ pictures }: { pictures: Schemas["BookPicture"][] }) {
  if (!pictures.length) return null;
  return (
    <div className="flex flex-wrap gap-2">
      {pictures.map((x) => {
        const image = <img src={x.url} alt={x.caption} loading="lazy" className="h-28 rounded" />;
        return (
          <figure key={x.url} className="max-w-40">
            {x.run !== null && x.t !== null ? (
              <Link to="/runs/$run" params={{ run: x.run }} search={{ at: x.t }} title="Open this frame">
                {image}
              </Link>
            ) : (
              image
            )}
            <figcaption className="text-sm text-soft">{x.caption}</figcaption>
          </figure>
        );
      })}
    </div>
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
