// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { SinceLastTime } from "./SinceLastTime";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children }: { children: React.ReactNode }) => <a href="/there">{children}</a>,
}));

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const told = (more: object = {}) => ({
  following: {
    run: 3,
    title: "Lane 2",
    on: "2026-10-02",
    fault: "The hips stay outside",
    cue: "Close the drawer",
    outcome: "moved",
    rows: [
      {
        target: "Hip at the belly: at least 0.1",
        before: "0.02 ± 0.02",
        now: "0.14 ± 0.02",
        verdict: "in_band",
        says: "in the band now",
      },
      {
        target: "Edge at the belly: at least 25°",
        before: "",
        now: "",
        verdict: "cannot_tell",
        says: "cannot be told",
      },
    ],
    changed: ["Turn time: 1.2 ± 0.1 s then, 1.6 ± 0.1 s now"],
    instead: null,
    ...more,
  },
});

it("tells what became of each target, what else changed and what it was", async () => {
  answering({ "GET /api/runs/{run}/following": told() });
  show(<SinceLastTime run={9} version="v" />);
  expect(await screen.findByText("in the band now")).toBeTruthy();
  expect(screen.getByText(/0\.02 ± 0\.02 then, 0\.14 ± 0\.02 now/)).toBeTruthy();
  expect(screen.getByText(/not measured then, not measured now/)).toBeTruthy();
  expect(screen.getByText(/Turn time: 1\.2/)).toBeTruthy();
  expect(screen.getByText(/2 October 2026|October 2, 2026/)).toBeTruthy();
});

it("offers the next cue where one changed nothing, and gives it", async () => {
  answering({
    "GET /api/runs/{run}/following": told({
      instead: { cue: "Inner hip down", says: "Two runs in a row show no change." },
    }),
  });
  const given = vi.fn();
  show(<SinceLastTime run={9} version="v" onCue={given} />);
  fireEvent.click(await screen.findByRole("button", { name: "Give it" }));
  expect(given).toHaveBeenCalledWith("Inner hip down");
});

it("is not there on a rider's first run, and says where it cannot be read", async () => {
  answering({ "GET /api/runs/{run}/following": { following: null } });
  const { container, unmount } = show(<SinceLastTime run={9} version="v" />);
  await vi.waitFor(() => expect(container.textContent).toBe(""));
  unmount();
  answering({ "GET /api/runs/{run}/following": new Refused("The run is gone.") });
  show(<SinceLastTime run={10} version="v" />);
  expect((await screen.findByRole("alert")).textContent).toMatch(/The run is gone/);
});
