import type { Schemas } from "../api/client";

export type Film = Schemas["SessionTable"];
export type Go = Schemas["Go"];
/** A go as the table is sent; without a number it is new. */
export interface Row {
  id: number | null;
  from_s: number;
  to_s: number;
  who: number;
  rider: number | null;
  left_out: boolean;
  at_s: number | null;
  box: number[] | null;
}

export const rowsOf = (goes: readonly Go[]): Row[] =>
  goes.map(({ id, from_s, to_s, who, rider, left_out, at_s, box }) => ({
    id,
    from_s,
    to_s,
    who: who ?? 1,
    rider: rider ?? null,
    left_out: left_out ?? false,
    at_s: at_s ?? null,
    box,
  }));

const put = (rows: readonly Row[], k: number, more: Partial<Row>) =>
  rows.map((r, i) => (i === k ? { ...r, ...more } : r));

/** A go and the next one as one. */
export function joined(rows: readonly Row[], k: number): Row[] {
  const next = rows[k + 1]!;
  const one = { ...rows[k]!, to_s: Math.max(rows[k]!.to_s, next.to_s), rider: rows[k]!.rider ?? next.rider };
  return rows.flatMap((r, i) => (i === k ? [one] : i === k + 1 ? [] : [r]));
}

/** A go as two, cut at a time; null where either would be too short to be one. */
export function split(rows: readonly Row[], k: number, at: number): Row[] | null {
  const r = rows[k]!;
  if (at - r.from_s < SHORTEST_S || r.to_s - at < SHORTEST_S) return null;
  return rows.flatMap((row, i) =>
    i === k
      ? [
          { ...row, to_s: at },
          { ...row, id: null, from_s: at },
        ]
      : [row],
  );
}
export const SHORTEST_S = 0.5;

/** A go put down to somebody: as they look, and with the name that goes with those looks. */
export function ridden(rows: readonly Row[], k: number, who: number): Row[] {
  const rider = rows.find((r, i) => i !== k && r.who === who && r.rider !== null)?.rider;
  return put(rows, k, { who, ...(rider === undefined ? {} : { rider }) });
}

/** Everybody who looks like that has this name. */
export const named = (rows: readonly Row[], who: number, rider: number | null): Row[] =>
  rows.map((r) => (r.who === who ? { ...r, rider } : r));

export const changed = put;

/** Who is in the film by their looks, with the go that shows them largest. */
export function people(goes: readonly Go[]): { who: number; goes: number; shown: Go }[] {
  const tall = (g: Go) => (g.box ? g.box[3]! - g.box[1]! : 0);
  const all = [...new Set(goes.map((g) => g.who ?? 1))].sort((a, b) => a - b);
  return all.map((who) => {
    const theirs = goes.filter((g) => (g.who ?? 1) === who);
    return { who, goes: theirs.length, shown: theirs.reduce((a, b) => (tall(b) > tall(a) ? b : a)) };
  });
}

/** Minutes and seconds, to a tenth. */
export function clock(s: number): string {
  const tenths = Math.round(10 * s);
  return `${Math.floor(tenths / 600)}:${((tenths % 600) / 10).toFixed(1).padStart(4, "0")}`;
}

/** A time as it is typed, "1:02.5" or "62.5", in seconds; null where it is none. */
export function seconds(text: string): number | null {
  const said = /^\s*(?:(\d+):)?(\d+(?:[.,]\d+)?)\s*s?\s*$/.exec(text);
  return said ? 60 * Number(said[1] ?? 0) + Number(said[2]!.replace(",", ".")) : null;
}

export const pictureOf = (film: number, g: Go) =>
  `/api/session-films/${film}/picture?at=${(g.at_s ?? (g.from_s + g.to_s) / 2).toFixed(3)}${g.box ? `&box=${g.box.join(",")}` : ""}`;
