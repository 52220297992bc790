import type { Rider } from "../api/client";
import { Field, Select } from "../ui/parts";

/** Who rides. */
export function RiderField({
  people,
  value,
  onPick,
  error,
}: {
  people?: Rider[];
  value: string;
  onPick: (rider: string) => void;
  error?: string;
}) {
  return (
    <Field label="Rider" error={error} hint={people?.length === 0 ? "Add riders on the Riders page first." : undefined}>
      {(id) => (
        <Select id={id} required value={value} onChange={(e) => onPick(e.target.value)}>
          <RiderOptions people={people} />
        </Select>
      )}
    </Field>
  );
}

/** The club's riders to choose from; `none` is what choosing nobody is called. */
export const RiderOptions = ({ people, none = "Choose" }: { people?: Rider[]; none?: string }) => (
  <>
    <option value="">{none}</option>
    {people?.map((r) => (
      <option key={r.id} value={r.id}>
        {r.name}
        {r.number != null && ` · ${r.number}`}
      </option>
    ))}
  </>
);
