import type { Schemas } from "../api/client";

type Given = Schemas["ClubBookStands"];
export type OfBand = Given["bands"][number];
/** An end that is null is open. */
export type OwnBand = Omit<Given["draft"]["bands"][number], "band"> & { band: (number | null)[] };
export type Own = Omit<Given["draft"], "bands"> & { bands: OwnBand[] };
export type Stands = Omit<Given, "draft" | "on"> & { draft: Own; on: Own };
export type Level = NonNullable<OwnBand["level"]>;
/** What is prepared: changes to the playbook, and the schools beside them. */
export interface Prepared {
  own: Own;
  schools: Record<string, string>;
}

/** The faults of a discipline, each with how it is worded, its bands and the playbook's drills. */
export interface FaultRows {
  fault: string;
  title: string;
  wordings: Stands["wordings"];
  bands: OfBand[];
  drills: string[];
}

export function faultsOf(stands: Stands): FaultRows[] {
  const out = new Map<string, FaultRows>();
  for (const w of stands.wordings) {
    const row = out.get(w.fault) ?? { fault: w.fault, title: w.title, wordings: [], bands: [], drills: [] };
    row.wordings.push(w);
    out.set(w.fault, row);
  }
  for (const b of stands.bands) out.get(b.fault)?.bands.push(b);
  for (const d of stands.drills) out.get(d.fault)?.drills.push(d.title);
  return [...out.values()];
}

/** A map with `key` set, or without it where there is nothing. */
export function put<T>(map: Record<string, T>, key: string, value: T | null): Record<string, T> {
  const rest = Object.fromEntries(Object.entries(map).filter(([k]) => k !== key));
  return value === null ? rest : { ...rest, [key]: value };
}

export const sameBand = (own: OwnBand, of: OfBand, level: string) =>
  own.fault === of.fault && own.place === of.place && (own.level ?? "all") === level;

/** The bands with that of one place and level set; without it where it is the playbook's own again. */
export function putBand(bands: OwnBand[], of: OfBand, level: string, band: (number | null)[]): OwnBand[] {
  const others = bands.filter((b) => !sameBand(b, of, level));
  const [lo, hi] = of.band[level]!;
  if (band[0] === lo && band[1] === hi) return others;
  const row = {
    fault: of.fault,
    place: of.place,
    measure: of.measure,
    level: level === "all" ? null : (level as Level),
    band: [band[0] ?? null, band[1] ?? null],
  };
  return [...others, row].sort((a, b) => a.fault.localeCompare(b.fault) || a.place - b.place);
}

/** Whether anything of a fault is the club's own. */
export const isChanged = (own: Own, row: FaultRows) =>
  row.wordings.some((w) => w.key in own.titles || w.key in own.cues) ||
  row.fault in own.drills ||
  own.bands.some((b) => b.fault === row.fault);
