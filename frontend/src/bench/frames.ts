import { ALL_FORMATS, CanvasSink, Input, UrlSource } from "mediabunny";

/** Key frames stand this far apart in a working copy, so a whole piece costs little more than one frame. */
const PIECE = 12;
const KEPT_PIECES = 7;

/**
 * Exact frames of a clip by number, decoded in pieces and kept for a while.
 *
 * A frame is found by its own time stamp, never by counting: the picture that is handed out is the
 * one whose time is nearest to the asked frame's.
 */
export class FrameSource {
  private pieces = new Map<number, Promise<Map<number, CanvasImageSource>>>();
  private input: Input;
  private ready: Promise<{ sink: CanvasSink; first: number }>;

  /** `times` are seconds from the first frame, on the file's own clock. */
  constructor(
    url: string,
    readonly times: readonly number[],
  ) {
    this.input = new Input({ source: new UrlSource(url), formats: ALL_FORMATS });
    this.ready = this.open();
    // Whoever asks for a frame hears of a failure; nobody may be asking yet.
    this.ready.catch(() => undefined);
  }

  private async open() {
    const track = await this.input.getPrimaryVideoTrack();
    if (!track) throw new Error("The clip holds no pictures that this browser can show.");
    if (!(await track.canDecode())) throw new Error("This browser cannot decode the clip. Use a current browser.");
    return { sink: new CanvasSink(track), first: await track.getFirstTimestamp() };
  }

  /** The picture of frame `i`; also starts on the neighbours that will be wanted next. */
  async frame(i: number): Promise<CanvasImageSource> {
    const piece = Math.floor(i / PIECE);
    const here = await this.piece(piece);
    const near = i % PIECE < PIECE / 2 ? piece - 1 : piece + 1;
    if (near >= 0 && near * PIECE < this.times.length) this.piece(near).catch(() => undefined);
    const picture = here.get(i);
    if (!picture) throw new Error(`Frame ${i} is missing from the clip.`);
    return picture;
  }

  private piece(n: number): Promise<Map<number, CanvasImageSource>> {
    const kept = this.pieces.get(n);
    if (kept) {
      this.pieces.delete(n);
      this.pieces.set(n, kept);
      return kept;
    }
    const made = this.decode(n);
    made.catch(() => this.pieces.delete(n));
    this.pieces.set(n, made);
    for (const old of this.pieces.keys()) {
      if (this.pieces.size <= KEPT_PIECES) break;
      this.pieces.delete(old);
    }
    return made;
  }

  private async decode(n: number) {
    const { sink, first } = await this.ready;
    const from = n * PIECE;
    const to = Math.min(from + PIECE, this.times.length);
    const out = new Map<number, CanvasImageSource>();
    const slack = 0.3 / Math.max(1, this.times.length / Math.max(this.times.at(-1) ?? 1, 0.01));
    const end = to < this.times.length ? this.times[to]! - slack : Infinity;
    for await (const { canvas, timestamp } of sink.canvases(this.times[from]! + first + slack / 8, end + first)) {
      const i = nearest(this.times, timestamp - first);
      if (i >= from && i < to) out.set(i, canvas);
    }
    return out;
  }

  close() {
    this.pieces.clear();
    this.input.dispose();
  }
}

/** Index of the value nearest to `t` in rising `times`. */
export function nearest(times: readonly number[], t: number): number {
  let lo = 0;
  let hi = times.length - 1;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (times[mid]! < t) lo = mid + 1;
    else hi = mid;
  }
  return lo > 0 && t - times[lo - 1]! < times[lo]! - t ? lo - 1 : lo;
}
