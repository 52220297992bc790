import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";

import type { Schemas } from "../api/client";
import { bench, calculators, fromRun, reckoned } from "../api/queries";
import { OfRun } from "../ui/OfRun";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { Answer } from "./Answer";
import { Fields } from "./Fields";
import { Kept } from "./Kept";
import type { Calculator, Said } from "./types";

/** The arithmetic of the trade: a calculator at a time, asked in any direction. */
export function ReckonerPage() {
  const { calc, run } = useSearch({ from: "/inside/reckoner" });
  const list = useQuery(calculators);
  const of = useQuery({ ...bench(run ?? 0), enabled: run !== undefined });
  const error = list.error ?? of.error;
  if (error) return <Trouble error={error} again={() => void (list.error ? list.refetch() : of.refetch())} />;
  if (!list.data || (run !== undefined && of.isPending)) return <Waiting what="Opening the Reckoner" />;
  const discipline = of.data?.run.discipline;
  const chosen =
    list.data.find((c) => c.id === calc) ??
    list.data.find((c) => discipline && c.disciplines.includes(discipline)) ??
    list.data[0]!;
  return (
    <div className="mx-auto grid max-w-[90rem] gap-3 p-3">
      {run !== undefined ? (
        <OfRun
          run={run}
          title={
            <>
              Reckoner <span className="text-soft">· {of.data?.run.rider.name}</span>
            </>
          }
        />
      ) : (
        <h1 className="px-1 text-xl">Reckoner</h1>
      )}
      <div className="grid gap-4 md:grid-cols-[11rem_minmax(0,1fr)]">
        <Choose list={list.data} chosen={chosen} run={run} />
        {/* Another calculator, or another run, begins with its own fields. */}
        <One key={`${chosen.id} ${run}`} calc={chosen} run={run} />
      </div>
    </div>
  );
}

function Choose({ list, chosen, run }: { list: Calculator[]; chosen: Calculator; run: number | undefined }) {
  const go = useNavigate();
  return (
    <nav aria-label="Calculators">
      <Select
        aria-label="Calculator"
        className="md:hidden"
        value={chosen.id}
        onChange={(e) => void go({ to: "/reckoner", search: { calc: e.target.value, ...(run ? { run } : {}) } })}
      >
        {list.map((c) => (
          <option key={c.id} value={c.id}>
            {c.title}
          </option>
        ))}
      </Select>
      <ul className="grid content-start max-md:hidden">
        {list.map((c) => (
          <li key={c.id}>
            <Link
              to="/reckoner"
              search={{ calc: c.id, ...(run ? { run } : {}) }}
              aria-current={c.id === chosen.id ? "page" : undefined}
              className="block rounded px-2.5 py-1.5 hover:bg-tint aria-[current=page]:bg-tint aria-[current=page]:font-semibold"
            >
              {c.title}
            </Link>
          </li>
        ))}
      </ul>
    </nav>
  );
}

