import { useEffect, useState } from "react";

import { JoinFields, type Joining } from "../account/JoinFields";
import type { Schemas } from "../api/client";
import { invited, join, logIn, type Refusal, take, type Who, whoAmI } from "../shared/wire";
import { Button, Trouble, Waiting } from "../ui/parts";

/** Coming to a rider's own page by an invitation. */
export function JoinMine({ token }: { token: string }) {
  const [to, setTo] = useState<Schemas["InvitedTo"] | null>(null);
  const [who, setWho] = useState<Who | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const [refused, setRefused] = useState<Refusal | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    Promise.all([invited(token), whoAmI()]).then(
      ([i, w]) => {
        setTo(i);
        setWho(w);
      },
      (e: Refusal) => setError(e),
    );
  }, [token]);
  if (error) return <Trouble error={error} />;
  if (!to || !who) return <Waiting what="Opening the invitation" />;
  const go = (doing: Promise<unknown>) => {
    setBusy(true);
    setRefused(null);
    doing.then(
      () => location.assign("/mine"),
      (e: Refusal) => {
        setBusy(false);
        setRefused(e);
      },
    );
  };
  const enter = async (said: Joining) => {
    await join(token, said);
    await logIn(said.username, said.password);
  };
  const name = who.coach || who.name;
  return (
    <main className="mx-auto grid max-w-md gap-4 p-4">
      <header className="grid gap-1">
        <p className="text-soft">{to.club}</p>
        <h1 className="text-2xl">{to.kind === "rider" ? `Your own page, ${to.rider}` : `The page of ${to.rider}`}</h1>
        <p>
          {to.by || "The club"} invites you{to.kind === "guardian" ? " as a guardian" : ""}: read the answers, say when{" "}
          {to.kind === "rider" ? "you" : to.rider} can practise and what may be done with the clips, and take a copy of
          all that is kept.
        </p>
      </header>
      {who.logged_in && (
        <section className="grid gap-2 rounded border border-line bg-sheet p-4">
          <p>You are logged in as {name}.</p>
          <Button tone="main" className="min-h-11 justify-center" disabled={busy} onClick={() => go(take(token))}>
            Go on as {name}
          </Button>
          {refused && (
            <p role="alert" className="text-bad">
              {refused.message}
            </p>
          )}
        </section>
      )}
      {who.logged_in ? (
        <p className="text-soft">Somebody else? Log out first, and open this link again.</p>
      ) : (
        <>
          <JoinFields
            busy={busy}
            error={refused?.message}
            fields={refused?.fields ?? {}}
            onJoin={(said) => go(enter(said))}
          />
          <p className="text-soft">
            You have an account already?{" "}
            <a href={`/login?next=/mine/join/${token}`} className="underline">
              Log in first
            </a>
            .
          </p>
        </>
      )}
    </main>
  );
}
