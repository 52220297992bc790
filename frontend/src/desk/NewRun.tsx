import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, Problem, type Run, type Schemas } from "../api/client";
import { disciplines, riders } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { useDraft } from "../ui/drafts";
import { FrontFoot } from "../ui/FrontFoot";
import { Bar, Button, Field, Input, Select } from "../ui/parts";
import { VIEWS } from "../ui/views";
import { Conditions, conditionsOf, type Given } from "./Conditions";
import { CLIP_HINT, CLIP_TYPES, Elsewhere, useSending } from "./SendClip";

type View = Schemas["ViewEnum"];
type Level = Schemas["LevelEnum"];
export const LEVELS: Level[] = ["novice", "intermediate", "advanced", "elite"];

/** A run in one sheet: who, what they are trying, how it was filmed, and the clip. */
export function NewRun({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog title="New run" open={open} onOpen={onOpen} wide keep>
      <Sheet onDone={() => onOpen(false)} />
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

interface Typed {
  rider: string;
  discipline: string;
  title: string;
  level: Level | "";
  intention: string;
  fault: string;
  view: View | "";
  offset: string;
  fps: string;
  gear: string;
  given: Given;
  foot: string;
}
const BLANK: Typed = {
  rider: "",
  discipline: "alpine_carve",
  title: "",
  level: "",
  intention: "",
  fault: "",
  view: "",
  offset: "0",
  fps: "",
  gear: "",
  given: {},
  foot: "",
};

/** What stands in a run, as it would be typed. */
function typedOf(run: Run): Typed {
  const given = Object.fromEntries(
    Object.entries(run.conditions ?? {}).map(([key, v]) =>
      key === "rope_off_ft"
        ? ["rope_m", `${String(v)} off`]
        : key === "rope_m"
          ? ["rope_m", `${String(v)} m`]
          : [key, v === true ? "yes" : v === false ? "no" : String(v)],
    ),
  );
  return {
    rider: String(run.rider.id),
    discipline: run.discipline ?? "alpine_carve",
    title: run.title ?? "",
    level: run.level ?? "",
    intention: run.intention_text ?? "",
    fault: run.intention_faults?.[0] ?? "",
    view: run.view,
    offset: String(run.view_offset_deg ?? 0),
    fps: run.filmed_fps?.toString() ?? "",
    gear: String((run.gear as { notes?: string } | undefined)?.notes ?? ""),
    given,
    foot: "",
  };
}

function Sheet({ run: old, onDone }: { run?: Run; onDone: () => void }) {
  const client = useQueryClient();
  const people = useQuery(riders);
  const books = useQuery(disciplines);
  const [made, setMade] = useState<number | null>(old?.id ?? null);
  const { share, problem, elsewhere, send, label: sending, cancel } = useSending(made);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [whole, setWhole] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const draft = useDraft<Typed>(old ? `run/${old.id}` : "new-run", old ? typedOf(old) : BLANK);
  const f = draft.value;
  const setF = draft.set;
  const { given, foot } = f;
  const setGiven = (given: Given) => setF({ ...f, given });
  const setFoot = (foot: string) => setF({ ...f, foot });
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
        gear: { ...old?.gear, ...(f.gear ? { notes: f.gear } : {}) },
      };
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
      if (needsFoot && foot) {
        await need(
          api.PATCH("/api/riders/{id}", {
            params: { path: { id: person.id } },
            body: { stance: foot as "regular" | "goofy" },
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

  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Field
          label="Rider"
          error={errors.rider_id}
          hint={people.data?.count === 0 ? "Add riders on the Riders page first." : undefined}
        >
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
          {(id) => (
            <Input
              id={id}
              value={f.intention}
              maxLength={300}
              onChange={set("intention")}
              placeholder="quieter shoulders"
            />
          )}
        </Field>
        <Field label="Discipline" error={errors.discipline}>
          {(id) => (
            <Select id={id} value={f.discipline} onChange={set("discipline")}>
              {books.data
                ?.filter((b) => b.from_tracks)
                .map((b) => (
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
          {(id) => (
            <Input
              id={id}
              value={f.title}
              maxLength={120}
              onChange={set("title")}
              placeholder="Snow hall, lane 2, run 1"
            />
          )}
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
        <Field
          label="Degrees off that view"
          hint="0 when in line; + toward the rider's right"
          error={errors.view_offset_deg}
        >
          {(id) => (
            <Input id={id} type="number" min={-60} max={60} step={1} value={f.offset} onChange={set("offset")} />
          )}
        </Field>
        <Conditions known={book?.conditions ?? {}} given={given} onChange={setGiven} error={errors.conditions} />
        {needsFoot && (
          <FrontFoot
            value={foot}
            onChange={setFoot}
            hint={`${person.name}’s front foot is not known yet. It is kept with the rider.`}
          />
        )}
        <Field
          label="Frames a second when filmed"
          hint="Only if the file plays slower than life"
          error={errors.filmed_fps}
        >
          {(id) => (
            <Input
              id={id}
              type="number"
              min={10}
              max={2000}
              value={f.fps}
              onChange={set("fps")}
              placeholder="as the file says"
            />
          )}
        </Field>
        <Field label="Gear">
          {(id) => <Input id={id} value={f.gear} onChange={set("gear")} placeholder="slalom ski, 158 cm" />}
        </Field>
      </div>
      {!old && (
        <Field label="Clip" hint={CLIP_HINT} error={problem}>
          {(id) => (
            <Input id={id} type="file" accept={CLIP_TYPES} onChange={(e) => setFile(e.target.files?.[0] ?? null)} />
          )}
        </Field>
      )}
      <Elsewhere run={elsewhere} />
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
