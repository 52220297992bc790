import { useQuery, useQueryClient } from "@tanstack/react-query";
import { CircleCheck, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";

import { api, need } from "../api/client";
import { disciplines, riders, usual } from "../api/queries";
import { Bar, Button, Input, Select } from "../ui/parts";
import { RiderOptions } from "./RiderField";
import { BLANK, bodyOf, guessOf, guessWords, needsFoot, RunFields, withGuess, type Typed } from "./RunFields";
import { Elsewhere } from "./SendClip";
import { sendTo, useSendingTo } from "./sendings";

interface Row {
  file: File;
  typed: Typed;
  guess: Partial<Typed>;
  /** The run that was made for it. */
  made: number | null;
  arrived: boolean;
  problem: string;
  /** What the rider was told by, until somebody chooses. */
  by: string;
}
/** So many clips are on their way at once. */
const AT_ONCE = 2;

/** A whole card of clips, a run each: who rides, and go. What was sent goes on when this is closed. */
export function Card({ files, onDone, onBack }: { files: File[]; onDone: () => void; onBack: () => void }) {
  const client = useQueryClient();
  const people = useQuery(riders).data?.results;
  const books = useQuery(disciplines).data ?? [];
  const [rows, setRows] = useState<Row[]>(() =>
    files.map((file) => ({ file, typed: BLANK, guess: {}, made: null, arrived: false, problem: "", by: "" })),
  );
  const [going, setGoing] = useState(false);
  const now = useRef(rows);
  const put = (k: number, more: Partial<Row>) => {
    now.current = now.current.map((r, i) => (i === k ? { ...r, ...more } : r));
    setRows(now.current);
  };
  const pick = async (k: number, rider: string, by = "") => {
    put(k, { typed: { ...now.current[k]!.typed, rider }, by });
    const as = rider ? await client.fetchQuery(usual(Number(rider))).catch(() => null) : null;
    const row = now.current[k];
    if (!as || !row || row.typed.rider !== rider) return;
    const guess = guessOf(as);
    put(k, { typed: withGuess(row.typed, row.guess, guess), guess });
  };
  // Where a file's name speaks of one rider, that is a guess to start from; it changes nothing that was chosen meanwhile.
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current) return;
    asked.current = true;
    void need(api.POST("/api/riders/named", { body: { files: files.map((f) => f.name.slice(-255)) } }))
      .then((found) => {
        files.forEach((file, i) => {
          const k = now.current.findIndex((r) => r.file === file);
          const who = found[i];
          if (who?.rider && k >= 0 && !now.current[k]!.typed.rider) void pick(k, String(who.rider), who.by);
        });
      })
      .catch(() => undefined); // then the riders are chosen by hand
  });
  const personOf = (row: Row) => people?.find((r) => String(r.id) === row.typed.rider);
  const bookOf = (row: Row) => books.find((b) => b.id === row.typed.discipline);

  const one = async (k: number) => {
    const row = now.current[k]!;
    put(k, { problem: "" });
    try {
      const [person, book] = [personOf(row), bookOf(row)];
      if (person && needsFoot(person, book) && row.typed.foot)
        await need(
          api.PATCH("/api/riders/{id}", {
            params: { path: { id: person.id } },
            body: { stance: row.typed.foot as "regular" | "goofy" },
          }),
        );
      const made = row.made ?? (await need(api.POST("/api/runs", { body: bodyOf(row.typed, person, book) }))).id;
      put(k, { made });
      if (await sendTo(made, row.file)) put(k, { arrived: true });
    } catch (e) {
      put(k, { problem: (e as Error).message });
    }
  };
  const go = async () => {
    setGoing(true);
    const waiting = now.current.flatMap((r, k) => (r.arrived ? [] : [k]));
    const lane = async () => {
      for (let k = waiting.shift(); k !== undefined; k = waiting.shift()) await one(k);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    for (const key of ["runs", "riders"]) void client.invalidateQueries({ queryKey: [key] });
    setGoing(false);
    if (now.current.every((r) => r.arrived)) onDone();
  };
  const without = rows.filter((r) => !r.typed.rider).length;
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <label htmlFor="all-of-one">All of one rider:</label>
        <Select
          id="all-of-one"
          className="max-w-60"
          value=""
          onChange={(e) => {
            const rider = e.target.value;
            if (rider) rows.forEach((_, k) => void pick(k, rider));
          }}
        >
          <RiderOptions people={people} />
        </Select>
      </div>
      <ol className="grid gap-2">
        {rows.map((row, k) => (
          <li key={`${row.file.name}${k}`} className="grid gap-1 rounded border border-line p-2">
            <div className="grid items-center gap-2 sm:grid-cols-[minmax(0,1fr)_12rem_14rem_auto]">
              <span className="min-w-0 truncate" title={row.file.name}>
                <b className="font-semibold">{row.file.name}</b>{" "}
                <span className="text-soft">{(row.file.size / 1e6).toFixed(1)} MB</span>
              </span>
              <Select
                aria-label={`Rider of ${row.file.name}`}
                required
                disabled={row.made !== null}
                value={row.typed.rider}
                onChange={(e) => void pick(k, e.target.value)}
              >
                <RiderOptions people={people} />
              </Select>
              <Input
                aria-label={`What they are trying on ${row.file.name}`}
                placeholder="What they are trying"
                maxLength={300}
                disabled={row.made !== null}
                value={row.typed.intention}
                onChange={(e) => put(k, { typed: { ...row.typed, intention: e.target.value } })}
              />
              {row.arrived ? (
                <CircleCheck aria-label="Sent" className="size-5 text-good" />
              ) : (
                <Button
                  tone="quiet"
                  aria-label={`Leave ${row.file.name} out`}
                  disabled={going || row.made !== null}
                  onClick={() => {
                    now.current = now.current.filter((_, i) => i !== k);
                    if (now.current.length) setRows(now.current);
                    else onBack();
                  }}
                >
                  <X aria-hidden className="size-4" />
                </Button>
              )}
            </div>
            {row.by && row.made === null && (
              <p className="text-sm text-soft">Guessed by {row.by}. Choose another if it is somebody else.</p>
            )}
            {row.made === null && !row.typed.rider && rows[k - 1]?.typed.rider && (
              <Button
                className="w-fit"
                aria-label={`${row.file.name}: same rider as the file above`}
                onClick={() => void pick(k, rows[k - 1]!.typed.rider)}
              >
                Same rider as above
              </Button>
            )}
            {row.made === null && row.typed.rider && (
              <details open={needsFoot(personOf(row), bookOf(row)) || undefined}>
                <summary className="cursor-pointer text-sm">
                  {guessWords(row.typed, personOf(row), bookOf(row))} <span className="underline">Change</span>
                </summary>
                <div className="mt-2">
                  <RunFields
                    value={row.typed}
                    onChange={(typed) => put(k, { typed })}
                    person={personOf(row)}
                    books={books}
                  />
                </div>
              </details>
            )}
            <Way row={row} onUsed={() => put(k, { arrived: true })} />
          </li>
        ))}
      </ol>
      <div className="flex flex-wrap items-center justify-end gap-2">
        <span role="status" className="mr-auto text-sm text-soft">
          {going
            ? "Sending. You can close this; it goes on."
            : without
              ? `${without} still without a rider`
              : "All else is guessed, and can be changed later."}
        </span>
        <Button onClick={onBack} disabled={going}>
          Choose other files
        </Button>
        <Button type="submit" tone="main" disabled={going || without > 0}>
          Go
        </Button>
      </div>
    </form>
  );
}

/** How far a clip is on its way, or what became of it. */
function Way({ row, onUsed }: { row: Row; onUsed: () => void }) {
  const now = useSendingTo(row.made);
  const problem = row.problem || now?.problem;
  return (
    <>
      {now?.share != null && <Bar share={now.share} label={`Sending ${row.file.name}`} />}
      {problem && (
        <p role="alert" className="text-sm text-bad">
          {problem}
        </p>
      )}
      <Elsewhere run={now?.elsewhere ?? null} into={row.made} onUsed={onUsed} />
    </>
  );
}
