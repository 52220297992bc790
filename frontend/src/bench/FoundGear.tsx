import type { Bench } from "../api/client";
import { Button } from "../ui/parts";

interface Said {
  kind: "gear";
  landmark: string;
  on: boolean;
}

/** Gear that the software found on the clip: drawn hollow until the coach says that it is right, or leaves it out. */
export function FoundGear({ bench, onSay }: { bench: Bench; onSay: (said: Said[]) => void }) {
  const open = bench.found_gear.filter((g) => g.said === null);
  const out = bench.found_gear.filter((g) => g.said === false);
  if (open.length === 0 && out.length === 0) return null;
  const say = (gear: Bench["found_gear"], on: boolean) =>
    onSay(gear.map((g) => ({ kind: "gear", landmark: g.points[0]!, on })));
  return (
    <section aria-label="Gear that was found" className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
      {open.length > 0 && (
        <>
          <span className="text-soft">
            Found by itself, drawn hollow:{" "}
            {open.map((g) => `${g.words} in ${Math.round(g.share * 100)} % of the frames`).join(", ")}. Drag an end
            where it is wrong.
          </span>
          <Button onClick={() => say(open, true)}>Right</Button>
          {open.map((g) => (
            <Button key={g.words} tone="quiet" onClick={() => say([g], false)}>
              Leave out {g.words}
            </Button>
          ))}
        </>
      )}
      {out.map((g) => (
        <span key={g.words} className="text-soft">
          Left out: {g.words}.{" "}
          <Button tone="quiet" onClick={() => say([g], true)}>
            Take it back in
          </Button>
        </span>
      ))}
    </section>
  );
}
