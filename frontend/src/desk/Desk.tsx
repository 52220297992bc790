import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { CircleCheck, CirclePlus, Clock, TriangleAlert } from "lucide-react";
import { useState } from "react";

import { api, need, type Run } from "../api/client";
import { runs } from "../api/queries";
import { Bar, Button, Trouble, Waiting } from "../ui/parts";
import { NewRun } from "./NewRun";
import { SendClip, SendTracks } from "./SendClip";

const PAGE = 50;

/** What waits: every run of the club, the ones that need the coach first. */
export function Desk() {
  const [offset, setOffset] = useState(0);
  const list = useQuery(runs(undefined, offset));
  const [making, setMaking] = useState(false);
  if (list.isPending) return <Waiting what="Loading the Desk" />;
  if (list.error) return <Trouble error={list.error} again={() => void list.refetch()} />;
  const { results, count } = list.data;
  const open = results.filter((r) => !r.approved);
  const done = results.filter((r) => r.approved);
  return (
    <div className="mx-auto grid max-w-5xl gap-6 p-5">
      <div className="flex items-center justify-between">
        <h1 className="text-2xl">Desk</h1>
        <Button tone="main" onClick={() => setMaking(true)}>
          <CirclePlus aria-hidden className="size-4" /> New run
        </Button>
      </div>
      {count === 0 && (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">Nothing waits here. Start with a new run: say who rides and what they are trying, then add the clip.</p>
      )}
      {open.length > 0 && <Runs title="Waiting for you" rows={open} />}
      {done.length > 0 && <Runs title="Approved" rows={done} />}
      {count > PAGE && (
        <div className="flex items-center gap-3">
          <Button disabled={offset === 0} onClick={() => setOffset(offset - PAGE)}>
            Newer
          </Button>
          <span className="text-soft">
            {offset + 1}–{Math.min(offset + PAGE, count)} of {count}
          </span>
          <Button disabled={offset + PAGE >= count} onClick={() => setOffset(offset + PAGE)}>
            Older
          </Button>
        </div>
      )}
      <NewRun open={making} onOpen={setMaking} />
    </div>
  );
}

function Runs({ title, rows }: { title: string; rows: Run[] }) {
  return (
    <section>
      <h2 className="mb-2 text-lg">{title}</h2>
      <ul className="divide-y divide-line rounded-lg border border-line bg-sheet">
        {rows.map((run) => (
          <li key={run.id} className="grid grid-cols-[3.2rem_1fr_minmax(15rem,auto)] items-center gap-4 px-4 py-3">
            <RunRow run={run} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function RunRow({ run }: { run: Run }) {
  const { rider } = run;
  return (
    <>
      <span className="grid size-11 place-items-center rounded-full border-2 border-line text-lg font-bold" aria-label={rider.number == null ? "no number" : `number ${rider.number}`}>
        {rider.number ?? "–"}
      </span>
      <div className="min-w-0">
        <p className="truncate text-lg font-semibold">
          {run.state === "ready" ? (
            <Link to="/runs/$run" params={{ run: run.id }} className="underline decoration-line underline-offset-4 hover:decoration-current">
              {rider.name}
            </Link>
          ) : (
            rider.name
          )}
        </p>
        <p className="truncate text-soft">{[run.title, run.level, rider.colours].filter(Boolean).join(" · ")}</p>
        {run.intention_text && <p className="truncate">Trying to: {run.intention_text}</p>}
      </div>
      <Status run={run} />
    </>
  );
}

function Status({ run }: { run: Run }) {
  const client = useQueryClient();
  const [sending, setSending] = useState(false);
  const [tracks, setTracks] = useState(false);
  const fresh = () => client.invalidateQueries({ queryKey: ["runs"] });
  const cancel = useMutation({ mutationFn: () => need(api.POST("/api/runs/{id}/cancel", { params: { path: { id: run.id } } })), onSettled: fresh });
  const retry = useMutation({ mutationFn: () => need(api.POST("/api/runs/{id}/retry", { params: { path: { id: run.id } } })), onSettled: fresh });
  if (run.state === "ready")
    return (
      <div className="flex items-center justify-end gap-3">
        <span className="flex items-center gap-1.5">
          {run.approved && <CircleCheck aria-hidden className="size-4 text-good" />}
          {run.main_title === "" ? "Nothing to put right" : run.main_title}
        </span>
        <Link to="/runs/$run" params={{ run: run.id }} className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint" aria-label={`Open ${run.rider.name}'s run on the Bench`}>
          Bench
        </Link>
      </div>
    );
  if (run.state === "queued" || run.state === "working")
    return (
      <div className="grid gap-1">
        <div className="flex items-center justify-between gap-3">
          <span className="flex items-center gap-1.5 text-soft">
            <Clock aria-hidden className="size-4" /> {run.state === "queued" ? "In the queue" : run.step || "Starting"}
            {run.seconds_left != null && ` · about ${leftWords(run.seconds_left)} left`}
          </span>
          <Button tone="quiet" className="text-sm" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            Cancel
          </Button>
        </div>
        <Bar share={run.progress ?? 0} label={`Analysis of ${run.rider.name}'s run`} />
      </div>
    );
  const broken = run.state === "failed";
  return (
    <div className="grid justify-items-end gap-1.5">
      {broken && (
        <p className="flex max-w-sm items-start gap-1.5 text-sm text-bad">
          <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0" /> {run.problem}
        </p>
      )}
      {run.state === "cancelled" && <p className="text-soft">Cancelled; the clip is kept.</p>}
      <div className="flex gap-2">
        {run.clip && (
          <Button onClick={() => retry.mutate()} disabled={retry.isPending}>
            Try again
          </Button>
        )}
        {run.clip?.frames && <Button onClick={() => setTracks(true)}>Hand in tracks</Button>}
        <Button onClick={() => setSending(true)}>{run.clip ? "Send another clip" : "Add the clip"}</Button>
      </div>
      <SendTracks run={run} open={tracks} onOpen={setTracks} />
      <SendClip run={run} open={sending} onOpen={setSending} />
    </div>
  );
}

const leftWords = (seconds: number) => (seconds < 90 ? `${Math.max(5, Math.ceil(seconds / 5) * 5)} s` : `${Math.round(seconds / 60)} min`);
