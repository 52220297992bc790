import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { CirclePlus } from "lucide-react";
import { useState } from "react";

import { api, need, Problem, type Rider } from "../api/client";
import { places, removedRiders, riders, session } from "../api/queries";
import { LEVELS } from "../ui/levels";
import { Dialog } from "../ui/Dialog";
import { FrontFoot } from "../ui/FrontFoot";
import { Button, Field, Input, Select, Trouble, Waiting } from "../ui/parts";
import { heightWords, Measure, useUnits } from "../ui/units";
import { Sure } from "../ui/Sure";
import { noWeek, WeekField } from "../ui/Week";
import { Agreed } from "./Agreed";
import { People } from "./People";

/** How many rows stand on the page at first, and how many come by a press. */
const ROWS = 100;

export function Riders() {
  const list = useQuery(riders);
  const may = useQuery(session).data?.role !== "helper";
  const units = useUnits();
  const [editing, setEditing] = useState<Rider | "new" | null>(null);
  const [find, setFind] = useState("");
  const [shown, setShown] = useState(ROWS);
  const [removed, setRemoved] = useState<Rider | null>(null);
  const [erased, setErased] = useState("");
  const [showRemoved, setShowRemoved] = useState(false);
  if (list.isPending) return <Waiting what="Loading the riders" />;
  if (list.error) return <Trouble error={list.error} again={() => void list.refetch()} />;
  const rows = list.data.results.filter((r) =>
    `${r.name} ${r.number ?? ""}`.toLowerCase().includes(find.toLowerCase()),
  );
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <h1 className="text-2xl">Riders</h1>
        <div className="flex gap-2 max-sm:flex-wrap [&>button]:shrink-0">
          <Input
            className="max-w-64"
            aria-label="Find a rider"
            placeholder="Find by name or number"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
          <Button tone="quiet" aria-pressed={showRemoved} onClick={() => setShowRemoved(!showRemoved)}>
            Removed
          </Button>
          <Button tone="main" onClick={() => setEditing("new")}>
            <CirclePlus aria-hidden className="size-4" /> New rider
          </Button>
        </div>
      </div>
      {removed && (
        <BringBack
          rider={removed}
          words={`${removed.name} was removed, with every run. They are kept for 30 days.`}
          onDone={() => setRemoved(null)}
        />
      )}
      {erased && (
        <p role="status" className="flex flex-wrap items-center gap-3 rounded border border-line bg-sheet px-3 py-2">
          <span className="mr-auto">{erased}</span>
          <Button onClick={() => setErased("")}>Done</Button>
        </p>
      )}
      {showRemoved && <Removed />}
      {list.data.count === 0 ? (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">
          No riders yet. Add the first one.
        </p>
      ) : rows.length === 0 ? (
        <p className="p-8 text-center text-soft">No rider matches “{find}”.</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full rounded-lg border border-line bg-sheet">
            <thead>
              <tr className="border-b border-line text-left text-soft">
                {["No.", "Name", "Level", "Born", "Height", "Colours", "Runs", ""].map((h, k) => (
                  <th key={h} className={`px-3 py-2 font-semibold ${k > 1 && k < 6 ? "max-sm:hidden" : ""}`}>
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.slice(0, shown).map((r) => (
                <tr key={r.id} className="border-b border-line last:border-0">
                  <td className="px-3 py-2 font-bold">{r.number ?? "–"}</td>
                  <td className="px-3 py-2 font-semibold">
                    {r.name}
                    {r.asked_to_erase && (
                      <span className="block text-sm font-normal text-bad">asks for everything to be erased</span>
                    )}
                  </td>
                  <td className="px-3 py-2 max-sm:hidden">{r.level}</td>
                  <td className="px-3 py-2 max-sm:hidden">{r.born ?? "–"}</td>
                  <td className="px-3 py-2 max-sm:hidden">{r.height_cm ? heightWords(r.height_cm, units) : "–"}</td>
                  <td className="px-3 py-2 max-sm:hidden">{r.colours || "–"}</td>
                  <td className="px-3 py-2">{r.runs}</td>
                  <td className="px-3 py-2 text-right">
                    <Link
                      to="/riders/$rider/book"
                      params={{ rider: r.id }}
                      search={{}}
                      aria-label={`The Book of ${r.name}`}
                      className="mr-2 inline-block rounded border border-line bg-sheet px-3 py-1 font-semibold hover:bg-tint"
                    >
                      Book
                    </Link>
                    <Button onClick={() => setEditing(r)} aria-label={`Change ${r.name}`}>
                      Change
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {rows.length > shown && (
            <p className="flex flex-wrap items-center gap-3 p-3 text-soft">
              {shown} of {rows.length} riders
              <Button onClick={() => setShown(shown + ROWS)}>Show {Math.min(ROWS, rows.length - shown)} more</Button>
            </p>
          )}
        </div>
      )}
      <Dialog
        title={editing === "new" ? "New rider" : "Change rider"}
        open={editing !== null}
        onOpen={(o) => !o && setEditing(null)}
        keep
      >
        {editing && (
          <>
            <RiderForm rider={editing === "new" ? null : editing} onDone={() => setEditing(null)} />
            {editing !== "new" && (
              <>
                <Agreed rider={list.data.results.find((r) => r.id === editing.id) ?? editing} />
                {may && <People rider={editing} />}
                <Keeping
                  rider={editing}
                  onRemoved={() => {
                    setRemoved(editing);
                    setEditing(null);
                  }}
                  onErased={(gone) => {
                    setErased(
                      `${editing.name} is erased${gone.length ? `, with ${gone.map((x) => `${x.n} ${x.what}`).join(", ")}` : ""}.`,
                    );
                    setEditing(null);
                  }}
                />
              </>
            )}
          </>
        )}
      </Dialog>
    </div>
  );
}

function BringBack({ rider, words, onDone }: { rider: Rider; words: string; onDone?: () => void }) {
  const client = useQueryClient();
  const restore = useMutation({
    mutationFn: () => need(api.POST("/api/riders/{id}/restore", { params: { path: { id: rider.id } } })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["riders"] });
      void client.invalidateQueries({ queryKey: ["runs"] });
      onDone?.();
    },
  });
  return (
    <p role="status" className="flex flex-wrap items-center gap-3 rounded border border-line bg-sheet px-3 py-2">
      {words}
      <Button disabled={restore.isPending} onClick={() => restore.mutate()}>
        Bring {rider.name} back
      </Button>
      {restore.error && <span className="text-bad">{restore.error.message}</span>}
    </p>
  );
}

function Removed() {
  const list = useQuery(removedRiders);
  if (!list.data) return list.error ? <Trouble error={list.error} /> : <Waiting what="Loading" />;
  if (list.data.count === 0) return <p className="text-soft">Nobody was removed in the last 30 days.</p>;
  return list.data.results.map((r) => (
    <BringBack key={r.id} rider={r} words={`${r.name}, removed ${new Date(r.removed_at!).toLocaleDateString()}`} />
  ));
}

/** What is kept of a rider: handed out, taken off the lists, or erased. */
function Keeping({
  rider,
  onRemoved,
  onErased,
}: {
  rider: Rider;
  onRemoved: () => void;
  onErased: (removed: { what: string; n: number }[]) => void;
}) {
  const client = useQueryClient();
  const gone = useMutation({
    mutationFn: (forGood: boolean) =>
      need(
        api.DELETE("/api/riders/{id}", {
          params: { path: { id: rider.id }, query: forGood ? { for_good: true } : {} },
        }),
      ),
    onSuccess: async (said, forGood) => {
      await client.invalidateQueries({ queryKey: ["riders"] });
      void client.invalidateQueries({ queryKey: ["runs"] });
      if (forGood) onErased(said?.removed ?? []);
      else onRemoved();
    },
  });
  return (
    <section className="mt-5 grid gap-2 border-t border-line pt-4">
      <h3 className="font-semibold">What is kept of {rider.name}</h3>
      <div className="flex gap-2 max-sm:flex-wrap [&>button]:shrink-0">
        <a
          href={`/api/riders/${rider.id}/export`}
          download
          className="rounded border border-line bg-sheet px-3 py-1 font-semibold hover:bg-tint"
        >
          Save everything as a file
        </a>
        <Button onClick={() => gone.mutate(false)} disabled={gone.isPending}>
          Remove
        </Button>
        <Sure
          label="Erase for good"
          title={`Erase ${rider.name} for good?`}
          about="Every run, clip, Script and link goes with them, at once. Nothing can bring it back."
          tone="bad"
          disabled={gone.isPending}
          onDo={() => gone.mutate(true)}
        />
      </div>
      {gone.error && (
        <p role="alert" className="text-bad">
          {gone.error.message}
        </p>
      )}
    </section>
  );
}

function RiderForm({ rider, onDone }: { rider: Rider | null; onDone: () => void }) {
  const client = useQueryClient();
  const units = useUnits();
  const [f, setF] = useState({
    name: rider?.name ?? "",
    number: rider?.number?.toString() ?? "",
    colours: rider?.colours ?? "",
    level: rider?.level ?? "intermediate",
    born: rider?.born?.toString() ?? "",
    height_cm: rider?.height_cm?.toString() ?? "",
    guardian_consent: rider?.guardian_consent ?? false,
    stance: rider?.stance ?? "",
    free: rider?.free ?? null,
    practises_at: rider?.practises_at?.toString() ?? "",
  });
  const where = useQuery(places).data;
  const set = (key: keyof typeof f) => (e: { target: { value: string } }) => setF({ ...f, [key]: e.target.value });
  const save = useMutation({
    mutationFn: () => {
      const { guardian_consent, ...said } = f;
      const whole = (text: string) => (text === "" ? null : Number(text));
      const body = {
        ...said,
        level: f.level as Rider["level"],
        stance: f.stance as Rider["stance"],
        number: whole(f.number),
        born: whole(f.born),
        height_cm: whole(f.height_cm),
        practises_at: whole(f.practises_at),
      };
      return rider
        ? need(api.PATCH("/api/riders/{id}", { params: { path: { id: rider.id } }, body }))
        : need(api.POST("/api/riders", { body: { ...body, guardian_consent } }));
    },
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["riders"] });
      onDone();
    },
  });
  const fields = save.error instanceof Problem ? save.error.fields : {};
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field label="Name" error={fields.name}>
        {(id) => <Input id={id} required maxLength={120} value={f.name} onChange={set("name")} />}
      </Field>
      <div className="grid grid-cols-2 gap-4">
        <Field label="Number" error={fields.number}>
          {(id) => <Input id={id} type="number" min={0} max={9999} value={f.number} onChange={set("number")} />}
        </Field>
        <Field label="Level" error={fields.level}>
          {(id) => (
            <Select id={id} value={f.level} onChange={set("level")}>
              {LEVELS.map((l) => (
                <option key={l}>{l}</option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Born in" error={fields.born}>
          {(id) => <Input id={id} type="number" min={1910} max={2100} value={f.born} onChange={set("born")} />}
        </Field>
        <Field
          label={units === "metric" ? "Height in cm" : "Height in inches"}
          hint={
            units === "metric" || !f.height_cm ? "Gives the scale for loads." : heightWords(Number(f.height_cm), units)
          }
          error={fields.height_cm}
        >
          {(id) => (
            <Measure id={id} unit="cm" value={f.height_cm} onChange={(height_cm) => setF({ ...f, height_cm })} />
          )}
        </Field>
        <FrontFoot
          value={f.stance}
          onChange={(stance) => setF({ ...f, stance: stance as NonNullable<Rider["stance"]> })}
          error={fields.stance}
        />
      </div>
      <Field label="Colours" hint="What they wear, to tell riders apart" error={fields.colours}>
        {(id) => <Input id={id} maxLength={120} value={f.colours} onChange={set("colours")} />}
      </Field>
      <details>
        <summary className="cursor-pointer">
          <b className="font-semibold">Practice:</b>{" "}
          {f.free === null ? "nobody has said when they can" : `${f.free.filter((d) => d.length).length} days a week`}
          {where?.find((p) => String(p.id) === f.practises_at) &&
            `, at ${where.find((p) => String(p.id) === f.practises_at)!.name}`}{" "}
          <span className="underline">Change</span>
        </summary>
        <div className="mt-2 grid gap-3">
          <Field
            label="Where they practise"
            hint={
              where?.length === 0
                ? "Places are kept on the Club page."
                : "Sessions of a ladder are planned by its hours."
            }
          >
            {(id) => (
              <Select id={id} value={f.practises_at} onChange={set("practises_at")}>
                <option value="">Wherever</option>
                {where?.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          {f.free === null ? (
            <Button type="button" className="w-fit" onClick={() => setF({ ...f, free: noWeek() })}>
              Say when they can
            </Button>
          ) : (
            <>
              <WeekField label="When they can" value={f.free} onChange={(free) => setF({ ...f, free })} />
              <Button type="button" tone="quiet" className="w-fit" onClick={() => setF({ ...f, free: null })}>
                Nobody has said
              </Button>
            </>
          )}
        </div>
      </details>
      {!rider && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={f.guardian_consent}
            onChange={(e) => setF({ ...f, guardian_consent: e.target.checked })}
          />
          A guardian allows the answer to be shared (needed for minors)
        </label>
      )}
      {save.error && !Object.keys(fields).length && (
        <p role="alert" className="text-bad">
          {save.error.message}
        </p>
      )}
      <div className="flex justify-end">
        <Button type="submit" tone="main" disabled={save.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}
