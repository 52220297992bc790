import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../api/client";
import { bench, choices } from "../api/queries";
import { CueRecord } from "./CueRecord";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";

type Steps = Record<"still" | "slow" | "speed" | "full", string>;
const STAGES: [keyof Steps, string][] = [
  ["still", "Without moving"],
  ["slow", "Slowly"],
  ["speed", "At speed"],
  ["full", "In the real thing"],
];
const OWN = "own";

/** Another cue and another drill for a fault, those that this club chose before first, or words of the coach's own. */
export function ChooseWords({
  runId,
  version,
  fault,
  word,
  onSay,
  onDone,
}: {
  runId: number;
  version: string;
  fault: string;
  word: Schemas["Word"];
  onSay: (edit: Schemas["EditRequest"]) => void;
  onDone: () => void;
}) {
  const all = useQuery(choices(runId, version));
  const discipline = useQuery(bench(runId)).data?.run.discipline;
  const its = all.data?.faults[fault];
  const chosen = word.drills[fault] as
    string | { title: string; steps: { stage: keyof Steps; text: string }[] } | undefined;
  const mine = typeof chosen === "object" ? chosen : undefined;
  const [cue, setCue] = useState<string | null>(null);
  const [drill, setDrill] = useState(mine ? OWN : ((chosen as string | undefined) ?? ""));
  const [name, setName] = useState(mine?.title ?? "");
  const [steps, setSteps] = useState<Steps>({
    still: "",
    slow: "",
    speed: "",
    full: "",
    ...Object.fromEntries(mine?.steps.map((s) => [s.stage, s.text]) ?? []),
  });
  if (all.error) return <Trouble error={all.error} again={() => void all.refetch()} />;
  if (!all.data) return <Waiting what="Getting cues and drills" />;
  if (!its) return <p>This finding is not on the run any more.</p>;
  const said = cue ?? word.cues[fault] ?? "";
  const written = STAGES.filter(([stage]) => steps[stage].trim()).map(([stage]) => ({
    stage,
    text: steps[stage].trim(),
    dose: "",
  }));
  const save = () => {
    if (said.trim() !== (word.cues[fault] ?? "")) onSay({ kind: "cue", fault, cue: said.trim() });
    if (drill === OWN) onSay({ kind: "drill", fault, title: name.trim(), steps: written });
    else if (drill !== (typeof chosen === "string" ? chosen : "") || mine) onSay({ kind: "drill", fault, drill });
    onDone();
  };
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <Field label="Cue" hint="Leave it empty for the software’s own.">
        {(id) => (
          <>
            <textarea
              id={id}
              rows={2}
              maxLength={400}
              className="w-full rounded border border-line bg-sheet p-2"
              value={said}
              onChange={(e) => setCue(e.target.value)}
            />
            <div className="flex flex-wrap gap-1">
              {its.cues.map((c) => (
                <button
                  key={c.cue}
                  type="button"
                  className="rounded border border-line px-2 py-0.5 text-left text-sm hover:bg-tint"
                  onClick={() => setCue(c.cue)}
                >
                  {c.cue}
                  <Used n={c.used} />
                  {discipline && <CueRecord {...{ discipline, fault }} cue={c.cue} />}
                </button>
              ))}
            </div>
          </>
        )}
      </Field>
      <fieldset className="grid gap-1">
        <legend className="mb-1 font-semibold">Drill</legend>
        <Radio label="As the software has it" on={drill === ""} onPick={() => setDrill("")} />
        {its.drills.map((d) => (
          <Radio key={d.id} label={d.title} used={d.used} on={drill === d.id} onPick={() => setDrill(d.id)} />
        ))}
        <Radio label="One of my own" on={drill === OWN} onPick={() => setDrill(OWN)} />
      </fieldset>
      {drill === OWN && (
        <div className="grid gap-3 border-l-2 border-line pl-3">
          <Field label="Name of the drill">
            {(id) => <Input id={id} required maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />}
          </Field>
          {STAGES.map(([stage, words]) => (
            <Field key={stage} label={words}>
              {(id) => (
                <Input
                  id={id}
                  maxLength={400}
                  value={steps[stage]}
                  onChange={(e) => setSteps({ ...steps, [stage]: e.target.value })}
                />
              )}
            </Field>
          ))}
          <p className="text-sm text-soft">One step at the least.</p>
        </div>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>Leave it</Button>
        <Button type="submit" tone="main" disabled={drill === OWN && !written.length}>
          Use these
        </Button>
      </div>
    </form>
  );
}

const Used = ({ n }: { n: number }) =>
  n > 0 ? <span className="text-soft"> · {n === 1 ? "chosen once here" : `chosen ${n} times here`}</span> : null;

function Radio({ label, used = 0, on, onPick }: { label: string; used?: number; on: boolean; onPick: () => void }) {
  return (
    <label className="flex min-h-7 items-center gap-2">
      <input type="radio" name="drill" checked={on} onChange={onPick} />
      <span>
        {label}
        <Used n={used} />
      </span>
    </label>
  );
}
