import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { useState } from "react";

import type { Schemas } from "../api/client";
import { disciplines, together } from "../api/queries";
import { Preview } from "../script/Preview";
import { Texts } from "../script/Texts";
import { useDraft } from "../ui/drafts";
import { Bar, Button, Field, Input, Select, Trouble, Waiting } from "../ui/parts";
import { CueRecord } from "../word/CueRecord";
import { useAnswer, type Answered, type Common } from "./useAnswer";

type Group = Schemas["Together"];

/** One answer to many: runs that wait with the same main cause, answered at once with each rider's own frames and numbers. */
export function TogetherPage() {
  const data = useQuery(together);
  const [chosen, setChosen] = useState<Group | null>(null);
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Looking who waits with the same thing" />;
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <header className="flex items-center gap-2">
        <Link to="/" aria-label="Back to the Desk" className="grid size-9 place-items-center rounded hover:bg-tint">
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <h1 className="text-2xl">One answer to many</h1>
      </header>
      {chosen ? (
        <Answer key={keyOf(chosen)} group={chosen} onBack={() => setChosen(null)} />
      ) : data.data.length === 0 ? (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">
          No two runs that wait have the same main cause at the same level. Such runs stand here together.
        </p>
      ) : (
        <ul className="grid gap-2">
          {data.data.map((g) => (
            <li
              key={keyOf(g)}
              className="flex flex-wrap items-center gap-3 rounded-lg border border-line bg-sheet px-4 py-3"
            >
              <span className="min-w-0 flex-1">
                <b>{g.title}</b>{" "}
                <span className="text-soft">
                  · {g.discipline_title}, {g.level}
                </span>
                <br />
                <span className="text-soft">
                  {g.runs.length} runs: {[...new Set(g.runs.map((r) => r.rider))].join(", ")}
                </span>
              </span>
              <Button tone="main" onClick={() => setChosen(g)}>
                Answer together
              </Button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

const keyOf = (g: Group) => `${g.discipline}/${g.fault}/${g.level}`;

function Answer({ group: g, onBack }: { group: Group; onBack: () => void }) {
  const client = useQueryClient();
  const book = useQuery(disciplines).data?.find((d) => d.id === g.discipline);
  const [left, setLeft] = useState<number[]>(g.runs.filter((r) => r.trouble).map((r) => r.run));
  const text = useDraft(`together/${keyOf(g)}`, "");
  const [cue, setCue] = useState("");
  const [again, setAgain] = useState("");
  const [lessons, setLessons] = useState<string[]>([]);
  const [telling, setTelling] = useState<"own" | "none" | number>("own");
  const answer = useAnswer();
  const runs = g.runs.filter((r) => !left.includes(r.run));
  const common: Common = { text: text.value.trim(), cue: cue.trim(), again, lessons, telling };
  const told = g.runs.filter((r) => r.told);
  const start = async (approve: boolean) => {
    const all = await answer.start(runs, g.fault, common, approve);
    if (all) text.clear();
    void client.invalidateQueries({ queryKey: ["runs"] });
    void client.invalidateQueries({ queryKey: ["script"] });
  };
  return (
    <div className="grid gap-4 lg:grid-cols-[1fr_24rem]">
      <section className="grid content-start gap-2 rounded-lg border border-line bg-sheet p-4">
        <h2 className="text-lg">
          {g.title}{" "}
          <span className="text-base text-soft">
            · {g.discipline_title}, {g.level}
          </span>
        </h2>
        <ul className="grid gap-2">
          {g.runs.map((r) => (
            <li key={r.run} className="grid gap-0.5 border-t border-line pt-2 first:border-0 first:pt-0">
              <span className="flex flex-wrap items-center gap-2">
                <label className="flex min-h-7 items-center gap-2 font-semibold">
                  <input
                    type="checkbox"
                    className="size-5"
                    disabled={!!r.trouble || answer.busy}
                    checked={!left.includes(r.run)}
                    onChange={(e) => setLeft(e.target.checked ? left.filter((x) => x !== r.run) : [...left, r.run])}
                  />
                  {r.number !== null && <span className="text-soft">{r.number}</span>} {r.rider}
                </label>
                <span className="text-soft">{r.title}</span>
                <span className="ml-auto">
                  <Preview run={r.run} />
                </span>
                <Link to="/runs/$run/script" params={{ run: r.run }} className="text-sm underline">
                  Script
                </Link>
              </span>
              {r.says.map((s) => (
                <span key={s} className="pl-7 text-sm text-soft">
                  {s}
                </span>
              ))}
              <Notes run={r} />
              <Came of={answer.came[r.run]} />
            </li>
          ))}
        </ul>
      </section>
      <section className="grid content-start gap-3 rounded-lg border border-line bg-sheet p-4">
        <Field label="To all of them" hint="After what is written already. {rider} becomes each one’s name.">
          {(id) => (
            <textarea
              id={id}
              rows={4}
              maxLength={1000}
              className="w-full rounded border border-line bg-sheet p-2"
              value={text.value}
              onChange={(e) => text.set(e.target.value)}
            />
          )}
        </Field>
        <Texts onTake={(x) => text.set(text.value ? `${text.value.trimEnd()}\n${x.text}` : x.text)} />
        <Field label="Cue" hint="Leave it empty for each Script’s own.">
          {(id) => (
            <>
              <Input id={id} maxLength={400} value={cue} onChange={(e) => setCue(e.target.value)} />
              <span className="grid gap-1">
                {g.cues.map((c) => (
                  <button
                    key={c}
                    type="button"
                    className="rounded border border-line px-2 py-0.5 text-left text-sm hover:bg-tint"
                    onClick={() => setCue(c)}
                  >
                    {c}
                    <CueRecord discipline={g.discipline} fault={g.fault} cue={c} />
                  </button>
                ))}
              </span>
            </>
          )}
        </Field>
        <Field label="Lesson sheet with it">
          {(id) => (
            <Select
              id={id}
              value={lessons[0] ?? ""}
              onChange={(e) => setLessons(e.target.value ? [e.target.value] : [])}
            >
              <option value="">None</option>
              {Object.entries(book?.faults ?? {})
                .sort(([a], [b]) => Number(b === g.fault) - Number(a === g.fault))
                .map(([id, f]) => (
                  <option key={id} value={id}>
                    {f.title}
                  </option>
                ))}
            </Select>
          )}
        </Field>
        <Field label="Telling">
          {(id) => (
            <Select
              id={id}
              value={telling}
              onChange={(e) => {
                const v = e.target.value;
                setTelling(v === "own" || v === "none" ? v : Number(v));
              }}
            >
              <option value="own">Each run’s own, as it stands</option>
              {told.map((r) => (
                <option key={r.run} value={r.run}>
                  What was told to all on {r.rider}’s run, with each one’s own frames
                </option>
              ))}
              <option value="none">None</option>
            </Select>
          )}
        </Field>
        {told.length === 0 && (
          <p className="text-sm text-soft">
            Speak over one of these runs first, and what you say there about the drill goes to all of them.
          </p>
        )}
        <Field label="Film again on" hint="Leave it empty for each Script’s own day.">
          {(id) => <Input id={id} type="date" value={again} onChange={(e) => setAgain(e.target.value)} />}
        </Field>
        {answer.busy ? (
          <div className="flex items-center gap-3">
            <span className="flex-1">
              <Bar share={answer.done / Math.max(1, answer.of)} label={`${answer.done} of ${answer.of}`} />
            </span>
            <Button onClick={answer.stop}>Stop after this one</Button>
          </div>
        ) : (
          <div className="flex flex-wrap justify-end gap-2">
            <Button onClick={onBack}>Back</Button>
            <Button disabled={!runs.length} onClick={() => void start(false)}>
              Put into {runs.length === 1 ? "the Script" : `${runs.length} Scripts`}
            </Button>
            <Button tone="main" disabled={!runs.length} onClick={() => void start(true)}>
              Approve {runs.length === 1 ? "it" : `all ${runs.length}`}
            </Button>
          </div>
        )}
      </section>
    </div>
  );
}

function Notes({ run: r }: { run: Schemas["TogetherRun"] }) {
  const said = [
    r.trouble && `Cannot be approved: ${r.trouble}`,
    !r.may_share && "May be a minor: a guardian’s consent is needed before the link is made.",
    r.message && "A message is written already; it stays.",
    r.verdict !== "clear" && `The verdict is ${r.verdict}: look at the Script first.`,
  ].filter(Boolean);
  return said.length > 0 ? <span className="pl-7 text-sm text-warn">{said.join(" ")}</span> : null;
}

function Came({ of }: { of: Answered | undefined }) {
  if (!of) return null;
  if (of.problem)
    return (
      <span role="alert" className="pl-7 text-sm text-bad">
        {of.problem}
      </span>
    );
  return (
    <span role="status" className="pl-7 text-sm text-good">
      {!of.approved ? (
        "Written into the Script."
      ) : of.path ? (
        <>
          Approved. The rider reads it at{" "}
          <a href={of.path} className="underline">
            {location.origin}
            {of.path}
          </a>
        </>
      ) : (
        "Approved. No link was made yet."
      )}
    </span>
  );
}
