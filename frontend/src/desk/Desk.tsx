import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { CirclePlus } from "lucide-react";
import { useEffect, useState } from "react";

import { api, need, type Run } from "../api/client";
import { busy, desk, disciplines, isBusy, runs, senders, type Wanted } from "../api/queries";
import { DisciplineOptions } from "../ui/DisciplineOptions";
import { Button, Input, Select, Trouble, Waiting } from "../ui/parts";
import { Chosen } from "./Chosen";
import { Films, NewFilm } from "./Films";
import { NewRun } from "./NewRun";
import { Plan } from "./Plan";
import { Runs } from "./Runs";
import { STANDS, type Standing } from "../ui/standing";
import { useDrop } from "./useDrop";
import { useNews } from "./useNews";

const PAGE = 50;

/** What waits: every run of the club, the ones that need the coach first. */
export function Desk() {
  const [offset, setOffset] = useState(0);
  const [wanted, setWanted] = useState<Wanted>({ order: "due" });
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const narrow = (more: Wanted) => {
    setOffset(0);
    // What is no longer shown is not done anything to.
    setChosen(new Set());
    setWanted({ ...wanted, ...more });
  };
  const turn = (to: number) => {
    setChosen(new Set());
    setOffset(to);
  };
  const choose = (run: number, on: boolean) =>
    setChosen(new Set(on ? [...chosen, run] : [...chosen].filter((r) => r !== run)));
  const plan = useQuery(desk);
  useNews();
  const list = useQuery(runs(wanted, offset));
  const books = useQuery(disciplines);
  const now = useProgress(list.data?.results);
  const [making, setMaking] = useState<"run" | "film" | null>(null);
  const [removed, setRemoved] = useState<Run | null>(null);
  const [dropped, setDropped] = useState<File[]>([]);
  const [noFilm, setNoFilm] = useState(false);
  const over = useDrop(
    (files) => {
      setNoFilm(false);
      // What is being filled in already is not pushed aside.
      if (making) return;
      setDropped(files);
      setMaking("run");
    },
    () => setNoFilm(true),
  );
  const restore = useRestore();
  if (list.isPending) return <Waiting what="Loading the Desk" />;
  if (list.error) return <Trouble error={list.error} again={() => void list.refetch()} />;
  const { count } = list.data;
  const results = list.data.results.map((r) => ({ ...r, ...now?.get(r.id) }));
  const open = results.filter((r) => !r.approved);
  const done = results.filter((r) => r.approved);
  return (
    <div className="mx-auto grid max-w-5xl gap-6 p-5">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-auto text-2xl">{wanted.removed ? "Removed runs" : "Desk"}</h1>
        <SentIn />
        <Button onClick={() => setMaking("film")}>Session film</Button>
        <Button tone="main" onClick={() => setMaking("run")}>
          <CirclePlus aria-hidden className="size-4" /> New run
        </Button>
      </div>
      <div className="-mt-3 flex flex-wrap items-center gap-2">
        <Input
          aria-label="Find a run"
          placeholder="Find a name, number or words"
          className="max-w-56"
          value={wanted.find ?? ""}
          onChange={(e) => narrow({ find: e.target.value || undefined })}
        />
        <Select
          aria-label="Discipline"
          className="max-w-48"
          value={wanted.discipline ?? ""}
          onChange={(e) => narrow({ discipline: e.target.value || undefined })}
        >
          <option value="">Every discipline</option>
          <DisciplineOptions books={books.data} />
        </Select>
        <Select
          aria-label="Where it stands"
          className="max-w-44"
          value={wanted.stands ?? ""}
          onChange={(e) => narrow({ stands: (e.target.value || undefined) as Standing | undefined })}
        >
          <option value="">Wherever it stands</option>
          {Object.entries(STANDS).map(([k, words]) => (
            <option key={k} value={k}>
              {words}
              {plan.data && ` (${plan.data.counts[k] ?? 0})`}
            </option>
          ))}
        </Select>
        <Select
          aria-label="Order"
          className="max-w-44"
          value={wanted.order}
          onChange={(e) => narrow({ order: e.target.value as "due" | "newest" })}
        >
          <option value="due">Due, then oldest</option>
          <option value="newest">Newest first</option>
        </Select>
        <Button
          tone="quiet"
          aria-pressed={!!wanted.removed}
          onClick={() => narrow({ removed: wanted.removed ? undefined : true })}
        >
          {wanted.removed ? "Back to the Desk" : "Removed"}
        </Button>
      </div>
      {over && !making && (
        <p className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-lg border-4 border-dashed border-deep bg-sheet/90 text-2xl font-semibold">
          Drop clips here: each makes a run
        </p>
      )}
      {noFilm && (
        <p role="alert" className="rounded border border-bad px-3 py-2 text-bad">
          That was no film. Drop MP4, MOV, MKV, WebM or AVI files.
        </p>
      )}
      {removed && (
        <p role="status" className="flex flex-wrap items-center gap-3 rounded border border-line bg-sheet px-3 py-2">
          {removed.rider.name}’s run was removed. It is kept for 30 days.
          <Button onClick={() => restore.mutate(removed, { onSuccess: () => setRemoved(null) })}>Bring it back</Button>
        </p>
      )}
      {restore.error && (
        <p role="alert" className="rounded border border-bad px-3 py-2 text-bad">
          {restore.error.message}
        </p>
      )}
      {count === 0 && (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">
          {wanted.removed
            ? "Nothing was removed in the last 30 days."
            : wanted.find || wanted.discipline || wanted.stands
              ? "No run matches."
              : "Nothing waits here. Start with a new run: the clip, and who rides."}
        </p>
      )}
      {wanted.removed ? (
        <ul className="divide-y divide-line rounded-lg border border-line bg-sheet">
          {results.map((run) => (
            <li key={run.id} className="flex flex-wrap items-center justify-between gap-3 px-4 py-3">
              <span>
                <b>{run.rider.name}</b>{" "}
                <span className="text-soft">{[run.title, run.level].filter(Boolean).join(" · ")}</span>
              </span>
              <Button onClick={() => restore.mutate(run)} disabled={restore.isPending}>
                Bring it back
              </Button>
            </li>
          ))}
        </ul>
      ) : (
        <>
          <Plan plan={plan.data} books={books.data} />
          <Films />
          <Chosen runs={results.filter((r) => chosen.has(r.id))} onDone={() => setChosen(new Set())} />
          {open.length > 0 && (
            <Runs title="Waiting for you" rows={open} chosen={chosen} onChoose={choose} onRemoved={setRemoved}>
              <Link to="/together" className="min-h-7 text-sm underline">
                One answer to many
              </Link>
            </Runs>
          )}
          {done.length > 0 && (
            <Runs title="Approved" rows={done} chosen={chosen} onChoose={choose} onRemoved={setRemoved}>
              <Link to="/groups" className="min-h-7 text-sm underline">
                Practise together
              </Link>
            </Runs>
          )}
        </>
      )}
      {count > PAGE && (
        <div className="flex items-center gap-3">
          <Button disabled={offset === 0} onClick={() => turn(offset - PAGE)}>
            {wanted.order === "due" ? "Sooner" : "Newer"}
          </Button>
          <span className="text-soft">
            {offset + 1}–{Math.min(offset + PAGE, count)} of {count}
          </span>
          <Button disabled={offset + PAGE >= count} onClick={() => turn(offset + PAGE)}>
            {wanted.order === "due" ? "Later" : "Older"}
          </Button>
        </div>
      )}
      <NewRun
        // Another drop begins another sheet.
        key={dropped.map((f) => f.name).join("/")}
        dropped={dropped}
        open={making === "run"}
        onOpen={(open) => {
          setMaking(open ? "run" : null);
          if (!open) setDropped([]);
        }}
      />
      <NewFilm open={making === "film"} onOpen={(open) => setMaking(open ? "film" : null)} />
    </div>
  );
}

