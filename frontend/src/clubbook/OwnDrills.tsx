import type { Schemas } from "../api/client";
import { Button, Field, Input, Select } from "../ui/parts";

type Drill = Schemas["OwnDrill"];
type Stage = Drill["steps"][number]["stage"];
const STAGES: Record<Stage, string> = { still: "Standing", slow: "Slowly", speed: "At speed", full: "For real" };
const NEW: Drill = {
  title: "",
  sign: "",
  caution: null,
  steps: (["still", "slow", "full"] as Stage[]).map((stage) => ({ stage, text: "", dose: "" })),
};

/** Ladders of the club's own for a fault, offered before the playbook's. */
export function OwnDrills({
  drills,
  known,
  onChange,
}: {
  drills: Drill[];
  known: string[];
  onChange: (drills: Drill[]) => void;
}) {
  const put = (n: number, drill: Drill) => onChange(drills.map((d, k) => (k === n ? drill : d)));
  return (
    <div className="grid gap-3">
      <p className="text-soft">The playbook’s: {known.join(", ") || "none"}</p>
      {drills.map((d, n) => (
        <fieldset key={n} className="grid gap-3 rounded border border-line p-3">
          <legend className="px-1 font-semibold">{d.title || "A drill of the club’s own"}</legend>
          <Field label="Drill">
            {(id) => (
              <Input
                id={id}
                maxLength={120}
                value={d.title}
                onChange={(e) => put(n, { ...d, title: e.target.value })}
              />
            )}
          </Field>
          {d.steps.map((s, k) => {
            const step = (change: Partial<typeof s>) =>
              put(n, { ...d, steps: d.steps.map((x, i) => (i === k ? { ...x, ...change } : x)) });
            return (
              <div key={k} className="grid gap-2 sm:grid-cols-[8rem_1fr_9rem_auto]">
                <Select
                  aria-label={`Step ${k + 1}: stage`}
                  value={s.stage}
                  onChange={(e) => step({ stage: e.target.value as Stage })}
                >
                  {Object.entries(STAGES).map(([key, words]) => (
                    <option key={key} value={key}>
                      {words}
                    </option>
                  ))}
                </Select>
                <Input
                  aria-label={`Step ${k + 1}: what to do`}
                  placeholder="What to do"
                  maxLength={300}
                  value={s.text}
                  onChange={(e) => step({ text: e.target.value })}
                />
                <Input
                  aria-label={`Step ${k + 1}: how much`}
                  placeholder="How much"
                  maxLength={300}
                  value={s.dose}
                  onChange={(e) => step({ dose: e.target.value })}
                />
                <Button
                  tone="quiet"
                  disabled={d.steps.length <= 3}
                  onClick={() => put(n, { ...d, steps: d.steps.filter((_, i) => i !== k) })}
                >
                  Take out
                </Button>
              </div>
            );
          })}
          <Field label="It works when" hint="What the rider notices.">
            {(id) => (
              <Input id={id} maxLength={300} value={d.sign} onChange={(e) => put(n, { ...d, sign: e.target.value })} />
            )}
          </Field>
          <Field label="Take care" hint="May be empty.">
            {(id) => (
              <Input
                id={id}
                maxLength={300}
                value={d.caution ?? ""}
                onChange={(e) => put(n, { ...d, caution: e.target.value || null })}
              />
            )}
          </Field>
          <span className="flex gap-2">
            <Button
              disabled={d.steps.length >= 12}
              onClick={() => put(n, { ...d, steps: [...d.steps, { stage: "full", text: "", dose: "" }] })}
            >
              One more step
            </Button>
            <Button tone="bad" onClick={() => onChange(drills.filter((_, k) => k !== n))}>
              Take the drill out
            </Button>
          </span>
        </fieldset>
      ))}
      {drills.length < 12 && (
        <Button className="w-fit" onClick={() => onChange([...drills, NEW])}>
          Add a drill
        </Button>
      )}
    </div>
  );
}
