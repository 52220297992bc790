// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf, disciplineOf } from "../fixtures";
import { Doubt } from "./Doubt";
import { Schools } from "./Schools";

afterEach(cleanup);

const doubt = {
  kind: "view" as const,
  says: "the clip is said to be filmed from behind, but the right shoulder is on the left of the picture, as from the front",
  asks: "From where was it filmed?",
  choices: [
    { words: "From the front", value: "front" },
    { words: "From behind, as said", value: null },
  ],
};

it("asks what the picture speaks against, and gives each answer one button", () => {
  const onAnswer = vi.fn();
  render(<Doubt doubt={doubt} busy={false} onAnswer={onAnswer} />);
  expect(screen.getByRole("alert", { name: "From where was it filmed?" }).textContent).toContain(
    "The clip is said to be filmed from behind",
  );
  fireEvent.click(screen.getByRole("button", { name: "From the front" }));
  fireEvent.click(screen.getByRole("button", { name: "From behind, as said" }));
  expect(onAnswer.mock.calls).toEqual([[{ kind: "view", value: "front" }], [{ kind: "view", value: null }]]);
});

it("lets a school be chosen for this run, and taken back to the usual one", () => {
  const book = disciplineOf({
    schools: {
      body: {
        question: "How open is the body?",
        default: "closed",
        default_reason: "It pulls harder.",
        options: {
          closed: { title: "Turned away", reason: "Stronger." },
          square: { title: "Squarer", reason: "Easier to see." },
        },
      },
    },
  });
  const onChoose = vi.fn();
  const { rerender } = render(<Schools bench={benchOf()} book={book} busy={false} onChoose={onChoose} />);
  expect(screen.getByText("It pulls harder.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("How open is the body?"), { target: { value: "square" } });
  expect(onChoose).toHaveBeenLastCalledWith({ question: "body", option: "square", whose: "run" });
  fireEvent.change(screen.getByLabelText("A choice here is for"), { target: { value: "club" } });
  fireEvent.change(screen.getByLabelText("How open is the body?"), { target: { value: "square" } });
  expect(onChoose).toHaveBeenLastCalledWith({ question: "body", option: "square", whose: "club" });
  const chosen = benchOf({ schools_in_force: { body: { option: "square", whose: "rider" } } });
  rerender(<Schools bench={chosen} book={book} busy={false} onChoose={onChoose} />);
  expect(screen.getByText("Easier to see. Chosen for all of Wren’s runs.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("How open is the body?"), { target: { value: "" } });
  expect(onChoose).toHaveBeenLastCalledWith({ question: "body", option: null, whose: "rider" });
});
