import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { done } from "../api/queries";
import { Button, Input, Trouble, Waiting } from "../ui/parts";

const PAGE = 100;

/** Who did what, the newest first. */
export function Done() {
  const [offset, setOffset] = useState(0);
  const [find, setFind] = useState("");
  const page = useQuery(done(offset, find));
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <span className="flex flex-wrap items-center gap-3">
        <h2 className="mr-auto text-lg">Who did what</h2>
        <Input
          aria-label="Find in who did what"
          placeholder="Who, or of whom"
          className="max-w-56"
          value={find}
          onChange={(e) => {
            setFind(e.target.value);
            setOffset(0);
          }}
        />
      </span>
      {page.error ? (
        <Trouble error={page.error} again={() => void page.refetch()} />
      ) : !page.data ? (
        <Waiting what="Looking" />
      ) : page.data.count === 0 ? (
        <p className="text-soft">{find ? "Nothing matches." : "Nothing yet."}</p>
      ) : (
        <>
          <ul className="grid gap-1">
            {page.data.rows.map((r, k) => (
              <li key={`${r.at}${k}`} className="grid gap-x-3 sm:grid-cols-[11rem_1fr]">
                <span className="text-sm text-soft">{new Date(r.at).toLocaleString()}</span>
                <span>
                  <b className="font-semibold">
                    {r.who || (r.what === "could not log in" ? "Somebody" : "The software")}
                  </b>{" "}
                  {r.what} {r.about}
                  {r.changes.length > 0 && <span className="text-sm text-soft"> ({r.changes.join("; ")})</span>}
                </span>
              </li>
            ))}
          </ul>
          {page.data.count > PAGE && (
            <span className="flex items-center gap-3">
              <Button disabled={offset === 0} onClick={() => setOffset(offset - PAGE)}>
                Newer
              </Button>
              <span className="text-soft">
                {offset + 1}–{Math.min(offset + PAGE, page.data.count)} of {page.data.count}
              </span>
              <Button disabled={offset + PAGE >= page.data.count} onClick={() => setOffset(offset + PAGE)}>
                Older
              </Button>
            </span>
          )}
        </>
      )}
    </section>
  );
}
