import { useEffect, useLayoutEffect, useState } from "react";

import type { Schemas } from "../api/client";
import { Trouble, Waiting } from "../ui/parts";
import { RiderPage } from "../script/RiderPage";
import { sendPieces } from "./sendPieces";
import { useKeptForLater } from "./useKeptForLater";
import { line, page, tick } from "./wire";

/** A film that is being made is asked after this often, ms. */
const LOOK = 15_000;

/** The rider's page, for whoever holds the link. */
export function SharedPage({ token }: { token: string }) {
  const [data, setData] = useState<Schemas["Shared"] | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const [unticked, setUnticked] = useState("");
  const [again, setAgain] = useState(0);
  useEffect(() => {
    let current = true;
    page(token, again > 0).then(
      (got) => {
        if (!current) return;
        setData(got);
        setError(null);
      },
      (e: Error) => current && setError(e),
    );
    return () => {
      current = false;
    };
  }, [token, again]);
  const waits = (!!data?.film && !data.film.url) || data?.clips_back.some((c) => c.state === "waits");
  useEffect(() => {
    if (!waits) return;
    const handle = setTimeout(() => setAgain((n) => n + 1), LOOK);
    return () => clearTimeout(handle);
  }, [waits, again]);
  useKeptForLater();
  // What was in the page itself has been read meanwhile; all of it stands there now, and never beside it.
  const there = !!data || !!error;
  useLayoutEffect(() => {
    if (there) document.getElementById("first")?.remove();
  }, [there]);
  if (error && !data) return <Trouble error={error} again={() => setAgain((n) => n + 1)} />;
  if (!data) return document.getElementById("first") ? null : <Waiting what="Loading" />;
  return (
    <>
      {unticked && (
        <p role="alert" className="bg-sheet p-2 text-center text-bad">
          The tick could not be kept: {unticked}
        </p>
      )}
      <RiderPage
        page={data}
        base={`/api/shared/${token}`}
        onTick={(drill, step, done) => {
          const before = data.ticks;
          const others = before.filter((x) => x.drill !== drill || x.step !== step);
          const put = (ticks: typeof before) => setData((was) => was && { ...was, ticks });
          // It stands at once, and goes back where it could not be kept.
          put(done ? [...others, { drill, step, at: new Date().toISOString() }] : others);
          tick(token, { drill, step, done }).then(
            (ticks) => {
              setUnticked("");
              put(ticks);
            },
            (e: Error) => {
              setUnticked(e.message);
              put(before);
            },
          );
        }}
        onLine={async (text) => {
          const lines = await line(token, text);
          setData((was) => was && { ...was, lines });
        }}
        onClip={(file, onShare, stop) =>
          sendPieces(`/api/shared/${token}/clips`)(file, onShare, stop).finally(() => setAgain((n) => n + 1))
        }
      />
    </>
  );
}
