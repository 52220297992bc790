import type { Bench } from "../api/client";
import { Button, Select } from "../ui/parts";

type Piece = Bench["found_gear"][number];

interface Said {
  kind: "gear";
  landmark: string;
  on: boolean;
}

/** Gear that the software found on the clip: drawn hollow until the coach confirms it or leaves it out. */
export function FoundGear({ bench, onSay }: { bench: Bench; onSay: (said: Said[]) => void }) {
  const open = bench.found_gear.filter((g) => g.said === null);
  const out = bench.found_gear.filter((g) => g.said === false);
  if (open.length === 0 && out.length === 0) return null;
  const say = (pieces: Piece[], on: boolean) =>
    onSay(pieces.map((g) => ({ kind: "gear", landmark: g.points[0]!, on })));
  return (
    <section aria-label="Gear that was found" className="flex flex-wrap items-center gap-x-2 gap-y-1 text-sm text-soft">
      {open.length > 0 && (
        <>
          <span>
            Found by itself, drawn hollow:{" "}
            {open.map((g) => `${g.words} (${Math.round(g.share * 100)} % of frames)`).join(", ")}. Drag an end where it
            is wrong.
          </span>
          <Button onClick={() => say(open, true)}>Confirm</Button>
          {open.length === 1 ? (
            <Button tone="quiet" onClick={() => say(open, false)}>
              Leave it out
            </Button>
          ) : (
            <Select
              aria-label="Leave out"
              value=""
              onChange={(e) => say(e.target.value === "all" ? open : [open[Number(e.target.value)]!], false)}
              style={{ width: "8rem" }}
            >
              <option value="">Leave out…</option>
              {open.map((g, k) => (
                <option key={g.words} value={k}>
                  {g.words}
                </option>
              ))}
              <option value="all">all of it</option>
            </Select>
          )}
        </>
      )}
      {out.length > 0 && (
        <span>
          Left out: {out.map((g) => g.words).join(", ")}.{" "}
          <Button tone="quiet" onClick={() => say(out, true)}>
            Take it back in
          </Button>
        </span>
      )}
    </section>
  );
}
