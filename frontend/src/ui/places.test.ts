import { describe, expect, it } from "vitest";

import { unitOf } from "../fixtures";
import { nearest } from "../video/nearest";
import { ofLimb, ofUnit, phaseAt, unitAt } from "./places";

const TURNS = [unitOf(1, 0.7, "left"), unitOf(2, 2.1, "right")];
const ORDER = ["transition", "entry", "belly", "finish"];

describe("nearest", () => {
  it("finds the frame whose time is closest, on uneven times", () => {
    const times = [0, 0.1, 0.15, 0.4];
    expect([-1, 0.04, 0.06, 0.13, 0.3, 9].map((t) => nearest(times, t))).toEqual([0, 0, 1, 2, 3, 3]);
  });
});

describe("places in a run", () => {
  it("knows the turn, and that a transition before the first turn belongs to it", () => {
    expect(unitAt(TURNS, 1.0)?.n).toBe(1);
    expect(unitAt(TURNS, 0.65)?.n).toBe(1);
    expect(unitAt(TURNS, 2.1)?.n).toBe(2);
    expect(unitAt(TURNS, 0.2)).toBeUndefined();
  });

  it("names the phase, and calls the end of the finish still the finish", () => {
    expect([0.75, 1.0, 1.4, 1.8, 2.05].map((t) => phaseAt(TURNS[0]!, t, ORDER))).toEqual([
      "transition",
      "entry",
      "belly",
      "finish",
      "finish",
    ]);
  });

  it("puts outside and inside to the right foot", () => {
    expect(ofUnit("outside_knee", TURNS[0])).toBe("r_knee");
    expect(ofUnit("outside_knee", TURNS[1])).toBe("l_knee");
    expect(ofUnit("inside_ankle", TURNS[1])).toBe("r_ankle");
    expect(ofUnit("mid_hip", TURNS[1])).toBe("mid_hip");
  });

  it("draws the line of a measure on the limb that is meant", () => {
    expect(ofUnit(ofLimb("outside_knee", "inside"), TURNS[0])).toBe("l_knee");
    expect(ofLimb("outside_knee", "outside")).toBe("outside_knee");
    expect(ofLimb("l_elbow", "r")).toBe("r_elbow");
    expect(ofLimb("mid_shoulder", "l")).toBe("mid_shoulder");
  });
});

it("reads the phases of units that are no turns, before their start and after their end", () => {
  const jump = unitOf(1, 2, null, {
    end: 2.6,
    phases: { approach: [1.4, 1.9], set: [2, 2.2], spin: [2.2, 2.5], landing: [2.6, 3] },
  });
  const order = ["approach", "takeoff", "set", "spin", "open", "landing"];
  expect(unitAt([jump], 1.6)).toBe(jump);
  expect(phaseAt(jump, 1.6, order)).toBe("approach");
  expect(phaseAt(jump, 2.55, order)).toBe("spin");
  expect(unitAt([jump], 2.8)).toBe(jump);
  expect(phaseAt(jump, 2.8, order)).toBe("landing");
});
