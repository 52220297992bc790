import { EncodedPacketSink, Input, MP4, UrlSource } from "mediabunny";

import { nearest } from "./nearest";

/** Key frames stand this far apart in a working copy, so a whole piece costs little more than one frame. */
const PIECE = 12;
const KEPT_PIECES = 4;
/** A piece that nobody waits for yet is decoded a frame at a time, this many milliseconds apart: what is asked for goes first. */
const PACE_MS = 10;
/** Buffers to copy frames through, used again and again: a new one for each would be garbage of megabytes a frame. */
const spare: Uint8Array[] = [];

type Picture = VideoFrame | ImageBitmap;
/** Frames that are decoded together; `hurry` once one of them is waited for. */
interface Piece {
  pictures: Promise<Picture>[];
  hurry: () => void;
}
interface Opened {
  packets: EncodedPacketSink;
  config: VideoDecoderConfig;
  first: number;
}

/**
 * Exact frames of a clip by number, decoded in pieces and kept for a while.
 *
 * A frame is found by its own time stamp, never by counting: the picture that is handed out is the
 * one whose time is nearest to the asked frame's. It is there as soon as it is decoded, while the
 * rest of its piece is still on the way.
 */
export class FrameSource {
  private pieces = new Map<number, Piece>();
  private input: Input;
  private ready: Promise<Opened>;

  /** `times` are seconds from the first frame, on the file's own clock. */
  constructor(
    url: string,
    readonly times: readonly number[],
  ) {
    this.input = new Input({ source: new UrlSource(url), formats: [MP4] });
    this.ready = this.open();
    // Whoever asks for a frame hears of a failure; nobody may be asking yet.
    this.ready.catch(() => undefined);
  }

  private async open(): Promise<Opened> {
    const track = await this.input.getPrimaryVideoTrack();
    if (!track) throw new Error("The clip holds no pictures that this browser can show.");
    const config = await track.getDecoderConfig();
    if (!config || !(await track.canDecode()))
      throw new Error("This browser cannot decode the clip. Use a current browser.");
    return {
      packets: new EncodedPacketSink(track),
      config: { ...config, optimizeForLatency: true },
      first: await track.getFirstTimestamp(),
    };
  }

  /** The picture of frame `i`; also starts on the neighbours that will be wanted next. */
  async frame(i: number): Promise<CanvasImageSource> {
    const piece = Math.floor(i / PIECE);
    const { pictures, hurry } = this.piece(piece);
    hurry();
    const picture = await pictures[i % PIECE]!;
    const near = i % PIECE < PIECE / 2 ? piece - 1 : piece + 1;
    if (near >= 0 && near * PIECE < this.times.length) void this.piece(near);
    return picture;
  }

  private piece(n: number): Piece {
    const kept = this.pieces.get(n);
    this.pieces.delete(n);
    const piece = kept ?? this.start(n);
    this.pieces.set(n, piece);
    for (const old of this.pieces.keys()) {
      if (this.pieces.size <= KEPT_PIECES) break;
      this.drop(old);
    }
    return piece;
  }

  private start(n: number): Piece {
    const from = n * PIECE;
    const to = Math.min(from + PIECE, this.times.length);
    const out = Array.from({ length: to - from }, () => deferred<Picture>());
    for (const { promise } of out) promise.catch(() => undefined);
    const hurried = deferred<void>();
    this.decode(from, to, hurried.promise, (i, picture) => out[i - from]!.resolve(picture))
      .then(() => out.forEach((o, k) => o.reject(new Error(`Frame ${from + k} is missing from the clip.`))))
      .catch((e: unknown) => {
        out.forEach((o) => o.reject(e));
        // Tried again when asked again; a newer try of the same piece is let be.
        if (this.pieces.get(n) === piece) this.drop(n);
      });
    const piece = { pictures: out.map((o) => o.promise), hurry: () => hurried.resolve() };
    return piece;
  }

  /** Decode frames `from` … `to` − 1, at leisure until they are `hurried`; `got` is called with each as it comes. */
  private async decode(from: number, to: number, hurried: Promise<void>, got: (i: number, picture: Picture) => void) {
    const { packets, config, first } = await this.ready;
    const kept: Promise<void>[] = [];
    let trouble: unknown;
    const decoder = new VideoDecoder({
      output: (frame) => {
        const i = nearest(this.times, frame.timestamp / 1e6 - first);
        if (i < from || i >= to) frame.close();
        else kept.push(own(frame).then((picture) => got(i, picture)));
      },
      error: (e) => {
        trouble = e;
      },
    });
    try {
      decoder.configure(config);
      // A microsecond is lost when times are rounded, and a frame may be far longer than another.
      const half = (i: number) => (this.times[i]! - this.times[i - 1]!) / 2;
      const end = to < this.times.length ? this.times[to]! - half(to) + first : Infinity;
      const begin = this.times[from]! + (from + 1 < this.times.length ? half(from + 1) : 0) + first;
      let packet = await packets.getKeyPacket(begin);
      for (; packet && packet.timestamp < end; packet = await packets.getNextPacket(packet)) {
        decoder.decode(packet.toEncodedVideoChunk());
        await Promise.race([hurried, new Promise((done) => setTimeout(done, PACE_MS))]);
      }
      await decoder.flush();
      await Promise.all(kept);
    } catch (e) {
      // What the decoder met first says more than that it is closed now.
      throw trouble ?? e;
    } finally {
      if (decoder.state !== "closed") decoder.close();
    }
  }

  private drop(n: number) {
    // What was begun comes to its end, and is then given back.
    this.pieces.get(n)?.hurry();
    for (const picture of this.pieces.get(n)?.pictures ?? []) picture.then((p) => p.close()).catch(() => undefined);
    this.pieces.delete(n);
  }

  close() {
    for (const n of [...this.pieces.keys()]) this.drop(n);
    this.input.dispose();
  }
}

/** A promise and what settles it. The built-in of that kind is too new for some browsers. */
function deferred<T>() {
  let resolve!: (value: T) => void;
  let reject!: (reason: unknown) => void;
  const promise = new Promise<T>((yes, no) => {
    resolve = yes;
    reject = no;
  });
  return { promise, resolve, reject };
}

/** The same picture in memory of our own: a decoder has only a few of its own, and waits until they are given back. */
async function own(frame: VideoFrame): Promise<Picture> {
  try {
    if (!frame.format) return await createImageBitmap(frame);
    const size = frame.allocationSize();
    const at = spare.findIndex((b) => b.length === size);
    const data = at >= 0 ? spare.splice(at, 1)[0]! : new Uint8Array(size);
    const layout = await frame.copyTo(data);
    const { format, codedWidth, codedHeight, visibleRect, timestamp, colorSpace } = frame;
    const [width, height] = [visibleRect?.width ?? codedWidth, visibleRect?.height ?? codedHeight];
    // The new frame has a copy of its own.
    const picture = new VideoFrame(data, {
      format,
      codedWidth: width,
      codedHeight: height,
      timestamp,
      layout,
      colorSpace: colorSpace.toJSON(),
    });
    if (spare.length < PIECE) spare.push(data);
    return picture;
  } finally {
    frame.close();
  }
}
