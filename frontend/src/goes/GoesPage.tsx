import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { useEffect, useRef, useState } from "react";

import { api, need } from "../api/client";
import { disciplines, film as filmQuery, isBusy, riders } from "../api/queries";
import { CLIP_HINT, CLIP_TYPES } from "../desk/SendClip";
import { sendTo, useSendingTo } from "../desk/sendings";
import { Bar, Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { UndoRedo } from "../ui/UndoRedo";
import { changed, clock, joined, named, ridden, split, SHORTEST_S, type Film } from "./goes";
import { GoRow, type Act } from "./GoRow";
import { Riders } from "./Riders";
import { useTable } from "./useTable";

/** A session film: its goes in a table, who rides in each, and what became of them. */
export function GoesPage() {
  const { film: id } = useParams({ from: "/inside/films/$film" });
  const found = useQuery(filmQuery(id));
  if (found.isPending) return <Waiting what="Loading the film" />;
  if (found.error) return <Trouble error={found.error} again={() => void found.refetch()} />;
  return <Goes film={found.data} />;
}

/** How long a go is that is added by hand, seconds. */
const NEW_S = 5;

export function Goes({ film }: { film: Film }) {
  const client = useQueryClient();
  const club = useQuery(riders).data?.results;
  const book = useQuery(disciplines).data?.find((b) => b.id === film.discipline);
  const table = useTable(film);
  const [at, setAt] = useState(0);
  const [said, setSaid] = useState("");
  const video = useRef<HTMLVideoElement>(null);
  const list = useRef<HTMLOListElement>(null);
  const until = useRef<number | null>(null);
  const { rows } = table;
  const k = Math.min(at, rows.length - 1);

  const judge = useMutation({
    mutationFn: () => need(api.POST("/api/session-films/{id}/judge", { params: { path: { id: film.id } } })),
    onSuccess: (fresh) => {
      client.setQueryData(filmQuery(film.id).queryKey, fresh);
      void client.invalidateQueries({ queryKey: ["runs"] });
    },
  });
  const choose = (next: number, focus = false) => {
    const to = Math.max(0, Math.min(rows.length - 1, next));
    setAt(to);
    setSaid("");
    if (video.current && rows[to]) video.current.currentTime = rows[to].from_s;
    if (focus) list.current?.querySelectorAll<HTMLElement>("[data-play]")[to]?.focus();
  };
  const play = (which: number) => {
    const row = rows[which];
    if (!video.current || !row) return;
    if (which === k && !video.current.paused) return video.current.pause();
    setAt(which);
    video.current.currentTime = row.from_s;
    until.current = row.to_s;
    void video.current.play();
  };
  const locked = (which: number) => (film.goes[which]?.run?.removed ?? true) === false;
  const act = (what: Act, which: number) => {
    setSaid("");
    if (locked(which)) return setSaid("A run was made of this go; remove the run first, on the Desk.");
    if (what === "join") {
      if (which + 1 >= rows.length) return setSaid("There is no go after this one.");
      if (locked(which + 1)) return setSaid("A run was made of the next go already.");
      table.change(joined(rows, which));
    } else if (what === "split") {
      const cut = split(rows, which, video.current?.currentTime ?? 0);
      if (!cut)
        return setSaid(
          `Play the film to where the second go begins: it stands at ${clock(video.current?.currentTime ?? 0)}, and each go has ${SHORTEST_S} s at the least.`,
        );
      table.change(cut);
    } else if (what === "leave") table.change(changed(rows, which, { left_out: !rows[which]!.left_out }));
    else table.change(rows.filter((_, i) => i !== which));
  };
  const keys = (e: KeyboardEvent) => {
    const target = e.target as HTMLElement;
    if (target.closest("input, select, textarea, [role=menu], [role=dialog]")) return;
    const command = e.ctrlKey || e.metaKey;
    const key = e.key.toLowerCase();
    if (command && key === "z") (e.shiftKey ? table.redo : table.undo)();
    else if (command && key === "y") table.redo();
    else if (command || e.altKey) return;
    else if (key === "arrowdown") choose(k + 1, true);
    else if (key === "arrowup") choose(k - 1, true);
    else if (rows.length === 0) return;
    else if (/^[1-9]$/.test(key)) table.change(ridden(rows, k, Number(key)));
    else if (key === "j") act("join", k);
    else if (key === "s") act("split", k);
    else if (key === "x") act("leave", k);
    else if (key === " " && target.closest("button, a, summary, video") === null) play(k);
    else return;
    e.preventDefault();
  };
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => latest.current(e);
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);

  const free = (g: Film["goes"][number]) => g.run === null || g.run.removed;
  const waiting = film.goes.filter((g) => free(g) && !g.left_out && g.rider).length;
  const judged = film.goes.filter((g) => !free(g)).length;
  const nameless = film.goes.filter((g) => free(g) && !g.left_out && !g.rider).length;
  const searched = film.state === "ready" || film.goes.length > 0;
  return (
    <div className="mx-auto grid max-w-7xl gap-4 p-4">
      <header className="flex flex-wrap items-center gap-2">
        <Link to="/" aria-label="Back to the Desk" className="grid size-9 place-items-center rounded hover:bg-tint">
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <div className="mr-auto min-w-0">
          <h1 className="truncate text-xl">{film.title || film.name || "Session film"}</h1>
          <p className="text-sm text-soft">
            {[
              "Session film",
              book?.title ?? film.discipline,
              film.length_s ? `${clock(film.length_s)} long` : "",
              searched ? `${film.goes.length} ${film.goes.length === 1 ? "go" : "goes"}` : "",
              judged ? `${judged} judged` : "",
            ]
              .filter(Boolean)
              .join(" · ")}
          </p>
        </div>
        {film.goes.length > 0 && (
          <>
            <span role="status" className="text-sm text-soft">
              {table.sending ? "Saving" : nameless ? `${nameless} without a rider` : ""}
            </span>
            <UndoRedo
              can_undo={table.can_undo}
              can_redo={table.can_redo}
              onStep={(step) => (step === "undo" ? table.undo() : table.redo())}
            />
            <Button
              tone="main"
              disabled={waiting === 0 || table.sending || judge.isPending || !film.playable}
              onClick={() => judge.mutate()}
            >
              {waiting ? `Judge ${waiting} ${waiting === 1 ? "go" : "goes"}` : "Judge"}
            </Button>
          </>
        )}
      </header>
      {[table.error, judge.error].map(
        (error) =>
          error && (
            <p key={error.message} role="alert" className="rounded border border-bad px-3 py-2 text-bad">
              {error.message}
            </p>
          ),
      )}
      {said && (
        <p role="status" className="rounded border border-line bg-sheet px-3 py-2">
          {said}
        </p>
      )}
      <Arriving film={film} />
      {searched && (
        <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,1fr)_24rem]">
          <section aria-label="Goes" className="min-w-0 max-lg:order-2">
            {film.goes.length === 0 ? (
              <p className="rounded border border-dashed border-line p-8 text-center text-soft">
                Nobody was seen riding in this film. Play it to where a go begins and press “Add a go here”.
              </p>
            ) : (
              <ol ref={list} className="divide-y divide-line rounded-lg border border-line bg-sheet">
                {film.goes.map((go, i) => (
                  <GoRow
                    key={go.id}
                    film={film}
                    go={go}
                    n={i + 1}
                    club={club}
                    chosen={i === k}
                    last={i + 1 === film.goes.length}
                    onChoose={() => i !== k && choose(i)}
                    onPlay={() => play(i)}
                    onRider={(rider) => table.change(changed(rows, i, { rider }))}
                    onTimes={(times) => table.change(changed(rows, i, times))}
                    onAct={(what) => act(what, i)}
                  />
                ))}
              </ol>
            )}
          </section>
          <aside className="grid gap-3 lg:sticky lg:top-3">
            {film.playable ? (
              <div className="grid gap-2">
                <video
                  ref={video}
                  src={`/api/session-films/${film.id}/video`}
                  controls
                  muted
                  playsInline
                  preload="auto"
                  aria-label="The film"
                  className="w-full rounded bg-picture-dark"
                  onTimeUpdate={(e) => {
                    if (until.current !== null && e.currentTarget.currentTime >= until.current) {
                      until.current = null;
                      e.currentTarget.pause();
                    }
                  }}
                />
                <div className="flex flex-wrap gap-2">
                  {(["from_s", "to_s"] as const).map((edge) => (
                    <Button
                      key={edge}
                      disabled={!rows[k] || locked(k)}
                      onClick={() => table.change(changed(rows, k, { [edge]: video.current!.currentTime }))}
                    >
                      {edge === "from_s" ? "Begins here" : "Ends here"}
                    </Button>
                  ))}
                  <Button disabled={!rows[k] || locked(k)} onClick={() => act("split", k)}>
                    Split here
                  </Button>
                  <Button
                    onClick={() => {
                      const from_s = video.current!.currentTime;
                      const to_s = Math.min(film.length_s ?? 0, from_s + NEW_S);
                      const blank = { id: null, who: 1, rider: null, left_out: false, at_s: null, box: null };
                      if (to_s - from_s < SHORTEST_S) setSaid("The film ends here. Go back a little.");
                      else table.change([...rows, { ...blank, from_s, to_s }]);
                    }}
                  >
                    Add a go here
                  </Button>
                </div>
              </div>
            ) : (
              <p className="rounded bg-tint p-4 text-soft">The film can be played in a moment.</p>
            )}
            {film.goes.length > 0 && (
              <Riders film={film} club={club} onName={(who, rider) => table.change(named(rows, who, rider))} />
            )}
            {film.goes.length > 0 && (
              <p className="text-sm text-soft max-sm:hidden">
                ↑ ↓ another go · 1–9 who rides · J join with the next · S split · X leave out · space plays
              </p>
            )}
          </aside>
        </div>
      )}
    </div>
  );
}

