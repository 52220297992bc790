import type { Schemas } from "../api/client";

export type TurnSheet = Schemas["TurnSheet"];
export type SheetRow = Schemas["SheetRow"];
export type Arranged = "run" | "sides" | "stacked";
/** By the unit's number ("n"), a phase's number ("phase:belly") or a column's key. */
export interface Order {
  by: string;
  down: boolean;
}

/** The rows as the coach wants them; a unit without the number comes last. */
export function inOrder(sheet: TurnSheet, arranged: Arranged, order: Order | null): SheetRow[] {
  const rows = order ? sortedBy(sheet, order) : [...sheet.rows];
  if (arranged === "run") return rows;
  const sides = [...new Set(sheet.rows.map((r) => r.side))].sort();
  const of = sides.map((side) => rows.filter((r) => r.side === side));
  if (arranged === "sides") return of.flat();
  const longest = Math.max(...of.map((rows) => rows.length));
  return Array.from({ length: longest }, (_, k) => of.map((rows) => rows[k]))
    .flat()
    .filter((r) => r !== undefined);
}

function sortedBy(sheet: TurnSheet, { by, down }: Order): SheetRow[] {
  const column = sheet.columns.find((c) => c.key === by);
  const value = (row: SheetRow, k: number) =>
    by === "n"
      ? row.n
      : column
        ? column.values[k]?.value
        : row.cells.find((c) => `phase:${c.phase}` === by)?.read?.value;
  return sheet.rows
    .map((row, k) => ({ row, value: value(row, k) }))
    .sort((a, b) =>
      a.value == null || b.value == null
        ? Number(a.value == null) - Number(b.value == null)
        : (down ? -1 : 1) * (a.value - b.value),
    )
    .map((x) => x.row);
}

/** Where a unit's cell stands among all pictures, which are counted along the sheet's own rows. */
export function ofCell(sheet: TurnSheet, n: number, cell: number): number {
  let before = 0;
  for (const row of sheet.rows) {
    if (row.n === n) return before + cell;
    before += row.cells.length;
  }
  return -1;
}
