import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { api, need } from "../api/client";
import { film as query } from "../api/queries";
import { rowsOf, type Film, type Row } from "./goes";

/** The table of a film's goes as it is being put right: every change is sent, the newest last, and can be undone. */
export function useTable(film: Film) {
  const client = useQueryClient();
  const key = query(film.id).queryKey;
  const [past, setPast] = useState<Row[][]>([]);
  const [future, setFuture] = useState<Row[][]>([]);
  const [error, setError] = useState<Error | null>(null);
  const [sending, setSending] = useState(false);
  const wanted = useRef<Row[] | null>(null);
  const busy = useRef(false);

  const show = (rows: Row[]) =>
    client.setQueryData(key, (now) => {
      if (!now) return now;
      const known = new Map(now.goes.map((g) => [g.id, g]));
      // A row that is new has no number yet; the picture waits for the server's.
      const goes = rows.map((r, k) => ({ run: null, ...known.get(r.id ?? 0), ...r, id: r.id ?? -1 - k }));
      return { ...now, goes: goes.sort((a, b) => a.from_s - b.from_s || a.id - b.id) };
    });
  const send = async () => {
    if (busy.current) return;
    busy.current = true;
    setSending(true);
    await client.cancelQueries({ queryKey: key });
    while (wanted.current) {
      const rows = wanted.current;
      wanted.current = null;
      const now = client.getQueryData(key)!;
      try {
        const fresh = await need(
          api.PUT("/api/session-films/{id}/goes", {
            params: { path: { id: film.id } },
            body: { goes: rows, version: now.version! },
          }),
        );
        // What was changed meanwhile goes out next, on top of this answer.
        client.setQueryData(key, wanted.current ? { ...now, version: fresh.version } : fresh);
        if (wanted.current) show(wanted.current);
      } catch (e) {
        wanted.current = null;
        setError(e as Error);
        setPast([]);
        setFuture([]);
        await client.invalidateQueries({ queryKey: key });
      }
    }
    busy.current = false;
    setSending(false);
  };
  /** Rows of an earlier table: those that are gone meanwhile are made anew. */
  const anew = (rows: Row[]) => {
    const there = new Set(client.getQueryData(key)!.goes.map((g) => g.id));
    return rows.map((r) => (r.id !== null && there.has(r.id) ? r : { ...r, id: null }));
  };
  const put = (rows: Row[]) => {
    setError(null);
    wanted.current = rows;
    show(rows);
    void send();
  };
  const current = () =>
    rowsOf((client.getQueryData(key) ?? film).goes).map((r) => (r.id! < 0 ? { ...r, id: null } : r));
  const step = (from: Row[][], setFrom: (s: Row[][]) => void, to: Row[][], setTo: (s: Row[][]) => void) => {
    const rows = from.at(-1);
    if (!rows) return;
    setFrom(from.slice(0, -1));
    setTo([...to, current()]);
    put(anew(rows));
  };
  return {
    rows: current(),
    sending,
    error,
    change: (rows: Row[]) => {
      setPast([...past, current()]);
      setFuture([]);
      put(rows);
    },
    undo: () => step(past, setPast, future, setFuture),
    redo: () => step(future, setFuture, past, setPast),
    can_undo: past.length > 0,
    can_redo: future.length > 0,
  };
}
