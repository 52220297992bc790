import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { FoundGear } from "./FoundGear";

const board = { words: "the board", points: ["board_nose", "board_tail"], share: 0.64, said: null };

it("tells what was found and in how much of the clip, and lets it be confirmed or left out by one press", () => {
  const onSay = vi.fn();
  render(<FoundGear bench={benchOf({ found_gear: [board] })} onSay={onSay} />);
  expect(screen.queryByText(/the board in 64 % of the frames/)).not.toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Right" }));
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "board_nose", on: true }]);
  fireEvent.click(screen.getByRole("button", { name: "Leave out the board" }));
  expect(onSay).toHaveBeenLastCalledWith([{ kind: "gear", landmark: "board_nose", on: false }]);
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
