import { expect, it } from "vitest";

import { begins, captionAt, clock, frameAt, marksIn, overAt, passageAt, showing, type Told } from "./time";

const times = Array.from({ length: 100 }, (_, k) => k / 50);
/** As the server lays out: frame 10 stands for a second, plays to 30 at half speed, stands; then frame 5. */
const stretches = [
  { from_s: 0, to_s: 1, frame: 10, to_frame: 10, speed: 0 },
  { from_s: 1, to_s: 1.8, frame: 10, to_frame: 30, speed: 0.5 },
  { from_s: 1.8, to_s: 3.5, frame: 30, to_frame: 30, speed: 0 },
  { from_s: 3.5, to_s: 5, frame: 5, to_frame: 5, speed: 0 },
];

it("shows the frames that a film of it has", () => {
  const shown = [0, 0.99, 1.01, 1.4, 1.79, 2.5, 3.4, 3.51, 4.9].map((t) => frameAt(stretches, t, times));
  expect(shown).toEqual([10, 10, 10, 20, 30, 30, 30, 5, 5]);
  expect(frameAt([], 1, times)).toBe(0);
});

const told: Told = {
  format: "telling/1",
  discipline: "alpine_carve",
  passages: [
    { id: "a", caption: "One", length_s: 2, acts: [{ act: "stop", at_s: 0, frame: 3 }, { act: "stop", at_s: 1, frame: 9 }] },
    { id: "b", caption: "Two", length_s: 1, acts: [] },
  ],
}; // prettier-ignore

it("knows which passage a moment is in, and which act shows its frame", () => {
  expect(begins(told)).toEqual([0, 2, 3]);
  expect(passageAt(told, 1.5)).toEqual({ k: 0, into: 1.5 });
  expect(passageAt(told, 2)).toEqual({ k: 1, into: 0 });
  expect(passageAt(told, 9).k).toBe(1);
  expect(showing(told.passages[0]!, 0.5)).toBe(0);
  expect(showing(told.passages[0]!, 1.5)).toBe(1);
  expect(showing(told.passages[1]!, 0.5)).toBe(-1);
});

it("shows what lies over the picture while it does, in its own frames", () => {
  const over = { from_s: 1, to_s: 2, marks: { "7": [{ kind: "line" as const, points: [[0, 0]], words: "", tone: "coach" as const }] }, figure: "", title: "", lines: [] }; // prettier-ignore
  expect(overAt([over], 0.9)).toHaveLength(0);
  expect(overAt([over], 1)).toHaveLength(1);
  expect(overAt([over], 2)).toHaveLength(0);
  expect(marksIn(over, 7)).toHaveLength(1);
  expect(marksIn(over, 8)).toHaveLength(0);
});

it("reads captions and clocks", () => {
  expect(captionAt([{ from_s: 0, to_s: 2, text: "One" }], 1.99)).toBe("One");
  expect(captionAt([{ from_s: 0, to_s: 2, text: "One" }], 2)).toBe("");
  expect(clock(77.4)).toBe("1:17");
});
