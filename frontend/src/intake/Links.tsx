import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { CirclePlus } from "lucide-react";
import { useState } from "react";

import { api, need, Problem, type Discipline, type Schemas } from "../api/client";
import { desk, intakes, riders } from "../api/queries";
import { RiderOptions } from "../desk/RiderField";
import { day, moment } from "../ui/days";
import { Dialog } from "../ui/Dialog";
import { DisciplineOptions } from "../ui/DisciplineOptions";
import { Handed } from "../ui/Handed";
import { Button, Field, Input, Select } from "../ui/parts";
import { Sure } from "../ui/Sure";

type Intake = Schemas["Intake"];

/** The links by which clips are sent, and a new one. */
export function Links({ links, books, may }: { links: Intake[]; books: Discipline[]; may: boolean }) {
  const [making, setMaking] = useState(false);
  const open = links.filter((x) => x.open);
  const ended = links.filter((x) => !x.open);
  const title = (id: string) => books.find((b) => b.id === id)?.title ?? id;
  return (
    <section className="grid gap-2">
      <div className="flex flex-wrap items-center justify-between gap-2">
        <h2 className="text-lg">Links to send clips by</h2>
        {may && (
          <Button tone="main" onClick={() => setMaking(true)}>
            <CirclePlus aria-hidden className="size-4" /> New link
          </Button>
        )}
      </div>
      {open.length === 0 && (
        <p className="rounded border border-dashed border-line p-6 text-center text-soft">
          No link takes clips now. Make one for a group, a session or one rider: they open it on a phone, without an
          account.
        </p>
      )}
      <ul className="grid gap-3">
        {open.map((link) => (
          <li key={link.id} className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
            <OneLink link={link} discipline={title(link.discipline)} may={may} />
          </li>
        ))}
      </ul>
      {ended.length > 0 && (
        <details>
          <summary className="cursor-pointer py-1 text-soft">
            {ended.length} {ended.length === 1 ? "link" : "links"} that ended
          </summary>
          <ul className="grid gap-1 pt-1">
            {ended.map((x) => (
              <li key={x.id} className="text-soft">
                {x.title} · {title(x.discipline)} · {counted(x)} ·{" "}
                {x.withdrawn ? "withdrawn" : `ended ${moment(x.expires)}`}
              </li>
            ))}
          </ul>
        </details>
      )}
      <Dialog title="New link to send clips by" open={making} onOpen={setMaking} keep>
        <NewLink books={books} onDone={() => setMaking(false)} />
      </Dialog>
    </section>
  );
}

const counted = (x: Intake) =>
  `${x.clips} ${x.clips === 1 ? "clip" : "clips"} of ${x.senders} ${x.senders === 1 ? "sender" : "senders"}`;

function OneLink({ link, discipline, may }: { link: Intake; discipline: string; may: boolean }) {
  const client = useQueryClient();
  const [picture, setPicture] = useState(false);
  const withdraw = useMutation({
    mutationFn: () =>
      need(api.PATCH("/api/intakes/{id}", { params: { path: { id: link.id } }, body: { withdrawn: true } })),
    onSuccess: () => client.invalidateQueries({ queryKey: intakes.queryKey }),
  });
  return (
    <>
      <p>
        <b>{link.title}</b> <span className="text-soft">· {discipline}</span>
        {link.rider && <span className="text-soft"> · for {link.rider.name} alone</span>}
      </p>
      <p className="text-sm text-soft">
        Open until {moment(link.expires)} ·{" "}
        {link.answer_by ? `answer promised for ${day(link.answer_by)}` : "no answer day promised"} · {counted(link)} ·
        up to {link.most_clips} each
      </p>
      <Handed title="Send this" path={link.path} />
      <div className="flex gap-2">
        <Button onClick={() => setPicture(true)}>Show as a picture</Button>
        {may && (
          <Sure
            label="Withdraw"
            title={`Withdraw “${link.title}”?`}
            about="No more clips are taken by it. Those who sent keep their pages, and their answers still appear there."
            onDo={() => withdraw.mutate()}
          />
        )}
      </div>
      {withdraw.error && (
        <p role="alert" className="text-sm text-bad">
          {withdraw.error.message}
        </p>
      )}
      <Dialog
        title={link.title}
        about="Held up to a phone's camera, this opens the link."
        open={picture}
        onOpen={setPicture}
      >
        <Picture id={link.id} title={link.title} />
      </Dialog>
    </>
  );
}

