import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, need, type Bench, type Schemas } from "../api/client";
import { bench as benchQuery, isBusy } from "../api/queries";
import { CLIP_HINT, CLIP_TYPES } from "../desk/SendClip";
import { sendTo, useSendingTo } from "../desk/sendings";
import { Dialog } from "../ui/Dialog";
import { Bar, Button, Field, Input, Select } from "../ui/parts";
import { VIEWS } from "../ui/views";
import { FrameSource } from "../video/frames";
import { nearest } from "../video/nearest";
import { paint } from "../video/paint";

type Clip = Schemas["RunClip"];
const HOW: Record<string, string> = {
  sound: "by sound",
  units: "by its units",
  clock: "by the clock",
  hand: "by hand",
};

/** The clip after the one that is shown, of those that are measured; null where there is no other. */
export function nextClip(bench: Bench): Clip | null {
  const at = bench.clips.findIndex((c) => c.here);
  const after = [...bench.clips.slice(at + 1), ...bench.clips.slice(0, at)];
  return after.find((c) => c.measured) ?? null;
}

/** A time of the shown clip in another clip of the same pass; null where they are not matched. */
export function placeIn(bench: Bench, to: Clip, t: number): number | null {
  const here = bench.clips.find((c) => c.here)!;
  if (to.pass_no !== here.pass_no || to.offset_s === null || here.offset_s === null) return null;
  return Math.max(0, t + here.offset_s - to.offset_s);
}

const viewWords = (c: Clip) => (c.view in VIEWS ? VIEWS[c.view as keyof typeof VIEWS] : "view not told yet");

/** All clips of the run, how each is matched, and the way to add one. */
export function Clips({ bench, onShow }: { bench: Bench; onShow: (clip: Clip) => void }) {
  const [adding, setAdding] = useState(false);
  return (
    <details className="border-t border-line px-3 py-2" open={bench.clips.length > 1 || undefined}>
      <summary className="cursor-pointer font-semibold">Clips ({bench.clips.length})</summary>
      <ol className="mt-1 grid gap-1.5">
        {bench.clips.map((c, k) => (
          <li key={c.run} className="grid gap-0.5">
            <span className="flex flex-wrap items-center gap-x-2">
              <b className="font-semibold">{String.fromCharCode(97 + k)}</b>
              {viewWords(c)}
              {c.pass_no > 1 && ` · pass ${c.pass_no}`}
              {c.here ? (
                <span className="text-soft">· shown</span>
              ) : (
                c.measured && (
                  <button type="button" className="underline" onClick={() => onShow(c)}>
                    Show
                  </button>
                )
              )}
            </span>
            <State clip={c} first={k === 0} />
          </li>
        ))}
      </ol>
      {bench.unused_clips.map((words) => (
        <p key={words} className="mt-1 text-sm text-bad">
          {words}
        </p>
      ))}
      <Button className="mt-2" onClick={() => setAdding(true)}>
        Another clip…
      </Button>
      <Dialog
        title="Another clip of this run"
        about="Filmed at once from elsewhere, or another pass. Each measure is taken from the view that shows it."
        open={adding}
        onOpen={setAdding}
        keep
      >
        <Add run={bench.run.id} onDone={() => setAdding(false)} />
      </Dialog>
    </details>
  );
}

/** Where a clip has got to: on its way, being followed, matched and how, or waiting to be. */
function State({ clip, first }: { clip: Clip; first: boolean }) {
  const client = useQueryClient();
  const sent = useSendingTo(clip.run);
  const match = useMutation({
    mutationFn: (by: "sound" | "units") =>
      need(api.POST("/api/runs/{id}/match", { params: { path: { id: clip.run } }, body: { by } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["bench"] }),
  });
  if (first) return null;
  const words = "text-sm text-soft";
  if (sent?.share != null) return <Bar share={sent.share} label="Sending the clip" />;
  if (sent?.problem || clip.problem) return <p className="text-sm text-bad">{sent?.problem || clip.problem}</p>;
  if (isBusy(clip)) return <p className={words}>being followed</p>;
  if (!clip.measured) return <p className={words}>not here yet</p>;
  if (clip.pass_no > 1) return <p className={words}>its units count as further ones</p>;
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
      <span className={words}>
        {clip.offset_s === null
          ? "not matched yet"
          : `matched ${HOW[clip.offset_by] ?? ""}: ${clip.offset_s.toFixed(2)} s ± ${(clip.offset_pm_s ?? 0).toFixed(2)} s`}
      </span>
      {(["sound", "units"] as const).map((by) => (
        <Button key={by} tone="quiet" className="text-sm" disabled={match.isPending} onClick={() => match.mutate(by)}>
          {by === "sound" ? "Match by sound" : "Match by its units"}
        </Button>
      ))}
      {match.error && (
        <p role="alert" className="text-sm text-bad">
          {match.error.message}
        </p>
      )}
    </div>
  );
}

