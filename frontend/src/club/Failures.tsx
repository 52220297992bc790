import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need } from "../api/client";
import { failures } from "../api/queries";
import { Button, Trouble, Waiting } from "../ui/parts";

/** What failed on the server and nobody expected: tried again, or put aside. */
export function Failures() {
  const client = useQueryClient();
  const list = useQuery(failures);
  const [said, setSaid] = useState("");
  const end = useMutation({
    mutationFn: ({ id, again }: { id: number; again: boolean }) => {
      const params = { params: { path: { failure: id } } };
      return need(again ? api.POST("/api/club/failures/{failure}", params) : api.DELETE("/api/club/failures/{failure}", params));
    },
    onSuccess: (_, { again }) => setSaid(again ? "It is tried again. If it fails again, it stands here again." : "It was put aside."),
    onSettled: () => client.invalidateQueries({ queryKey: failures.queryKey }),
  }); // prettier-ignore
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-lg">What failed</h2>
      <p role="status" className="text-soft empty:hidden">
        {said}
      </p>
      {end.error && <Trouble error={end.error} />}
      {list.error ? (
        <Trouble error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Waiting what="Looking" />
      ) : list.data.length === 0 ? (
        <p className="text-soft">Nothing has failed that the software did not expect.</p>
      ) : (
        <ul className="grid gap-3">
          {list.data.map((f) => (
            <li key={f.id} className="grid gap-1 border-b border-line pb-3 last:border-0 last:pb-0">
              <span className="flex flex-wrap items-center gap-2">
                <b className="mr-auto font-semibold">
                  {f.run === null ? (
                    f.what
                  ) : (
                    <Link to="/runs/$run" params={{ run: f.run }} className="underline">
                      {f.what}
                    </Link>
                  )}
                </b>
                <Button disabled={end.isPending} onClick={() => end.mutate({ id: f.id, again: true })}>
                  Try again
                </Button>
                <Button tone="quiet" disabled={end.isPending} onClick={() => end.mutate({ id: f.id, again: false })}>
                  Put aside
                </Button>
              </span>
              <span className="break-words">{f.reason}</span>
              <span className="text-sm text-soft">
                {f.times === 1 ? "Once" : `${f.times} times`}, last on {new Date(f.last).toLocaleString()}
                {f.place && `, in ${f.place}`}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
