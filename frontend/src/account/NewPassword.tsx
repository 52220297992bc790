import { useMutation } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { account, api, need, Problem, setCsrf } from "../api/client";
import { Button, Field, Input } from "../ui/parts";
import { PasswordField } from "./PasswordField";
import { Sheet } from "./Sheet";

const fresh = async () => setCsrf((await need(api.GET("/api/session"))).csrf);

/** Ask for a link by mail where a password was forgotten. */
export function Forgotten() {
  const [email, setEmail] = useState("");
  const ask = useMutation({
    mutationFn: async () => {
      await fresh();
      await account("POST", "/auth/password/request", { email });
    },
  });
  return (
    <Sheet
      title="A new password"
      about="By mail, where your account has an address. Otherwise an owner of your club makes you a link on the Club page."
    >
      {ask.isSuccess ? (
        <p role="status">If an account has this address, a link is on its way. It works once, for a few days.</p>
      ) : (
        <form
          className="grid gap-4"
          onSubmit={(e) => {
            e.preventDefault();
            ask.mutate();
          }}
        >
          <Field label="Mail address" error={ask.error?.message}>
            {(id) => <Input id={id} type="email" required value={email} onChange={(e) => setEmail(e.target.value)} />}
          </Field>
          <Button type="submit" tone="main" className="justify-center" disabled={ask.isPending}>
            Send me a link
          </Button>
        </form>
      )}
      <Link to="/login" search={{}} className="text-sm underline">
        Back to the log-in
      </Link>
    </Sheet>
  );
}

/** Set a new password by a link. */
export function NewPassword() {
  const { key } = useParams({ from: "/new-password/$key" });
  const [password, setPassword] = useState("");
  const set = useMutation({
    mutationFn: async () => {
      await fresh();
      await account("POST", "/auth/password/reset", { key, password }).catch((e: unknown) => {
        // It is set; logging in is left to the log-in page.
        if (!(e instanceof Problem && e.status === 401)) throw e;
      });
    },
  });
  return (
    <Sheet title="A new password">
      {set.isSuccess ? (
        <p role="status">
          It is set.{" "}
          <Link to="/login" search={{}} className="underline">
            Log in with it
          </Link>
        </p>
      ) : (
        <form
          className="grid gap-4"
          onSubmit={(e) => {
            e.preventDefault();
            set.mutate();
          }}
        >
          <PasswordField label="New password" error={set.error?.message} value={password} onChange={setPassword} />
          <Button type="submit" tone="main" className="justify-center" disabled={set.isPending}>
            Set it
          </Button>
        </form>
      )}
    </Sheet>
  );
}
