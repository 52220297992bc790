import { expect, it } from "vitest";

import { benchOf } from "../fixtures";
import { inOther, momentsOf, sameAt, sameSize, usualHeight, type Same } from "./matched";

const same: Same = {
  unit_a: 1,
  unit_b: 2,
  side_a: "left",
  side_b: "left",
  phases: ["transition", "entry"],
  a: [1, 2, 4],
  b: [10, 13, 14],
};

it("stretches each phase to the other's, and back to where it came from", () => {
  expect([1, 1.5, 2, 3, 4].map((t) => inOther(same, t, "phase"))).toEqual([10, 11.5, 13, 13.5, 14]);
  for (const t of [1, 1.3, 2, 3.9, 4])
    expect(inOther(same, inOther(same, t, "phase"), "phase", true)).toBeCloseTo(t, 6);
  // Outside the unit both go on at their own speed.
  expect(inOther(same, 0.5, "phase")).toBe(9.5);
  expect(inOther(same, 5, "phase")).toBe(15);
});

it("lets each go at its own speed about a moment of both", () => {
  expect(momentsOf(same)).toEqual(["start", "entry", "end"]);
  const about = ["start", "entry", "end"].map((moment) => ({ moment }));
  expect(about.map((m) => inOther(same, 2.5, m))).toEqual([11.5, 13.5, 12.5]);
  for (const m of about) expect(inOther(same, inOther(same, 1.7, m), m, true)).toBeCloseTo(1.7, 9);
  // A unit without that phase is held at its start.
  expect(inOther(same, 2.5, { moment: "finish" })).toBe(11.5);
});

it("finds the units that a time belongs to", () => {
  const later: Same = { ...same, unit_a: 3, a: [6, 7, 8] };
  expect(sameAt([same, later], 2)!.unit_a).toBe(1);
  expect(sameAt([same, later], 5.5)!.unit_a).toBe(3);
  expect(sameAt([], 1)).toBeUndefined();
});

it("cuts the pictures so that the rider is in the middle and of one size", () => {
  const bench = benchOf({ t: [0, 0.04], points: ["nose", "l_toe", "surface_a"] });
  const xy = new Float32Array([100, 50, 120, 250, 0, 900, 300, 50, 320, 250, 0, 900]);
  expect(usualHeight(bench, xy)).toBe(200);
  const box = sameSize(bench, xy, 1, 200)!;
  expect([box.x + box.w / 2, box.y + box.h / 2, box.h]).toEqual([310, 150, 320]);
  expect(sameSize(bench, new Float32Array(12).fill(NaN), 0, 200)).toBeNull();
});
