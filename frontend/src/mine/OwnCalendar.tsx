import { useEffect, useState } from "react";

import { calendarOf, makeCalendar, type Refusal, withdrawCalendar } from "../shared/wire";
import { Handed } from "../ui/Handed";
import { Button } from "../ui/parts";

/** The private address by which a calendar shows the sessions and the days of the next clips. */
export function OwnCalendar({ rider }: { rider: number }) {
  const [path, setPath] = useState<string | null | undefined>(undefined);
  const [error, setError] = useState<Refusal | null>(null);
  const take = (asked: Promise<{ path: string | null }>) =>
    asked.then((got) => {
      setError(null);
      setPath(got.path);
    }, setError);
  useEffect(() => void calendarOf(rider).then((got) => setPath(got.path), setError), [rider]);
  return (
    <>
      <p className="text-soft">
        Subscribe to an address in your calendar, and every session and the day of the next clip stands there, also
        those of answers to come. Keep the address to yourself.
      </p>
      {path && <Handed title="Your address" path={path} />}
      {path !== undefined && (
        <span className="flex flex-wrap gap-2">
          <Button className="min-h-11" onClick={() => void take(makeCalendar(rider))}>
            {path ? "Another address in its place" : "Make an address"}
          </Button>
          {path && (
            <Button className="min-h-11" onClick={() => void take(withdrawCalendar(rider))}>
              Withdraw it
            </Button>
          )}
        </span>
      )}
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </>
  );
}
