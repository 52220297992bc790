import { fireEvent, render, within } from "@testing-library/react";
import { beforeAll, expect, it, vi } from "vitest";

import { benchOf, unitOf } from "../fixtures";
import { Ribbon } from "./Ribbon";

beforeAll(() => {
  Element.prototype.setPointerCapture = () => undefined;
  SVGElement.prototype.getBoundingClientRect = () => ({
    left: 0,
    top: 0,
    width: 1000,
    height: 150,
    right: 1000,
    bottom: 150,
    x: 0,
    y: 0,
    toJSON: () => "",
  });
});

const t = Array.from({ length: 101 }, (_, i) => i / 25);
const turn = (n: number, start: number, side: "left" | "right") =>
  unitOf(n, start, side, {
    end: start + 1.5,
    phases: {
      transition: [start - 0.1, start + 0.1],
      entry: [start + 0.1, start + 0.5],
      belly: [start + 0.5, start + 1],
      finish: [start + 1, start + 1.4],
    },
  });
const bench = benchOf({
  t,
  units: [turn(1, 0.5, "left"), turn(2, 2, "right")],
  boundaries: [0.5, 2, 3.5].map((at) => ({ t: at, u: 0.01, confidence: 1, by: "auto" as const })),
  ribbon: {
    signal: "Tilt of the body",
    unit: "°",
    swing: t.map((x) => -20 * Math.sin(Math.PI * (x - 0.5))),
    swing_u: t.map(() => 1),
    edge: t.map(() => 20),
    graded: true,
    look: [40, 41, 42, 90],
  },
});

const draw = (props: Partial<Parameters<typeof Ribbon>[0]> = {}) => {
  const go = vi.fn();
  const move = vi.fn();
  const { container } = render(
    <Ribbon
      bench={bench}
      frame={50}
      turn={bench.units[1]}
      phase="entry"
      onGo={go}
      onMove={move}
      busy={false}
      {...props}
    />,
  );
  return { go, move, container, slider: within(container).getByRole("slider") };
};

it("says where it stands in frames, seconds, turn and phase", () => {
  const { slider } = draw();
  expect(slider.getAttribute("aria-valuenow")).toBe("50");
  expect(slider.getAttribute("aria-valuetext")).toBe("frame 50, 2.00 seconds, turn 2 right, entry");
});

it("scrubs to the frame under the pointer", () => {
  const { slider, go } = draw();
  fireEvent.pointerDown(slider, { clientX: 250 });
  fireEvent.pointerMove(slider, { clientX: 500 });
  fireEvent.pointerUp(slider);
  fireEvent.pointerMove(slider, { clientX: 900 });
  expect(go.mock.calls.map(([f]) => f as number)).toEqual([25, 50]);
});

it("moves a knot and tells from where to where", () => {
  const { slider, container, move } = draw();
  fireEvent.pointerDown(container.querySelector('[data-knot="2"]')!, { clientX: 500 });
  fireEvent.pointerMove(slider, { clientX: 540 });
  fireEvent.pointerUp(slider);
  expect(move).toHaveBeenCalledTimes(1);
  expect(move.mock.calls[0]![0]).toBe(2);
  expect(move.mock.calls[0]![1]).toBeCloseTo(2.16, 2);
});

it("leaves a knot alone while a correction is on its way", () => {
  const { slider, container, move } = draw({ busy: true });
  fireEvent.pointerDown(container.querySelector('[data-knot="2"]')!, { clientX: 500 });
  fireEvent.pointerMove(slider, { clientX: 540 });
  fireEvent.pointerUp(slider);
  expect(move).not.toHaveBeenCalled();
});

it("marks the frames that need a look, neighbours joined", () => {
  const { container } = draw();
  expect(container.querySelectorAll('rect[fill="var(--warn)"]').length).toBe(2);
});

it("jumps with the keys of a slider", () => {
  const { slider, go } = draw();
  fireEvent.keyDown(slider, { key: "Home" });
  fireEvent.keyDown(slider, { key: "End" });
  fireEvent.keyDown(slider, { key: "PageDown" });
  fireEvent.keyDown(slider, { key: "a" });
  expect(go.mock.calls.map(([f]) => f as number)).toEqual([0, 100, 80]);
});

it("moves a knot by the arrows, keeps it with Enter and takes it away with Delete", () => {
  const gone = vi.fn();
  const { container, move, go } = draw({ onDelete: gone });
  const knot = within(container).getByRole("button", { name: /Change of edges at 2.00 s/ });
  fireEvent.keyDown(knot, { key: "ArrowRight" });
  fireEvent.keyDown(knot, { key: "ArrowRight" });
  expect(go.mock.calls.at(-1)).toEqual([52]);
  fireEvent.keyDown(knot, { key: "Enter" });
  expect(move).toHaveBeenCalledWith(2, 2.08);
  fireEvent.keyDown(knot, { key: "ArrowLeft" });
  fireEvent.keyDown(knot, { key: "Escape" });
  fireEvent.keyDown(knot, { key: "Enter" });
  expect(move).toHaveBeenCalledTimes(1);
  fireEvent.keyDown(knot, { key: "Delete" });
  expect(gone).toHaveBeenCalledWith(2);
});

it("draws a long run wider than its box, so that every unit can be pressed", () => {
  const many = benchOf({
    ...bench,
    units: Array.from({ length: 40 }, (_, k) => turn(k + 1, k * 0.09, k % 2 ? "left" : "right")),
  });
  const { container } = draw({ bench: many, turn: undefined });
  const wide = () => (container.querySelector(".overflow-x-auto > div") as HTMLElement).style.width;
  expect(wide()).toBe("300%");
  fireEvent.click(within(container).getByRole("button", { name: "Show less of the run, larger" }));
  expect(wide()).toBe("600%");
});
