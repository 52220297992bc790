import { useState } from "react";

import { agree, type OwnRider, type Refusal } from "../shared/wire";
import { ENDS, KINDS, type Kind } from "../ui/agreeing";
import { Button } from "../ui/parts";

/** What a rider, or a guardian, agrees to, each for itself; a no is asked once more. */
export function OwnAgreed({ rider, onChange }: { rider: OwnRider; onChange: (fresh: OwnRider) => void }) {
  const [asking, setAsking] = useState<Kind | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const say = (kind: Kind, given: boolean) =>
    agree(rider.id, { kind, given }).then((fresh) => {
      setAsking(null);
      setError(null);
      onChange(fresh);
    }, setError);
  return (
    <>
      {rider.why_not && <p className="text-soft">{rider.why_not}</p>}
      <ul className="grid gap-3">
        {KINDS.map(([kind, words, unsaid]) => {
          const state = (rider.agreed as Partial<Record<Kind, boolean>>)[kind];
          const said = rider.said.filter((c) => c.kind === kind).at(-1);
          return (
            <li key={kind} className="grid gap-1">
              <span className="flex items-center gap-2">
                <span className="mr-auto min-w-0">{words}</span>
                <b className="font-semibold whitespace-nowrap">
                  {state === undefined ? "not said" : state ? "yes" : "no"}
                </b>
                {state !== true && rider.speaks && (
                  <Button className="min-h-11" aria-label={`Yes: ${words}`} onClick={() => void say(kind, true)}>
                    Yes
                  </Button>
                )}
                {state !== false && (
                  <Button className="min-h-11" aria-label={`No: ${words}`} onClick={() => setAsking(kind)}>
                    No
                  </Button>
                )}
              </span>
              <span className="text-sm text-soft">
                {said
                  ? `${said.person || "A coach noted"} · ${said.given ? "yes" : "no"}, ${new Date(said.at).toLocaleString()}`
                  : unsaid}
              </span>
              {asking === kind && (
                <span className="flex flex-wrap items-center gap-2 rounded border border-warn px-3 py-2">
                  <span className="mr-auto">{ENDS[kind]}</span>
                  <Button tone="bad" onClick={() => void say(kind, false)}>
                    Say no
                  </Button>
                  <Button onClick={() => setAsking(null)}>Leave it</Button>
                </span>
              )}
            </li>
          );
        })}
      </ul>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </>
  );
}
