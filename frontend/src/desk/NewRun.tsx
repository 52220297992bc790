import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, need, Problem, type Run } from "../api/client";
import { disciplines, riders, usual } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { useDraft } from "../ui/drafts";
import { Bar, Button, Field, Input } from "../ui/parts";
import { Card } from "./Card";
import { RiderField } from "./RiderField";
import { BLANK, bodyOf, guessOf, guessWords, needsFoot, RunFields, typedOf, withGuess, type Typed } from "./RunFields";
import { CLIP_HINT, CLIP_TYPES, Elsewhere, useSending } from "./SendClip";

/** New runs: clips, riders, go. All else is guessed, and can be changed before or after. */
export function NewRun({
  open,
  onOpen,
  dropped = [],
}: {
  open: boolean;
  onOpen: (open: boolean) => void;
  /** Files that were dropped on the page. */
  dropped?: File[];
}) {
  const [card, setCard] = useState<File[]>(dropped);
  return (
    <Dialog title={card.length > 1 ? `${card.length} new runs` : "New run"} open={open} onOpen={onOpen} wide keep>
      {card.length > 1 ? (
        <Card
          files={card}
          onDone={() => {
            setCard([]);
            onOpen(false);
          }}
          onBack={() => setCard([])}
        />
      ) : (
        <Sheet onDone={() => onOpen(false)} onCard={setCard} first={card[0]} />
      )}
    </Dialog>
  );
}

/** What was said of a run, put right. */
export function ChangeRun({ run, open, onOpen }: { run: Run; open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog
      title={`Change ${run.rider.name}’s run`}
      about="The numbers are worked out again where they rest on it."
      open={open}
      onOpen={onOpen}
      wide
      keep
    >
      <Sheet run={run} onDone={() => onOpen(false)} />
    </Dialog>
  );
}

function Sheet({
  run: old,
  onDone,
  onCard,
  first,
}: {
  run?: Run;
  onDone: () => void;
  onCard?: (files: File[]) => void;
  first?: File;
}) {
  const client = useQueryClient();
  const people = useQuery(riders);
  const books = useQuery(disciplines);
  const [made, setMade] = useState<number | null>(old?.id ?? null);
  const { share, problem, elsewhere, send, label: sending, cancel } = useSending(made);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [whole, setWhole] = useState("");
  const [file, setFile] = useState<File | null>(first ?? null);
  const [guess, setGuess] = useState<Partial<Typed>>({});
  const draft = useDraft<Typed>(old ? `run/${old.id}` : "new-run", old ? typedOf(old) : BLANK);
  const f = draft.value;
  const setF = draft.set;
  const book = books.data?.find((b) => b.id === f.discipline);
  const person = people.data?.results.find((r) => String(r.id) === f.rider);

  // What was typed while the guess was on its way stays.
  const now = useRef(f);
  useEffect(() => {
    now.current = f;
  });
  const pick = async (rider: string) => {
    setF({ ...f, rider });
    if (old || !rider) return;
    const as = await client.fetchQuery(usual(Number(rider))).catch(() => null);
    if (!as) return; // then nothing is guessed
    const next = guessOf(as);
    if (now.current.rider !== rider) return; // another was picked meanwhile
    setF(withGuess(now.current, guess, next));
    setGuess(next);
  };

  const save = async () => {
    setErrors({});
    setWhole("");
    try {
      const body = bodyOf(f, person, book, old?.gear);
      if (old) {
        // Only what was changed goes out, with what it was when the typing began.
        const changed = Object.fromEntries(
          Object.entries(body).filter(
            ([key, v]) =>
              JSON.stringify(v) !== JSON.stringify(key === "rider_id" ? old.rider.id : (old[key as keyof Run] ?? null)),
          ),
        );
        if (Object.keys(changed).length) {
          const was = Object.fromEntries(
            Object.keys(changed)
              .filter((key) => key in old)
              .map((key) => [key, old[key as keyof Run]]),
          );
          await need(api.PATCH("/api/runs/{id}", { params: { path: { id: old.id } }, body: { ...changed, was } }));
        }
        draft.clear();
        for (const key of ["runs", "bench", "script", "footage"]) void client.invalidateQueries({ queryKey: [key] });
        onDone();
        return;
      }
      if (person && needsFoot(person, book) && f.foot) {
        await need(
          api.PATCH("/api/riders/{id}", {
            params: { path: { id: person.id } },
            body: { stance: f.foot as "regular" | "goofy" },
          }),
        );
        void client.invalidateQueries({ queryKey: ["riders"] });
      }
      // A second try after a broken upload changes the run that is there already.
      const run = made
        ? await need(api.PATCH("/api/runs/{id}", { params: { path: { id: made } }, body }))
        : await need(api.POST("/api/runs", { body }));
      setMade(run.id);
      void client.invalidateQueries({ queryKey: ["runs"] });
      draft.clear();
      if (!file || (await send(run.id, file))) onDone();
    } catch (e) {
      if (e instanceof Problem && Object.keys(e.fields).length) setErrors(e.fields);
      else setWhole(`${(e as Error).message} What you typed is kept.`);
    }
  };

  const fields = <RunFields value={f} onChange={setF} person={person} books={books.data ?? []} errors={errors} />;
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      {!old && (
        <Field
          label="Clip"
          hint={file && file === first ? `${file.name}, dropped here` : `${CLIP_HINT}; several make a run each`}
          error={problem}
        >
          {(id) => (
            <Input
              id={id}
              type="file"
              multiple
              accept={CLIP_TYPES}
              onChange={(e) => {
                const files = [...(e.target.files ?? [])];
                if (files.length > 1) onCard?.(files);
                else setFile(files[0] ?? null);
              }}
            />
          )}
        </Field>
      )}
      <div className="grid gap-4 sm:grid-cols-2">
        <RiderField
          people={people.data?.results}
          value={f.rider}
          onPick={(r) => void pick(r)}
          error={errors.rider_id}
        />
        <Field label="What they are trying to do" hint="It is judged first." error={errors.intention_text}>
          {(id) => (
            <Input
              id={id}
              value={f.intention}
              maxLength={300}
              onChange={(e) => setF({ ...f, intention: e.target.value })}
              placeholder="quieter shoulders"
            />
          )}
        </Field>
      </div>
      {old ? (
        fields
      ) : (
        <details open={Object.keys(errors).length > 0 || (person && needsFoot(person, book)) || undefined}>
          <summary className="cursor-pointer">
            <b className="font-semibold">Guessed:</b> {guessWords(f, person, book)}{" "}
            <span className="underline">Change</span>
          </summary>
          <div className="mt-3">{fields}</div>
        </details>
      )}
      <Elsewhere run={elsewhere} into={made} onUsed={onDone} />
      {share !== null && <Bar share={share} label={sending} />}
      {whole && (
        <p role="alert" className="text-bad">
          {whole}
        </p>
      )}
      <div className="flex items-center justify-end gap-2">
        {draft.unsaved && (
          <>
            <span role="status" className="text-sm text-soft">
              Not saved yet; it is kept in this browser.
            </span>
            <Button tone="quiet" onClick={() => draft.clear()}>
              {old ? "As it was" : "Start again"}
            </Button>
          </>
        )}
        {share !== null && <Button onClick={cancel}>Cancel sending</Button>}
        <Button type="submit" tone="main" disabled={share !== null}>
          {file ? "Save and send" : "Save"}
        </Button>
      </div>
    </form>
  );
}
