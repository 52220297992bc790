import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useCallback, type ReactNode } from "react";

import type { Bench, Schemas } from "../api/client";
import { against } from "../api/queries";
import { Button } from "../ui/parts";
import { DrawnRider, useDrawn } from "./DrawnRider";

type Kind = Schemas["Against"]["kind"];
const KEYS: Record<Kind, string> = { own_best: "B", other_side: "L", last_run: "R", reference: "F", drawn: "F" };
const NONE: Record<Kind, string> = {
  own_best: "There is no other unit of this side to hold this one against.",
  other_side: "There is no unit of the other side to hold this one against.",
  last_run: "This rider has no earlier run of this discipline.",
  reference:
    "The club keeps no reference of this discipline, and no rider can be drawn in it. Keep a good run as one with the button beside the comparisons.",
  drawn: "No rider can be drawn in this discipline.",
};

/** What the unit that the Bench stands in may be held against, and the way there. */
export function useAgainst(bench: Bench, unit: number | undefined, tell: (words: string) => void) {
  const go = useNavigate();
  const found = useQuery({
    ...against(bench.run.id, bench.version, unit),
    enabled: !bench.doubt && !bench.by_eye && bench.units.some((u) => !u.counted),
  });
  const mirror = found.data?.against.find((x) => x.kind === "drawn")?.mirror;
  const drawn = useDrawn(
    bench.run.id,
    useCallback(
      (b) => void go({ to: "/pair", search: { a: bench.run.id, b, ...(mirror ? { mirror: true } : {}) } }),
      [go, bench.run.id, mirror],
    ),
  );
  const open = (kind: Kind, b?: number | null) => {
    const all = found.data?.against ?? [];
    const to =
      all.find((x) => x.kind === kind && (b === undefined || x.b === b)) ??
      // A drawn rider stands in where the club keeps no reference.
      (kind === "reference" ? all.find((x) => x.kind === "drawn") : undefined);
    if (!to) return tell(found.isPending && found.isFetching ? "Still looking what there is." : NONE[kind]);
    if (to.b === null) return drawn.busy || drawn.asking ? undefined : drawn.ask();
    return void go({
      to: "/pair",
      search: {
        a: bench.run.id,
        b: to.b,
        ...(to.unit_a !== null && to.unit_b !== null ? { ua: to.unit_a, ub: to.unit_b } : {}),
        ...(to.mirror ? { mirror: true } : {}),
      },
    });
  };
  return { choices: found.data?.against ?? [], open, drawn };
}

export function Against({ choices, open, drawn, children }: ReturnType<typeof useAgainst> & { children?: ReactNode }) {
  return (
    <section aria-label="Compare" className="flex flex-wrap items-center gap-1.5 border-t border-line px-3 py-2">
      {choices.length > 0 && <b className="font-semibold">Beside</b>}
      {choices.map((c, k) => (
        <Button key={`${c.kind}${c.b}`} className="text-sm" onClick={() => open(c.kind, c.b)}>
          {c.words}
          {choices.findIndex((x) => x.kind === c.kind) === k && (
            <kbd className="font-normal text-soft">{KEYS[c.kind]}</kbd>
          )}
        </Button>
      ))}
      <DrawnRider drawn={drawn} />
      {children}
    </section>
  );
}
