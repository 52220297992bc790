import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { CircleCheck, Clock, Ellipsis, TriangleAlert } from "lucide-react";
import { DropdownMenu as Menu } from "radix-ui";
import { useState } from "react";

import { api, need, type Run } from "../api/client";
import { day } from "../ui/days";
import { Bar, Button } from "../ui/parts";
import { ChangeRun } from "./NewRun";
import { Elsewhere, SendClip, SendTracks } from "./SendClip";
import { useSendingTo } from "./sendings";
import { STANDS, type Standing } from "../ui/standing";

/** Runs of one kind, each with where it stands and what can be done with it. */
export function Runs({
  title,
  rows,
  chosen,
  onChoose,
  onRemoved,
  children,
}: {
  title: string;
  rows: Run[];
  chosen: Set<number>;
  onChoose: (run: number, on: boolean) => void;
  onRemoved: (run: Run) => void;
  /** What is done with all of them, beside the heading. */
  children?: React.ReactNode;
}) {
  return (
    <section>
      <div className="mb-2 flex items-baseline justify-between gap-3">
        <h2 className="text-lg">{title}</h2>
        {children}
      </div>
      <ul className="divide-y divide-line rounded-lg border border-line bg-sheet">
        {rows.map((run) => (
          <li
            key={run.id}
            className="grid grid-cols-[1.2rem_3.6rem_minmax(0,1fr)_auto] items-center gap-x-3 gap-y-2 px-4 py-2 md:grid-cols-[1.2rem_3.6rem_minmax(0,1fr)_minmax(15rem,auto)_auto]"
          >
            <input
              type="checkbox"
              aria-label={`Choose ${run.rider.name}’s run`}
              className="size-5"
              checked={chosen.has(run.id)}
              onChange={(e) => onChoose(run.id, e.target.checked)}
            />
            <RunRow run={run} />
            <More run={run} onRemoved={onRemoved} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The rider on this run with their number on it; the number alone where there is no picture yet. */
function Portrait({ run }: { run: Run }) {
  const [none, setNone] = useState(false);
  const { number } = run.rider;
  const label = number == null ? "no number" : `number ${number}`;
  if (none || run.state !== "ready" || !run.clip)
    return (
      <span
        className="order-1 grid size-14 place-items-center rounded-full border-2 border-line text-lg font-bold md:order-none"
        role="img"
        aria-label={label}
      >
        {number ?? "–"}
      </span>
    );
  return (
    <span className="relative order-1 size-14 md:order-none">
      <img
        src={`/api/runs/${run.id}/portrait`}
        alt=""
        loading="lazy"
        className="size-14 rounded bg-tint object-cover"
        onError={() => setNone(true)}
      />
      <span
        className="absolute -right-1.5 -bottom-1.5 grid min-w-6 place-items-center rounded-full border border-line bg-sheet px-1 text-sm font-bold"
        role="img"
        aria-label={label}
      >
        {number ?? "–"}
      </span>
    </span>
  );
}

/** The run's Ribbon in small. */
function Outline({ points }: { points: number[] }) {
  if (points.length < 2) return null;
  const at = points
    .map((v, k) => `${((100 * k) / (points.length - 1)).toFixed(1)},${(12 + 0.1 * v).toFixed(1)}`)
    .join(" ");
  return (
    <svg viewBox="0 0 100 24" preserveAspectRatio="none" className="h-6 w-28 shrink-0 max-md:hidden" aria-hidden>
      <line x1={0} x2={100} y1={12} y2={12} stroke="var(--line)" vectorEffect="non-scaling-stroke" />
      <polyline points={at} fill="none" stroke="var(--soft)" strokeWidth={2} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

function RunRow({ run }: { run: Run }) {
  const { rider } = run;
  return (
    <>
      <Portrait run={run} />
      <div className="order-2 min-w-0 md:order-none">
        <p className="truncate text-lg font-semibold">
          {run.state === "ready" ? (
            <Link
              to="/runs/$run"
              params={{ run: run.id }}
              className="underline decoration-line underline-offset-4 hover:decoration-current"
            >
              {rider.name}
            </Link>
          ) : (
            rider.name
          )}
        </p>
        <p className="truncate text-soft">{[run.title, run.level, rider.colours].filter(Boolean).join(" · ")}</p>
        {run.intention_text && <p className="truncate">Trying to: {run.intention_text}</p>}
        <Stands run={run} />
      </div>
      <Status run={run} />
    </>
  );
}

/** Where the run stands, and the day that an answer is promised for. */
function Stands({ run }: { run: Run }) {
  const late = run.due && !run.approved && run.due < new Date().toLocaleDateString("en-CA");
  const words = [
    run.stands && !SAID_BESIDE.has(run.stands) ? STANDS[run.stands as Standing] + presses(run) : "",
    run.sent_in ? "sent by the rider" : "",
  ].filter(Boolean);
  if (!run.due && words.length === 0) return null;
  return (
    <p className="text-sm text-soft">
      {run.due && !run.approved && (
        <b className={`font-semibold ${late ? "text-bad" : ""}`}>
          {late ? "Was due" : "Due"} {day(run.due)}
          {words.length > 0 && " · "}
        </b>
      )}
      {words.join(" · ")}
    </p>
  );
}

/** How much of a look it needs. */
const presses = ({ stands, presses: n }: Run) =>
  stands !== "look" || !n ? "" : n === 1 ? ", one press" : `, ${n} presses`;

/** What a row says in its own place already. */
const SAID_BESIDE = new Set(["arriving", "followed", "unreadable"]);

/** What can be done with a run besides reviewing it. */
function More({ run, onRemoved }: { run: Run; onRemoved: (run: Run) => void }) {
  const client = useQueryClient();
  const [changing, setChanging] = useState(false);
  const remove = useMutation({
    mutationFn: () => need(api.DELETE("/api/runs/{id}", { params: { path: { id: run.id } } })),
    onSuccess: async () => {
      onRemoved(run);
      await client.invalidateQueries({ queryKey: ["runs"] });
    },
  });
  return (
    <div className="order-3 md:order-none">
      <Menu.Root>
        <Menu.Trigger
          aria-label={`More for ${run.rider.name}’s run`}
          className="grid size-9 place-items-center rounded hover:bg-tint"
        >
          <Ellipsis aria-hidden className="size-5" />
        </Menu.Trigger>
        <Menu.Portal>
          <Menu.Content align="end" className="z-20 min-w-40 rounded border border-line bg-sheet p-1 shadow-lg">
            <Menu.Item className={ITEM} onSelect={() => setChanging(true)}>
              Change…
            </Menu.Item>
            <Menu.Item className={`${ITEM} text-bad`} onSelect={() => remove.mutate()}>
              Remove
            </Menu.Item>
          </Menu.Content>
        </Menu.Portal>
      </Menu.Root>
      {remove.error && (
        <p role="alert" className="text-sm text-bad">
          {remove.error.message}
        </p>
      )}
      <ChangeRun run={run} open={changing} onOpen={setChanging} />
    </div>
  );
}

const ITEM = "cursor-pointer rounded px-3 py-1.5 outline-none data-[highlighted]:bg-tint";

function Status({ run }: { run: Run }) {
  const client = useQueryClient();
  const [sending, setSending] = useState(false);
  const sent = useSendingTo(run.id);
  const [tracks, setTracks] = useState(false);
  const fresh = () => client.invalidateQueries({ queryKey: ["runs"] });
  const cancel = useMutation({
    mutationFn: () => need(api.POST("/api/runs/{id}/cancel", { params: { path: { id: run.id } } })),
    onSettled: fresh,
  });
  const retry = useMutation({
    mutationFn: () => need(api.POST("/api/runs/{id}/retry", { params: { path: { id: run.id } } })),
    onSettled: fresh,
  });
  if (run.state === "ready")
    return (
      <div className="order-4 col-span-4 flex items-center justify-end gap-3 md:order-none md:col-span-1">
        <Outline points={run.outline} />
        <span className="flex items-center gap-1.5">
          {run.approved && <CircleCheck aria-hidden className="size-4 text-good" />}
          {run.main_title === "" ? "Nothing to put right" : run.main_title}
        </span>
        <Link
          to="/runs/$run"
          params={{ run: run.id }}
          className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
          aria-label={`Open ${run.rider.name}'s run on the Bench`}
        >
          Bench
        </Link>
      </div>
    );
  if (run.state === "queued" || run.state === "working")
    return (
      <div className="order-4 col-span-4 grid gap-1 md:order-none md:col-span-1">
        <div className="flex items-center justify-between gap-3">
          <span className="flex items-center gap-1.5 text-soft">
            <Clock aria-hidden className="size-4" /> {run.state === "queued" ? "In the queue" : run.step || "Starting"}
            {run.seconds_left != null && ` · about ${leftWords(run.seconds_left)} left`}
          </span>
          <span className="flex items-center gap-1">
            <ByEye run={run} />
            <Button tone="quiet" className="text-sm" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
              Cancel
            </Button>
          </span>
        </div>
        <Bar share={run.progress ?? 0} label={`Analysis of ${run.rider.name}'s run`} />
      </div>
    );
  if (sent && sent.share !== null)
    return (
      <div className="order-4 col-span-4 grid gap-1 md:order-none md:col-span-1">
        <div className="flex items-center justify-between gap-3">
          <span className="text-soft">
            {sent.waiting ? "Waiting for the connection" : `Sending, ${Math.round(100 * sent.share)} %`}
          </span>
          <Button tone="quiet" className="text-sm" onClick={sent.cancel}>
            Cancel
          </Button>
        </div>
        <Bar share={sent.share} label={`Sending ${run.rider.name}'s clip`} />
        <SendClip run={run} open={sending} onOpen={setSending} />
      </div>
    );
  const broken = run.state === "failed";
  return (
    <div className="order-4 col-span-4 grid justify-items-end gap-1.5 md:order-none md:col-span-1">
      {broken && (
        <p className="flex max-w-sm items-start gap-1.5 text-sm text-bad">
          <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0" /> {run.problem}
        </p>
      )}
      {sent?.problem && !sending && (
        <p role="alert" className="flex max-w-sm flex-wrap items-start gap-1.5 text-sm text-bad">
          {sent.problem} <Elsewhere run={sent.elsewhere} into={run.id} />
        </p>
      )}
      {run.state === "cancelled" && <p className="text-soft">Cancelled; the clip is kept.</p>}
      <div className="flex gap-2">
        <ByEye run={run} />
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

/** The way to the Bench before anybody is followed, or where nobody can be. */
function ByEye({ run }: { run: Run }) {
  const go = useNavigate();
  const open = useMutation({
    mutationFn: () => need(api.POST("/api/runs/{id}/by_eye", { params: { path: { id: run.id } } })),
    onSuccess: () => go({ to: "/runs/$run", params: { run: run.id } }),
  });
  if (!run.clip?.playable) return null;
  return (
    <>
      {open.error && (
        <span role="alert" className="text-sm text-bad">
          {open.error.message}
        </span>
      )}
      <Button
        tone="quiet"
        className="text-sm"
        disabled={open.isPending}
        onClick={() => open.mutate()}
        aria-label={`Judge ${run.rider.name}’s run by eye`}
      >
        Judge by eye
      </Button>
    </>
  );
}

const leftWords = (seconds: number) =>
  seconds < 90 ? `${Math.max(5, Math.ceil(seconds / 5) * 5)} s` : `${Math.round(seconds / 60)} min`;