function One({ calc, run }: { calc: Calculator; run: number | undefined }) {
  const [said, setSaid] = useState<Said>(run === undefined ? calc.example : {});
  const [unknown, setUnknown] = useState("");
  const offered = useQuery({ ...fromRun(calc.id, run ?? 0), enabled: run !== undefined });
  const asked = useDeferredValue(said);
  const filled = Object.fromEntries(Object.entries(asked).filter(([, text]) => text.trim()));
  const empty = Object.keys(filled).length === 0;
  const answer = useQuery({ ...reckoned(calc.id, filled, unknown), enabled: !empty });
  const type = (key: string, text: string) => {
    setSaid((old) => ({ ...old, [key]: text }));
    if (key === unknown && text) setUnknown("");
  };
  const ask = (key: string) => {
    setUnknown(key === unknown ? "" : key);
    if (key !== unknown) setSaid((old) => ({ ...old, [key]: "" }));
  };
  const take = offered.data?.offered ?? {};
  const data = empty || answer.error ? undefined : answer.data;
  // What stands there is the answer to what was typed before.
  const late = answer.isPlaceholderData || asked !== said;
  return (
    <article className="grid content-start gap-4 lg:grid-cols-[minmax(0,34rem)_minmax(0,1fr)]">
      <section className="grid content-start gap-3 rounded-lg border border-line bg-sheet p-4" aria-label={calc.title}>
        <div className="flex flex-wrap items-center gap-2">
          <h2 className="mr-auto text-lg">{calc.title}</h2>
          {run !== undefined && Object.keys(take).length > 0 && (
            <Button onClick={() => setSaid((old) => ({ ...old, ...taken(calc, take) }))}>Take from this run</Button>
          )}
          <Button
            tone="quiet"
            onClick={() => {
              setSaid(calc.example);
              setUnknown("");
            }}
          >
            Example
          </Button>
          <Button
            tone="quiet"
            onClick={() => {
              setSaid({});
              setUnknown("");
            }}
          >
            Clear
          </Button>
        </div>
        {offered.error && (
          <p role="alert" className="text-bad">
            What this run has cannot be told: {offered.error.message}
          </p>
        )}
        <p className="text-soft">{calc.doc} Leave open what you want to know.</p>
        {!empty && same(filled, calc.example) && <p className="text-sm text-soft">For one: {calc.story}</p>}
        <Fields
          calc={calc}
          said={said}
          unknown={unknown}
          rows={data?.rows ?? []}
          late={late}
          take={take}
          onType={type}
          onAsk={ask}
        />
      </section>
      <div className="grid content-start gap-3">
        {empty ? (
          <p className="rounded border border-dashed border-line p-6 text-center text-soft">
            Type what you know: a number, its unit if it has another, and ± if you know it. “{example(calc)}”, for one.
          </p>
        ) : answer.error ? (
          <p role="alert" className="rounded border border-bad bg-sheet p-4">
            {titled(answer.error.message, calc)}
          </p>
        ) : data?.lacking ? (
          <p role="status" className="rounded border border-dashed border-line p-6 text-center text-soft">
            {titled(data.lacking, calc)}
          </p>
        ) : data ? (
          <Answer
            answer={data}
            late={late}
            onDrag={(key, text, unit) => type(key, dragged(said[key] ?? "", text, unit))}
          />
        ) : (
          <Waiting what="Reckoning" />
        )}
        <Kept
          calc={calc}
          run={run}
          said={filled}
          unknown={unknown}
          ready={!!data && !data.lacking && !late}
          onOpen={(s, u) => (setSaid(s), setUnknown(u))}
        />
        <details className="rounded border border-line bg-sheet p-3">
          <summary className="min-h-7 cursor-pointer font-semibold">Formula and source</summary>
          <p className="mt-1">{calc.formula}</p>
          <p className="mt-1 text-soft">{calc.source}</p>
        </details>
      </div>
    </article>
  );
}

/** A dragged value with the unit of its axis, and the ± that it was typed with. */
function dragged(was: string, value: string, unit: string): string {
  const pm = /±.*$/.exec(was)?.[0];
  return pm ? `${value}${unit && ` ${unit}`} ${pm}` : value;
}

const example = (calc: Calculator) => Object.values(calc.example)[0] ?? "";

/** What a run fills in by itself: of what may be asked for one quantity only, nothing twice, and nothing on an unsure clock. */
function taken(calc: Calculator, take: Record<string, Schemas["FromRunRow"][]>): Said {
  const out: Said = {};
  let answers = 0;
  for (const field of calc.fields) {
    const text = take[field.key]?.[0]?.text;
    if (
      text === undefined ||
      !take[field.key]![0]!.sure ||
      (field.answer && answers++ > 0) ||
      Object.values(out).some((t) => t === text && t.includes("±"))
    )
      continue;
    out[field.key] = text;
  }
  return out;
}

/** A sentence with the names of fields in place of their keys. */
const titled = (text: string, calc: Calculator) =>
  calc.fields
    .filter((f) => f.key.includes("_"))
    .reduce((t, f) => t.replaceAll(new RegExp(`\\b${f.key}\\b`, "g"), `“${f.title}”`), text);

const same = (a: Said, b: Said) =>
  JSON.stringify(Object.entries(a).sort()) === JSON.stringify(Object.entries(b).sort());
