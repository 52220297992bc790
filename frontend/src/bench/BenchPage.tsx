import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { CircleHelp, Scissors, Trash2, ZoomIn } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";

import type { Bench, Schemas } from "../api/client";
import { bench as benchQuery, disciplines, notable, points, trace, useBenchChange } from "../api/queries";
import { ChangeRun } from "../desk/NewRun";
import { Explain } from "../ui/Explain";
import { Button, Select, SideMark, Trouble, Waiting } from "../ui/parts";
import { Ask } from "./Ask";
import { Against, useAgainst } from "./Against";
import { AnotherClip, Clips, nextClip, OtherView, placeIn } from "./Clips";
import { CountUnits } from "./CountUnits";
import { Corrections, Findings } from "./Findings";
import { NotePalette, type Note } from "./NotePalette";
import { nearest } from "../video/nearest";
import { frameOf, joint, middlePhase, ofLimb, phaseAt, plain, unitAt } from "../ui/places";
import { Doubt } from "./Doubt";
import { Lead, Led, type Press } from "./Lead";
import { KeepAsReference } from "./KeepAsReference";
import { FoundGear } from "./FoundGear";
import { Keys } from "./Keys";
import { keyOf, Readings } from "./Readings";
import { Ribbon } from "../ribbon/Ribbon";
import { Schools } from "./Schools";
import { Seen } from "./Seen";
import { Stage } from "../stage/Stage";
import { UndoRedo } from "../ui/UndoRedo";
import { useInOrder } from "../ui/useInOrder";
import { Steps } from "../ui/Steps";
import { SPEEDS, usePlayer } from "../video/usePlayer";
import { useGhost } from "./useGhost";
import { SinceLastTime } from "../book/SinceLastTime";
import { VerdictChanged } from "./VerdictChanged";

export function BenchPage() {
  const { run } = useParams({ from: "/inside/runs/$run" });
  const search = useSearch({ from: "/inside/runs/$run" });
  // While a marked point is carried through the clip, or a long run worked out, the Bench is asked again now and then.
  const data = useQuery({
    ...benchQuery(run),
    // So it is while it is judged by eye, until the rider has been followed.
    refetchInterval: (q) => {
      const now = q.state.data;
      if (now?.carrying.length || now?.measuring) return 1000;
      if (now?.clips.some((c) => FOLLOWING.includes(c.state))) return 4000;
      return now?.by_eye && FOLLOWING.includes(now.run.state) ? 3000 : false;
    },
  });
  const xy = useQuery({
    ...points(run, data.data?.version ?? ""),
    enabled: !!data.data,
    placeholderData: (old) => old,
  });
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (xy.error) return <Trouble error={xy.error} again={() => void xy.refetch()} />;
  if (!data.data || !xy.data) return <Waiting what="Opening the run" />;
  return <Open key={run} runId={run} bench={data.data} xy={xy.data} at={search.at} first={search.first} />;
}

