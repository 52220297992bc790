import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Bench, type Schemas } from "../api/client";
import { ghost } from "../api/queries";
import { Button } from "../ui/parts";
import type { Act } from "./time";

/** The rider's own figure with the main thing mended, into this passage: the picture stops where it is drawn. */
export function MendedFigure({
  bench,
  frame,
  disabled,
  onFigure,
}: {
  bench: Bench;
  frame: number;
  disabled: boolean;
  onFigure: (acts: (at_s: number, until_s: number) => Act[]) => void;
}) {
  const client = useQueryClient();
  const t = bench.t[frame] ?? 0;
  const unit = bench.units.find((u) => u.start <= t && t < u.end)?.n;
  const [says, setSays] = useState("");
  const show = async () => {
    if (unit === undefined) return setSays(`Go to a ${bench.unit} first.`);
    try {
      const got = await client.fetchQuery(ghost(bench.run.id, bench.version, unit));
      const { row, joints } = got;
      if (row === null) return setSays(got.lacking);
      onFigure((at_s, until_s) => [
        { act: "stop", at_s, frame: row },
        { act: "ghost", at_s, until_s, frame: row, joints },
      ]);
      setSays(got.says);
    } catch (e) {
      setSays((e as Error).message);
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-2 border-b border-line px-3 py-2">
      <Button disabled={disabled} onClick={() => void show()}>
        The mended figure here
      </Button>
      {says && (
        <span role="status" className="text-sm text-soft">
          {says}
        </span>
      )}
    </div>
  );
}

/** What is on the screen, as a picture: into the Script, or to take away. */
export function IntoScript({
  run,
  frame,
  marks,
  caption,
  still,
  disabled,
}: {
  run: number;
  frame: number;
  marks: Schemas["Mark"][];
  caption: string;
  still: string;
  disabled: boolean;
}) {
  const client = useQueryClient();
  const [close, setClose] = useState(true);
  const choose = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runs/{run}/script/chosen", {
          params: { path: { run } },
          body: { frame, marks, caption: caption.slice(0, 200), close },
        }),
      ),
    onSuccess: (script) => {
      client.setQueryData(["script", run], script);
      void client.invalidateQueries({ queryKey: ["offered", run] });
    },
  });
  return (
    <div className="flex flex-wrap items-center gap-2 border-b border-line px-3 py-2">
      <Button disabled={disabled || choose.isPending} onClick={() => choose.mutate()}>
        This picture into the Script
      </Button>
      <label className="flex min-h-7 items-center gap-1.5 text-sm">
        <input type="checkbox" checked={close} onChange={(e) => setClose(e.target.checked)} />
        cut to the rider
      </label>
      <a href={still} download className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint">
        Still (PNG)
      </a>
      {choose.isSuccess && (
        <span role="status" className="text-sm text-soft">
          It goes with the Script.
        </span>
      )}
      {choose.error && (
        <span role="alert" className="text-sm text-bad">
          {choose.error.message}
        </span>
      )}
    </div>
  );
}
