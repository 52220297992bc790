import { useState } from "react";

import type { Bench, Schemas } from "../api/client";
import { Button, Input } from "../ui/parts";

const MOST = 200;

/** Say how many units there are where none were found, so that notes can be of the third of eight. */
export function CountUnits({ bench, onSay }: { bench: Bench; onSay: (said: Schemas["EditRequest"]) => void }) {
  const counted = bench.units[0]?.counted ? bench.units.length : 0;
  const [typed, setTyped] = useState("");
  const count = Number(typed || counted);
  const fits = Number.isInteger(count) && count >= 1 && count <= MOST;
  if (bench.units.length > 0 && !counted) return null;
  return (
    <form
      className="grid gap-1.5 px-3 pb-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (fits && count !== counted) onSay({ kind: "count", count });
        setTyped("");
      }}
    >
      <p className="text-soft">
        {counted
          ? `Only counted: ${counted} ${bench.unit_plural}. When each was is not known; a note is of its number. Cut them to say when.`
          : `Or only count the ${bench.unit_plural}, and note by their numbers.`}
      </p>
      <div className="flex items-center gap-2">
        <Input
          type="number"
          inputMode="numeric"
          aria-label={`How many ${bench.unit_plural}`}
          min={1}
          max={MOST}
          step={1}
          style={{ width: "5rem" }}
          value={typed || (counted ? String(counted) : "")}
          onChange={(e) => setTyped(e.target.value)}
        />
        <Button type="submit" disabled={!fits || count === counted}>
          Count
        </Button>
        {counted > 0 && (
          <Button type="button" tone="quiet" onClick={() => onSay({ kind: "count", count: 0 })}>
            Not counted
          </Button>
        )}
      </div>
      {typed !== "" && !fits && (
        <p role="alert" className="text-sm text-bad">
          Give a whole number from 1 to {MOST}.
        </p>
      )}
    </form>
  );
}
