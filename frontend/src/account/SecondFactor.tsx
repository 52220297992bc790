import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { account, api, need, Problem } from "../api/client";
import { session } from "../api/queries";
import { Button, Field, Input } from "../ui/parts";
import { PasswordField } from "./PasswordField";

type Setting = { secret: string; image: string };

/** Codes of an authenticator beside the password: set up, turned off, and codes for when the phone is lost. */
export function SecondFactor({ on }: { on: boolean }) {
  const client = useQueryClient();
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [setting, setSetting] = useState<Setting | null>(null);
  const [asked, setAsked] = useState<"up" | "off" | "codes" | null>(null);
  const [codes, setCodes] = useState<string[] | null>(null);
  const fresh = () => client.invalidateQueries({ queryKey: session.queryKey });
  const unlock = useMutation({
    mutationFn: async () => {
      await account("POST", "/auth/reauthenticate", { password });
      setPassword("");
      if (asked === "off") {
        await account("DELETE", "/account/authenticators/totp");
        setCodes(null);
        await fresh();
      } else if (asked === "codes") setCodes(await recovery());
      else setSetting(await begin());
      setAsked(null);
    },
  });
  const finish = useMutation({
    mutationFn: async () => {
      await account("POST", "/account/authenticators/totp", { code: code.replaceAll(" ", "") });
      setSetting(null);
      setCode("");
      setCodes(await recovery());
      await fresh();
    },
  });
  return (
    <div className="grid gap-3">
      <p>
        {on
          ? "Logging in asks for a code of your authenticator."
          : "Logging in asks for your password only. With an authenticator on your phone, nobody who learns it gets in."}
      </p>
      {!asked && !setting && (
        <span className="flex flex-wrap gap-2">
          {on ? (
            <>
              <Button onClick={() => setAsked("codes")}>Show recovery codes</Button>
              <Button tone="bad" onClick={() => setAsked("off")}>
                Turn it off
              </Button>
            </>
          ) : (
            <Button tone="main" onClick={() => setAsked("up")}>
              Set it up
            </Button>
          )}
        </span>
      )}
      {asked && (
        <form
          className="grid max-w-sm gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            unlock.mutate();
          }}
        >
          <PasswordField
            label="Your password, once more"
            known
            error={unlock.error?.message}
            value={password}
            onChange={setPassword}
          />
          <span className="flex gap-2">
            <Button type="submit" tone="main" disabled={unlock.isPending}>
              Go on
            </Button>
            <Button onClick={() => setAsked(null)}>Leave it</Button>
          </span>
        </form>
      )}
      {setting && (
        <form
          className="grid max-w-sm gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            finish.mutate();
          }}
        >
          <p>Let your authenticator read this, or type the letters into it.</p>
          <img src={setting.image} alt="The secret for your authenticator" className="size-48 bg-white p-2" />
          <code className="break-all">{setting.secret}</code>
          <Field label="The code that it shows now" error={finish.error?.message}>
            {(id) => (
              <Input
                id={id}
                required
                inputMode="numeric"
                autoComplete="one-time-code"
                value={code}
                onChange={(e) => setCode(e.target.value)}
              />
            )}
          </Field>
          <span className="flex gap-2">
            <Button type="submit" tone="main" disabled={finish.isPending}>
              Turn it on
            </Button>
            <Button onClick={() => setSetting(null)}>Leave it</Button>
          </span>
        </form>
      )}
      {codes && (
        <section className="grid gap-2 rounded border border-warn p-3">
          <p>
            Recovery codes, each for one time when the phone is not there. Write them down now and keep them away from
            it.
          </p>
          <ul className="columns-2 font-mono">
            {codes.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          <Button className="justify-self-start" onClick={() => setCodes(null)}>
            I have them
          </Button>
        </section>
      )}
    </div>
  );
}

/** A new secret; the server keeps it until the first code of it comes. */
async function begin(): Promise<Setting> {
  const got = await account("GET", "/account/authenticators/totp").catch((e: unknown) => {
    if (e instanceof Problem && e.status === 404)
      return (e as Problem & { kept: { meta: Record<string, string> } }).kept;
    throw e;
  });
  const { secret, totp_url } = got.meta as { secret: string; totp_url: string };
  const { image } = await need(api.POST("/api/account/secret-picture", { body: { address: totp_url } }));
  return { secret, image };
}

const recovery = async () =>
  (await account<{ unused_codes: string[] }>("GET", "/account/authenticators/recovery-codes")).data.unused_codes;
