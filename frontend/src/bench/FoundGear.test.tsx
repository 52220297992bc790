import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { FoundGear } from "./FoundGear";

const board = { words: "the board", points: ["board_nose", "board_tail"], share: 0.64, said: null };
const pole = { words: "the left pole", points: ["l_pole_tip", "l_pole_grip"], share: 0.4, said: null };

it("tells what was found and in how much of the clip, and lets it be confirmed or left out by one press", () => {
  const onSay = vi.fn();
  render(<FoundGear bench={benchOf({ found_gear: [board] })} onSay={onSay} />);
  expect(screen.queryByText(/the board \(64 % of frames\)/)).not.toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Confirm" }));
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "board_nose", on: true }]);
  fireEvent.click(screen.getByRole("button", { name: "Leave it out" }));
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "board_nose", on: false }]);
});

it("leaves out one of several, or all of them", () => {
  const onSay = vi.fn();
  render(<FoundGear bench={benchOf({ found_gear: [board, pole] })} onSay={onSay} />);
  const select = screen.getByLabelText("Leave out");
  fireEvent.change(select, { target: { value: "1" } });
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "l_pole_tip", on: false }]);
  fireEvent.change(select, { target: { value: "all" } });
  expect(onSay.mock.lastCall![0]).toHaveLength(2);
});

it("takes back in what was left out, and is silent where nothing was found or all is confirmed", () => {
  const onSay = vi.fn();
  const { rerender, container } = render(
    <FoundGear bench={benchOf({ found_gear: [{ ...board, said: false }] })} onSay={onSay} />,
  );
  fireEvent.click(screen.getByRole("button", { name: "Take it back in" }));
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "board_nose", on: true }]);
  rerender(<FoundGear bench={benchOf({ found_gear: [{ ...board, said: true }] })} onSay={onSay} />);
  expect(container.textContent).toBe("");
  rerender(<FoundGear bench={benchOf({})} onSay={onSay} />);
  expect(container.textContent).toBe("");
});