/** A film on its way in, being searched, or what went wrong with it. */
function Arriving({ film }: { film: Film }) {
  const client = useQueryClient();
  const go = useNavigate();
  const sent = useSendingTo(`film/${film.film}`);
  const path = { path: { id: film.id } };
  const fresh = () => client.invalidateQueries({ queryKey: ["films"] });
  const cancel = useMutation({
    mutationFn: () => need(api.POST("/api/session-films/{id}/cancel", { params: path })),
    onSettled: fresh,
  });
  const retry = useMutation({
    mutationFn: () => need(api.POST("/api/session-films/{id}/retry", { params: path })),
    onSettled: fresh,
  });
  const instead = useMutation({
    mutationFn: async (run: number) => {
      const { discipline, title, view, filmed_on } = film;
      const made = await need(api.POST("/api/session-films", { body: { discipline, title, view, filmed_on, run } }));
      await need(api.DELETE("/api/session-films/{id}", { params: { ...path, query: { for_good: true } } }));
      return made.id;
    },
    onSuccess: async (id) => {
      await fresh();
      await go({ to: "/films/$film", params: { film: id } });
    },
  });
  if (sent && sent.share !== null)
    return (
      <div className="grid gap-1">
        <div className="flex items-center justify-between">
          <span className="text-soft">
            {sent.waiting
              ? "Waiting for the connection"
              : `Sending, ${Math.round(100 * sent.share)} %. You can leave this page; it goes on.`}
          </span>
          <Button tone="quiet" onClick={sent.cancel}>
            Cancel
          </Button>
        </div>
        <Bar share={sent.share} label="Sending the film" />
      </div>
    );
  if (isBusy(film))
    return (
      <div className="grid gap-1">
        <div className="flex items-center justify-between">
          <span role="status" className="text-soft">
            {film.state === "queued" ? "In the queue" : film.step || "Starting"},{" "}
            {Math.round(100 * (film.progress ?? 0))} %
          </span>
          <Button tone="quiet" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            Cancel
          </Button>
        </div>
        <Bar share={film.progress ?? 0} label="Looking for goes" />
      </div>
    );
  if (film.state === "ready") return null;
  return (
    <div className="grid gap-3 rounded border border-line bg-sheet p-4">
      {(sent?.problem || film.problem) && (
        <p role="alert" className="text-bad">
          {sent?.problem || film.problem}
        </p>
      )}
      {sent?.elsewhere != null && (
        <Button className="w-fit" disabled={instead.isPending} onClick={() => instead.mutate(sent.elsewhere!)}>
          Cut that run’s clip into goes
        </Button>
      )}
      {instead.error && (
        <p role="alert" className="text-bad">
          {instead.error.message}
        </p>
      )}
      {film.state === "waiting" ? (
        <Field label="The film" hint={CLIP_HINT}>
          {(id) => (
            <Input
              id={id}
              type="file"
              accept={CLIP_TYPES}
              onChange={(e) => {
                const file = e.target.files?.[0];
                if (file) void sendTo(`film/${film.film}`, file).then(fresh);
              }}
            />
          )}
        </Field>
      ) : (
        <div className="flex items-center gap-3">
          {film.state === "cancelled" && <span>Cancelled; the film and what was found are kept.</span>}
          <Button disabled={retry.isPending} onClick={() => retry.mutate()}>
            Go on
          </Button>
        </div>
      )}
    </div>
  );
}
