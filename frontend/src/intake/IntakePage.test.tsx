// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { IntakePage } from "./IntakePage";

vi.mock("@tanstack/react-router", () => ({ Link: () => null }));

const held = {
  id: 5, name: "Ysolde Farrow", born: 1990, level: "advanced", stance: "goofy", agreed: "Ysolde Farrow", guardian: false,
  at: "2026-11-29T10:00:00Z", title: "Send me your Friday run", why: "They say goofy, and the club has Ysolde as regular.",
  clips: [{ id: 1, name: "friday.mp4", intention_text: "hips in", state: "held", problem: "", advice: [] }],
  alike: [{ id: 3, name: "Ysolde", number: 7 }],
}; // prettier-ignore

it("says why a known sender waits, and asks which foot is in front where that differs", async () => {
  let there = [held];
  const calls = answering({
    "GET /api/senders": () => ({ results: there, count: there.length }),
    "GET /api/intakes": [],
    "GET /api/riders": { results: [], count: 0 },
    "GET /api/disciplines": [],
    "GET /api/session": { role: "owner" },
    "POST /api/senders/{id}/let_in": (body: { stance?: string }) => {
      if (!body.stance)
        return new Refused("Ysolde says goofy, and the club has Ysolde as regular. Say which foot is in front.", 409);
      there = [];
      return { rider: held.alike[0], runs: [9] };
    },
  });
  show(<IntakePage />);
  expect(await screen.findByText(held.why)).toBeTruthy();
  fireEvent.click(await screen.findByRole("button", { name: "It is Ysolde (7)" }));
  expect((await screen.findByRole("alert")).textContent).toContain("Say which foot");
  fireEvent.click(screen.getByRole("button", { name: "Right foot in front (goofy)" }));
  await waitFor(() => expect(screen.queryByText("Ysolde Farrow")).toBeNull());
  expect(calls.filter((c) => c.call.startsWith("POST")).map((c) => c.body)).toEqual([
    { rider: 3, stance: "" },
    { rider: 3, stance: "goofy" },
  ]);
});
