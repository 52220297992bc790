// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { answering, show } from "../testing";
import { GroupsPage } from "./GroupsPage";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children }: { children: React.ReactNode }) => <a href="/there">{children}</a>,
}));

const group = {
  day: "2026-12-05", at: 660, minutes: 60, discipline: "alpine_carve", title: "The hips stay outside", stage: "Slowly", drill: "Hip to the hill",
  text: "Traverse.", dose: "4 each way", sign: "the hip is inside",
  riders: [
    { rider: 1, name: "Bram", number: 8, run: 3, cue: "Close the drawer", gear: [] },
    { rider: 2, name: "Wren", number: null, run: 4, cue: "Hip in", gear: ["softer boots"] },
  ],
}; // prettier-ignore

it("shows who comes when with cue, drill and gear, and asks again for another place or length", async () => {
  const calls = answering({
    "GET /api/places": [{ id: 6, name: "Snow hall", week: [[], [], [], [], [], [], []] }],
    "GET /api/desk/groups": (_: unknown, given: { query: { place?: number } }) =>
      given.query.place ? [{ ...group, day: null, at: null }] : [group],
  });
  show(<GroupsPage />);
  expect((await screen.findByRole("heading", { level: 2 })).textContent).toContain("11:00 to 12:00");
  expect(screen.getByText("softer boots")).toBeTruthy();
  expect(screen.getByText("Close the drawer")).toBeTruthy();
  await screen.findByRole("option", { name: "Snow hall" });
  fireEvent.change(screen.getByLabelText("Place"), { target: { value: "6" } });
  expect(await screen.findByText("No time suits two of them")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("How long"), { target: { value: "90" } });
  await waitFor(() => expect(calls.at(-1)?.params).toEqual({ query: { minutes: 90, place: 6 } }));
});
