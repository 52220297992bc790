import type { Schemas } from "../api/client";
import { plain } from "../ui/places";
import { BANDS } from "./NumberIn";
import type { SheetRow, TurnSheet } from "./order";

const [SIDE, LEFT, TOP, UNDER, GAP] = [240, 110, 84, 46, 8];

/** Draw the sheet as one picture and let the coach keep it as a file. */
export async function savePicture(
  title: string,
  sheet: TurnSheet,
  rows: { row: SheetRow; pictures: Schemas["CellPicture"][] }[],
): Promise<void> {
  const canvas = document.createElement("canvas");
  canvas.width = LEFT + sheet.phases.length * (SIDE + GAP) + GAP;
  canvas.height = TOP + rows.length * (SIDE + UNDER + GAP) + GAP;
  const pen = canvas.getContext("2d")!;
  // A kept picture looks the same by day and by night.
  const tokens = getComputedStyle(document.documentElement);
  const [paper, ink, mark] = ["--on-picture", "--picture-dark", "--picture-mark"].map((n) =>
    tokens.getPropertyValue(n),
  );
  const write = (text: string, x: number, y: number, size: number, bold = false) => {
    pen.font = `${bold ? "600 " : ""}${size}px "Source Sans 3 Variable", sans-serif`;
    pen.fillText(text, x, y);
  };
  pen.fillStyle = paper!;
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.fillStyle = ink!;
  write(title, GAP, 30, 24, true);
  sheet.phases.forEach((p, x) => write(plain(p), LEFT + x * (SIDE + GAP), TOP - 12, 18, true));
  for (const [y, { row, pictures }] of rows.entries()) {
    const top = TOP + y * (SIDE + UNDER + GAP);
    write(String(row.n), GAP, top + 26, 26, true);
    write(row.finest_side ?? row.side ?? "", GAP, top + 50, 17);
    for (const [k, cell] of row.cells.entries()) {
      const left = LEFT + sheet.phases.indexOf(cell.phase) * (SIDE + GAP);
      const { url, line } = pictures[k]!;
      if (url) pen.drawImage(await loaded(url), left, top, SIDE, SIDE);
      for (const [colour, width] of [
        [ink!, 8],
        [mark!, 4],
      ] as const) {
        pen.strokeStyle = colour;
        pen.lineWidth = width;
        pen.lineCap = pen.lineJoin = "round";
        pen.beginPath();
        line.forEach(([a, b], i) => pen[i ? "lineTo" : "moveTo"](left + a! * SIDE, top + b! * SIDE));
        pen.stroke();
      }
      pen.fillStyle = ink!;
      write(cell.read?.says ?? "not read", left, top + SIDE + 20, 17, true);
      const more = [cell.read?.band === "outside" ? BANDS.outside : "", cell.read?.stands_out ? "stands out" : ""];
      write(more.filter(Boolean).join(", "), left, top + SIDE + 40, 15);
    }
  }
  const file = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
  if (!file) throw new Error("The sheet is too long for one picture. Print it, or take the table.");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = `${title.replace(/[^\p{L}\p{N}]+/gu, "-").toLowerCase()}.png`;
  link.click();
  URL.revokeObjectURL(link.href);
}

function loaded(url: string): Promise<HTMLImageElement> {
  return new Promise((done, fail) => {
    const picture = new Image();
    picture.onload = () => done(picture);
    picture.onerror = () => fail(new Error("A picture of the sheet could not be loaded. Try again."));
    picture.src = url;
  });
}
