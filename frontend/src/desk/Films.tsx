import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { Film } from "lucide-react";
import { useState } from "react";

import { api, need, Problem, type Schemas } from "../api/client";
import { disciplines, films, isBusy, runs } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Button, Field, Input, Select, Trouble } from "../ui/parts";
import { VIEWS } from "../ui/views";
import { CLIP_HINT, CLIP_TYPES } from "./SendClip";
import { sendTo, useSendingTo } from "./sendings";

/** Session films on the Desk: how far each is; one that was removed can be brought back. */
export function Films() {
  const client = useQueryClient();
  const asked = useQuery(films);
  const list = asked.data?.results ?? [];
  const [removed, setRemoved] = useState<Schemas["SessionFilm"] | null>(null);
  const fresh = () => client.invalidateQueries({ queryKey: ["films"] });
  const restore = useMutation({
    mutationFn: (id: number) => need(api.POST("/api/session-films/{id}/restore", { params: { path: { id } } })),
    onSuccess: () => setRemoved(null),
    onSettled: fresh,
  });
  if (asked.error) return <Trouble error={asked.error} again={() => void asked.refetch()} />;
  if (!list.length && !removed) return null;
  return (
    <section>
      <h2 className="mb-2 text-lg">Session films</h2>
      {removed && (
        <p
          role="status"
          className="mb-2 flex flex-wrap items-center gap-3 rounded border border-line bg-sheet px-3 py-2"
        >
          {nameOf(removed)} was removed. It is kept for 30 days; its runs stay.
          <Button onClick={() => restore.mutate(removed.id)}>Bring it back</Button>
        </p>
      )}
      <ul className="divide-y divide-line rounded-lg border border-line bg-sheet">
        {list.map((film) => (
          <FilmRow
            key={film.id}
            film={film}
            onRemoved={() => {
              setRemoved(film);
              void fresh();
            }}
          />
        ))}
      </ul>
    </section>
  );
}

const nameOf = (film: Schemas["SessionFilm"]) => film.title || film.name || "A session film";

function FilmRow({ film, onRemoved }: { film: Schemas["SessionFilm"]; onRemoved: () => void }) {
  const sent = useSendingTo(`film/${film.film}`);
  const remove = useMutation({
    mutationFn: () => need(api.DELETE("/api/session-films/{id}", { params: { path: { id: film.id } } })),
    onSuccess: onRemoved,
  });
  const goes = `${film.goes_found} ${film.goes_found === 1 ? "go" : "goes"}`;
  const state =
    sent?.share != null
      ? `Sending, ${Math.round(100 * sent.share)} %`
      : isBusy(film)
        ? `${film.state === "queued" ? "In the queue" : film.step || "Starting"}, ${Math.round(100 * (film.progress ?? 0))} %`
        : film.state === "waiting"
          ? sent?.problem || "The film is not here yet"
          : film.state === "failed"
            ? film.problem
            : `${goes}, ${film.goes_judged} judged`;
  return (
    <li className="flex flex-wrap items-center gap-3 px-4 py-2">
      <Film aria-hidden className="size-5 text-soft" />
      <Link
        to="/films/$film"
        params={{ film: film.id }}
        className="font-semibold underline decoration-line underline-offset-4 hover:decoration-current"
      >
        {nameOf(film)}
      </Link>
      <span className={`mr-auto ${film.state === "failed" ? "text-bad" : "text-soft"}`}>{state}</span>
      {remove.error && (
        <span role="alert" className="text-sm text-bad">
          {remove.error.message}
        </span>
      )}
      <Button tone="quiet" onClick={() => remove.mutate()} aria-label={`Remove ${nameOf(film)}`}>
        Remove
      </Button>
    </li>
  );
}

/** A new session film: the file, the discipline, go. */
export function NewFilm({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog
      title="Session film"
      about="One film of many goes. It is cut into goes by itself, and each becomes a run of its own."
      open={open}
      onOpen={onOpen}
      keep
    >
      <Sheet />
    </Dialog>
  );
}

function Sheet() {
  const client = useQueryClient();
  const go = useNavigate();
  const books = useQuery(disciplines).data?.filter((b) => b.from_tracks);
  const last = useQuery(runs()).data?.results[0]?.discipline;
  const [file, setFile] = useState<File | null>(null);
  const [said, setSaid] = useState({ discipline: "", title: "", view: "", filmed_on: "" });
  const discipline = said.discipline || last || "alpine_carve";
  const make = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/session-films", {
          body: {
            discipline,
            title: said.title,
            view: said.view as Schemas["ViewEnum"] | "",
            filmed_on: said.filmed_on || null,
          },
        }),
      ),
    onSuccess: (made) => {
      void sendTo(`film/${made.film}`, file!).then(() => client.invalidateQueries({ queryKey: ["films"] }));
      return go({ to: "/films/$film", params: { film: made.id } });
    },
  });
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  const set = (key: keyof typeof said) => (e: { target: { value: string } }) =>
    setSaid({ ...said, [key]: e.target.value });
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Field label="Film" hint={CLIP_HINT}>
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
      <Field label="Discipline" error={wrong.discipline}>
        {(id) => (
          <Select id={id} value={discipline} onChange={set("discipline")}>
            {books?.map((b) => (
              <option key={b.id} value={b.id}>
                {b.title}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <details>
        <summary className="cursor-pointer">
          <b className="font-semibold">Guessed:</b> view as the picture shows it{" "}
          <span className="underline">Change</span>
        </summary>
        <div className="mt-3 grid gap-3 sm:grid-cols-2">
          <Field label="Name" error={wrong.title}>
            {(id) => <Input id={id} value={said.title} maxLength={120} onChange={set("title")} />}
          </Field>
          <Field label="Filmed on" error={wrong.filmed_on}>
            {(id) => <Input id={id} type="date" value={said.filmed_on} onChange={set("filmed_on")} />}
          </Field>
          <Field label="View" error={wrong.view}>
            {(id) => (
              <Select id={id} value={said.view} onChange={set("view")}>
                <option value="">As the picture shows it</option>
                {Object.entries(VIEWS).map(([view, words]) => (
                  <option key={view} value={view}>
                    {words}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        </div>
      </details>
      {make.error && !Object.keys(wrong).length && (
        <p role="alert" className="text-bad">
          {make.error.message}
        </p>
      )}
      <div className="flex justify-end">
        <Button type="submit" tone="main" disabled={!file || make.isPending}>
          Go
        </Button>
      </div>
    </form>
  );
}
