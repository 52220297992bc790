import { useCallback, useEffect, useState, type ReactNode } from "react";

import { day } from "../ui/days";
import { Button, Trouble, Waiting } from "../ui/parts";
import { noWeek, WeekField, type Week } from "../ui/Week";
import type { Schemas } from "../api/client";
import { answers, askToErase, leave, logOut, mine, type OwnRider, type Refusal, sayFree, whoAmI } from "../shared/wire";
import { OwnAgreed } from "./OwnAgreed";
import { OwnCalendar } from "./OwnCalendar";

/** The own page of a rider, or of whom they are a guardian of. */
export function MinePage() {
  const [name, setName] = useState("");
  const [riders, setRiders] = useState<OwnRider[] | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const load = useCallback(
    () =>
      whoAmI()
        .then((who) => (who.logged_in ? mine() : null))
        .then(
          (got) => {
            if (!got) return location.replace("/login?next=/mine");
            setName(got.name);
            setRiders(got.riders);
            setError(null);
          },
          (e: Refusal) => setError(e),
        ),
    [],
  );
  useEffect(() => void load(), [load]);
  if (!riders)
    return error ? <Trouble error={error} again={() => void load()} /> : <Waiting what="Opening your page" />;
  const put = (fresh: OwnRider) => setRiders(riders.map((r) => (r.id === fresh.id ? fresh : r)));
  return (
    <main className="mx-auto grid max-w-2xl gap-6 p-4">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1 className="mr-auto text-2xl">{name}</h1>
        <a href="/account" className="inline-flex min-h-11 items-center underline">
          Password and log-in
        </a>
        <Button
          className="min-h-11"
          onClick={() => void logOut().then(() => location.assign("/login?next=/mine"), setError)}
        >
          Log out
        </Button>
      </header>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      {riders.map((r) => (
        <OneRider
          key={r.id}
          rider={r}
          own={r.name === name}
          onChange={put}
          onLeft={() => {
            const others = riders.filter((x) => x.id !== r.id);
            setRiders(others);
            if (others.length === 0) location.assign("/login");
          }}
        />
      ))}
    </main>
  );
}

function OneRider({
  rider,
  own,
  onChange,
  onLeft,
}: {
  rider: OwnRider;
  /** The page says whose it is already. */
  own: boolean;
  onChange: (fresh: OwnRider) => void;
  onLeft: () => void;
}) {
  const { name } = rider;
  const guardian = rider.kind === "guardian";
  const closed = guardian && !rider.speaks;
  return (
    <article aria-label={name} className="grid gap-4">
      <header>
        <h2 className={own ? "sr-only" : "text-xl"}>{name}</h2>
        <p className="text-soft">
          {rider.club}
          {guardian && " · you are here as a guardian"}
        </p>
      </header>
      {closed ? (
        <p className="rounded border border-line bg-sheet p-4">{rider.why_not}</p>
      ) : (
        <>
          <Part title={guardian ? "Answers" : "Your answers"}>
            <Answers rider={rider.id} />
          </Part>
          <Part title={guardian ? `When ${name} can practise` : "When you can practise"}>
            <Free key={JSON.stringify(rider.free)} rider={rider} onChange={onChange} />
          </Part>
          <Part title="Calendar">
            <OwnCalendar rider={rider.id} />
          </Part>
          <Part title={guardian ? `What is agreed to for ${name}` : "What you agree to"}>
            <OwnAgreed rider={rider} onChange={onChange} />
          </Part>
        </>
      )}
      <Part title={closed ? "This page" : "What is kept"}>
        <Kept rider={rider} closed={closed} onChange={onChange} onLeft={onLeft} />
      </Part>
    </article>
  );
}

const Part = ({ title, children }: { title: string; children: ReactNode }) => (
  <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
    <h3 className="text-lg">{title}</h3>
    {children}
  </section>
);

