import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { ChevronLeft, ChevronRight, Mic, Pause, Play, Plus, Square } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, need, type Bench, type Schemas } from "../api/client";
import { bench as benchQuery, telling as tellingQuery } from "../api/queries";
import { OfRun } from "../ui/OfRun";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { Saved } from "../ui/Saving";
import { Sure } from "../ui/Sure";
import { UndoRedo } from "../ui/UndoRedo";
import { usePlayer } from "../video/usePlayer";
import { AsFilm } from "./AsFilm";
import { IntoScript, MendedFigure } from "./Extras";
import { UnitBeside } from "./UnitBeside";
import { PassageRow } from "./PassageRow";
import { Screen, TOOLS, type Tool } from "./Screen";
import {
  begins,
  captionAt,
  clock,
  frameAt,
  fresh,
  marksIn,
  overAt,
  passageAt,
  seconds,
  showing,
  type Act,
  type Passage,
} from "./time";
import { useRecorder } from "./useRecorder";
import { LONGEST_S, useSpeaking } from "./useSpeaking";
import { useTellingDraft } from "./useTellingDraft";
import { useTold } from "./useTold";

const NAMES: Record<Tool, string> = {
  line: "Line",
  arrow: "Arrow",
  angle: "Angle",
  circle: "Circle",
  free: "Free line",
  text: "Words",
};

/** Telling a run: what stands ready, talked over, changed, sent. */
export function TellingPage() {
  const { run } = useParams({ from: "/inside/runs/$run/telling" });
  const bench = useQuery(benchQuery(run));
  const data = useQuery(tellingQuery(run));
  const error = bench.error ?? data.error;
  if (error)
    return (
      <Trouble
        error={error}
        again={() => {
          void bench.refetch();
          void data.refetch();
        }}
      />
    );
  if (!bench.data || !data.data) return <Waiting what="Getting the Telling ready" />;
  if (!bench.data.run.clip?.playable)
    return (
      <div className="p-5">
        <p>This run has no clip here, so there is nothing to tell over.</p>
      </div>
    );
  return <Telling key={run} bench={bench.data} data={data.data} />;
}

