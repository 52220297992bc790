import { useMutation, useQuery } from "@tanstack/react-query";

import { api, need, type Bench, type Schemas } from "../api/client";
import { against } from "../api/queries";
import { Select } from "../ui/parts";
import type { Passage } from "./time";

/** The unit that is shown, beside another: a passage in which both play as one. */
export function UnitBeside({
  bench,
  frame,
  disabled,
  onPassage,
}: {
  bench: Bench;
  frame: number;
  disabled: boolean;
  onPassage: (made: Passage) => void;
}) {
  const t = bench.t[frame] ?? 0;
  const unit = bench.units.find((u) => u.start <= t && t < u.end)?.n;
  const found = useQuery({
    ...against(bench.run.id, bench.version, unit),
    enabled: unit !== undefined && !bench.doubt && !bench.by_eye && !bench.units[0]?.counted,
  });
  const make = useMutation({
    mutationFn: (to: Schemas["Against"] & { b: number }) =>
      need(
        api.POST("/api/runs/{run}/telling/pair", {
          params: { path: { run: bench.run.id } },
          body: { b: to.b, unit: unit!, unit_b: to.unit_b, mirror: to.mirror },
        }),
      ),
    onSuccess: (got) => onPassage(got.passage),
  });
  // A drawn rider is for the coach's own eyes.
  const choices = (found.data?.against ?? []).flatMap((x) =>
    x.kind === "drawn" || x.b === null ? [] : [{ ...x, b: x.b }],
  );
  return (
    <div className="flex flex-wrap items-center gap-2 border-b border-line px-3 py-2">
      <Select
        aria-label="Put beside it"
        className="max-w-64"
        value=""
        disabled={disabled || make.isPending || choices.length === 0}
        onChange={(e) => make.mutate(choices[Number(e.target.value)]!)}
      >
        <option value="">
          {unit === undefined
            ? `Go to a ${bench.unit} to put another beside it`
            : choices.length
              ? `Beside this ${bench.unit}…`
              : `Nothing to put beside ${bench.unit} ${unit}`}
        </option>
        {choices.map((c, k) => (
          <option key={`${c.kind}${c.b}${c.unit_b}`} value={k}>
            {c.words}
          </option>
        ))}
      </Select>
      {make.error && (
        <span role="alert" className="text-sm text-bad">
          {make.error.message}
        </span>
      )}
    </div>
  );
}