function Add({ run, onDone }: { run: number; onDone: () => void }) {
  const client = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [same, setSame] = useState("yes");
  const add = useMutation({
    mutationFn: () =>
      need(api.POST("/api/runs/{id}/clips", { params: { path: { id: run } }, body: { same_pass: same === "yes" } })),
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["bench"] });
      void sendTo(made.id, file!).then(() => client.invalidateQueries({ queryKey: ["bench"] }));
      onDone();
    },
  });
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate();
      }}
    >
      <Field label="Clip" hint={CLIP_HINT} error={add.error?.message}>
        {(id) => (
          <Input
            id={id}
            type="file"
            required
            accept={CLIP_TYPES}
            onChange={(e) => setFile(e.target.files?.[0] ?? null)}
          />
        )}
      </Field>
      <Field label="It shows" hint="A clap in front of both cameras matches them by itself.">
        {(id) => (
          <Select id={id} value={same} onChange={(e) => setSame(e.target.value)}>
            <option value="yes">the same pass, filmed at once</option>
            <option value="no">another pass</option>
          </Select>
        )}
      </Field>
      <div className="flex justify-end">
        <Button type="submit" tone="main" disabled={!file || add.isPending}>
          Send
        </Button>
      </div>
    </form>
  );
}

/** What is to be known on the Bench of a clip that is not the run's first. */
export function AnotherClip({
  bench,
  t,
  first,
  onFirst,
}: {
  bench: Bench;
  t: number;
  /** Where the first clip stood when it was left, seconds. */
  first?: number;
  onFirst: (clip: Clip) => void;
}) {
  const client = useQueryClient();
  const here = bench.clips.find((c) => c.here);
  const match = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runs/{id}/match", {
          params: { path: { id: bench.run.id } },
          body: { by: "hand", at_s: t, first_s: first! },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["bench"] }),
  });
  if (!here || here === bench.clips[0]) return null;
  return (
    <div className="flex flex-wrap items-center gap-2 rounded border border-line bg-sheet px-3 py-1.5">
      <span className="mr-auto">
        Another clip of this run, {viewWords(here).toLowerCase()}. The verdict stands with the first clip.
      </span>
      {here.pass_no === 1 && first !== undefined && (
        <Button disabled={match.isPending} onClick={() => match.mutate()}>
          This is the first clip’s {first.toFixed(2)} s
        </Button>
      )}
      <Button onClick={() => onFirst(bench.clips[0]!)}>First clip</Button>
      {match.error && (
        <p role="alert" className="text-sm text-bad">
          {match.error.message}
        </p>
      )}
    </div>
  );
}

/** Another view of the same instant, laid into the corner of the Stage. */
export function OtherView({ bench, clip, t }: { bench: Bench; clip: Clip; t: number }) {
  const other = useQuery(benchQuery(clip.run)).data;
  const at = placeIn(bench, clip, t);
  return (
    <figure className="absolute top-2 right-2 w-[38%] rounded border border-line bg-sheet p-1">
      {other && at !== null && <Picture other={other} at={at} />}
      <figcaption className="px-1 text-sm">
        {at === null
          ? "This clip is not matched in time yet."
          : `${viewWords(clip)}, ${at.toFixed(2)} s ± ${(clip.offset_pm_s ?? 0).toFixed(2)} s`}
      </figcaption>
    </figure>
  );
}

function Picture({ other, at }: { other: Bench; at: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const clip = other.run.clip!;
  const stretch = other.run.filmed_fps ? other.run.filmed_fps / (clip.fps ?? 1) : 1;
  const source = useMemo(
    () =>
      new FrameSource(
        `/api/runs/${other.run.id}/video`,
        other.t.map((x) => x * stretch),
      ),
    [other.run.id, other.t, stretch],
  );
  useEffect(() => () => source.close(), [source]);
  const frame = nearest(other.t, at);
  useEffect(() => {
    let current = true;
    source
      .frame(frame)
      .then(async (picture) => {
        if (canvas.current && current) await paint(canvas.current, picture, undefined, () => current);
      })
      .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [source, frame]);
  return (
    <canvas
      ref={canvas}
      width={480}
      height={Math.round((480 * (clip.height ?? 9)) / (clip.width ?? 16))}
      role="img"
      aria-label={`The other clip, frame ${frame}`}
      className="w-full rounded bg-picture-dark"
    />
  );
}
