import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { texts as textsQuery } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";

type Text = Schemas["ClubText"];

/** The club's own texts: put into the message, written, changed, taken out. */
export function Texts({ run, onTake }: { run?: number; onTake?: (text: Text) => void }) {
  const [open, setOpen] = useState(false);
  const [editing, setEditing] = useState<Partial<Text> | null>(null);
  const all = useQuery({ ...textsQuery(run), enabled: open });
  return (
    <>
      <Button tone="quiet" className="text-sm" onClick={() => setOpen(true)}>
        Texts of the club…
      </Button>
      <Dialog
        title="Texts of the club"
        about="{rider}, {coach}, {club} and {day}, the day of the next clip, are filled in for each rider."
        open={open}
        keep={editing !== null}
        onOpen={(now) => {
          setOpen(now);
          setEditing(null);
        }}
      >
        {editing ? (
          <Edit text={editing} onDone={() => setEditing(null)} />
        ) : all.error ? (
          <Trouble error={all.error} again={() => void all.refetch()} />
        ) : !all.data ? (
          <Waiting what="Getting the texts" />
        ) : (
          <div className="grid gap-3">
            {all.data.length === 0 && (
              <p className="text-soft">
                None yet. Write down what you say again and again: a greeting, a rule of the place.
              </p>
            )}
            <ul className="grid gap-2">
              {all.data.map((x) => (
                <li key={x.id} className="grid gap-1 border-t border-line pt-2 first:border-0 first:pt-0">
                  <p>
                    <b className="font-semibold">{x.title}</b>
                    {x.closing && <span className="text-soft"> · at the end of every Script</span>}
                  </p>
                  <p className="text-sm whitespace-pre-wrap">{x.filled}</p>
                  <span className="flex flex-wrap gap-2">
                    {onTake && !x.closing && (
                      <Button
                        tone="main"
                        onClick={() => {
                          onTake(x);
                          setOpen(false);
                        }}
                      >
                        Put it in
                      </Button>
                    )}
                    <Button onClick={() => setEditing(x)}>Change</Button>
                  </span>
                </li>
              ))}
            </ul>
            <Button className="justify-self-start" onClick={() => setEditing({})}>
              Write another
            </Button>
          </div>
        )}
      </Dialog>
    </>
  );
}

function Edit({ text, onDone }: { text: Partial<Text>; onDone: () => void }) {
  const client = useQueryClient();
  const [title, setTitle] = useState(text.title ?? "");
  const [words, setWords] = useState(text.text ?? "");
  const [closing, setClosing] = useState(text.closing ?? false);
  const done = async () => {
    await client.invalidateQueries({ queryKey: ["texts"] });
    void client.invalidateQueries({ queryKey: ["script"] });
    onDone();
  };
  const save = useMutation({
    mutationFn: () => {
      const body = { title: title.trim(), text: words.trim(), closing };
      return text.id === undefined
        ? need(api.POST("/api/texts", { body }))
        : need(api.PATCH("/api/texts/{id}", { params: { path: { id: text.id } }, body }));
    },
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => need(api.DELETE("/api/texts/{id}", { params: { path: { id: text.id! } } })),
    onSuccess: done,
  });
  const error = save.error ?? remove.error;
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field label="Name">
        {(id) => <Input id={id} required maxLength={80} value={title} onChange={(e) => setTitle(e.target.value)} />}
      </Field>
      <Field label="Text">
        {(id) => (
          <textarea
            id={id}
            required
            rows={4}
            maxLength={1000}
            className="w-full rounded border border-line bg-sheet p-2"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        )}
      </Field>
      <label className="flex min-h-7 items-center gap-2">
        <input type="checkbox" className="size-5" checked={closing} onChange={(e) => setClosing(e.target.checked)} />
        stands at the end of every Script from now on
      </label>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      <div className="flex flex-wrap justify-end gap-2">
        {text.id !== undefined && (
          <span className="mr-auto">
            <Sure
              label="Take it out"
              title="Take this text out?"
              about="What was approved with it keeps it."
              tone="bad"
              onDo={() => remove.mutate()}
            />
          </span>
        )}
        <Button onClick={onDone}>Leave it</Button>
        <Button type="submit" tone="main" disabled={save.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}
