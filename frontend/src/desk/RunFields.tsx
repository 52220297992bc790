import type { Discipline, Rider, Run, Schemas } from "../api/client";
import { FrontFoot } from "../ui/FrontFoot";
import { Field, Input, Select } from "../ui/parts";
import { LEVELS, type Level } from "../ui/levels";
import { VIEWS } from "../ui/views";
import { conditionsOf, type Given } from "../ui/conditions";
import { DisciplineOptions } from "../ui/DisciplineOptions";
import { Conditions } from "./Conditions";

type View = Schemas["ViewEnum"];

export interface Typed {
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
export const BLANK: Typed = {
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
export function typedOf(run: Run): Typed {
  return {
    rider: String(run.rider.id),
    ...saidOf(run),
    level: run.level ?? "",
    view: run.view ?? "",
    offset: String(run.view_offset_deg ?? 0),
    fps: run.filmed_fps?.toString() ?? "",
    foot: "",
  };
}

/** What was said of a run besides who rides and how it was filmed. */
function saidOf(
  run: Pick<Run, "conditions" | "discipline" | "title" | "intention_text" | "intention_faults" | "gear">,
) {
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
    discipline: run.discipline ?? "alpine_carve",
    title: run.title ?? "",
    intention: run.intention_text ?? "",
    fault: run.intention_faults?.[0] ?? "",
    gear: String((run.gear as { notes?: string } | undefined)?.notes ?? ""),
    given,
  };
}

/** What a new run of a rider is guessed to be. */
export const guessOf = (usual: Schemas["Usual"]): Partial<Typed> => ({
  // A run's name is its own.
  ...{ ...saidOf(usual), title: "" },
  level: usual.level as Level,
});

/** What was typed, with a new guess in place of the old one wherever nobody has typed over that. */
export function withGuess(typed: Typed, old: Partial<Typed>, guess: Partial<Typed>): Typed {
  const same = (key: keyof Typed) => JSON.stringify(typed[key]) === JSON.stringify(old[key] ?? BLANK[key]);
  const taken = (Object.keys(guess) as (keyof Typed)[]).filter(same).map((key) => [key, guess[key]]);
  return { ...typed, ...(Object.fromEntries(taken) as Partial<Typed>) };
}

/** The run as the server takes it. */
export function bodyOf(f: Typed, person: Rider | undefined, book: Discipline | undefined, gear: object = {}) {
  return {
    rider_id: Number(f.rider),
    discipline: f.discipline,
    title: f.title,
    level: (f.level || person?.level) as Level,
    intention_text: f.intention,
    intention_faults: f.fault ? [f.fault] : [],
    view: f.view,
    view_offset_deg: Number(f.offset),
    filmed_fps: f.fps ? Number(f.fps) : null,
    conditions: conditionsOf(f.given, book?.conditions ?? {}),
    gear: { ...gear, ...(f.gear ? { notes: f.gear } : {}) },
  };
}

/** What is taken for a run unless it is changed, in a line. */
export function guessWords(f: Typed, person: Rider | undefined, book: Discipline | undefined): string {
  const day = Object.entries(f.given)
    .filter(([key, text]) => text && book?.conditions[key])
    .map(([key, text]) => {
      const { title, takes, unit } = book!.conditions[key]!;
      const behind = takes === "rope" || !unit ? "" : unit === "°" ? unit : ` ${unit}`;
      return `${title.toLowerCase()} ${text}${behind}`;
    });
  return [
    book?.title,
    f.level || person?.level,
    ...day,
    f.view ? VIEWS[f.view].toLowerCase() : "view as the picture shows it",
    f.fps ? `filmed at ${f.fps} a second` : "rate as the file says",
  ]
    .filter(Boolean)
    .join(" · ");
}

/** Whether a rider's front foot has to be asked for. */
export const needsFoot = (person: Rider | undefined, book: Discipline | undefined) =>
  !!person && !!book?.asks_front_foot && !person.stance;

/** Everything of a run that can be guessed, to be changed before or after. */
export function RunFields({
  value: f,
  onChange: setF,
  person,
  books,
  errors = {},
}: {
  value: Typed;
  onChange: (typed: Typed) => void;
  person?: Rider;
  books: Discipline[];
  errors?: Record<string, string>;
}) {
  const book = books.find((b) => b.id === f.discipline);
  const set = (key: keyof Typed) => (e: { target: { value: string } }) => setF({ ...f, [key]: e.target.value });
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      <Field label="Discipline" error={errors.discipline}>
        {(id) => (
          <Select id={id} value={f.discipline} onChange={set("discipline")}>
            <DisciplineOptions books={books} />
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
          <Select id={id} value={f.view} onChange={set("view")}>
            <option value="">As the picture shows it</option>
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
        {(id) => <Input id={id} type="number" min={-60} max={60} step={1} value={f.offset} onChange={set("offset")} />}
      </Field>
      <Conditions
        known={book?.conditions ?? {}}
        given={f.given}
        onChange={(given) => setF({ ...f, given })}
        error={errors.conditions}
      />
      {person && needsFoot(person, book) && (
        <FrontFoot
          value={f.foot}
          onChange={(foot) => setF({ ...f, foot })}
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
  );
}
