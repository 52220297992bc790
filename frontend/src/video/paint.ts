/** A part of a picture, in its own pixels. */
export interface Part {
  x: number;
  y: number;
  w: number;
  h: number;
}

interface Kept {
  pixels: ImageData;
  /** Where a part is cut from; made when one is asked for. */
  whole?: HTMLCanvasElement;
}

/** What each canvas was painted through, used again and again. */
const kept = new WeakMap<HTMLCanvasElement, Kept>();

/**
 * Paint a picture, or a part of it, over a whole canvas; `wanted` says whether it still is when its pixels are there.
 *
 * A video frame is painted as pixels: of each frame that is drawn as it is, the browser keeps a copy of megabytes for
 * its compositor, and hundreds of them before it lets the first go.
 */
export async function paint(
  canvas: HTMLCanvasElement,
  picture: CanvasImageSource,
  part?: Part,
  wanted: () => boolean = () => true,
): Promise<void> {
  const context = canvas.getContext("2d")!;
  const from: CanvasImageSource =
    "copyTo" in picture ? await asPixels(canvas, picture, part === undefined, wanted) : picture;
  if (!wanted() || from === canvas) return;
  // Where a part goes beyond the picture, what was there before would stay.
  if (part) context.clearRect(0, 0, canvas.width, canvas.height);
  if (part) context.drawImage(from, part.x, part.y, part.w, part.h, 0, 0, canvas.width, canvas.height);
  else context.drawImage(from, 0, 0, canvas.width, canvas.height);
}

/** The canvas itself where the frame could be put on it as it is, a canvas with the frame to cut from, or the frame. */
async function asPixels(
  canvas: HTMLCanvasElement,
  frame: VideoFrame,
  all: boolean,
  wanted: () => boolean,
): Promise<CanvasImageSource> {
  const [width, height] = [frame.displayWidth, frame.displayHeight];
  const own = kept.get(canvas);
  const mine: Kept =
    own?.pixels.width === width && own.pixels.height === height ? own : { pixels: new ImageData(width, height) };
  kept.set(canvas, mine);
  try {
    await frame.copyTo(mine.pixels.data, { format: "RGBA" });
  } catch {
    return frame; // a browser that does not turn colours
  }
  if (!wanted()) return canvas;
  const whole = all && canvas.width === width && canvas.height === height;
  const at = whole ? canvas : (mine.whole ??= Object.assign(document.createElement("canvas"), { width, height }));
  at.getContext("2d")!.putImageData(mine.pixels, 0, 0);
  return at;
}
