import { expect, test } from "vitest";

import { type OfBand, type OwnBand, put, putBand } from "./changes";

const band: OfBand = {
  fault: "low_edge",
  place: 0,
  measure: "edge",
  title: "Edge",
  unit: "°",
  where: "",
  band: { intermediate: [25, null], advanced: [40, null] },
};

test("a band is the club's own until it is the playbook's again", () => {
  const own = putBand([], band, "intermediate", [30, null]);
  expect(own).toEqual([{ fault: "low_edge", place: 0, measure: "edge", level: "intermediate", band: [30, null] }]);
  const both = putBand(own, band, "advanced", [50, 60]);
  expect(both.map((b: OwnBand) => [b.level, b.band])).toEqual([
    ["intermediate", [30, null]],
    ["advanced", [50, 60]],
  ]);
  expect(putBand(both, band, "intermediate", [25, null]).map((b) => b.level)).toEqual(["advanced"]);
});

test("what is emptied is left out", () => {
  expect(put({ a: "x", b: "y" }, "a", null)).toEqual({ b: "y" });
  expect(put<string>({}, "a", "x")).toEqual({ a: "x" });
});
