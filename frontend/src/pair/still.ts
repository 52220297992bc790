/** Keep both halves as they stand as one picture, each with whose it is. */
export async function saveStill(
  halves: { canvas: HTMLCanvasElement; mirror: boolean; words: string }[],
): Promise<void> {
  const [tall, gap, foot] = [720, 12, 44];
  const widths = halves.map(({ canvas }) => Math.round((canvas.width * tall) / canvas.height));
  const out = document.createElement("canvas");
  out.width = widths.reduce((a, b) => a + b, gap * (halves.length - 1));
  out.height = tall + foot;
  const pen = out.getContext("2d")!;
  const tokens = getComputedStyle(document.documentElement);
  pen.fillStyle = tokens.getPropertyValue("--on-picture");
  pen.fillRect(0, 0, out.width, out.height);
  let left = 0;
  halves.forEach(({ canvas, mirror, words }, k) => {
    const wide = widths[k]!;
    pen.save();
    pen.translate(left + (mirror ? wide : 0), 0);
    pen.scale(mirror ? -1 : 1, 1);
    pen.drawImage(canvas, 0, 0, wide, tall);
    pen.restore();
    pen.fillStyle = tokens.getPropertyValue("--picture-dark");
    pen.font = '22px "Source Sans 3 Variable", sans-serif';
    pen.fillText(`${words}${mirror ? " · mirrored" : ""}`, left + 6, tall + 30, wide - 12);
    left += wide + gap;
  });
  const file = await new Promise<Blob | null>((done) => out.toBlob(done, "image/png"));
  if (!file) throw new Error("The picture could not be made. Try again.");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = "pair.png";
  link.click();
  URL.revokeObjectURL(link.href);
}
