import { render, screen, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { benchOf, readingOf, unitOf } from "../fixtures";
import { Readings } from "./Readings";

const words = {
  title: "Edge",
  unit: "°",
  doc: "How far the ski is tipped.",
  formula: "shin against snow",
  points: [],
  phases: ["belly"],
  limbs: [],
  views: "",
  each_frame: true,
};
const turn = unitOf(1, 0, "left", { phases: { belly: [0.5, 0.9] } });
const bench = benchOf({
  units: [turn],
  notes: ["The fall in the air fits the marked scale."],
  readings: [readingOf(1, 21), readingOf(2, 30)],
  bands: [{ measure: "edge", phase: "belly", limb: null, lo: 25, hi: null, fault: "low_edge" }],
  sides: [{ measure: "edge", side: "right", phase: "belly", limb: null, value: 30, words: "30", pm: "4" }],
  measures: { edge: words, lean: { ...words, title: "Lean" } },
  refusals: [{ measure: "lean", reason: "view", words: "Lean shows from front or rear." }],
});

it("shows value, uncertainty, unit, band and the other side's mean of this turn and phase", () => {
  render(<Readings bench={bench} turn={turn} phase="belly" picked={null} onPick={vi.fn()} />);
  const row = screen.getByRole("button", { name: "Edge" }).closest("tr")!;
  expect(row.textContent).toContain("21");
  expect(row.textContent).toContain("± 4°");
  expect(row.textContent).toContain("30°");
  expect(within(row).getByRole("img").getAttribute("aria-label")).toBe("wanted at least 25°; the value is outside");
});

it("says what cannot be told and why", () => {
  render(<Readings bench={bench} turn={turn} phase="belly" picked={null} onPick={vi.fn()} />);
  expect(screen.getAllByText(/Cannot be told from this clip \(1\)/).length).toBeGreaterThan(0);
  expect(screen.getAllByText(/shows from front or rear/).length).toBeGreaterThan(0);
});

it("tells what to know of the clip", () => {
  render(<Readings bench={bench} turn={turn} phase="belly" picked={null} onPick={vi.fn()} />);
  expect(screen.getAllByText(/fits the marked scale/).length).toBeGreaterThan(0);
});

it("hands on which measure was picked", () => {
  const pick = vi.fn();
  const { container } = render(<Readings bench={bench} turn={turn} phase="belly" picked="edge|" onPick={pick} />);
  const button = within(container).getByRole("button", { name: "Edge" });
  expect(button.getAttribute("aria-pressed")).toBe("true");
  button.click();
  expect(pick).toHaveBeenCalledWith("edge|");
});

it("reads nothing between turns", () => {
  const { container } = render(<Readings bench={bench} picked={null} onPick={vi.fn()} />);
  expect(container.textContent).toMatch(/Between turns nothing is read/);
});

it("says what to do where no turn was found", () => {
  const { container } = render(<Readings bench={{ ...bench, units: [] }} picked={null} onPick={vi.fn()} />);
  expect(container.textContent).toMatch(/No turns were found/);
  expect(container.textContent).toMatch(/fits the marked scale/);
  const bare = render(<Readings bench={{ ...bench, units: [], notes: [] }} picked={null} onPick={vi.fn()} />);
  expect(bare.container.textContent).toMatch(/press Cut/);
});

it("lists what differs between the sides, the surest first, and says so where nothing does", () => {
  const gap = (measure: string, sure: boolean) => ({
    measure,
    sure,
    phase: "belly",
    limb: null,
    words: "−9",
    pm: "4",
    first: { side: "left", words: "21" },
    second: { side: "right", words: "30" },
  });
  const { rerender } = render(
    <Readings
      bench={{ ...bench, gaps: [gap("edge", true), gap("lean", false)] }}
      turn={turn}
      phase="belly"
      picked={null}
      onPick={vi.fn()}
    />,
  );
  const part = screen.getByText("Left against right (1 of 2 differ)").closest("details")!;
  expect(within(part).getAllByRole("row", { hidden: true })).toHaveLength(2);
  expect(part.textContent).toContain("Edge, belly21°30°−9 ± 4°");
  rerender(
    <Readings
      bench={{ ...bench, gaps: [gap("lean", false)] }}
      turn={turn}
      phase="belly"
      picked={null}
      onPick={vi.fn()}
    />,
  );
  expect(screen.getByText("Left against right: no sure difference.")).toBeTruthy();
  rerender(<Readings bench={bench} turn={turn} phase="belly" picked={null} onPick={vi.fn()} />);
  expect(screen.queryByText(/against/)).toBeNull();
});
