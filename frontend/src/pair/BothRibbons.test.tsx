// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { BothRibbons } from "./BothRibbons";
import type { Same } from "./matched";

afterEach(cleanup);
const times = Array.from({ length: 101 }, (_, k) => k / 10);
const bench = (swing: (t: number) => number, unit = "°") => {
  const made = benchOf({ t: times });
  return { ...made, ribbon: { ...made.ribbon, unit, swing: times.map(swing), swing_u: times.map(() => 0.5) } };
};
const unit = (a: number[], b: number[]): Same => ({
  unit_a: 1,
  unit_b: 1,
  side_a: "left",
  side_b: "left",
  phases: ["entry", "belly"],
  a,
  b,
});
/** y of a drawn line by its x, thousandths of the width. */
const lineOf = (which: string) =>
  new Map(
    document
      .querySelector(`[data-ribbon=${which}] polyline`)!
      .getAttribute("points")!
      .split(" ")
      .map((p) => p.split(",").map(Number) as [number, number])
      .map(([x, y]) => [Math.round(x), y]),
  );
const shown = (b: ReturnType<typeof bench>, same: Same, mirror = false) => {
  const go = vi.fn();
  const a = bench((t) => 20 * Math.sin(t));
  render(<BothRibbons a={a} b={b} same={[same]} mirror={mirror} moves="phase" frame={20} onGo={go} />);
  return go;
};

it("lays a slower turn of the other run on the time of this one", () => {
  // The same turn at half the speed.
  shown(
    bench((t) => 20 * Math.sin(t / 2)),
    unit([1, 2, 4], [2, 4, 8]),
  );
  const [a, b] = [lineOf("a"), lineOf("b")];
  const both = [...a].filter(([x]) => b.has(x));
  expect(both.length).toBeGreaterThan(20);
  for (const [x, y] of both) expect(Math.abs(y - b.get(x)!)).toBeLessThan(0.5);
});

it("turns the other side over where it is mirrored", () => {
  shown(
    bench((t) => -20 * Math.sin(t)),
    unit([1, 2, 4], [1, 2, 4]),
    true,
  );
  const [a, b] = [lineOf("a"), lineOf("b")];
  for (const [x, y] of a) expect(Math.abs(y - b.get(x)!)).toBeLessThan(0.2);
});

it("draws nothing where the two are counted in other units, and scrubs by pressing", () => {
  const go = shown(
    bench(() => 3, "m"),
    unit([1, 2, 4], [1, 2, 4]),
  );
  expect(screen.queryByRole("img")).toBeNull();
  cleanup();
  const again = shown(
    bench(() => 3),
    unit([1, 2, 4], [1, 2, 4]),
  );
  const svg = screen.getByRole("img");
  svg.setPointerCapture = () => undefined;
  svg.getBoundingClientRect = () => ({ left: 0, width: 300 }) as DOMRect;
  fireEvent.pointerDown(svg, { clientX: 100 });
  expect(again).toHaveBeenCalledWith(20);
  expect(go).not.toHaveBeenCalled();
});
