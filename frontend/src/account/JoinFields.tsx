import { useState } from "react";

import { Button, Field, Input } from "../ui/parts";
import { PasswordField } from "./PasswordField";

export interface Joining {
  name: string;
  username: string;
  email: string;
  password: string;
}

/** What somebody says of themselves to have an account. */
export function JoinFields({
  label = "Join",
  busy,
  error,
  fields,
  onJoin,
}: {
  label?: string;
  busy: boolean;
  error: string | undefined;
  fields: Record<string, string>;
  onJoin: (said: Joining) => void;
}) {
  const [said, setSaid] = useState<Joining>({ name: "", username: "", email: "", password: "" });
  const set = (key: keyof Joining) => (e: { target: { value: string } }) => setSaid({ ...said, [key]: e.target.value });
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        onJoin(said);
      }}
    >
      <Field label="Your name" error={fields.name}>
        {(id) => (
          <Input id={id} required maxLength={120} autoComplete="name" value={said.name} onChange={set("name")} />
        )}
      </Field>
      <Field label="Name for logging in" error={fields.username}>
        {(id) => (
          <Input
            id={id}
            required
            maxLength={150}
            autoComplete="username"
            value={said.username}
            onChange={set("username")}
          />
        )}
      </Field>
      <Field label="Mail address" hint="For a forgotten password; may be empty." error={fields.email}>
        {(id) => <Input id={id} type="email" autoComplete="email" value={said.email} onChange={set("email")} />}
      </Field>
      <PasswordField
        label="Password"
        error={fields.password}
        value={said.password}
        onChange={(password) => setSaid({ ...said, password })}
      />
      {error && Object.keys(fields).length === 0 && (
        <p role="alert" className="text-bad">
          {error}
        </p>
      )}
      <Button type="submit" tone="main" className="justify-center" disabled={busy}>
        {label}
      </Button>
    </form>
  );
}
