import { Link } from "@tanstack/react-router";
import { CircleCheck, Ellipsis, Play, TriangleAlert } from "lucide-react";
import { DropdownMenu as Menu } from "radix-ui";
import { useState } from "react";

import type { Rider } from "../api/client";
import { isBusy } from "../api/queries";
import { RiderOptions } from "../desk/RiderField";
import { Bar, Select } from "../ui/parts";
import { clock, pictureOf, seconds, type Film, type Go } from "./goes";

export type Act = "join" | "split" | "leave" | "away";
const ITEM = "cursor-pointer rounded px-3 py-1.5 outline-none data-[highlighted]:bg-tint data-[disabled]:opacity-55";

/** One go: its picture, its times, who rides, and what became of it. */
export function GoRow({
  film,
  go,
  n,
  club,
  chosen,
  last,
  onChoose,
  onPlay,
  onRider,
  onTimes,
  onAct,
}: {
  film: Film;
  go: Go;
  n: number;
  club?: Rider[];
  chosen: boolean;
  last: boolean;
  onChoose: () => void;
  onPlay: () => void;
  onRider: (rider: number | null) => void;
  onTimes: (times: { from_s?: number; to_s?: number }) => void;
  onAct: (act: Act) => void;
}) {
  const made = go.run !== null && !go.run.removed;
  const name = club?.find((r) => r.id === go.rider)?.name;
  return (
    <li
      data-go={go.id}
      aria-current={chosen || undefined}
      onFocus={onChoose}
      className={`grid grid-cols-[4rem_minmax(0,1fr)_auto] items-center gap-x-3 gap-y-1 px-2 py-1.5 sm:grid-cols-[4rem_7.5rem_minmax(8rem,11rem)_minmax(0,1fr)_auto] ${chosen ? "bg-tint" : ""} ${go.left_out ? "opacity-60" : ""}`}
    >
      <button
        type="button"
        tabIndex={chosen ? 0 : -1}
        data-play
        onClick={onPlay}
        aria-label={`Go ${n}${name ? `, ${name}` : ""}, at ${clock(go.from_s)}: play`}
        className="relative size-16 overflow-hidden rounded bg-tint max-sm:row-span-2"
      >
        {film.playable && go.id > 0 && (
          <img src={pictureOf(film.id, go)} alt="" loading="lazy" className="size-full object-cover" />
        )}
        <Play aria-hidden className="absolute right-1 bottom-1 size-4 rounded-full bg-sheet p-0.5" />
        <span className="absolute top-0 left-0 rounded-br bg-sheet px-1 text-sm font-semibold">{n}</span>
      </button>
      <span className="grid gap-0.5 text-sm">
        <Time label={`Go ${n} begins`} value={go.from_s} fixed={made} onTyped={(from_s) => onTimes({ from_s })} />
        <Time label={`Go ${n} ends`} value={go.to_s} fixed={made} onTyped={(to_s) => onTimes({ to_s })} />
        <span className="text-soft">{(go.to_s - go.from_s).toFixed(1)} s long</span>
      </span>
      <span className="flex items-center gap-1.5 max-sm:col-start-2">
        <kbd className="rounded border border-line bg-sheet px-1.5 text-sm font-semibold" aria-hidden>
          {go.who}
        </kbd>
        <Select
          aria-label={`Rider of go ${n}`}
          value={go.rider ?? ""}
          onChange={(e) => onRider(e.target.value ? Number(e.target.value) : null)}
        >
          <RiderOptions people={club} />
        </Select>
      </span>
      <Became go={go} />
      <Menu.Root>
        <Menu.Trigger
          aria-label={`More for go ${n}`}
          className="col-start-3 row-start-1 grid size-9 place-items-center rounded hover:bg-tint sm:col-start-5"
        >
          <Ellipsis aria-hidden className="size-5" />
        </Menu.Trigger>
        <Menu.Portal>
          <Menu.Content align="end" className="z-20 min-w-44 rounded border border-line bg-sheet p-1 shadow-lg">
            <Menu.Item className={ITEM} disabled={made || last} onSelect={() => onAct("join")}>
              Join with the next (J)
            </Menu.Item>
            <Menu.Item className={ITEM} disabled={made} onSelect={() => onAct("split")}>
              Split where the film stands (S)
            </Menu.Item>
            <Menu.Item className={ITEM} disabled={made} onSelect={() => onAct("leave")}>
              {go.left_out ? "Take it in again (X)" : "Leave it out (X)"}
            </Menu.Item>
            <Menu.Item className={`${ITEM} text-bad`} disabled={made} onSelect={() => onAct("away")}>
              Take it off the list
            </Menu.Item>
          </Menu.Content>
        </Menu.Portal>
      </Menu.Root>
    </li>
  );
}

/** A time of the film that can be typed over. */
function Time({
  label,
  value,
  fixed,
  onTyped,
}: {
  label: string;
  value: number;
  fixed: boolean;
  onTyped: (s: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  if (fixed) return <span>{clock(value)}</span>;
  const done = () => {
    const s = typed === null ? null : seconds(typed);
    setTyped(null);
    if (s !== null && clock(s) !== clock(value)) onTyped(s);
  };
  return (
    <input
      aria-label={label}
      value={typed ?? clock(value)}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") done();
        if (e.key === "Escape") setTyped(null);
      }}
      aria-invalid={typed !== null && seconds(typed) === null}
      className="min-h-6 w-full rounded border border-transparent bg-transparent px-1 hover:border-line focus:border-line focus:bg-sheet aria-invalid:border-bad"
    />
  );
}

/** How far the run of a go is, or its verdict with its one fix. */
function Became({ go }: { go: Go }) {
  const run = go.run;
  const place = "min-w-0 text-sm max-sm:col-span-3";
  if (!run)
    return (
      <span className={`${place} text-soft`}>
        {go.left_out ? "Left out" : go.rider ? "Waits to be judged" : "Say who rides"}
      </span>
    );
  if (run.removed) return <span className={`${place} text-soft`}>Its run was removed; it can be judged again.</span>;
  if (isBusy(run))
    return (
      <span className={`${place} grid gap-1`}>
        <span className="text-soft">{run.state === "queued" ? "In the queue" : run.step || "Starting"}</span>
        <Bar share={run.progress ?? 0} label="Analysis of this go" />
      </span>
    );
  if (run.state !== "ready")
    return (
      <span className={`${place} flex items-start gap-1.5 text-bad`}>
        <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0" />
        {run.state === "cancelled" ? "Cancelled; the Desk goes on with it." : run.problem}
      </span>
    );
  return (
    <span className={place}>
      <Link
        to="/runs/$run"
        params={{ run: run.id }}
        className="font-semibold underline decoration-line underline-offset-4 hover:decoration-current"
      >
        {run.main_title === "" ? "Nothing found" : run.main_title}
      </Link>{" "}
      {run.approved && <CircleCheck aria-label="approved" className="inline size-4 text-good" />}
      {run.cue && <span className="block text-soft">{run.cue}</span>}
    </span>
  );
}
