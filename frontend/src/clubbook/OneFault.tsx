import { useId } from "react";

import { Field, Input } from "../ui/parts";
import { Bands } from "./Bands";
import { type FaultRows, isChanged, type Own, put } from "./changes";
import { OwnDrills } from "./OwnDrills";

const WAYS: Record<string, string> = { below: "below the band", above: "above the band" };

/** A fault of the playbook, with what the club changes of it. */
export function OneFault({ row, own, onChange }: { row: FaultRows; own: Own; onChange: (own: Own) => void }) {
  const called = own.titles[row.wordings[0]!.key];
  return (
    <details className="rounded-lg border border-line bg-sheet">
      <summary className="flex cursor-pointer flex-wrap items-baseline gap-2 px-4 py-2">
        <b className="font-semibold">{called ?? row.title}</b>
        {called && <span className="text-soft">{row.title}</span>}
        {isChanged(own, row) && <span className="ml-auto rounded bg-tint px-2 text-sm">the club’s own</span>}
      </summary>
      <div className="grid gap-5 border-t border-line p-4">
        {row.wordings[0]!.safety && (
          <p className="rounded border border-warn px-3 py-2">
            This fault comes first because somebody can be hurt by it. A wider band passes over riders who were warned
            until now.
          </p>
        )}
        {row.wordings.map((w) => (
          <Wording key={w.key} wording={w} own={own} onChange={onChange} />
        ))}
        <Bands bands={row.bands} own={own} onChange={onChange} />
        <OwnDrills
          drills={own.drills[row.fault] ?? []}
          known={row.drills}
          onChange={(drills) => onChange({ ...own, drills: put(own.drills, row.fault, drills.length ? drills : null) })}
        />
      </div>
    </details>
  );
}

function Wording({
  wording: w,
  own,
  onChange,
}: {
  wording: FaultRows["wordings"][number];
  own: Own;
  onChange: (own: Own) => void;
}) {
  const way = WAYS[w.key.split(":")[1] ?? ""];
  const about = useId();
  const cues = own.cues[w.key];
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <Field label={way ? `Called, ${way}` : "Called"} hint={`The playbook: ${w.title}`}>
        {(id) => (
          <Input
            id={id}
            maxLength={120}
            placeholder={w.title}
            value={own.titles[w.key] ?? ""}
            onChange={(e) => onChange({ ...own, titles: put(own.titles, w.key, e.target.value || null) })}
          />
        )}
      </Field>
      <Field label={way ? `Cues, ${way}` : "Cues"} hint="One a line, the first one first. Empty: the playbook’s.">
        {(id) => (
          <textarea
            id={id}
            rows={Math.max(2, (cues ?? w.cues).length)}
            aria-describedby={about}
            className="w-full rounded border border-line bg-sheet px-2 py-1.5 placeholder:text-soft"
            placeholder={w.cues.join("\n")}
            value={cues?.join("\n") ?? ""}
            onChange={(e) =>
              onChange({ ...own, cues: put(own.cues, w.key, e.target.value ? e.target.value.split("\n") : null) })
            }
          />
        )}
      </Field>
      {cues && (
        <p id={about} className="text-sm text-soft sm:col-start-2">
          The playbook: {w.cues.join(" · ")}
        </p>
      )}
    </div>
  );
}
