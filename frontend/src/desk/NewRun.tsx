import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, Problem, type Schemas } from "../api/client";
import { disciplines, riders } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { FrontFoot } from "../ui/FrontFoot";
import { Bar, Button, Field, Input, Select } from "../ui/parts";
import { VIEWS } from "../ui/views";
import { Conditions, conditionsOf, type Given } from "./Conditions";
import { CLIP_HINT, CLIP_TYPES, useSending } from "./SendClip";

type View = Schemas["ViewEnum"];
type Level = Schemas["LevelEnum"];
export const LEVELS: Level[] = ["novice", "intermediate", "advanced", "elite"];

/** A run in one sheet: who, what they are trying, how it was filmed, and the clip. */
export function NewRun({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog title="New run" open={open} onOpen={onOpen} wide>
      <Sheet onDone={() => onOpen(false)} />
    </Dialog>
  );
}

function Sheet({ onDone }: { onDone: () => void }) {
  const client = useQueryClient();
  const people = useQuery(riders);
  const books = useQuery(disciplines);
  const { share, problem, send, label: sending, cancel } = useSending();
  const [made, setMade] = useState<number | null>(null);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [whole, setWhole] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const [f, setF] = useState({
    rider: "", discipline: "alpine_carve", title: "", level: "" as Level | "", intention: "", fault: "", view: "" as View | "",
    offset: "0", fps: "", gear: "",
  });
  const [given, setGiven] = useState<Given>({});
  const [foot, setFoot] = useState("");
  const set = (key: keyof typeof f) => (e: { target: { value: string } }) => setF({ ...f, [key]: e.target.value });
  const book = books.data?.find((b) => b.id === f.discipline);
  const person = people.data?.results.find((r) => String(r.id) === f.rider);
  const needsFoot = person && book?.asks_front_foot && !person.stance;

  const save = async () => {
    setErrors({});
    setWhole("");
    try {
      const body = {
        rider_id: Number(f.rider),
        discipline: f.discipline,
        title: f.title,
        level: (f.level || person?.level) as Level,
        intention_text: f.intention,
        intention_faults: f.fault ? [f.fault] : [],
        view: f.view as View,
        view_offset_deg: Number(f.offset),
        filmed_fps: f.fps ? Number(f.fps) : null,
        conditions: conditionsOf(given, book?.conditions ?? {}),
        gear: f.gear ? { notes: f.gear } : {},
      };
      if (needsFoot && foot) {
        await need(api.PATCH("/api/riders/{id}", { params: { path: { id: person.id } }, body: { stance: foot as "regular" | "goofy" } }));
        void client.invalidateQueries({ queryKey: ["riders"] });
      }
      // A second try after a broken upload changes the run that is there already.
      const run = made
        ? await need(api.PATCH("/api/runs/{id}", { params: { path: { id: made } }, body }))
        : await need(api.POST("/api/runs", { body }));
      setMade(run.id);
      void client.invalidateQueries({ queryKey: ["runs"] });
      if (!file || (await send(run.id, file))) onDone();
    } catch (e) {
      if (e instanceof Problem && Object.keys(e.fields).length) setErrors(e.fields);
      else setWhole((e as Error).message);
    }
  };

  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Rider" error={errors.rider_id} hint={people.data?.count === 0 ? "Add riders on the Riders page first." : undefined}>
          {(id) => (
            <Select id={id} required value={f.rider} onChange={set("rider")}>
              <option value="">Choose</option>
              {people.data?.results.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                  {r.number != null && ` · ${r.number}`}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="What they are trying to do" hint="It is judged first." error={errors.intention_text}>
          {(id) => <Input id={id} value={f.intention} maxLength={300} onChange={set("intention")} placeholder="quieter shoulders" />}
        </Field>
        <Field label="Discipline" error={errors.discipline}>
          {(id) => (
            <Select id={id} value={f.discipline} onChange={set("discipline")}>
              {books.data?.filter((b) => b.from_tracks).map((b) => (
                <option key={b.id} value={b.id}>
                  {b.title}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Which is about" error={errors.intention_faults}>
          {(id) => (
            <Select id={id} value={f.fault} onChange={set("fault")}>
              <option value="">Nothing in particular</option>
              {Object.entries(book?.faults ?? {}).map(([key, fault]) => (
                <option key={key} value={key}>
                  {fault.title}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Level" error={errors.level}>
          {(id) => (
            <Select id={id} value={f.level || person?.level || ""} onChange={set("level")} required>
              <option value="">Choose</option>
              {LEVELS.map((l) => (
                <option key={l}>{l}</option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Name of the run" error={errors.title}>
          {(id) => <Input id={id} value={f.title} maxLength={120} onChange={set("title")} placeholder="Snow hall, lane 2, run 1" />}
        </Field>
        <Field label="Filmed" error={errors.view}>
          {(id) => (
            <Select id={id} required value={f.view} onChange={set("view")}>
              <option value="">Choose</option>
              {Object.entries(VIEWS).map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Degrees off that view" hint="0 when in line; + toward the rider's right" error={errors.view_offset_deg}>
          {(id) => <Input id={id} type="number" min={-60} max={60} step={1} value={f.offset} onChange={set("offset")} />}
        </Field>
        <Conditions known={book?.conditions ?? {}} given={given} onChange={setGiven} error={errors.conditions} />
        {needsFoot && (
          <FrontFoot value={foot} onChange={setFoot} hint={`${person.name}’s front foot is not known yet. It is kept with the rider.`} />
        )}
        <Field label="Frames a second when filmed" hint="Only if the file plays slower than life" error={errors.filmed_fps}>
          {(id) => <Input id={id} type="number" min={10} max={2000} value={f.fps} onChange={set("fps")} placeholder="as the file says" />}
        </Field>
        <Field label="Gear">{(id) => <Input id={id} value={f.gear} onChange={set("gear")} placeholder="slalom ski, 158 cm" />}</Field>
      </div>
      <Field label="Clip" hint={CLIP_HINT} error={problem}>
        {(id) => <Input id={id} type="file" accept={CLIP_TYPES} onChange={(e) => setFile(e.target.files?.[0] ?? null)} />}
      </Field>
      {share !== null && <Bar share={share} label={sending} />}
      {whole && (
        <p role="alert" className="text-bad">
          {whole}
        </p>
      )}
      <div className="flex justify-end gap-2">
        {share !== null && <Button onClick={cancel}>Cancel sending</Button>}
        <Button type="submit" tone="main" disabled={share !== null}>
          {file ? "Save and send" : "Save"}
        </Button>
      </div>
    </form>
  );
}
