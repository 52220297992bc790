// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { show } from "../testing";
import { RightAndWrong } from "./RightAndWrong";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
const still = (quiet: boolean) => vi.stubGlobal("matchMedia", () => ({ matches: quiet }));
const src = () => screen.getByRole("img").getAttribute("src");

it("stands still, moves when asked to, and moves at once what only shows in motion", () => {
  still(false);
  show(<RightAndWrong discipline="snowboard" fault="hinge_over" figure={{ shows: "Hinge", in_motion: false }} />);
  expect(src()).toBe("/api/figures/snowboard/hinge_over");
  fireEvent.click(screen.getByRole("button", { name: "Move, slowly" }));
  expect(src()).toBe("/api/figures/snowboard/hinge_over?moving=true");
  cleanup();
  show(<RightAndWrong discipline="snowboard" fault="slow_start" figure={{ shows: "Lean", in_motion: true }} />);
  expect(src()).toContain("moving=true");
  expect(screen.getByText(/in motion only/)).toBeTruthy();
});

it("moves nothing by itself where the reader wants nothing to move", () => {
  still(true);
  show(<RightAndWrong discipline="snowboard" fault="slow_start" figure={{ shows: "Lean", in_motion: true }} />);
  expect(src()).not.toContain("moving");
});
