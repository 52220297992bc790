import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useMemo, useEffect, useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { footage as footageQuery } from "../api/queries";
import { FrameSource } from "../video/frames";
import { Button, Trouble, Waiting } from "../ui/parts";
import { CameraMarks } from "./CameraMarks";
import { People } from "./People";
import { Plans } from "./Plans";
import type { CameraPart, Footage } from "./types";
import { Verdicts } from "./Verdicts";

const FORMS = [
  ["json", "tracks/1 JSON"],
  ["csv", "CSV"],
  ["parquet", "Parquet"],
  ["coco", "COCO keypoints"],
  ["c3d", "C3D"],
] as const;

/** The clip itself: what its pictures can bear, who is in it, how the camera stood, and how to film next time. */
export function FootagePage() {
  const { run } = useParams({ from: "/inside/runs/$run/footage" });
  const data = useQuery(footageQuery(run));
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Looking at the clip" />;
  return <Open key={run} footage={data.data} />;
}

function Open({ footage }: { footage: Footage }) {
  const { run } = footage;
  const client = useQueryClient();
  const go = useNavigate();
  const source = useMemo(() => new FrameSource(`/api/runs/${run.id}/video`, footage.t), [run.id, footage.t]);
  useEffect(() => () => source.close(), [source]);
  const [problem, setProblem] = useState("");
  const fresh = (changed: Footage) => {
    client.setQueryData(footageQuery(run.id).queryKey, changed);
    void client.invalidateQueries({ queryKey: ["bench", run.id] });
    void client.invalidateQueries({ queryKey: ["script", run.id] });
  };
  const failed = (e: Error) => setProblem(e.message);
  const camera = useMutation({
    mutationFn: (body: CameraPart) =>
      need(api.PATCH("/api/runs/{run}/footage", { params: { path: { run: run.id } }, body })),
    onMutate: () => setProblem(""),
    onSuccess: fresh,
    onError: failed,
  });
  const rate = useMutation({
    mutationFn: async (filmed_fps: number | null) => {
      await need(api.PATCH("/api/runs/{id}", { params: { path: { id: run.id } }, body: { filmed_fps } }));
      return need(api.GET("/api/runs/{run}/footage", { params: { path: { run: run.id } } }));
    },
    onSuccess: fresh,
    onError: failed,
  });
  const person = useMutation({
    mutationFn: (who: Schemas["PersonChoiceRequest"]) =>
      need(api.POST("/api/runs/{run}/person", { params: { path: { run: run.id } }, body: who })),
    onMutate: () => setProblem(""),
    onSuccess: async () => {
      await client.invalidateQueries();
      await go({ to: "/" });
    },
    onError: failed,
  });
  const following = run.state === "working" || run.state === "queued";
  const busy = camera.isPending || rate.isPending || person.isPending;
  return (
    <div className="mx-auto grid max-w-7xl gap-4 p-4">
      <h1 className="flex flex-wrap items-center gap-3 text-xl font-bold">
        The clip of {run.rider.name}
        <span className="text-base font-normal text-soft">
          {[run.title, run.clip?.name].filter(Boolean).join(" · ")}
        </span>
        <Link
          to="/runs/$run"
          params={{ run: run.id }}
          className="ml-auto rounded border border-line bg-sheet px-3 py-1 text-base font-semibold hover:bg-tint"
        >
          Bench
        </Link>
      </h1>
      {problem && (
        <p role="alert" className="rounded border border-bad bg-sheet px-3 py-2 text-bad">
          {problem}
        </p>
      )}
      {footage.filmed_hint !== null && (
        <p className="flex flex-wrap items-center gap-3 rounded border border-line bg-tint px-3 py-2">
          {footage.hint_words}
          <Button disabled={busy} onClick={() => rate.mutate(footage.filmed_hint)}>
            Take it as filmed at {footage.filmed_hint}
          </Button>
        </p>
      )}
      {run.filmed_fps && (
        <p className="flex flex-wrap items-center gap-3 text-soft">
          Times are on the clock of a camera at {run.filmed_fps} frames a second.
          <Button disabled={busy} onClick={() => rate.mutate(null)}>
            Take the file&rsquo;s own times
          </Button>
        </p>
      )}
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,1fr)_27rem]">
        <div className="grid gap-4">
          <CameraMarks
            footage={footage}
            source={source}
            busy={busy || following}
            onSave={(part) => camera.mutate(part)}
            onPoint={(mark) => person.mutate({ mark })}
          />
          <People
            footage={footage}
            source={source}
            busy={busy || following}
            onChoose={(who) => person.mutate({ person: who })}
          />
          <Plans footage={footage} />
        </div>
        <div className="grid gap-4">
          <Verdicts verdicts={footage.verdicts} />
          <section aria-labelledby="save" className="rounded border border-line bg-sheet p-3">
            <h2 id="save" className="text-base">
              Save the tracks
            </h2>
            <p className="mb-2 text-sm text-soft">With all corrections, for another program.</p>
            <p className="flex flex-wrap gap-1.5">
              {FORMS.map(([form, words]) => (
                <a
                  key={form}
                  href={`/api/runs/${run.id}/tracks?form=${form}`}
                  download
                  className="rounded border border-line px-2.5 py-1 font-semibold hover:bg-tint"
                >
                  {words}
                </a>
              ))}
            </p>
          </section>
        </div>
      </div>
    </div>
  );
}