/** The way to what riders sent by a link, with how many wait for somebody to say who they are. */
function SentIn() {
  const waiting = useQuery(senders).data?.count ?? 0;
  return (
    <Link
      to="/intake"
      className="inline-flex min-h-8 items-center gap-1.5 rounded px-3 py-1 font-semibold hover:bg-tint"
    >
      Sent in
      {waiting > 0 && (
        <span className="rounded-full bg-deep px-2 text-sm text-on-deep">
          {waiting}
          <span className="sr-only"> to be named</span>
        </span>
      )}
    </Link>
  );
}

/** Where the runs of a list have got to that are being analysed; when one is done the list is asked again. */
function useProgress(rows: Run[] | undefined) {
  const client = useQueryClient();
  const waiting = (rows ?? []).filter(isBusy).map((r) => r.id);
  const far = useQuery(busy(waiting.length > 0));
  const known = far.data && new Map(far.data.map((r) => [r.id, r]));
  const done = known && far.dataUpdatedAt > 0 && waiting.some((id) => !known.has(id));
  useEffect(() => {
    if (done) void client.invalidateQueries({ queryKey: ["runs"] });
  }, [done, far.dataUpdatedAt, client]);
  return waiting.length ? known : undefined;
}

function useRestore() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (run: Run) => need(api.POST("/api/runs/{id}/restore", { params: { path: { id: run.id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["runs"] }),
  });
}
