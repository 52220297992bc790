// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { Failures } from "./Failures";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children }: { children: React.ReactNode }) => <a href="/there">{children}</a>,
}));

const failed = {
  id: 4, what: "Following the rider of run 3 of Wren", run: 3, reason: "MemoryError: too large", place: "follow.py:12 follow",
  times: 2, first: "2026-11-28T10:00:00Z", last: "2026-11-29T10:00:00Z",
}; // prettier-ignore

it("shows what failed with the reason, and has it tried again", async () => {
  let there = [failed];
  const calls = answering({
    "GET /api/club/failures": () => there,
    "POST /api/club/failures/{failure}": () => (there = []),
  });
  show(<Failures />);
  expect((await screen.findByRole("link", { name: failed.what })).getAttribute("href")).toBe("/there");
  expect(screen.getByText("MemoryError: too large")).toBeTruthy();
  expect(screen.getByText(/^2 times, last on .* in follow.py:12 follow$/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(await screen.findByText("Nothing has failed that the software did not expect.")).toBeTruthy();
  expect(screen.getByRole("status").textContent).toContain("tried again");
  expect(calls.filter((c) => c.call.startsWith("POST"))[0]?.params).toEqual({ path: { failure: 4 } });
});

it("says so when somebody else put it aside meanwhile", async () => {
  answering({
    "GET /api/club/failures": [{ ...failed, run: null, times: 1, place: "" }],
    "DELETE /api/club/failures/{failure}": new Refused("This is not there any more.", 404),
  });
  show(<Failures />);
  fireEvent.click(await screen.findByRole("button", { name: "Put aside" }));
  expect(await screen.findByText(/This is not there any more/)).toBeTruthy();
});