/** What the coach has answered, the newest first. */
function Answers({ rider }: { rider: number }) {
  const [rows, setRows] = useState<Schemas["OwnAnswer"][]>([]);
  const [count, setCount] = useState<number | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const more = useCallback(
    (from: number) =>
      answers(rider, from).then(
        (got) => {
          setError(null);
          setCount(got.count);
          setRows((before) => [...before.slice(0, from), ...got.rows]);
        },
        (e: Refusal) => setError(e),
      ),
    [rider],
  );
  useEffect(() => void more(0), [more]);
  if (count === null && !error) return <Waiting what="Looking" />;
  const next = rows.find((r) => r.path && r.retest_on);
  return (
    <>
      {count === 0 && <p className="text-soft">There is no answer yet. It appears here once the coach sends one.</p>}
      {next?.retest_on && <p>Next clip: {day(next.retest_on)}</p>}
      {rows.length > 0 && (
        <ul className="grid divide-y divide-line">
          {rows.map((r) => (
            <li key={r.run} className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 py-2">
              <span>
                <b className="font-semibold">{r.title || r.discipline}</b>
                <br />
                <span className="text-sm text-soft">
                  {r.title && `${r.discipline} · `}
                  answered {day(r.approved_at.slice(0, 10))}
                </span>
              </span>
              {r.path ? (
                <a
                  href={r.path}
                  className="inline-flex min-h-11 items-center rounded bg-deep px-4 font-semibold text-on-deep"
                >
                  Read it
                </a>
              ) : (
                <span className="text-sm text-soft">not shared, ask your coach</span>
              )}
            </li>
          ))}
        </ul>
      )}
      {error && <Trouble error={error} again={() => void more(rows.length)} />}
      {count !== null && rows.length < count && (
        <Button className="min-h-11 justify-self-start" onClick={() => void more(rows.length)}>
          Show {Math.min(20, count - rows.length)} more
        </Button>
      )}
    </>
  );
}

/** When the rider can practise: sessions and the day of the next clip are planned by it. */
function Free({ rider, onChange }: { rider: OwnRider; onChange: (fresh: OwnRider) => void }) {
  const [week, setWeek] = useState<Week | null>(rider.free);
  const [error, setError] = useState<Refusal | null>(null);
  const changed = JSON.stringify(week) !== JSON.stringify(rider.free);
  const keep = () => sayFree(rider.id, week).then(onChange, setError);
  return (
    <>
      <p className="text-soft">
        The steps of a Script are laid on these hours{rider.place && `, when ${rider.place.name} is open`}.
      </p>
      {week === null ? (
        <Button className="min-h-11 justify-self-start" onClick={() => setWeek(noWeek())}>
          Say when
        </Button>
      ) : (
        <WeekField label="Hours of the week" value={week} onChange={setWeek} />
      )}
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      {changed && (
        <span className="flex gap-2">
          <Button tone="main" className="min-h-11" onClick={() => void keep()}>
            Keep these hours
          </Button>
          <Button className="min-h-11" onClick={() => setWeek(rider.free)}>
            Leave it as it was
          </Button>
        </span>
      )}
    </>
  );
}

/** A copy of everything, the wish that it be erased, and the way out. */
function Kept({
  rider,
  closed,
  onChange,
  onLeft,
}: {
  rider: OwnRider;
  closed: boolean;
  onChange: (fresh: OwnRider) => void;
  onLeft: () => void;
}) {
  const [sure, setSure] = useState<"erase" | "leave" | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const erase = (asked: boolean) =>
    askToErase(rider.id, asked).then((fresh) => {
      setSure(null);
      onChange(fresh);
    }, setError);
  return (
    <>
      {rider.asked_to_erase && (
        <p className="flex flex-wrap items-center gap-3 rounded bg-tint px-3 py-2">
          <span className="mr-auto">
            The club was asked on {day(rider.asked_to_erase.slice(0, 10))} to erase everything.
          </span>
          {rider.speaks && <Button onClick={() => void erase(false)}>Take it back</Button>}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {!closed && (
          <a
            href={`/api/mine/${rider.id}/file`}
            download
            className="inline-flex min-h-11 items-center rounded border border-line bg-sheet px-3 font-semibold hover:bg-tint"
          >
            Save everything as a file
          </a>
        )}
        {rider.speaks && !rider.asked_to_erase && (
          <Button className="min-h-11" onClick={() => setSure("erase")}>
            Ask for it to be erased
          </Button>
        )}
        <Button className="min-h-11" onClick={() => setSure("leave")}>
          Close this page for me
        </Button>
      </div>
      {sure && (
        <p role="alert" className="flex flex-wrap items-center gap-2 rounded border border-warn px-3 py-2">
          <span className="mr-auto">
            {sure === "erase"
              ? `The club is asked to erase every clip, number and answer of ${rider.name}. It cannot be brought back then.`
              : `You see nothing of ${rider.name} here any more, until the club invites you again. Nothing is erased.`}
          </span>
          <Button
            tone="bad"
            onClick={() => void (sure === "erase" ? erase(true) : leave(rider.id).then(onLeft, setError))}
          >
            {sure === "erase" ? "Ask for it" : "Close it"}
          </Button>
          <Button onClick={() => setSure(null)}>Leave it</Button>
        </p>
      )}
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </>
  );
}
