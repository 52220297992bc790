import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { CountUnits } from "./CountUnits";

const none = benchOf({ t: [0, 1] });
const unit = { n: 1, counted: true } as (typeof none.units)[number];

it("counts units where none were found, and takes it back", () => {
  const say = vi.fn();
  const { rerender } = render(<CountUnits bench={{ ...none, units: [] }} onSay={say} />);
  expect(screen.getByText("Or only count the turns, and note by their numbers.")).toBeTruthy();
  const box = screen.getByRole("spinbutton", { name: "How many turns" });
  fireEvent.change(box, { target: { value: "0" } });
  expect(screen.getByRole("alert").textContent).toBe("Give a whole number from 1 to 200.");
  expect(screen.getByRole("button", { name: "Count" }).hasAttribute("disabled")).toBe(true);
  fireEvent.change(box, { target: { value: "8" } });
  fireEvent.click(screen.getByRole("button", { name: "Count" }));
  expect(say).toHaveBeenCalledWith({ kind: "count", count: 8 });
  rerender(<CountUnits bench={{ ...none, units: [unit, { ...unit, n: 2 }] }} onSay={say} />);
  expect(screen.getByText(/Only counted: 2 turns. When each was is not known/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Not counted" }));
  expect(say).toHaveBeenLastCalledWith({ kind: "count", count: 0 });
});

it("is not there where units were found or cut", () => {
  const { container } = render(
    <CountUnits bench={{ ...none, units: [{ ...unit, counted: false }] }} onSay={vi.fn()} />,
  );
  expect(container.textContent).toBe("");
});
