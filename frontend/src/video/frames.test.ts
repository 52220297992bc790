import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { FrameSource } from "./frames";
import { nearest } from "./nearest";

/** A clip whose frame i is at these seconds, the file itself starting 0.5 s late; a key frame in each twelve. */
const clip = vi.hoisted(() => ({
  times: [] as number[],
  lost: new Set<number>(),
  decodable: true,
  fails: false,
  decoders: 0,
  decoded: [] as number[],
  closed: 0,
}));
const START = 0.5;

vi.mock("mediabunny", () => {
  const packet = (k: number) =>
    k < clip.times.length ? { k, timestamp: clip.times[k]! + START, toEncodedVideoChunk: () => k } : null;
  return {
    MP4: {},
    UrlSource: class {},
    Input: class {
      getPrimaryVideoTrack = () =>
        Promise.resolve({
          getDecoderConfig: () => Promise.resolve({ codec: "avc1" }),
          canDecode: () => Promise.resolve(clip.decodable),
          getFirstTimestamp: () => Promise.resolve(START),
        });
      dispose() {}
    },
    EncodedPacketSink: class {
      getKeyPacket = (t: number) => {
        const at = clip.times.filter((x) => x + START <= t + 1e-9).length - 1;
        return Promise.resolve(packet(Math.floor(Math.max(at, 0) / 12) * 12));
      };
      getNextPacket = (p: { k: number }) => Promise.resolve(packet(p.k + 1));
    },
  };
});

// What is decoded ahead goes on for a while.
afterEach(async () => {
  for (const source of sources.splice(0)) source.close();
  await settled();
});
beforeEach(() => {
  Object.assign(clip, {
    times: Array.from({ length: 60 }, (_, i) => i / 60),
    lost: new Set(),
    decodable: true,
    fails: false,
    decoders: 0,
    decoded: [],
    closed: 0,
  });
  vi.stubGlobal(
    "VideoDecoder",
    class {
      state = "unconfigured";
      constructor(private told: { output: (f: unknown) => void; error: (e: Error) => void }) {
        clip.decoders++;
      }
      configure() {
        this.state = "configured";
      }
      decode(k: number) {
        if (clip.fails) {
          this.state = "closed";
          return this.told.error(new Error("the stream is damaged"));
        }
        clip.decoded.push(k);
        if (!clip.lost.has(k))
          this.told.output({
            timestamp: Math.floor(1e6 * (clip.times[k]! + START)),
            k,
            format: null,
            close: () => undefined,
          });
      }
      flush = () => (clip.fails ? Promise.reject(new Error("closed codec")) : Promise.resolve());
      close() {
        this.state = "closed";
      }
    },
  );
  vi.stubGlobal("createImageBitmap", (frame: { k: number }) =>
    Promise.resolve({ k: frame.k, close: () => clip.closed++ }),
  );
});

const shown = async (source: FrameSource, i: number) => ((await source.frame(i)) as unknown as { k: number }).k;
const sources: FrameSource[] = [];
const opened = () => {
  const source = new FrameSource("/video", clip.times);
  sources.push(source);
  return source;
};
const settled = () => new Promise((done) => setTimeout(done, 50));

it("hands out the asked frame, wherever it is asked", async () => {
  const source = opened();
  for (const i of [0, 1, 11, 12, 59, 30, 23, 24]) expect(await shown(source, i)).toBe(i);
});

it("goes by each frame's own time where the rate is uneven", async () => {
  clip.times = Array.from({ length: 40 }, (_, i) => i / 60 + (i >= 20 ? 0.4 : 0) + (i % 3 === 0 ? 0.004 : 0));
  const source = opened();
  for (let i = 0; i < 40; i++) expect(await shown(source, i)).toBe(i);
});

it("decodes a piece once, and the neighbour that will be wanted next", async () => {
  const source = opened();
  await shown(source, 20);
  await settled();
  expect(clip.decoders).toBe(2); // frames 12–23, and 24–35 ahead
  for (const i of [12, 21, 23, 24, 29]) await shown(source, i);
  await settled();
  expect(clip.decoded.filter((k) => k === 20)).toHaveLength(1);
});

it("gives back the pictures of pieces that were left behind, and all of them at the end", async () => {
  clip.times = Array.from({ length: 600 }, (_, i) => i / 60);
  const source = opened();
  for (let i = 6; i < 600; i += 24) await shown(source, i);
  await settled();
  expect(clip.closed).toBeGreaterThan(300);
  source.close();
  await settled();
  expect(clip.closed).toBe(clip.decoded.length);
});

it("says which frame is missing and shows the others", async () => {
  clip.lost.add(5);
  const source = opened();
  await expect(source.frame(5)).rejects.toThrow("Frame 5 is missing from the clip.");
  expect(await shown(source, 6)).toBe(6);
});

it("tells what the decoder met, and tries again when asked again", async () => {
  clip.fails = true;
  const source = opened();
  await expect(source.frame(3)).rejects.toThrow("the stream is damaged");
  clip.fails = false;
  await settled();
  expect(await shown(source, 3)).toBe(3);
});

it("a browser that cannot decode the clip is told so", async () => {
  clip.decodable = false;
  await expect(opened().frame(0)).rejects.toThrow("Use a current browser.");
});

it.each([
  [[0, 1, 2], 1.4, 1],
  [[0, 1, 2], 1.6, 2],
  [[0, 1, 2], -5, 0],
  [[0, 1, 2], 9, 2],
  [[3], 0, 0],
])("nearest of %j to %d is number %d", (times, t, i) => {
  expect(nearest(times, t)).toBe(i);
});
