import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { CircleCheck } from "lucide-react";
import { useRef, useState } from "react";

import { api, need, Problem, type Schemas, type Script } from "../api/client";
import { bench as benchQuery, choices, disciplines, script as scriptQuery, useBenchChange } from "../api/queries";
import { day } from "../ui/days";
import { useDraft, useLeaving } from "../ui/drafts";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { Saved, TwoTexts } from "../ui/Saving";
import { FigureOf } from "../ui/FigureOf";
import { Rivals } from "../ui/Rivals";
import { UndoRedo } from "../ui/UndoRedo";
import { Sure } from "../ui/Sure";
import { SinceLastTime } from "../book/SinceLastTime";
import { CueRecord } from "../word/CueRecord";
import { Card } from "./Card";
import { Chain } from "./Chain";
import { Found } from "./Found";
import { Lessons } from "./Lessons";
import { Message } from "./Message";
import { Offered } from "./Offered";
import { Others } from "./Others";
import { Preview } from "./Preview";
import { Ladder, Strengths } from "./Parts";
import { MayBeMinor, Sharing } from "./Sharing";

export function ScriptPage() {
  const { run } = useParams({ from: "/inside/runs/$run/script" });
  const data = useQuery(scriptQuery(run));
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Writing the Script" />;
  return <Sheet key={`${run}-${data.data.approved_at}`} run={run} script={data.data} />;
}

type Read = Schemas["ApprovalRequest"]["was"];
type Change =
  { patch: Schemas["PatchedScriptChangeRequest"] } | { approve: Read } | { do: "reopen" | "share" | "unshare" };

function useScriptChange(run: number) {
  const client = useQueryClient();
  const params = { path: { run } };
  return useMutation({
    mutationFn: (change: Change): Promise<Script> => {
      if ("patch" in change) return need(api.PATCH("/api/runs/{run}/script", { params, body: change.patch }));
      if ("approve" in change)
        return need(api.POST("/api/runs/{run}/script/approve", { params, body: { was: change.approve } }));
      switch (change.do) {
        case "reopen":
          return need(api.DELETE("/api/runs/{run}/script/approve", { params }));
        case "share":
          return need(api.POST("/api/runs/{run}/script/share", { params }));
        case "unshare":
          return need(api.DELETE("/api/runs/{run}/script/share", { params }));
      }
    },
    onSuccess: (fresh) => {
      client.setQueryData(["script", run], fresh);
      void client.invalidateQueries({ queryKey: ["runs"] });
    },
  });
}

