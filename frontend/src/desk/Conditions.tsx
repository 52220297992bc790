import { useQuery } from "@tanstack/react-query";

import { rope } from "../api/queries";
import type { Given, Kind } from "../ui/conditions";
import { plain, sentence } from "../ui/places";
import { Field, Input, Select } from "../ui/parts";
import { Measure, unitFor, useUnits } from "../ui/units";

/** Fields for what a run's discipline asks of the day: the slope, the rope, the wind. */
export function Conditions({
  known,
  given,
  onChange,
  error,
}: {
  known: Record<string, Kind>;
  given: Given;
  onChange: (given: Given) => void;
  error?: string;
}) {
  const units = useUnits();
  return Object.entries(known).map(([key, kind], k) => {
    const [unit] = unitFor(units, kind.unit);
    const set = (text: string) => onChange({ ...given, [key]: text });
    const own = k === 0 ? error : undefined;
    if (kind.takes === "rope") return <Rope key={key} value={given[key] ?? ""} onChange={set} error={own} />;
    const choices: [string, string][] =
      kind.takes === "yes_no"
        ? [
            ["yes", "Yes"],
            ["no", "No"],
          ]
        : kind.choices.map((c) => [c, c === "l" ? "Left" : c === "r" ? "Right" : sentence(c)]);
    return (
      <Field key={key} label={unit ? `${kind.title} (${unit})` : kind.title} error={own}>
        {(id) =>
          choices.length ? (
            <Select id={id} value={given[key] ?? ""} onChange={(e) => set(e.target.value)}>
              <option value="">Not said</option>
              {choices.map(([value, words]) => (
                <option key={value} value={value}>
                  {plain(words)}
                </option>
              ))}
            </Select>
          ) : kind.takes === "number" ? (
            <Measure id={id} unit={kind.unit} value={given[key] ?? ""} onChange={set} />
          ) : (
            <Input id={id} value={given[key] ?? ""} onChange={(e) => set(e.target.value)} />
          )
        }
      </Field>
    );
  });
}

/** A rope in metres or in feet off, said back as it was understood. */
function Rope({ value, onChange, error }: { value: string; onChange: (text: string) => void; error?: string }) {
  const text = value.trim();
  const read = useQuery({ ...rope(text), enabled: text !== "" });
  const hint = text === "" ? "15 off, 28 off, 14.25 m" : read.data ? `Understood as ${read.data.words}` : undefined;
  return (
    <Field label="Rope" hint={hint} error={text !== "" && read.error ? read.error.message : error}>
      {(id) => <Input id={id} value={value} onChange={(e) => onChange(e.target.value)} />}
    </Field>
  );
}