function Open({
  runId,
  bench,
  xy,
  at: openAt,
  first,
}: {
  runId: number;
  bench: Bench;
  xy: Float32Array;
  at?: number;
  first?: number;
}) {
  const leave = useNavigate();
  const books = useQuery(disciplines);
  const book = books.data?.find((b) => b.id === bench.run.discipline);
  const change = useBenchChange(runId);
  const [span, setSpan] = useState<[number, number] | undefined>();
  const player = usePlayer(bench.t, span);
  const { frame, go, step } = player;
  useEffect(() => {
    if (openAt !== undefined) go(nearest(bench.t, openAt));
    // Only when the page is opened, or another moment asked for.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [openAt]);
  const t = bench.t[frame] ?? 0;
  const turn = unitAt(bench.units, t);
  const phase = turn && !turn.counted ? phaseAt(turn, t, bench.phases) : undefined;
  const [picked, setPicked] = useState<string | null>(() => firstPick(bench));
  const [close, setClose] = useState(false);
  const [show, setShow] = useState({ body: true, lines: true });
  const [help, setHelp] = useState(false);
  const [two, setTwo] = useState(false);
  const [changing, setChanging] = useState(false);
  const [placing, setPlacing] = useState("");
  const [noting, setNoting] = useState(false);
  const [told, setTold] = useState("");
  /** Presses that the coach is led through; the first is asked for now. */
  const [led, setLed] = useState<Press[]>([]);
  const lead = (steps: Press[]) => {
    setLed(steps);
    setPlacing(steps[0]?.landmark ?? "");
    if (steps[0]) go(steps[0].frame);
  };
  // Had before it is asked for, so that the list opens at once.
  useQuery(notable(runId, bench.version));
  const [asked, setAsked] = useState<Schemas["Question"] | null>(null);

  const [measure = "", limb = ""] = picked?.split("|") ?? [];
  const series = useQuery({
    ...trace(runId, bench.version, measure, limb),
    enabled: picked !== null && bench.measures[measure]?.each_frame !== false,
  });
  const label = useMemo(() => {
    const m = bench.measures[measure];
    if (!m || (!turn && bench.units.length > 0)) return undefined; // between units nothing is read
    const value = series.data?.value[frame];
    const u = series.data?.u[frame];
    const reading = bench.readings.find(
      (r) => keyOf(r) === picked && r.unit === turn?.n && (r.phase === phase || r.phase === null),
    );
    const words =
      value != null && u != null
        ? `${m.title} in this frame ${shown(value, u)}${m.unit}`
        : reading
          ? `${m.title} ${reading.phase ? `over the ${plain(reading.phase)}` : `of this ${bench.unit}`} ${reading.words} ± ${reading.pm}${m.unit}`
          : `${m.title}: cannot be told here`;
    return { words, points: m.points.map((p) => ofLimb(p, limb)) };
  }, [bench, measure, limb, picked, series.data, frame, turn, phase]);

  const mended = useGhost(bench, turn?.n, go);
  const edits = useInOrder(change.mutateAsync);
  const edit = (e: Schemas["EditRequest"]) => edits.add({ edit: e });
  const undo = () => edits.add({ step: "undo" });
  const redo = () => edits.add({ step: "redo" });
  const pending = edits.waiting.flatMap((w) =>
    "edit" in w && w.edit.kind === "mark" && w.edit.frame === frame
      ? [{ landmark: w.edit.landmark!, x: w.edit.x!, y: w.edit.y! }]
      : [],
  );
  const say = (what: Note) => edits.add({ edit: { kind: "note", ...what } });
  const last = useRef<Note | null>(null);
  const note = (what: Note) => {
    setNoting(false);
    if (what.fault) last.current = what;
    say(what);
  };
  /** The same thing again: in this unit, or where it is noted already in the next. */
  const again = (seen: boolean) => {
    const what = last.current ?? lastNoted(bench);
    if (!what) return setTold("Nothing is noted yet: press E and say what you see.");
    if (!turn) return setTold(`Step to a ${bench.unit} first.`);
    const there = (n: number) =>
      bench.seen.some((x) => x.fault === what.fault && x.unit === n && x.seen === seen) ||
      edits.waiting.some(
        (w) => "edit" in w && w.edit.kind === "note" && w.edit.fault === what.fault && w.edit.unit === n,
      );
    const from = bench.units.findIndex((u) => u.n === turn.n);
    const to = there(turn.n) ? bench.units[from + 1] : turn;
    if (!to) return setTold(`This was the last ${bench.unit}.`);
    const at = to === turn ? frame : frameOf(bench, to, phase ?? middlePhase(bench));
    go(at);
    const within = to === turn && t >= to.start && t < to.end ? t : (to.start + to.end) / 2;
    say({ ...what, scope: what.scope === "phase" ? "phase" : "unit", side: null, seen, t: within, unit: to.n } as Note);
    setTold("");
  };
  const measured = !bench.doubt && !bench.by_eye && bench.units.some((u) => !u.counted);
  const compare = useAgainst(bench, turn?.n, setTold);
  const other = nextClip(bench);
  const switchClip = (to = other) => {
    if (!to) return setTold("This run has no other clip that is measured. Add one under Clips.");
    const here = bench.clips.find((c) => c.here)!;
    const firstNow = here === bench.clips[0] ? t : first;
    void leave({
      to: "/runs/$run",
      params: { run: to.run },
      search: { at: placeIn(bench, to, t) ?? t, ...(firstNow === undefined ? {} : { first: firstNow }) },
    });
  };
  const jumpUnit = (by: number) => {
    const at = bench.units.findIndex((x) => x.n === turn?.n);
    const next =
      bench.units[
        at < 0
          ? by > 0
            ? bench.units.findIndex((x) => x.start > t)
            : bench.units.findLastIndex((x) => x.end <= t)
          : at + by
      ];
    if (next) go(frameOf(bench, next, phase ?? middlePhase(bench)));
  };
  const jumpPhase = (k: number) => {
    const wanted = bench.phases[k];
    const here = turn ?? bench.units[0];
    if (wanted && here) go(frameOf(bench, here, wanted));
  };
  const nearBoundary = bench.boundaries.reduce<Bench["boundaries"][number] | undefined>(
    (best, b) => (!best || Math.abs(b.t - t) < Math.abs(best.t - t) ? b : best),
    undefined,
  );
  const addCut = () => edit({ kind: "add", t });
  const dropCut = () => nearBoundary && edit({ kind: "delete", old_t: nearBoundary.t });
  const evidence = (e: Schemas["Evidence"]) => {
    const its = bench.units.find((x) => x.n === e.segment);
    const base = e.measure.split("/")[0]!;
    const reading = bench.readings.find(
      (r) => r.measure === base && r.unit === e.segment && r.phase === e.phase && r.limb === e.limb,
    );
    setPicked(`${base}|${e.limb ?? ""}`);
    if (its) go(reading?.t != null ? nearest(bench.t, reading.t) : frameOf(bench, its, e.phase ?? middlePhase(bench)));
  };
  const ask = (q: Schemas["Question"] | null) => {
    setAsked(q);
    if (!q) return;
    go(q.frame);
    const reading = bench.readings.find((r) => r.measure === q.measure && r.unit === q.unit && r.phase === q.phase);
    if (reading) setPicked(keyOf(reading));
  };
  /** Confirming a joint marks it where it is, so that it is known as well as a hand knows it. */
  const right = (q: Schemas["Question"]) => {
    const k = bench.points.indexOf(q.landmark);
    const [x, y] = [xy[(q.frame * bench.points.length + k) * 2], xy[(q.frame * bench.points.length + k) * 2 + 1]];
    if (x !== undefined && y !== undefined && Number.isFinite(x))
      edit({ kind: "mark", frame: q.frame, landmark: q.landmark, x, y });
  };
  const toggleBounce = () => {
    setSpan(turn ? [turn.start, turn.end] : undefined);
    player.setBounce(!player.bounce && !!turn);
  };

  const actions: Record<string, () => void> = {
    ArrowLeft: () => step(-1),
    ArrowRight: () => step(1),
    "Shift+ArrowLeft": () => step(-10),
    "Shift+ArrowRight": () => step(10),
    ArrowUp: () => jumpUnit(-1),
    ArrowDown: () => jumpUnit(1),
    " ": () => player.setPlaying(!player.playing),
    ...Object.fromEntries([0, 1, 2, 3, 4, 5].map((k) => [String(k + 1), () => jumpPhase(k)])),
    s: () => player.setSpeed(SPEEDS[(SPEEDS.indexOf(player.speed) + 1) % SPEEDS.length]!),
    o: toggleBounce,
    n: () => setClose(!close),
    h: () => setShow({ ...show, body: !show.body }),
    p: () => setShow({ ...show, lines: !show.lines }),
    ...(led.length > 0 ? { k: () => lead(led.slice(1)), Escape: () => lead([]) } : {}),
    e: () => setNoting(true),
    a: () => again(true),
    A: () => again(false),
    c: addCut,
    x: dropCut,
    "Ctrl+z": () => (bench.can_undo || edits.waiting.length > 0) && undo(),
    "Ctrl+y": () => bench.can_redo && redo(),
    "Ctrl+Shift+Z": () => bench.can_redo && redo(),
    v: () => switchClip(),
    b: () => compare.open("own_best"),
    l: () => compare.open("other_side"),
    r: () => compare.open("last_run"),
    f: () => compare.open("reference"),
    g: () => (turn ? mended.toggle() : setTold(`Go to a ${bench.unit} first: it is drawn where the main thing shows.`)),
    w: () => (other ? setTwo(!two) : setTold("This run has no other clip that is measured.")),
    "?": () => setHelp(true),
  };
  const keys = useRef(actions);
  useEffect(() => {
    keys.current = actions;
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (
        target.closest("input, textarea, select, [role=dialog]") ||
        (e.key === " " && target.closest("button, a, summary"))
      )
        return;
      const name = `${e.ctrlKey || e.metaKey ? "Ctrl+" : ""}${e.shiftKey && e.key.length > 1 ? "Shift+" : e.shiftKey && (e.ctrlKey || e.metaKey) ? "Shift+" : ""}${e.key}`;
      const action = keys.current[name];
      if (!action) return;
      e.preventDefault();
      action();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);

  const { rider } = bench.run;
  return (
    <div className="grid grid-cols-1 lg:h-[calc(100vh-2.9rem)] lg:grid-cols-[minmax(0,1fr)_25rem] lg:grid-rows-[auto_minmax(0,1fr)]">
      <h1 className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-sheet px-4 py-1.5 text-base font-normal lg:col-span-2 lg:flex-nowrap">
        <span className="grid size-8 shrink-0 place-items-center rounded-full border-2 border-line font-bold">
          {rider.number ?? "–"}
        </span>
        <b className="text-lg whitespace-nowrap">{rider.name}</b>
        <span className="w-full truncate text-soft sm:w-auto">
          {[bench.run.level, rider.colours, bench.run.title].filter(Boolean).join(" · ")}
        </span>
        {bench.run.intention_text && <span className="truncate">Trying to: {bench.run.intention_text}</span>}
        <span className="flex w-full flex-wrap items-center gap-x-3 gap-y-1 lg:ml-auto lg:w-auto lg:flex-nowrap lg:whitespace-nowrap">
          {turn ? (
            <span aria-live="polite" data-testid="where">
              {capital(bench.unit)} {turn.n} of {bench.units.length}
              {turn.side && (
                <>
                  {" · "}
                  <SideMark side={turn.side} />
                </>
              )}
              {turn.finest_side && ` · ${plain(turn.finest_side)}`}
              {turn.outside && ` · outside foot ${turn.outside}`} · <b>{plain(phase ?? "")}</b>
            </span>
          ) : (
            <span className="text-soft">
              {bench.units.length === 0 ? `No ${bench.unit_plural} were found` : `Between ${bench.unit_plural}`}
            </span>
          )}
          <Button onClick={() => setChanging(true)}>Change</Button>
          <Link
            to="/runs/$run/footage"
            params={{ run: runId }}
            className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
          >
            Clip
          </Link>
          {measured && (
            <Link
              to="/runs/$run/sheet"
              params={{ run: runId }}
              className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
            >
              Sheet
            </Link>
          )}
          {measured && book?.has_map && (
            <Link
              to="/runs/$run/map"
              params={{ run: runId }}
              className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
            >
              Map
            </Link>
          )}
          {bench.run.clip?.playable && !bench.doubt && (
            <Link
              to="/runs/$run/telling"
              params={{ run: runId }}
              className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
            >
              Telling
            </Link>
          )}
          <Link
            to="/reckoner"
            search={{ run: runId }}
            className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
          >
            Reckon
          </Link>
          <Link
            to="/runs/$run/script"
            params={{ run: bench.run.part_of ?? runId }}
            className="rounded bg-deep px-3 py-1 font-semibold text-on-deep"
          >
            Script
          </Link>
        </span>
      </h1>
      <section aria-label="Stage" className="grid min-h-0 min-w-0 content-start gap-2 overflow-auto p-1.5 sm:p-3">
        <div className="relative mx-auto w-full lg:max-w-[calc((100vh-21.8rem)*1.7778)]">
          <Stage
            {...{ bench, xy, frame, turn, label, show, close, pending }}
            ghost={mended.shown?.row === frame ? mended.shown.joints : undefined}
            ask={placing || (asked?.frame === frame ? asked.landmark : undefined)}
            onMark={(landmark, x, y) => {
              edit({ kind: "mark", frame, landmark, x, y });
              if (led[0]?.landmark === landmark && led[0].frame === frame) lead(led.slice(1));
            }}
          />
          {two && other && <OtherView bench={bench} clip={other} t={t} />}
        </div>
        <div className="flex flex-wrap items-center gap-1.5">
          <Steps player={player} />
          <Button onClick={actions.s} aria-label={`Speed ${words(player.speed)}, change`}>
            {words(player.speed)}
          </Button>
          <Button onClick={toggleBounce} aria-pressed={player.bounce} className={player.bounce ? "bg-tint" : ""}>
            Bounce
          </Button>
          <span className="mx-1 min-w-34 text-soft" data-testid="clock">
            frame <b className="text-ink">{frame}</b> · {t.toFixed(3)} s
          </span>
          <Button
            onClick={() => setClose(!close)}
            aria-pressed={close}
            aria-label="Close up"
            title="Close up (N)"
            className={close ? "bg-tint" : ""}
          >
            <ZoomIn aria-hidden className="size-4" />
          </Button>
          <Button onClick={addCut} title="Add a boundary here (C)">
            <Scissors aria-hidden className="size-4" /> Cut
          </Button>
          <Button
            onClick={dropCut}
            disabled={!nearBoundary}
            title="Delete the nearest boundary (X)"
            aria-label="Delete the nearest cut"
          >
            <Trash2 aria-hidden className="size-4" />
          </Button>
          <UndoRedo {...bench} onStep={(step) => edits.add({ step })} />
          {(bench.by_eye || turn?.counted) && turn && book && book.sides.length > 0 && (
            <Select
              aria-label={`Side of this ${bench.unit}`}
              value={turn.finest_side ?? turn.side ?? ""}
              onChange={(e) => e.target.value && edit({ kind: "side", t, side: e.target.value })}
              style={{ width: "9rem" }}
            >
              <option value="">Side…</option>
              {book.sides.map((side) => (
                <option key={side} value={side}>
                  {plain(side)}
                </option>
              ))}
            </Select>
          )}
          {bench.markable.length > 0 && (
            <Select
              aria-label="Mark gear"
              value={placing}
              onChange={(e) => setPlacing(e.target.value)}
              style={{ width: "7.2rem" }}
            >
              <option value="">Mark gear…</option>
              {bench.markable.map((n) => (
                <option key={n} value={n}>
                  {joint(n)}
                </option>
              ))}
            </Select>
          )}
          <Button tone="quiet" onClick={() => setHelp(true)} aria-label="Keys" className="ml-auto">
            <CircleHelp aria-hidden className="size-4" />
          </Button>
        </div>
        {mended.words && (
          <p role="status" className="text-sm text-soft">
            {mended.words}
          </p>
        )}
        <AnotherClip bench={bench} t={t} first={first} onFirst={(c) => switchClip(c)} />
        {led.length > 0 && (
          <Led steps={led} words={bench.point_words} onSkip={() => lead(led.slice(1))} onStop={() => lead([])} />
        )}
        {placing && led.length === 0 && (
          <p role="status" className="text-sm text-soft">
            Mark the {joint(placing)}
            {bench.point_words[placing] ? `, ${bench.point_words[placing]},` : ""} in a frame every half second or so;
            it is carried between the marks.
            {bench.carrying.length > 0 && " Carrying it through the clip…"}
          </p>
        )}
        <FoundGear bench={bench} onSay={(said) => said.forEach((s) => edit(s))} />
        {bench.carry_problems.map((p) => (
          <p key={p} role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
            {p}
          </p>
        ))}
        {bench.trouble && (
          <p role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
            What stands here is from before the last change: {bench.trouble}
          </p>
        )}
        {bench.measuring && edits.waiting.length === 0 && (
          <p role="status" className="text-sm text-soft">
            This run is being worked out again; the numbers here are from before. You can go on.
          </p>
        )}
        {edits.waiting.length > 0 && (
          <p role="status" className="text-sm text-soft">
            {edits.waiting.length === 1
              ? "Working a correction out…"
              : `${edits.waiting.length} corrections are being worked out…`}
          </p>
        )}
        {edits.failed.length > 0 && (
          <div
            role="alert"
            className="flex flex-wrap items-center gap-2 rounded border border-bad px-3 py-1.5 text-bad"
          >
            <span>
              {edits.failed[0]!.error.message}
              {edits.failed.length > 1 && ` (${edits.failed.length} corrections could not be made.)`}
            </span>
            <Button onClick={edits.again}>Try again</Button>
            <Button tone="quiet" onClick={edits.letGo}>
              Let it go
            </Button>
          </div>
        )}
        {change.error && edits.failed.length === 0 && (
          <p role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
            {change.error.message}
          </p>
        )}
        <Ribbon
          {...{ bench, frame, turn, phase }}
          onGo={go}
          onMove={(old_t, to) => edit({ kind: "move", old_t, t: to })}
          onDelete={(old_t) => edit({ kind: "delete", old_t })}
          busy={change.isPending}
        />
      </section>
      <aside
        // What the list covers is out of reach meanwhile.
        inert={noting}
        aria-label="Readings and findings"
        className="min-h-0 min-w-0 overflow-auto border-line bg-sheet max-lg:border-t lg:border-l"
      >
        {bench.doubt && (
          <Doubt doubt={bench.doubt} busy={change.isPending} onAnswer={(answer) => change.mutate({ answer })} />
        )}
        <div role="group" aria-label="Phase" className="sticky top-0 z-10 flex border-b border-line bg-sheet">
          {bench.phases.map((p, k) => (
            <button
              key={p}
              type="button"
              aria-pressed={p === phase}
              onClick={() => jumpPhase(k)}
              className={`flex-1 px-2 py-2 ${p === phase ? "bg-tint font-bold" : "hover:bg-tint"}`}
            >
              {plain(p)}
            </button>
          ))}
          {book?.phase_words && (
            <Explain what={`a ${bench.unit} made of`}>
              <dl className="grid gap-1">
                {bench.phases
                  .filter((p) => book.phase_words[p])
                  .map((p) => (
                    <div key={p}>
                      <dt className="font-semibold">{plain(p)}</dt>
                      <dd>{book.phase_words[p]}</dd>
                    </div>
                  ))}
              </dl>
            </Explain>
          )}
        </div>
        <VerdictChanged bench={bench} />
        {told && (
          <p role="status" className="border-b border-line px-3 py-1.5 text-sm">
            {told}
          </p>
        )}
        {!bench.doubt && bench.run.part_of == null && (
          <SinceLastTime
            run={runId}
            version={bench.version}
            cue={bench.prescription.main?.cue}
            onCue={
              bench.prescription.main
                ? (cue) => edit({ kind: "cue", fault: bench.prescription.main!.fault, cue })
                : undefined
            }
          />
        )}
        {!bench.doubt && <Readings {...{ bench, turn, phase, picked }} onPick={setPicked} />}
        {!bench.doubt && <CountUnits bench={bench} onSay={edit} />}
        {!bench.doubt && !bench.by_eye && (
          <Against {...compare}>
            <KeepAsReference bench={bench} book={book} />
          </Against>
        )}
        <Clips bench={bench} onShow={switchClip} />
        {bench.run.part_of == null && (
          <>
            <h2 className="border-t-2 border-line px-3 pt-2 text-base">Found on this run</h2>
            <Findings
              runId={runId}
              onSay={edit}
              bench={bench}
              book={book}
              busy={change.isPending}
              onEvidence={evidence}
              onRate={() => change.mutate({ run: { sure: [...(bench.run.sure ?? []), "rate"] } })}
            />
          </>
        )}
        {!bench.doubt && <Lead {...{ runId, bench }} onLead={lead} />}
        <Ask {...{ runId, bench, asked }} busy={change.isPending} onAsk={ask} onRight={right} />
        <Seen
          bench={bench}
          onOpen={() => setNoting(true)}
          onGo={(n) => n.t !== null && go(nearest(bench.t, n.t))}
          onBack={(n) => edit({ kind: "unnote", note: n.id })}
        />
        <Schools bench={bench} book={book} busy={change.isPending} onChoose={(school) => change.mutate({ school })} />
        <Corrections bench={bench} />
      </aside>
      <NotePalette {...{ runId, bench, turn, phase, t }} open={noting} onOpen={setNoting} onNote={note} />
      <ChangeRun run={bench.run} open={changing} onOpen={setChanging} />
      <Keys open={help} onOpen={setHelp} />
    </div>
  );
}

/** While the rider is still being followed. */
const FOLLOWING = ["queued", "working"];

/** The newest note of a fault, a sign or a strength, as it would be said again. */
function lastNoted(bench: Bench): Note | null {
  const n = bench.seen
    .filter((x) => x.fault)
    .reduce<Schemas["Note"] | null>((a, b) => (!a || b.id > a.id ? b : a), null);
  return (
    n && { fault: n.fault, scope: n.scope, sure: n.sure, seen: n.seen, words: "", t: n.t, side: n.side, phase: n.phase }
  );
}

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

const words = (speed: number) => (speed === 1 ? "true speed" : `1/${1 / speed} speed`);

/** A frame's value and U with the digits that U bears. */
function shown(value: number, u: number): string {
  const places = u > 0 ? Math.max(0, -Math.floor(Math.log10(2 * u))) : 1;
  const words = value
    .toFixed(places)
    .replace(/^-(0(\.0+)?)$/, "$1")
    .replace("-", "−");
  return `${words} ± ${(2 * u).toFixed(places)}`;
}

function firstPick(bench: Bench): string | null {
  const main = bench.prescription.findings.find((f) => f.fault === bench.prescription.main?.fault);
  const e = main?.evidence.find((x) => bench.measures[x.measure]);
  const wanted = e ?? bench.readings.find((r) => r.measure === "lean") ?? bench.readings.find((r) => r.phase !== null);
  return wanted ? keyOf(wanted) : null;
}
