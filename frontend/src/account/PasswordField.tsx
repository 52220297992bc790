import { Field, Input } from "../ui/parts";

/** A password: one that is known already, or a new one with what it has to be. */
export function PasswordField({
  label,
  known = false,
  error,
  value,
  onChange,
}: {
  label: string;
  known?: boolean;
  error?: string;
  value: string;
  onChange: (password: string) => void;
}) {
  return (
    <Field label={label} hint={known ? undefined : "Twelve characters or more; a few words are best."} error={error}>
      {(id) => (
        <Input
          id={id}
          type="password"
          required
          autoComplete={known ? "current-password" : "new-password"}
          minLength={known ? undefined : 12}
          value={value}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Field>
  );
}
