import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, setCsrf } from "../api/client";
import { session } from "../api/queries";
import { Button, Field, Input } from "../ui/parts";

export function Login() {
  useQuery(session);
  const client = useQueryClient();
  const go = useNavigate();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const enter = useMutation({
    mutationFn: () => need(api.POST("/api/session", { body: { username, password } })),
    onSuccess: async (who) => {
      setCsrf(who.csrf);
      client.setQueryData(session.queryKey, who);
      await go({ to: "/" });
    },
  });
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <form
        className="grid w-full max-w-sm gap-4 rounded-lg border border-line bg-sheet p-6"
        onSubmit={(e) => {
          e.preventDefault();
          enter.mutate();
        }}
      >
        <div className="flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-10" />
          <div>
            <h1 className="text-xl">Proklisis</h1>
            <p className="text-soft">From a slow-motion run to the one thing that helps.</p>
          </div>
        </div>
        <Field label="Name">{(id) => <Input id={id} value={username} onChange={(e) => setUsername(e.target.value)} autoComplete="username" required autoFocus />}</Field>
        <Field label="Password">{(id) => <Input id={id} type="password" value={password} onChange={(e) => setPassword(e.target.value)} autoComplete="current-password" required />}</Field>
        {enter.error && (
          <p role="alert" className="text-bad">
            {enter.error.message}
          </p>
        )}
        <Button type="submit" tone="main" disabled={enter.isPending} className="justify-center">
          Log in
        </Button>
      </form>
    </main>
  );
}
