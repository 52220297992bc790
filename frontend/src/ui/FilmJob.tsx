import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { isBusy } from "../api/queries";
import { Bar, Button } from "./parts";

interface Film {
  id: number;
  state?: string;
  progress?: number;
  problem?: string;
  url: string | null;
}

/** A film that a job makes: asked for, its progress, stopped, taken away when it is there. */
export function FilmJob({
  what,
  label,
  onAsk,
  onLook,
  onStop,
}: {
  /** Tells one kind of film from another. */
  what: string;
  label: string;
  onAsk: () => Promise<Film>;
  onLook: (film: number) => Promise<Film>;
  onStop: (film: number) => Promise<unknown>;
}) {
  const client = useQueryClient();
  const [film, setFilm] = useState<number | null>(null);
  const now = useQuery({
    queryKey: ["film", what, film],
    queryFn: () => onLook(film!),
    enabled: film !== null,
    refetchInterval: (q) => (q.state.data && isBusy(q.state.data) ? 1000 : false),
    retry: false,
  });
  const ask = useMutation({
    mutationFn: onAsk,
    onSuccess: (made) => {
      client.setQueryData(["film", what, made.id], made);
      setFilm(made.id);
    },
  });
  const stop = useMutation({ mutationFn: () => onStop(film!), onSuccess: () => setFilm(null) });
  const error = ask.error ?? now.error ?? stop.error;
  const made = now.data;
  return (
    <span className="flex flex-wrap items-center gap-2">
      {film === null || !made || made.state === "failed" || made.state === "cancelled" ? (
        <Button disabled={ask.isPending} onClick={() => ask.mutate()}>
          {label}
        </Button>
      ) : made.url ? (
        <>
          <a href={made.url} download className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint">
            Take the film (MP4)
          </a>
          <Button tone="quiet" onClick={() => setFilm(null)}>
            Another
          </Button>
        </>
      ) : (
        <span role="status" className="flex w-64 items-center gap-2 text-sm text-soft">
          <span className="grid flex-1 gap-1">
            {made.state === "queued" ? "The film is in the queue" : "The film is being made"}
            <Bar share={made.progress ?? 0} label="Film made" />
          </span>
          <Button tone="quiet" disabled={stop.isPending} onClick={() => stop.mutate()}>
            Stop
          </Button>
        </span>
      )}
      {(error ?? made?.problem) && (
        <span role="alert" className="text-sm text-bad">
          {error?.message ?? made?.problem}
        </span>
      )}
    </span>
  );
}
