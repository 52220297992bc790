import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import type { ReactNode } from "react";

import type { Bench, Schemas } from "../api/client";
import { against } from "../api/queries";
import { Button } from "../ui/parts";

type Kind = Schemas["Against"]["kind"];
const KEYS: Record<Kind, string> = { own_best: "B", other_side: "L", last_run: "R", reference: "F" };
const NONE: Record<Kind, string> = {
  own_best: "There is no other unit of this side to hold this one against.",
  other_side: "There is no unit of the other side to hold this one against.",
  last_run: "This rider has no earlier run of this discipline.",
  reference:
    "The club keeps no reference of this discipline. Keep a good run as one with the button beside the comparisons.",
};

/** What the unit that the Bench stands in may be held against, and the way there. */
export function useAgainst(bench: Bench, unit: number | undefined, tell: (words: string) => void) {
  const go = useNavigate();
  const found = useQuery({
    ...against(bench.run.id, bench.version, unit),
    enabled: !bench.doubt && !bench.by_eye && bench.units.length > 0,
  });
  const open = (kind: Kind, b?: number) => {
    const to = found.data?.against.find((x) => x.kind === kind && (b === undefined || x.b === b));
    if (!to) return tell(found.isPending && found.isFetching ? "Still looking what there is." : NONE[kind]);
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
  return { choices: found.data?.against ?? [], open };
}

export function Against({ choices, open, children }: ReturnType<typeof useAgainst> & { children?: ReactNode }) {
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
      {children}
    </section>
  );
}