function Sheet({ run, script }: { run: number; script: Script }) {
  const bench = useQuery(benchQuery(run)).data;
  const client = useQueryClient();
  const change = useScriptChange(run);
  const { prescription: p, approved_at } = script;
  // A cue belongs to the fault it was written for.
  const cue = useDraft(`script/${run}/cue/${p.main?.fault ?? ""}`, p.main?.cue ?? "");
  const message = useDraft(`script/${run}/message`, script.message);
  const unsaved = cue.unsaved || message.unsaved;
  useLeaving(unsaved);
  const locked = !!approved_at;
  const said = useBenchChange(run);
  const say = (edit: Schemas["EditRequest"]) => said.mutate({ edit });
  const offered = useQuery({ ...choices(run, bench?.version ?? ""), enabled: !!bench && !locked && !!p.main });
  const cues = offered.data?.faults[p.main?.fault ?? ""]?.cues ?? [];
  // One change after another: what was typed is saved before it is approved.
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const send = (what: Change) => {
    const next = line.current.catch(() => undefined).then(() => change.mutateAsync(what));
    line.current = next;
    return next;
  };
  const patch = (body: Schemas["PatchedScriptChangeRequest"]) => void send({ patch: body }).catch(() => undefined);
  /** Save what is typed, held against what it started from, or against what the coach has just seen of another's. */
  const save = async (seen: Record<string, unknown> = {}) => {
    const typed = {
      ...(message.unsaved ? { message: message.value } : {}),
      ...(p.main && cue.unsaved && cue.value.trim() ? { cue: cue.value } : {}),
    };
    if (!Object.keys(typed).length) return;
    const began = { message: message.was, cue: cue.was };
    await send({
      patch: { ...typed, was: Object.fromEntries(Object.keys(typed).map((k) => [k, seen[k] ?? began[k as "cue"]])) },
    });
    // What was typed into another field meanwhile is not saved yet.
    if (typed.message !== undefined) message.clear(typed.message);
    if (typed.cue !== undefined) cue.clear(typed.cue);
  };
  const saveTyped = (seen?: Record<string, unknown>) => void save(seen).catch(() => undefined);
  const takeTheirs = () => {
    change.reset();
    message.clear();
    cue.clear();
    void client.invalidateQueries({ queryKey: ["script", run] });
  };
  const approve = async () => {
    try {
      await save();
      // What is approved is what stands on this page, and not what somebody else has written meanwhile.
      const now = client.getQueryData<Script>(["script", run]) ?? script;
      const read = {
        cue: now.prescription.main?.cue ?? "",
        message: now.message,
        retest_on: now.retest_on,
        others: now.others,
        lessons: now.lessons.map((x) => x.fault),
      };
      await send({ approve: read });
    } catch (e) {
      // The page says what went wrong; what was typed stays where it is.
      if (!(e instanceof Problem && e.theirs && !unsaved)) return;
      change.reset();
      setUnread(Object.keys(e.theirs).map((k) => WORDS[k] ?? k));
      void client.invalidateQueries({ queryKey: ["script", run] });
    }
  };
  const [unread, setUnread] = useState<string[]>([]);
  const book = useQuery(disciplines).data?.find((d) => d.id === p.discipline);
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <header className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl">Script</h1>
        {bench && (
          <p className="text-lg">
            for <b>{bench.run.rider.name}</b>{" "}
            {bench.run.rider.number != null && <span className="text-soft">no. {bench.run.rider.number}</span>}{" "}
            <span className="text-soft">· {bench.run.title}</span>
            {bench.run.sent_in && (
              <span className="block text-sm text-soft">
                The rider sent this clip by a link: what you approve appears on their own page at once.
              </span>
            )}
          </p>
        )}
        <div className="ml-auto flex gap-2">
          <Link
            to="/runs/$run"
            params={{ run }}
            className="rounded border border-line bg-sheet px-3 py-1 font-semibold hover:bg-tint"
          >
            Bench
          </Link>
          <Preview run={run} />
          {!locked && bench && <UndoRedo {...bench} busy={said.isPending} onStep={(step) => said.mutate({ step })} />}
          {locked ? (
            <Sure
              label="Reopen"
              title="Reopen this Script?"
              about={
                script.share
                  ? "The rider’s link stops working for good, and the pictures are made again when you approve again."
                  : "It can be changed again, and is not approved any more."
              }
              disabled={change.isPending}
              onDo={() => change.mutate({ do: "reopen" })}
            />
          ) : (
            <Button tone="main" onClick={() => void approve()} disabled={change.isPending}>
              <CircleCheck aria-hidden className="size-4" /> Approve
            </Button>
          )}
        </div>
      </header>
      {!locked && <Saved unsaved={unsaved} saving={change.isPending} error={change.error} />}
      <TwoTexts
        error={change.error}
        mine={{ message: message.value, cue: cue.value }}
        onMine={saveTyped}
        onTheirs={takeTheirs}
      />
      {unread.length > 0 && !locked && (
        <p role="alert" className="flex flex-wrap items-center gap-3 rounded border border-warn bg-sheet px-3 py-2">
          Somebody else has changed the {unread.join(" and ")} meanwhile. It is shown here now and not approved yet:
          read it, then approve again.
          <Button onClick={() => setUnread([])}>I have read it</Button>
        </p>
      )}
      {said.error && (
        <p role="alert" className="rounded border border-bad bg-sheet px-3 py-2 text-bad">
          {said.error.message}
        </p>
      )}
      {change.error && !(change.error instanceof Problem && change.error.theirs) && (
        <p role="alert" className="rounded border border-bad bg-sheet px-3 py-2 text-bad">
          {change.error.message}
        </p>
      )}
      {script.trouble && (
        <p role="alert" className="rounded border border-bad bg-sheet px-3 py-2 text-bad">
          The numbers here are from before the run&rsquo;s last change, and it cannot be approved: {script.trouble} Mend
          that on the Bench first.
        </p>
      )}
      {script.stale && (
        <p role="status" className="rounded border border-warn bg-sheet px-3 py-2">
          The numbers changed after you approved this. Reopen it to bring it up to date.
        </p>
      )}
      {!script.may_share && <MayBeMinor run={run} rider={script.rider} />}
      {locked && (
        <Sharing run={run} script={script} onDo={(what) => change.mutate({ do: what })} busy={change.isPending} />
      )}
      <div className="grid gap-4 lg:grid-cols-[1fr_22rem]">
        <div className="grid content-start gap-4">
          {bench && (
            <div className="rounded-lg border border-line bg-sheet empty:hidden">
              <SinceLastTime
                run={run}
                version={bench.version}
                cue={cue.value}
                onCue={locked || !p.main ? undefined : (c) => cue.set(c)}
              />
            </div>
          )}
          <Card title="What is good">
            {p.strengths.length ? (
              <Strengths strengths={p.strengths} />
            ) : (
              <p className="text-soft">
                No strength stands out clearly in the numbers; add one of your own in the message.
              </p>
            )}
          </Card>
          {p.intention && (
            <Card title="What they were trying">
              <p>
                {p.intention.text && <b className="font-semibold">{p.intention.text}: </b>}
                {p.intention.why}
              </p>
            </Card>
          )}
          {p.gear.some((g) => g.first) && <Gear title="Gear first" gear={p.gear} />}
          <Card title="The one thing">
            {p.main ? (
              <div className="grid gap-3">
                {locked ? (
                  <p className="text-xl font-semibold">{p.main.cue}</p>
                ) : (
                  <Field label="Cue" hint="In words the rider feels. Change them as you like.">
                    {(id) => (
                      <>
                        <textarea
                          id={id}
                          className="w-full rounded border border-line bg-sheet p-2 text-lg"
                          rows={2}
                          maxLength={400}
                          value={cue.value}
                          onChange={(e) => cue.set(e.target.value)}
                          onBlur={() => saveTyped()}
                        />
                        {cues.length > 1 && (
                          <div className="flex flex-wrap gap-1">
                            {cues.map((c) => (
                              <button
                                key={c.cue}
                                type="button"
                                className="rounded border border-line px-2 py-0.5 text-left text-sm hover:bg-tint"
                                onClick={() => {
                                  cue.clear();
                                  patch({ cue: c.cue });
                                }}
                              >
                                {c.cue}
                                {c.used > 0 && <span className="text-soft"> · chosen here before</span>}
                                <CueRecord discipline={p.discipline} fault={p.main!.fault} cue={c.cue} />
                              </button>
                            ))}
                          </div>
                        )}
                      </>
                    )}
                  </Field>
                )}
                <p>{p.main.why}</p>
                {p.main.would_be && p.main.would_be.fault !== p.main.fault && (
                  <p className="text-sm text-soft">
                    You chose this. The software would have said: {p.main.would_be.why}
                  </p>
                )}
                {!locked && <Rivals main={p.main} />}
                {bench && <FigureOf discipline={bench.run.discipline!} fault={p.main.fault} />}
              </div>
            ) : (
              <p>{script.nothing_words} Say what is good, and what to try next.</p>
            )}
          </Card>
          {p.drills
            .filter((d) => d.fault === p.main?.fault)
            .map((d) => (
              <Card key={d.id} title="Drill ladder">
                <Ladder
                  drill={d}
                  ticks={script.ticks}
                  begin={script.begins[d.id]}
                  onBegin={locked ? undefined : (step) => patch({ begins: { [d.id]: step } })}
                />
                {script.stepped && <p className="mt-1 text-sm text-soft">{script.stepped}</p>}
                <a
                  href={`/api/lessons/${p.discipline}/${d.fault}`}
                  className="mt-1 inline-block min-h-7 text-sm underline"
                >
                  A sheet of this lesson for anybody (PDF)
                </a>
              </Card>
            ))}
          {p.gear.length > 0 && !p.gear.some((g) => g.first) && <Gear title="Gear" gear={p.gear} />}
          {!locked && bench?.run.clip?.playable && (
            <Card title="The Telling">
              <div className="flex flex-wrap items-center gap-3">
                <label className="flex min-h-7 items-center gap-2">
                  <input
                    type="checkbox"
                    className="size-5"
                    checked={script.with_telling}
                    onChange={(e) => patch({ with_telling: e.target.checked })}
                  />
                  goes with it as a film, first on the rider’s page
                </label>
                <Link
                  to="/runs/$run/telling"
                  params={{ run }}
                  className="rounded border border-line bg-sheet px-3 py-1 font-semibold hover:bg-tint"
                >
                  Look at it, speak over it
                </Link>
              </div>
            </Card>
          )}
          {!locked && p.main && (
            <Offered
              run={run}
              fault={p.main.fault}
              script={script}
              onOffered={(with_offered) => patch({ with_offered })}
            />
          )}
          <Others
            run={run}
            prescription={p}
            titles={script.titles}
            given={script.others}
            locked={locked}
            onGiven={(others) => patch({ others })}
            onSay={say}
          />
          <Lessons
            run={run}
            book={book}
            lessons={script.lessons}
            locked={locked}
            onLessons={(lessons) => patch({ lessons })}
          />
          <Message
            run={run}
            script={script}
            locked={locked}
            value={message.value}
            onChange={(text) => message.set(text)}
            onDone={() => saveTyped()}
          />
        </div>
        <div className="grid content-start gap-4">
          <Card title="Why">
            {p.main ? (
              <Chain prescription={p} titles={script.titles} words={script.evidence_words} />
            ) : (
              <p className="text-soft">{script.nothing_words}</p>
            )}
          </Card>
          <Card title="Target for next time">
            {script.targets.length ? (
              <ul className="grid gap-1">
                {script.targets.map((t) => (
                  <li key={t}>{t}</li>
                ))}
              </ul>
            ) : (
              <p className="text-soft">Nothing is held against a target.</p>
            )}
            <div className="mt-2">
              {locked ? (
                <p>
                  on <b>{day(script.retest_on)}</b>
                </p>
              ) : (
                <Field label="Film again on">
                  {(id) => (
                    <Input
                      id={id}
                      type="date"
                      value={script.retest_on}
                      onChange={(e) => e.target.value && patch({ retest_on: e.target.value })}
                    />
                  )}
                </Field>
              )}
            </div>
          </Card>
          <Found run={run} script={script} bench={bench} locked={locked} onSay={say} />
          <Card title="Take care">
            <ul className="grid gap-1 text-sm">
              {p.cautions.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          </Card>
        </div>
      </div>
      {locked && script.pictures.length > 0 && (
        <Card title="Pictures">
          <div className="grid grid-cols-3 gap-3">
            {script.pictures.map((x) => (
              <figure key={x.order}>
                <img src={x.url} alt={x.caption} className="w-full rounded" />
                <figcaption className="text-sm text-soft">{x.caption}</figcaption>
              </figure>
            ))}
          </div>
        </Card>
      )}
    </div>
  );
}

/** What of a Script is written, in words. */
const WORDS: Record<string, string> = {
  retest_on: "day of the next clip",
  others: "further cues",
  lessons: "lesson sheets",
};

function Gear({ title, gear }: { title: string; gear: Script["prescription"]["gear"] }) {
  return (
    <Card title={title}>
      {gear.map((g) => (
        <p key={g.text}>{g.text}</p>
      ))}
    </Card>
  );
}
