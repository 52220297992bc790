import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { CirclePlus } from "lucide-react";
import { useState } from "react";

import { api, need, Problem, type Rider } from "../api/client";
import { riders } from "../api/queries";
import { LEVELS } from "../desk/NewRun";
import { Dialog } from "../ui/Dialog";
import { FrontFoot } from "../ui/FrontFoot";
import { Button, Field, Input, Select, Trouble, Waiting } from "../ui/parts";

export function Riders() {
  const list = useQuery(riders);
  const [editing, setEditing] = useState<Rider | "new" | null>(null);
  const [find, setFind] = useState("");
  if (list.isPending) return <Waiting what="Loading the riders" />;
  if (list.error) return <Trouble error={list.error} again={() => void list.refetch()} />;
  const rows = list.data.results.filter((r) => `${r.name} ${r.number ?? ""}`.toLowerCase().includes(find.toLowerCase()));
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <div className="flex items-center justify-between gap-4">
        <h1 className="text-2xl">Riders</h1>
        <div className="flex gap-2">
          <Input aria-label="Find a rider" placeholder="Find by name or number" value={find} onChange={(e) => setFind(e.target.value)} />
          <Button tone="main" onClick={() => setEditing("new")}>
            <CirclePlus aria-hidden className="size-4" /> New rider
          </Button>
        </div>
      </div>
      {list.data.count === 0 ? (
        <p className="rounded border border-dashed border-line p-8 text-center text-soft">No riders yet. Add the first one.</p>
      ) : rows.length === 0 ? (
        <p className="p-8 text-center text-soft">No rider matches “{find}”.</p>
      ) : (
        <table className="w-full rounded-lg border border-line bg-sheet">
          <thead>
            <tr className="border-b border-line text-left text-soft">
              {["No.", "Name", "Level", "Born", "Height", "Colours", "Runs", ""].map((h) => (
                <th key={h} className="px-3 py-2 font-semibold">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="border-b border-line last:border-0">
                <td className="px-3 py-2 font-bold">{r.number ?? "–"}</td>
                <td className="px-3 py-2 font-semibold">{r.name}</td>
                <td className="px-3 py-2">{r.level}</td>
                <td className="px-3 py-2">{r.born ?? "–"}</td>
                <td className="px-3 py-2">{r.height_cm ? `${r.height_cm} cm` : "–"}</td>
                <td className="px-3 py-2">{r.colours || "–"}</td>
                <td className="px-3 py-2">{r.runs}</td>
                <td className="px-3 py-2 text-right">
                  <Button onClick={() => setEditing(r)} aria-label={`Change ${r.name}`}>
                    Change
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Dialog title={editing === "new" ? "New rider" : "Change rider"} open={editing !== null} onOpen={(o) => !o && setEditing(null)}>
        {editing && <RiderForm rider={editing === "new" ? null : editing} onDone={() => setEditing(null)} />}
      </Dialog>
    </div>
  );
}

function RiderForm({ rider, onDone }: { rider: Rider | null; onDone: () => void }) {
  const client = useQueryClient();
  const [f, setF] = useState({
    name: rider?.name ?? "", number: rider?.number?.toString() ?? "", colours: rider?.colours ?? "", level: rider?.level ?? "intermediate",
    born: rider?.born?.toString() ?? "", height_cm: rider?.height_cm?.toString() ?? "", guardian_consent: rider?.guardian_consent ?? false,
    stance: rider?.stance ?? "",
  });
  const set = (key: keyof typeof f) => (e: { target: { value: string } }) => setF({ ...f, [key]: e.target.value });
  const save = useMutation({
    mutationFn: () => {
      const whole = (text: string) => (text === "" ? null : Number(text));
      const body = { ...f, level: f.level as Rider["level"], stance: f.stance as Rider["stance"], number: whole(f.number), born: whole(f.born), height_cm: whole(f.height_cm) };
      return rider ? need(api.PATCH("/api/riders/{id}", { params: { path: { id: rider.id } }, body })) : need(api.POST("/api/riders", { body }));
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
        <Field label="Height in cm" hint="Gives the scale for loads." error={fields.height_cm}>
          {(id) => <Input id={id} type="number" min={60} max={250} step={0.5} value={f.height_cm} onChange={set("height_cm")} />}
        </Field>
        <FrontFoot value={f.stance} onChange={(stance) => setF({ ...f, stance: stance as NonNullable<Rider["stance"]> })} error={fields.stance} />
      </div>
      <Field label="Colours" hint="What they wear, to tell riders apart" error={fields.colours}>
        {(id) => <Input id={id} maxLength={120} value={f.colours} onChange={set("colours")} />}
      </Field>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={f.guardian_consent} onChange={(e) => setF({ ...f, guardian_consent: e.target.checked })} />A guardian allows clips to be shared (needed for minors)
      </label>
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
