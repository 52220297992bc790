import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, Problem, type Schemas } from "../api/client";
import { disciplines, riders } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Bar, Button, Field, Input, Select } from "../ui/parts";
import { plain } from "../bench/places";
import { VIEWS } from "../ui/views";
import { CLIP_HINT, CLIP_TYPES, useSending } from "./SendClip";

type View = Schemas["ViewEnum"];
type Level = Schemas["LevelEnum"];
interface Condition {
  label: string;
  hint?: string;
  /** What there is to choose, as value and words; a condition without is a number or a few words. */
  choose?: [string, string][];
}
const YES_NO: [string, string][] = [["yes", "Yes"], ["no", "No"]];
/** What a run's conditions are called. One that is not listed goes by its id. */
const CONDITIONS: Record<string, Condition> = {
  slope_deg: { label: "Slope in degrees", hint: "about 15 if you leave it out" },
  snow: { label: "Snow", hint: "groomed, hard" },
  set: { label: "Set", choose: [["giant_slalom", "Giant slalom"], ["slalom", "Slalom"]] },
  effort: { label: "Effort", choose: [["sprint", "Sprint"], ["race", "Race"], ["long", "Long distance"]] },
  terrain: { label: "Terrain", choose: [["flat", "Flat"], ["up", "Uphill"]] },
  speed_ms: { label: "Speed in metres a second" },
  edge: { label: "Edge", choose: [["inside", "Inside"], ["outside", "Outside"]] },
  blade_m: { label: "Length of the blade in metres", hint: "0.28" },
  planned_rotations: { label: "Planned turns", hint: "2.5" },
  landing_side: { label: "Landing foot", choose: [["r", "Right"], ["l", "Left"]] },
  distance_m: { label: "Distance in metres" },
  corner: { label: "In the corner", choose: YES_NO },
  surface: { label: "Surface" },
  on_stand: { label: "On a stand", choose: YES_NO },
  grade: { label: "Grade of the trail" },
  rope_m: { label: "Rope in metres", hint: "18.25" },
  boat_kmh: { label: "Boat in km/h", hint: "55" },
  buoys: { label: "Round buoys", choose: YES_NO },
  wind_kn: { label: "Wind in knots" },
  water: { label: "Water", hint: "flat, chop" },
  hooked: { label: "Hooked in", choose: YES_NO },
  wave_m: { label: "Wave in metres" },
  power: { label: "Power of the wave", choose: [["weak", "Weak"], ["moderate", "Moderate"], ["strong", "Strong"]] },
  height_m: { label: "Height of the drop in metres" },
  level: { label: "Level of the water" },
};

/** Conditions that belong to single units and not to the run. */
const PER_UNIT = ["ball"];

/** A condition as it is kept: yes or no, a number with a point or a comma, or words. */
function kept(text: string): string | number | boolean {
  if (text === "yes" || text === "no") return text === "yes";
  const number = Number(text.replace(",", "."));
  return Number.isNaN(number) ? text : number;
}

/** The filled-in conditions of a discipline. */
function conditionsOf(given: Record<string, string>, known: string[]): Record<string, string | number | boolean> {
  const filled = known.map((key) => [key, (given[key] ?? "").trim()] as const).filter(([, text]) => text);
  return Object.fromEntries(filled.map(([key, text]) => [key, kept(text)]));
}

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
  const [given, setGiven] = useState<Record<string, string>>({});
  const set = (key: keyof typeof f) => (e: { target: { value: string } }) => setF({ ...f, [key]: e.target.value });
  const book = books.data?.find((b) => b.id === f.discipline);
  const person = people.data?.results.find((r) => String(r.id) === f.rider);

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
        conditions: conditionsOf(given, book?.conditions ?? []),
        gear: f.gear ? { notes: f.gear } : {},
      };
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
        {(book?.conditions ?? []).filter((key) => !PER_UNIT.includes(key)).map((key, k) => {
          const { label, hint, choose } = CONDITIONS[key] ?? { label: plain(key) };
          const change = (e: { target: { value: string } }) => setGiven({ ...given, [key]: e.target.value });
          return (
            <Field key={key} label={label} hint={hint} error={k === 0 ? errors.conditions : undefined}>
              {(id) =>
                choose ? (
                  <Select id={id} value={given[key] ?? ""} onChange={change}>
                    <option value="">Not said</option>
                    {choose.map(([value, words]) => (
                      <option key={value} value={value}>
                        {words}
                      </option>
                    ))}
                  </Select>
                ) : (
                  <Input id={id} value={given[key] ?? ""} onChange={change} />
                )
              }
            </Field>
          );
        })}
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