function Telling({ bench, data }: { bench: Bench; data: Schemas["TellingStands"] }) {
  const run = bench.run.id;
  const draft = useTellingDraft(run, data);
  const { told, put } = draft;
  const recorder = useRecorder(run);
  /** The passage that is being spoken over, by its name, and when it ends. */
  const [speaking, setSpeaking] = useState<string | null>(null);
  const at = begins(told);
  const spoken = told.passages.findIndex((p) => p.id === speaking);
  // What is heard while one speaks would be recorded with it.
  const silent = useMemo(() => ({ ...data.played, heard: NOBODY }), [data.played]);
  const player = useTold(run, speaking ? silent : data.played, spoken >= 0 ? at[spoken + 1]! : null);
  const free = usePlayer(bench.t);
  /** The passage that is told live, and since when; null while none is. */
  const [live, setLive] = useState<{ began: number; id: string } | null>(null);
  const [tool, setTool] = useState<Tool | null>(null);
  /** The drawing that is being drawn anew. */
  const [anew, setAnew] = useState<{ id: string; act: number } | null>(null);
  const [trouble, setTrouble] = useState("");
  const { t } = player;
  const here = passageAt(told, t);
  const passage = told.passages[here.k];
  const shown = showing(passage ?? NOTHING, here.into);
  const frame = live ? free.frame : frameAt(data.played.stretches, t, bench.t);
  const busy = speaking !== null || live !== null;

  // A keyboard's handler is set up once; what it does is always the newest.
  const now = useRef({ told, put });
  useEffect(() => {
    now.current = { told, put };
  });
  const change = (id: string, next: (p: Passage) => Passage) => {
    const { told: was, put: keep } = now.current;
    keep({ ...was, passages: was.passages.map((p) => (p.id === id ? next(p) : p)) });
  };

  const speech = useSpeaking({
    recorder,
    player,
    passages: told.passages,
    at,
    speaking,
    onSpeaking: setSpeaking,
    onChange: (next) => {
      const { told: was, put: keep } = now.current;
      keep({ ...was, passages: was.passages.map(next) });
    },
  });

  const elapsed = () => (live ? seconds() - live.began : 0);
  // Each act is kept as it is done: a page that is closed keeps what was told so far.
  const note = (act: Act) =>
    live && change(live.id, (p) => ({ ...p, length_s: Math.max(p.length_s, act.at_s + 0.5), acts: [...p.acts, act] }));
  const tellLive = async () => {
    if (live) {
      const length = elapsed();
      free.setPlaying(false);
      const got = await recorder.stop();
      change(live.id, (p) => ({
        ...p,
        length_s: Math.max(0.5, length, got.recording === null ? 0 : got.length_s),
        acts: p.acts.map((a) => ("until_s" in a ? { ...a, until_s: Math.min(a.until_s, length) } : a)),
        sound: got.recording === null ? null : { recording: got.recording, from_s: 0, to_s: got.length_s },
      }));
      setLive(null);
      player.go(at[told.passages.findIndex((p) => p.id === live.id)] ?? 0);
      return;
    }
    player.setPlaying(false);
    free.go(frame);
    const id = fresh();
    const made: Passage = { id, caption: "", length_s: 0.5, acts: [{ act: "stop", at_s: 0, frame }] };
    put({ ...told, passages: told.passages.toSpliced(here.k + 1, 0, made) });
    await recorder.start((recording) =>
      change(id, (p) => ({ ...p, sound: { recording, from_s: 0, to_s: LONGEST_S } })),
    );
    setLive({ began: seconds(), id });
  };
  const liveStep = (by: number) => {
    const next = Math.max(0, Math.min(bench.t.length - 1, free.frame + by));
    free.setPlaying(false);
    free.go(next);
    note({ act: "stop", at_s: elapsed(), frame: next });
  };
  const livePlay = () => {
    if (free.playing) note({ act: "stop", at_s: elapsed(), frame: free.frame });
    else note({ act: "play", at_s: elapsed(), frame: free.frame, to_frame: bench.t.length - 1, speed: free.speed });
    free.setPlaying(!free.playing);
  };

  /** Move the frame that stands here, or where what plays here begins. */
  const step = (by: number) => {
    if (live) return liveStep(by);
    if (!passage || busy) return;
    player.setPlaying(false);
    const next = Math.max(0, Math.min(bench.t.length - 1, frame + by));
    const own = passage.acts[shown];
    if (own?.act === "stop" && here.into - own.at_s >= 0)
      change(passage.id, (p) => ({ ...p, acts: p.acts.map((a, j) => (j === shown ? { ...own, frame: next } : a)) }));
    else change(passage.id, (p) => ({ ...p, acts: [...p.acts, { act: "stop", at_s: here.into, frame: next }] }));
  };

  const drawn = async (kind: Tool, points: [number, number][]) => {
    setTool(null);
    setTrouble("");
    setAnew(null);
    const before = anew && told.passages.find((p) => p.id === anew.id)?.acts[anew.act];
    const words =
      before?.act === "draw" && kind === "text"
        ? before.words
        : kind === "text"
          ? (prompt("What is to stand there?") ?? "")
          : "";
    if (kind === "text" && !words.trim()) return;
    const act: Act = {
      act: "draw",
      at_s: live ? elapsed() : here.into,
      until_s: live ? LONGEST_S : (passage?.length_s ?? LONGEST_S),
      kind,
      points: kind === "text" ? points.slice(0, 1) : points,
      words,
      frame,
      follows: kind !== "angle",
    };
    if (kind === "angle") {
      try {
        const read = await need(
          api.POST("/api/runs/{run}/telling/angle", { params: { path: { run } }, body: { points } }),
        );
        act.words = read.says;
      } catch (e) {
        // The lines stay as they were drawn, without a number.
        setTrouble(`The angle was not read: ${(e as Error).message}`);
      }
    }
    if (before?.act === "draw")
      // Only where it stands is new: when it comes and goes, and what is written beside it, stay.
      change(anew!.id, (p) => ({
        ...p,
        acts: p.acts.map((a, j) =>
          j === anew!.act
            ? { ...before, points: act.points, frame, words: kind === "angle" ? act.words : before.words }
            : a,
        ),
      }));
    else if (live) note(act);
    else if (passage) change(passage.id, (p) => ({ ...p, acts: [...p.acts, act] }));
  };

  const trim = async (p: Passage) => {
    if (!p.sound) return;
    const recording = p.sound.recording;
    const span = await need(
      api.GET("/api/runs/{run}/telling/recordings/{recording}/speech", { params: { path: { run, recording } } }),
    ).catch((e: Error) => {
      setTrouble(`The silence was not cut: ${e.message}`);
      return null;
    });
    if (!span) return;
    change(p.id, (x) => ({
      ...x,
      length_s: Math.max(0.5, span.to_s - span.from_s),
      sound: { recording, from_s: span.from_s, to_s: span.to_s },
    }));
  };

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = (e.target as HTMLElement).closest("input, textarea, select, [role=dialog]");
      if (typing || e.altKey) return;
      const key = e.ctrlKey || e.metaKey ? `ctrl ${e.key.toLowerCase()}` : e.key;
      const does: Record<string, () => void> = {
        " ": () => (live ? livePlay() : speaking ? undefined : player.setPlaying(!player.playing)),
        ArrowLeft: () => step(e.shiftKey ? -10 : -1),
        ArrowRight: () => step(e.shiftKey ? 10 : 1),
        // While something is spoken, nothing under it is taken away.
        "ctrl z": () => !busy && draft.undo(),
        "ctrl y": () => !busy && draft.redo(),
        Escape: () => {
          setTool(null);
          setAnew(null);
        },
        r: () => {
          const now = speaking ? told.passages[spoken] : passage;
          if (now && !live) void speech.speak(now, speaking ? spoken : here.k);
        },
        n: () => speaking && void speech.next(),
        PageUp: () => !busy && player.go(at[Math.max(0, here.k - 1)]!),
        PageDown: () => !busy && player.go(at[Math.min(told.passages.length - 1, here.k + 1)]!),
      };
      if (!does[key]) return;
      // A button under the focus would be pressed by the space bar as well.
      e.preventDefault();
      does[key]();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  const drawnLive = live ? (told.passages.find((p) => p.id === live.id)?.acts ?? []) : [];
  const liveOver: Schemas["Overlay"][] = drawnLive.flatMap((a) =>
    a.act === "draw"
      ? [
          {
            from_s: 0,
            to_s: LONGEST_S,
            figure: "",
            title: "",
            lines: [],
            marks: { [frame]: [{ kind: kindOf(a.kind), points: a.points, words: a.words, tone: "coach" as const }] },
          },
        ]
      : [],
  );
  return (
    <div className="grid min-h-0 gap-3 p-3 lg:h-[calc(100vh-3.4rem)] lg:grid-cols-[minmax(0,1fr)_25rem]">
      <section aria-label="Screen" className="grid min-w-0 content-start gap-2 overflow-auto">
        <OfRun run={run} title={`Telling for ${bench.run.rider.name}`}>
          <Saved unsaved={draft.unsaved} saving={draft.saving} error={draft.error} />
          <UndoRedo {...draft} busy={busy} onStep={(which) => (which === "undo" ? draft.undo() : draft.redo())} />
          <Link
            to="/runs/$run/script"
            params={{ run: bench.run.part_of ?? run }}
            className="rounded bg-deep px-3 py-1 font-semibold text-on-deep"
          >
            Script
          </Link>
        </OfRun>
        {draft.theirs && (
          <p role="alert" className="flex flex-wrap items-center gap-2 rounded border border-warn bg-sheet px-3 py-2">
            Somebody else has told this run meanwhile. Nothing of either is lost.
            <Button onClick={() => void draft.keepMine()}>Keep mine</Button>
            <Button onClick={draft.takeTheirs}>Take theirs</Button>
          </p>
        )}
        {draft.error && !draft.theirs && (
          <p role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
            {draft.error.message}
          </p>
        )}
        {data.stale && (
          <p role="status" className="rounded border border-warn px-3 py-1.5">
            The numbers changed after this was told. Look through it, or go back to what is proposed.
          </p>
        )}
        {(recorder.problem || player.problem || trouble) && (
          <p role="alert" className="rounded border border-warn bg-sheet px-3 py-1.5">
            {recorder.problem || player.problem || trouble}
          </p>
        )}
        <div className="mx-auto w-full lg:max-w-[calc((100vh-15rem)*1.7778)]">
          <Screen
            bench={bench}
            frame={frame}
            over={live ? liveOver : overAt(data.played.overlays, t)}
            caption={live ? "" : captionAt(data.played.captions, t)}
            tool={tool}
            onDrawn={(kind, points) => void drawn(kind, points)}
          />
        </div>
        <div className="flex flex-wrap items-center gap-1.5">
          <Button onClick={() => step(-1)} aria-label="One frame back" title="Moves the stop (←)">
            <ChevronLeft aria-hidden className="size-4" />
          </Button>
          <Button
            tone="main"
            onClick={() => (live ? livePlay() : player.setPlaying(!player.playing))}
            aria-label={(live ? free.playing : player.playing) ? "Pause" : live ? "Play the run" : "Play the Telling"}
            disabled={speaking !== null}
          >
            {(live ? free.playing : player.playing) ? (
              <Pause aria-hidden className="size-4" />
            ) : (
              <Play aria-hidden className="size-4" />
            )}
          </Button>
          <Button onClick={() => step(1)} aria-label="One frame on" title="Moves the stop (→)">
            <ChevronRight aria-hidden className="size-4" />
          </Button>
          {live ? (
            <Select
              aria-label="Speed of the run"
              style={{ width: "8rem" }}
              value={free.speed}
              onChange={(e) => free.setSpeed(Number(e.target.value))}
            >
              {[1, 0.5, 0.25, 0.125].map((s) => (
                <option key={s} value={s}>
                  {s === 1 ? "true speed" : `1/${1 / s} speed`}
                </option>
              ))}
            </Select>
          ) : (
            <input
              type="range"
              aria-label="Moment of the Telling"
              className="min-w-32 flex-1"
              min={0}
              max={data.played.length_s}
              step={0.05}
              value={t}
              disabled={busy}
              onChange={(e) => {
                player.setPlaying(false);
                player.go(Number(e.target.value));
              }}
            />
          )}
          <span className="min-w-24 text-soft" data-testid="moment">
            {live ? "telling live" : `${clock(t)} of ${clock(data.played.length_s)}`}
          </span>
          {TOOLS.map((x) => (
            <Button
              key={x}
              tone={tool === x ? "main" : "plain"}
              aria-pressed={tool === x}
              disabled={speaking !== null || (!passage && !live)}
              onClick={() => {
                player.setPlaying(false);
                setAnew(null);
                setTool(tool === x ? null : x);
              }}
            >
              {NAMES[x]}
            </Button>
          ))}
        </div>
      </section>
      <aside
        aria-label="Passages"
        className="grid min-h-0 min-w-0 content-start overflow-auto rounded border border-line bg-sheet"
      >
        <div className="sticky top-0 z-10 flex flex-wrap items-center gap-1.5 border-b border-line bg-sheet px-3 py-2">
          <Button
            tone={live ? "bad" : "plain"}
            disabled={speaking !== null}
            onClick={() => void tellLive()}
            title="Play, step, stop and draw while you speak; all of it becomes a passage"
          >
            {live ? <Square aria-hidden className="size-4" /> : <Mic aria-hidden className="size-4" />}
            {live ? "End this passage" : "Tell it live"}
          </Button>
          <Button
            disabled={busy}
            onClick={() => {
              const made: Passage = {
                id: fresh(),
                caption: "",
                length_s: 3,
                acts: [{ act: "stop", at_s: 0, frame }],
              };
              put({ ...told, passages: told.passages.toSpliced(here.k + 1, 0, made) });
              player.go(at[here.k + 1] ?? 0);
            }}
          >
            <Plus aria-hidden className="size-4" /> Passage
          </Button>
          {data.own && (
            <Sure
              label="Start again"
              title="Go back to what is proposed?"
              about="Your passages and their words go; what you said in them is not heard any more."
              tone="bad"
              disabled={busy}
              onDo={draft.back}
            />
          )}
        </div>
        {(recorder.recording || recorder.unsent > 0) && (
          <p role="status" className="border-b border-line px-3 py-1.5 text-sm">
            {recorder.recording && "Recording. "}
            {recorder.unsent > 3 || (!recorder.recording && recorder.unsent > 0)
              ? "Not all of it has arrived; what you said is kept on this page until it has. Leave it open."
              : ""}
          </p>
        )}
        {!data.own && !draft.unsaved && (
          <p className="border-b border-line px-3 py-1.5 text-sm text-soft">
            This stands ready. Speak over a passage (R), change its words, or send it as it is, silent with captions.
          </p>
        )}
        {told.passages.length === 0 && (
          <p className="p-4 text-soft">Nothing is told yet. Tell it live, or add a passage.</p>
        )}
        <ol>
          {told.passages.map((p, k) => (
            <PassageRow
              key={p.id}
              passage={p}
              number={k + 1}
              current={k === here.k && !live}
              recording={speaking === p.id}
              busy={busy}
              first={k === 0}
              last={k === told.passages.length - 1}
              onGo={() => {
                if (busy) return;
                player.setPlaying(false);
                if (k !== here.k) player.go(at[k]! + 0.001);
              }}
              onChange={(next) => change(p.id, () => next)}
              onDelete={() => put({ ...told, passages: told.passages.filter((x) => x.id !== p.id) })}
              onShift={(by) => {
                const rest = told.passages.filter((x) => x.id !== p.id);
                put({ ...told, passages: rest.toSpliced(k + by, 0, p) });
              }}
              onRecord={() => void speech.speak(p, k)}
              onNext={() => void speech.next()}
              onTrim={() => void trim(p)}
              onDraw={(act, kind) => {
                player.setPlaying(false);
                setAnew({ id: p.id, act });
                setTool(kind);
              }}
            />
          ))}
        </ol>
        <UnitBeside
          bench={bench}
          frame={frame}
          disabled={busy}
          onPassage={(made) => {
            const id = told.passages.some((p) => p.id === made.id) ? fresh() : made.id;
            put({ ...told, passages: told.passages.toSpliced(here.k + 1, 0, { ...made, id }) });
            player.go((at[here.k + 1] ?? 0) + 0.001);
          }}
        />
        <MendedFigure
          bench={bench}
          frame={frame}
          disabled={busy || !passage}
          onFigure={(acts) =>
            passage && change(passage.id, (p) => ({ ...p, acts: [...p.acts, ...acts(here.into, p.length_s)] }))
          }
        />
        <IntoScript
          run={bench.run.part_of ?? run}
          frame={frame}
          marks={overAt(data.played.overlays, t).flatMap((o) => marksIn(o, frame))}
          caption={captionAt(data.played.captions, t)}
          still={`/api/runs/${run}/telling/still?t=${t.toFixed(2)}`}
          disabled={busy || bench.run.part_of != null}
        />
        <AsFilm run={run} />
      </aside>
    </div>
  );
}

const NOBODY: Schemas["Played"]["heard"] = [];
const NOTHING: Passage = { id: "", caption: "", length_s: 1, acts: [] };

const kindOf = (kind: Tool): Schemas["Mark"]["kind"] => (kind === "angle" || kind === "free" ? "line" : kind);
