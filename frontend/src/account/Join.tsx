import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, Problem } from "../api/client";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { PasswordField } from "./PasswordField";
import { Sheet } from "./Sheet";

const AS = { owner: "an owner", coach: "a coach", helper: "a helper" };

/** Joining a club by its invitation. */
export function Join() {
  const { token } = useParams({ from: "/join/$token" });
  const params = { path: { token } };
  const asked = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => need(api.GET("/api/invitations/{token}", { params })),
    retry: false,
    staleTime: Infinity,
  });
  const [name, setName] = useState("");
  const [username, setUsername] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const join = useMutation({
    mutationFn: () => need(api.POST("/api/invitations/{token}", { params, body: { name, username, email, password } })),
  });
  if (join.isSuccess)
    return (
      <Sheet title={`Welcome, ${name}`}>
        <Link to="/login" search={{}} className="underline">
          Log in
        </Link>
      </Sheet>
    );
  if (asked.error) return <Trouble error={asked.error} />;
  if (!asked.data) return <Waiting what="Opening the invitation" />;
  const wrong = join.error instanceof Problem ? join.error.fields : {};
  return (
    <Sheet title={asked.data.club} about={`${asked.data.by || "The club"} invites you as ${AS[asked.data.role]}.`}>
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          join.mutate();
        }}
      >
        <Field label="Your name" error={wrong.name}>
          {(id) => (
            <Input
              id={id}
              required
              maxLength={120}
              autoComplete="name"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Field>
        <Field label="Name for logging in" error={wrong.username}>
          {(id) => (
            <Input
              id={id}
              required
              maxLength={150}
              autoComplete="username"
              value={username}
              onChange={(e) => setUsername(e.target.value)}
            />
          )}
        </Field>
        <Field label="Mail address" hint="For a forgotten password; may be empty." error={wrong.email}>
          {(id) => (
            <Input id={id} type="email" autoComplete="email" value={email} onChange={(e) => setEmail(e.target.value)} />
          )}
        </Field>
        <PasswordField label="Password" error={wrong.password} value={password} onChange={setPassword} />
        {join.error && Object.keys(wrong).length === 0 && (
          <p role="alert" className="text-bad">
            {join.error.message}
          </p>
        )}
        <Button type="submit" tone="main" className="justify-center" disabled={join.isPending}>
          Join
        </Button>
      </form>
    </Sheet>
  );
}
