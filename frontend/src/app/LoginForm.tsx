import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, Problem, type Schemas, setCsrf } from "../api/client";
import { session } from "../api/queries";
import { Button, Field, Input } from "../ui/parts";

/** Name and password; who is logged in is known before `onIn` is called. */
export function LoginForm({ onIn }: { onIn: (who: Schemas["Session"]) => void | Promise<void> }) {
  const client = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const enter = useMutation({
    mutationFn: async () => {
      // The token may be of a session that has ended.
      setCsrf((await need(api.GET("/api/session"))).csrf);
      return need(api.POST("/api/session", { body: { username, password, ...(code ? { code } : {}) } }));
    },
    onSuccess: async (who) => {
      // One that was asked before the log-in would say that nobody is logged in.
      await client.cancelQueries({ queryKey: session.queryKey });
      setCsrf(who.csrf);
      client.setQueryData(session.queryKey, who);
      await onIn(who);
    },
  });
  const asksCode = code !== "" || (enter.error instanceof Problem && enter.error.needsCode);
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        enter.mutate();
      }}
    >
      <Field label="Name">
        {(id) => (
          <Input
            id={id}
            value={username}
            onChange={(e) => setUsername(e.target.value)}
            autoComplete="username"
            required
            // eslint-disable-next-line jsx-a11y/no-autofocus -- nothing else is to be done on this form
            autoFocus
          />
        )}
      </Field>
      <Field label="Password">
        {(id) => (
          <Input
            id={id}
            type="password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            autoComplete="current-password"
            required
          />
        )}
      </Field>
      {asksCode && (
        <Field label="Code" hint="From your authenticator, or one of your recovery codes.">
          {(id) => (
            <Input
              id={id}
              value={code}
              onChange={(e) => setCode(e.target.value)}
              autoComplete="one-time-code"
              required
              // eslint-disable-next-line jsx-a11y/no-autofocus -- it is what is asked for now
              autoFocus
            />
          )}
        </Field>
      )}
      {enter.error && !(asksCode && !code) && (
        <p role="alert" className="text-bad">
          {enter.error.message}
        </p>
      )}
      <Button type="submit" tone="main" disabled={enter.isPending} className="justify-center">
        Log in
      </Button>
    </form>
  );
}
