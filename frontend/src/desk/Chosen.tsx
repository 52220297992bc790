import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Run } from "../api/client";
import { Button, Input } from "../ui/parts";
import { Draw } from "./Draw";

/** What is done with several runs at once. */
export function Chosen({ runs, onDone }: { runs: Run[]; onDone: () => void }) {
  const client = useQueryClient();
  const [due, setDue] = useState("");
  const [drawing, setDrawing] = useState(false);
  const [removed, setRemoved] = useState<number[]>([]);
  const fresh = () =>
    Promise.all([client.invalidateQueries({ queryKey: ["runs"] }), client.invalidateQueries({ queryKey: ["desk"] })]);
  const change = useMutation({
    mutationFn: (what: { due?: string | null; removed?: boolean; runs?: number[] }) =>
      need(api.POST("/api/desk/many", { body: { runs: runs.map((r) => r.id), ...what } })),
    onSuccess: async (done, what) => {
      setRemoved(what.removed ? done.runs : []);
      onDone();
      await fresh();
    },
  });
  return (
    <>
      {removed.length > 0 && runs.length === 0 && (
        <p role="status" className="flex flex-wrap items-center gap-3 rounded border border-line bg-sheet px-3 py-2">
          {removed.length} {removed.length === 1 ? "run was" : "runs were"} removed. They are kept for 30 days.
          <Button disabled={change.isPending} onClick={() => change.mutate({ runs: removed, removed: false })}>
            Bring them back
          </Button>
        </p>
      )}
      {runs.length > 0 && (
        <section
          aria-label="Chosen runs"
          className="sticky top-2 z-10 flex flex-wrap items-center gap-2 rounded-lg border border-line bg-sheet px-4 py-2 shadow"
        >
          <b>{runs.length} chosen</b>
          <span className="ml-2 flex items-center gap-2">
            Due
            <Input
              type="date"
              aria-label="Due on"
              className="max-w-40"
              value={due}
              onChange={(e) => setDue(e.target.value)}
            />
          </span>
          <Button disabled={!due || change.isPending} onClick={() => change.mutate({ due })}>
            Set
          </Button>
          {runs.some((r) => r.due) && (
            <Button disabled={change.isPending} onClick={() => change.mutate({ due: null })}>
              No day
            </Button>
          )}
          <Button onClick={() => setDrawing(true)}>Draw among them</Button>
          <Button tone="bad" disabled={change.isPending} onClick={() => change.mutate({ removed: true })}>
            Remove
          </Button>
          <Button tone="quiet" className="ml-auto" onClick={onDone}>
            Choose none
          </Button>
        </section>
      )}
      {change.error && (
        <p role="alert" className="text-bad">
          {change.error.message}
        </p>
      )}
      <Draw open={drawing} onOpen={setDrawing} runs={runs.map((r) => r.id)} />
    </>
  );
}
