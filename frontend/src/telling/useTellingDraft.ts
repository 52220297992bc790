import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, need, Problem, type Schemas } from "../api/client";
import { telling as tellingQuery } from "../api/queries";
import { useDraft, useLeaving } from "../ui/drafts";
import type { Told } from "./time";

const AFTER = 700;
const MOST = 50;

/** A Telling as it is being changed: kept in this browser at once, on the server after a moment, and undone step by step. */
export function useTellingDraft(run: number, data: Schemas["TellingStands"]) {
  const client = useQueryClient();
  const params = { path: { run } };
  const draft = useDraft<Told>(`telling/${run}`, data.telling);
  const [past, setPast] = useState<Told[]>([]);
  const [future, setFuture] = useState<Told[]>([]);
  useLeaving(draft.unsaved);
  const save = useMutation({
    mutationFn: ({ telling, version }: { telling: Told; version: number }) =>
      need(api.PUT("/api/runs/{run}/telling", { params, body: { telling, version } })),
    onSuccess: (kept, { telling }) => {
      client.setQueryData(tellingQuery(run).queryKey, kept);
      draft.clear(telling);
    },
  });
  const back = useMutation({
    mutationFn: () => need(api.DELETE("/api/runs/{run}/telling", { params })),
    onSuccess: (fresh) => {
      draft.clear();
      setPast([]);
      setFuture([]);
      client.setQueryData(tellingQuery(run).queryKey, fresh);
    },
  });
  const { mutate, isPending, error } = save;
  const waiting = useRef(0);
  useEffect(() => {
    // What was refused waits until it is changed, or the coach chooses.
    if (!draft.unsaved || isPending) return;
    waiting.current = window.setTimeout(() => mutate({ telling: draft.value, version: data.version }), AFTER);
    return () => clearTimeout(waiting.current);
  }, [draft.value, draft.unsaved, isPending, mutate, data.version]);
  const put = (next: Told) => {
    setPast((all) => [...all.slice(1 - MOST), draft.value]);
    setFuture([]);
    save.reset();
    draft.set(next);
  };
  const theirs = error instanceof Problem ? error.theirs : null;
  return {
    told: draft.value,
    put,
    unsaved: draft.unsaved,
    saving: isPending,
    error,
    theirs,
    undo: () => {
      const last = past.at(-1);
      if (!last) return;
      setPast(past.slice(0, -1));
      setFuture([...future, draft.value]);
      draft.set(last);
    },
    redo: () => {
      const next = future.at(-1);
      if (!next) return;
      setFuture(future.slice(0, -1));
      setPast([...past, draft.value]);
      draft.set(next);
    },
    can_undo: past.length > 0,
    can_redo: future.length > 0,
    keepMine: async () => {
      const now = await client.fetchQuery({ ...tellingQuery(run), staleTime: 0 });
      save.mutate({ telling: draft.value, version: now.version });
    },
    takeTheirs: () => {
      draft.clear();
      save.reset();
      void client.invalidateQueries({ queryKey: tellingQuery(run).queryKey });
    },
    back: () => back.mutate(),
  };
}
