/** What lies on a still: a picture, or a drawing over it; mirrored, seen through, or only right of an edge. */
export interface Layer {
  from: HTMLCanvasElement | SVGSVGElement;
  mirror: boolean;
  /** 0 unseen to 1 whole. */
  share?: number;
  /** The part of the width left of which it is not shown. */
  edge?: number;
}
/** One picture of a still, with what stands under it. */
export interface Pane {
  layers: Layer[];
  words: string[];
}
const [TALL, GAP, LINE] = [720, 12, 34];

/** Keep panes as they stand as one picture, each with whose it is. */
export async function saveStill(panes: Pane[]): Promise<void> {
  const canvases = panes.map(({ layers }) => layers[0]!.from as HTMLCanvasElement);
  const widths = canvases.map((c) => Math.round((c.width * TALL) / c.height));
  const out = document.createElement("canvas");
  out.width = widths.reduce((a, b) => a + b, GAP * (panes.length - 1));
  out.height = TALL + 10 + LINE * Math.max(...panes.map((p) => p.words.length));
  const pen = out.getContext("2d")!;
  const tokens = getComputedStyle(document.documentElement);
  pen.fillStyle = tokens.getPropertyValue("--on-picture");
  pen.fillRect(0, 0, out.width, out.height);
  let left = 0;
  for (const [k, { layers, words }] of panes.entries()) {
    const wide = widths[k]!;
    for (const layer of layers) await put(pen, layer, left, wide, tokens);
    pen.fillStyle = tokens.getPropertyValue("--picture-dark");
    pen.font = '22px "Source Sans 3 Variable", sans-serif';
    words.forEach((text, line) => pen.fillText(text, left + 6, TALL + 30 + LINE * line, wide - 12));
    left += wide + GAP;
  }
  const file = await new Promise<Blob | null>((done) => out.toBlob(done, "image/png"));
  if (!file) throw new Error("The picture could not be made. Try again.");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = "pair.png";
  link.click();
  URL.revokeObjectURL(link.href);
}

async function put(
  pen: CanvasRenderingContext2D,
  { from, mirror, share = 1, edge = 0 }: Layer,
  left: number,
  wide: number,
  tokens: CSSStyleDeclaration,
) {
  const picture = from instanceof SVGSVGElement ? await asPicture(from, wide, tokens) : from;
  pen.save();
  pen.beginPath();
  pen.rect(left + edge * wide, 0, wide * (1 - edge), TALL);
  pen.clip();
  pen.globalAlpha = share;
  pen.translate(left + (mirror ? wide : 0), 0);
  pen.scale(mirror ? -1 : 1, 1);
  pen.drawImage(picture, 0, 0, wide, TALL);
  pen.restore();
}

/** A drawing with its colours as they are on the page now. */
async function asPicture(svg: SVGSVGElement, wide: number, tokens: CSSStyleDeclaration): Promise<HTMLImageElement> {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("width", String(wide));
  copy.setAttribute("height", String(TALL));
  const text = new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\((--[\w-]+)\)/g, (_, name: string) => tokens.getPropertyValue(name).trim());
  const picture = new Image();
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await picture.decode().catch(() => {
    throw new Error("What is drawn over the picture could not be kept. Try again.");
  });
  return picture;
}
