import type { Given, Kind } from "../ui/conditions";
import { Field, Input, Select } from "../ui/parts";
import { sentence } from "../ui/places";

/** What a discipline asks of the day, in plain fields: a sender's page is small, and has no coach's units. */
export function Conditions({
  known,
  given,
  onChange,
}: {
  known: Record<string, Kind>;
  given: Given;
  onChange: (given: Given) => void;
}) {
  return Object.entries(known).map(([key, kind]) => {
    const set = (text: string) => onChange({ ...given, [key]: text });
    const choices = kind.takes === "yes_no" ? ["yes", "no"] : kind.choices;
    return (
      <Field
        key={key}
        label={kind.unit ? `${kind.title} (${kind.unit})` : kind.title}
        hint={kind.takes === "rope" ? "15 off, 28 off, 14.25 m" : undefined}
      >
        {(id) =>
          choices.length ? (
            <Select id={id} value={given[key] ?? ""} onChange={(e) => set(e.target.value)}>
              <option value="">Not known</option>
              {choices.map((c) => (
                <option key={c} value={c}>
                  {c === "l" ? "Left" : c === "r" ? "Right" : sentence(c)}
                </option>
              ))}
            </Select>
          ) : (
            <Input
              id={id}
              inputMode={kind.takes === "number" ? "decimal" : undefined}
              value={given[key] ?? ""}
              onChange={(e) => set(e.target.value)}
            />
          )
        }
      </Field>
    );
  });
}
