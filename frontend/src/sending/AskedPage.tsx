import { useEffect, useState } from "react";

import type { Schemas } from "../api/client";
import { asked, begin, Refusal } from "../shared/wire";
import { day, moment } from "../ui/days";
import { Button, Field, Input, Select, Trouble, Waiting } from "../ui/parts";

/** A sender's own page is found again on the phone it was opened on. */
const KEPT = (token: string) => `sent-by/${token}`;
const LEVELS = ["novice", "intermediate", "advanced", "elite"] as const;

/** What a link asks for, and who sends. */
export function AskedPage({ token }: { token: string }) {
  const [data, setData] = useState<Schemas["Asked"] | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const [again, setAgain] = useState(0);
  useEffect(() => {
    asked(token).then(
      (got) => {
        setError(null);
        setData(got);
      },
      (e: Refusal) => setError(e),
    );
  }, [token, again]);
  const own = localStorage.getItem(KEPT(token));
  if (!data && error)
    return (
      <div className="mx-auto max-w-xl">
        <Trouble error={error} again={error.status === 404 ? undefined : () => setAgain(again + 1)} />
        {own && <Own token={own} />}
      </div>
    );
  if (!data) return <Waiting what="Opening the link" />;
  return (
    <main className="mx-auto grid max-w-xl gap-5 p-4 text-[1.05rem]">
      <header className="grid gap-1">
        <p className="text-soft">{data.club}</p>
        <h1 className="text-2xl">{data.title}</h1>
        <p className="text-soft">
          {data.discipline}
          {data.coach && ` · to ${data.coach}`} · open until {moment(data.expires)}
          {data.answer_by && ` · your answer by ${day(data.answer_by)}`}
        </p>
      </header>
      {own && <Own token={own} />}
      <Who
        asked={data}
        onSaid={async (who) => {
          const { token: page } = await begin(token, who);
          localStorage.setItem(KEPT(token), page);
          location.assign(`/sent/${page}`);
        }}
      />
    </main>
  );
}

const Own = ({ token }: { token: string }) => (
  <p className="rounded bg-tint px-3 py-2">
    You have sent by this link before.{" "}
    <a href={`/sent/${token}`} className="font-semibold underline">
      Open your page
    </a>
  </p>
);

function Who({
  asked: a,
  onSaid,
}: {
  asked: Schemas["Asked"];
  onSaid: (who: Schemas["SenderRequest"]) => Promise<void>;
}) {
  const [name, setName] = useState(a.rider);
  const [born, setBorn] = useState("");
  const [level, setLevel] = useState("");
  const [stance, setStance] = useState("");
  const [agrees, setAgrees] = useState(false);
  const [guardian, setGuardian] = useState("");
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<Error | null>(null);
  const minor = /^\d{4}$/.test(born) && Number(born) > a.adult_born;
  const wrong = error instanceof Refusal ? error.fields : {};
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        setBusy(true);
        setError(null);
        onSaid({
          name,
          born: Number(born),
          level: level as Schemas["LevelEnum"],
          stance: stance as "regular" | "goofy" | "",
          agrees,
          guardian: minor ? guardian : "",
        }).catch((e: Error) => {
          setBusy(false);
          setError(e);
        });
      }}
    >
      <Field label="Your name" error={wrong.name} hint={minor ? "The rider's name" : undefined}>
        {(id) => (
          <Input
            id={id}
            required
            maxLength={120}
            autoComplete="name"
            value={name}
            readOnly={a.rider !== ""}
            onChange={(e) => setName(e.target.value)}
          />
        )}
      </Field>
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Year of birth" error={wrong.born}>
          {(id) => (
            <Input
              id={id}
              required
              inputMode="numeric"
              pattern="(19|20)[0-9]{2}"
              title="Four digits, such as 1998"
              value={born}
              onChange={(e) => setBorn(e.target.value.trim())}
            />
          )}
        </Field>
        <Field label="Level" error={wrong.level}>
          {(id) => (
            <Select id={id} required value={level} onChange={(e) => setLevel(e.target.value)}>
              <option value="">Choose…</option>
              {LEVELS.map((x) => (
                <option key={x} value={x}>
                  {x.charAt(0).toUpperCase() + x.slice(1)}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {a.asks_front_foot && (
          <Field label="Front foot" error={wrong.stance}>
            {(id) => (
              <Select id={id} required value={stance} onChange={(e) => setStance(e.target.value)}>
                <option value="">Choose…</option>
                <option value="regular">Left (regular)</option>
                <option value="goofy">Right (goofy)</option>
              </Select>
            )}
          </Field>
        )}
      </div>
      <fieldset className="grid gap-2 rounded border border-line p-3">
        <legend className="px-1 font-semibold">What you agree to</legend>
        <p>{a.agree}</p>
        {minor && (
          <Field
            label="Name of the guardian who agrees"
            error={wrong.guardian}
            hint={`Under 19, a parent or guardian fills this in. “${a.guardian}”`}
          >
            {(id) => (
              <Input id={id} required maxLength={120} value={guardian} onChange={(e) => setGuardian(e.target.value)} />
            )}
          </Field>
        )}
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            required
            className="size-5"
            checked={agrees}
            onChange={(e) => setAgrees(e.target.checked)}
          />
          {minor ? "I am the guardian and agree" : "I agree"}
        </label>
        {wrong.agrees && (
          <p role="alert" className="text-sm text-bad">
            {wrong.agrees}
          </p>
        )}
      </fieldset>
      {error && Object.keys(wrong).length === 0 && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      <Button type="submit" tone="main" className="min-h-11 justify-self-start" disabled={busy}>
        Go on to the clip
      </Button>
    </form>
  );
}
