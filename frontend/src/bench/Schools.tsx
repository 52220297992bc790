import { useState } from "react";

import type { Bench, Discipline, Schemas } from "../api/client";
import { Field, Select } from "../ui/parts";

type Whose = Schemas["SchoolChoiceRequest"]["whose"];

/** Where good coaches disagree: which way this run is judged by, and for whom that is chosen. */
export function Schools({
  bench,
  book,
  busy,
  onChoose,
}: {
  bench: Bench;
  book?: Discipline;
  busy: boolean;
  onChoose: (school: Schemas["SchoolChoiceRequest"]) => void;
}) {
  const schools = Object.entries(book?.schools ?? {});
  const [whose, setWhose] = useState<Whose>("run");
  if (!schools.length) return null;
  const chosen = bench.schools_in_force;
  const OF: Record<Whose, string> = {
    run: "this run",
    rider: `all of ${bench.run.rider.name}’s runs`,
    club: "all of the club’s runs",
  };
  return (
    <details className="border-t border-line px-3 py-2">
      <summary className="cursor-pointer font-semibold">
        Judged by ({Object.keys(chosen).length ? "chosen" : "as usual"})
      </summary>
      <div className="mt-2 grid gap-3">
        <Field label="A choice here is for">
          {(field) => (
            <Select id={field} value={whose} onChange={(e) => setWhose(e.target.value as Whose)}>
              {(Object.keys(OF) as Whose[]).map((w) => (
                <option key={w} value={w}>
                  {OF[w]}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {schools.map(([id, school]) => {
          const now = chosen[id];
          const option = school.options[now?.option ?? ""];
          return (
            <Field
              key={id}
              label={school.question}
              hint={`${option ? option.reason : school.default_reason}${now ? ` Chosen for ${OF[now.whose]}.` : ""}`}
            >
              {(field) => (
                <Select
                  id={field}
                  disabled={busy}
                  value={now?.option ?? ""}
                  onChange={(e) =>
                    onChoose({
                      question: id,
                      option: e.target.value || null,
                      whose: e.target.value ? whose : (now?.whose ?? whose),
                    })
                  }
                >
                  <option value="">As usual for the level</option>
                  {Object.entries(school.options).map(([o, words]) => (
                    <option key={o} value={o}>
                      {words.title}
                    </option>
                  ))}
                </Select>
              )}
            </Field>
          );
        })}
      </div>
    </details>
  );
}