function Picture({ id, title }: { id: number; title: string }) {
  const got = useQuery({
    queryKey: ["intakes", id, "picture"],
    queryFn: () => need(api.GET("/api/intakes/{id}/picture", { params: { path: { id } } })),
    staleTime: Infinity,
  });
  if (got.error) return <p role="alert">{got.error.message}</p>;
  return got.data ? (
    <img src={got.data.image} alt={`The link “${title}” to be read by a phone`} className="mx-auto w-72 bg-white p-3" />
  ) : null;
}

/** A day from now as a date field writes it. */
const inDays = (n: number) => {
  const at = new Date(Date.now() + n * 86_400_000);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
};

function NewLink({ books, onDone }: { books: Discipline[]; onDone: () => void }) {
  const client = useQueryClient();
  const people = useQuery(riders);
  const next = useQuery(desk).data?.next_on;
  const [title, setTitle] = useState("");
  const [discipline, setDiscipline] = useState("");
  const [rider, setRider] = useState("");
  const [until, setUntil] = useState(inDays(7));
  const [answer, setAnswer] = useState("");
  const [most, setMost] = useState("3");
  const make = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/intakes", {
          body: {
            title,
            discipline,
            rider_id: rider ? Number(rider) : null,
            // To the end of that day, where the coach is.
            expires: new Date(`${until}T23:59:00`).toISOString(),
            answer_by: answer || null,
            most_clips: Number(most),
          },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: intakes.queryKey });
      onDone();
    },
  });
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Field label="What you ask for" error={wrong.title} hint="As riders read it: “Send me your Friday run”">
        {(id) => <Input id={id} required maxLength={120} value={title} onChange={(e) => setTitle(e.target.value)} />}
      </Field>
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Discipline" error={wrong.discipline}>
          {(id) => (
            <Select id={id} required value={discipline} onChange={(e) => setDiscipline(e.target.value)}>
              <option value="">Choose</option>
              <DisciplineOptions books={books} />
            </Select>
          )}
        </Field>
        <Field
          label="For"
          error={wrong.rider_id}
          hint={rider ? "Clips go straight to the Desk" : "Whoever has the link"}
        >
          {(id) => (
            <Select id={id} value={rider} onChange={(e) => setRider(e.target.value)}>
              <RiderOptions people={people.data?.results} none="Everybody who has it" />
            </Select>
          )}
        </Field>
        <Field label="Open until the end of" error={wrong.expires}>
          {(id) => (
            <Input
              id={id}
              type="date"
              required
              min={inDays(0)}
              value={until}
              onChange={(e) => setUntil(e.target.value)}
            />
          )}
        </Field>
        <Field
          label="You promise an answer by"
          error={wrong.answer_by}
          hint={
            next
              ? `A clip that comes now would be answered on ${day(next)}. Empty: no day is promised`
              : "Empty: no day is promised"
          }
        >
          {(id) => (
            <Input id={id} type="date" min={inDays(0)} value={answer} onChange={(e) => setAnswer(e.target.value)} />
          )}
        </Field>
        <Field label="Clips of one sender, at most" error={wrong.most_clips}>
          {(id) => (
            <Input
              id={id}
              type="number"
              required
              min={1}
              max={20}
              value={most}
              onChange={(e) => setMost(e.target.value)}
            />
          )}
        </Field>
      </div>
      {make.error && Object.keys(wrong).length === 0 && (
        <p role="alert" className="text-bad">
          {make.error.message}
        </p>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>Leave it</Button>
        <Button type="submit" tone="main" disabled={make.isPending}>
          Make the link
        </Button>
      </div>
    </form>
  );
}
