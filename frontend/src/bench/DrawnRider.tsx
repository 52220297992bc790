import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, need, type Schemas } from "../api/client";
import { isBusy } from "../api/queries";
import { Bar, Button } from "../ui/parts";

/** A rider whom the simulator draws for this run's discipline and view: asked for, its progress, stopped, opened once it is there. */
export function useDrawn(run: number, onReady: (drawn: number) => void) {
  const client = useQueryClient();
  const key = ["drawn", run];
  const params = { path: { run } };
  const keep = (got: Schemas["DrawnRider"]) => client.setQueryData(key, got);
  const ask = useMutation({
    mutationFn: () => need(api.POST("/api/runs/{run}/drawn", { params })),
    onSuccess: keep,
  });
  const stop = useMutation({
    mutationFn: () => need(api.DELETE("/api/runs/{run}/drawn", { params })),
    onSuccess: () => {
      ask.reset();
      client.removeQueries({ queryKey: key });
    },
  });
  const now = useQuery({
    queryKey: key,
    queryFn: () => need(api.GET("/api/runs/{run}/drawn", { params })),
    enabled: ask.isSuccess,
    refetchInterval: (q) => (q.state.data && isBusy(q.state.data) ? 1000 : false),
    retry: false,
  });
  const drawn = ask.isSuccess ? now.data : undefined;
  const opened = useRef(false);
  useEffect(() => {
    if (drawn?.state !== "ready" || opened.current) return;
    opened.current = true;
    onReady(drawn.id);
  }, [drawn, onReady]);
  const error = ask.error ?? now.error ?? stop.error;
  return {
    ask: () => ask.mutate(),
    stop: () => stop.mutate(),
    asking: ask.isPending,
    busy: drawn !== undefined && isBusy(drawn),
    share: drawn?.progress ?? 0,
    problem: error?.message ?? whyNot(drawn),
  };
}

function whyNot(drawn: Schemas["DrawnRider"] | undefined): string {
  if (drawn?.state === "cancelled") return "Somebody stopped the drawing. Press again to have it drawn.";
  return drawn?.state === "failed" ? (drawn.problem ?? "") : "";
}

/** How far the drawing is, or why there is none. */
export function DrawnRider({ drawn }: { drawn: ReturnType<typeof useDrawn> }) {
  if (drawn.busy || drawn.asking)
    return (
      <span role="status" className="flex w-72 items-center gap-2 text-sm text-soft">
        <span className="grid flex-1 gap-1">
          A rider is being drawn
          <Bar share={drawn.share} label="Rider drawn" />
        </span>
        <Button tone="quiet" disabled={drawn.asking} onClick={drawn.stop}>
          Stop
        </Button>
      </span>
    );
  return drawn.problem ? (
    <span role="alert" className="text-sm text-bad">
      {drawn.problem}
    </span>
  ) : null;
}
