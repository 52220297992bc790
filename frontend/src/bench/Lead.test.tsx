// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, show } from "../testing";
import { Lead, Led } from "./Lead";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const steps = [
  { frame: 40, landmark: "l_ski_tip" },
  { frame: 40, landmark: "r_ski_tip" },
];

it("says what the presses settle and leads through them", async () => {
  answering({
    "GET /api/runs/{id}/leading": {
      steps,
      points: "the ski tips",
      faults: ["The tips come apart", "Wedge"],
      done: 3,
    },
  });
  const onLead = vi.fn();
  show(<Lead runId={9} bench={benchOf()} onLead={onLead} />);
  expect(
    await screen.findByText(
      "2 presses on the ski tips settle 2 faults: The tips come apart, Wedge. 3 are there already.",
    ),
  ).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Lead me through them" }));
  expect(onLead).toHaveBeenCalledWith(steps);
});

it("is not there where no press would tell more", async () => {
  const calls = answering({ "GET /api/runs/{id}/leading": { steps: [], points: "", faults: [], done: 0 } });
  const page = show(<Lead runId={9} bench={benchOf()} onLead={vi.fn()} />);
  await vi.waitFor(() => expect(calls).toHaveLength(1));
  expect(page.container.textContent).toBe("");
});

it("names the point, what it is and how many are left, and lets one be skipped", () => {
  const [onSkip, onStop] = [vi.fn(), vi.fn()];
  show(<Led steps={steps} words={{ l_ski_tip: "the very front" }} onSkip={onSkip} onStop={onStop} />);
  expect(screen.getByRole("status").textContent).toContain("Press on the left ski tip, the very front. 2 left.");
  fireEvent.click(screen.getByRole("button", { name: /skip/ }));
  fireEvent.click(screen.getByRole("button", { name: /Stop/ }));
  expect([onSkip.mock.calls.length, onStop.mock.calls.length]).toEqual([1, 1]);
});
