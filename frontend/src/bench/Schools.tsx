import type { Discipline, Run } from "../api/client";
import { Field, Select } from "../ui/parts";

/** Where good coaches disagree: which way this run is judged by. */
export function Schools({
  run,
  book,
  busy,
  onChange,
}: {
  run: Run;
  book?: Discipline;
  busy: boolean;
  onChange: (schools: Record<string, string>) => void;
}) {
  const schools = Object.entries(book?.schools ?? {});
  if (!schools.length) return null;
  const chosen = run.schools ?? {};
  return (
    <details className="border-t border-line px-3 py-2">
      <summary className="cursor-pointer font-semibold">
        Judged by ({Object.keys(chosen).length ? "chosen" : "as usual"})
      </summary>
      <div className="mt-2 grid gap-3">
        {schools.map(([id, school]) => {
          const now = school.options[chosen[id] ?? ""];
          return (
            <Field key={id} label={school.question} hint={now ? now.reason : school.default_reason}>
              {(field) => (
                <Select
                  id={field}
                  disabled={busy}
                  value={chosen[id] ?? ""}
                  onChange={(e) =>
                    onChange(
                      e.target.value
                        ? { ...chosen, [id]: e.target.value }
                        : Object.fromEntries(Object.entries(chosen).filter(([q]) => q !== id)),
                    )
                  }
                >
                  <option value="">As usual for the level</option>
                  {Object.entries(school.options).map(([option, o]) => (
                    <option key={option} value={option}>
                      {o.title}
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
