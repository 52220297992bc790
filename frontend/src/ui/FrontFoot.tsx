import { Field, Select } from "./parts";

/** Which foot a rider has in front on a board or one ski. Toe and heel, onside and offside hang on it. */
export function FrontFoot({
  value,
  onChange,
  error,
  required,
  hint,
}: {
  value: string;
  onChange: (value: string) => void;
  error?: string;
  required?: boolean;
  hint?: string;
}) {
  return (
    <Field
      label="Foot in front"
      hint={hint ?? "On a board or one ski; toe and heel, onside and offside follow from it."}
      error={error}
    >
      {(id) => (
        <Select id={id} required={required} value={value} onChange={(e) => onChange(e.target.value)}>
          <option value="">Not known</option>
          <option value="regular">Left foot (regular)</option>
          <option value="goofy">Right foot (goofy)</option>
        </Select>
      )}
    </Field>
  );
}
