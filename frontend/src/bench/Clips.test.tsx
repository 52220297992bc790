// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, Refused, show } from "../testing";
import { AnotherClip, Clips, nextClip, placeIn } from "./Clips";

// Nothing is decoded here, and other tests have a clip of their own under it.
vi.mock("../video/frames", () => ({ FrameSource: class {} }));
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const clip = (run: number, more: object = {}) => ({
  run,
  view: "front",
  pass_no: 1,
  offset_s: 0,
  offset_pm_s: 0,
  offset_by: "",
  state: "ready",
  problem: "",
  measured: true,
  here: false,
  ...more,
});
const two = (offset: number | null = 1.5, here = 1) =>
  benchOf({
    clips: [
      clip(1, { here: here === 1 }),
      clip(2, { view: "side_left", offset_s: offset, offset_pm_s: 0.08, offset_by: "sound", here: here === 2 }),
    ],
  });

it("finds the same instant in another clip, both ways, and says nothing where it is not matched", () => {
  expect(nextClip(two())!.run).toBe(2);
  expect(nextClip(two(1.5, 2))!.run).toBe(1);
  expect(placeIn(two(), two().clips[1]!, 4)).toBe(2.5);
  expect(placeIn(two(1.5, 2), two().clips[0]!, 2.5)).toBe(4);
  expect(placeIn(two(null), two(null).clips[1]!, 4)).toBeNull();
  expect(nextClip(benchOf())).toBeNull();
  expect(placeIn(two(), clip(3, { pass_no: 2 }), 4)).toBeNull();
});

it("says how each clip is matched with its ±, and what is not used", () => {
  const seen = vi.fn();
  show(
    <Clips
      bench={{ ...two(), unused_clips: ["Clip b is not used: left and right agree in only 0 of 4."] }}
      onShow={seen}
    />,
  );
  expect(screen.getByText("matched by sound: 1.50 s ± 0.08 s")).toBeTruthy();
  expect(screen.getByText(/agree in only 0 of 4/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Show" }));
  expect(seen.mock.calls[0]![0]).toMatchObject({ run: 2 });
});

it("tells why a clip cannot be matched by itself", async () => {
  answering({ "POST /api/runs/{id}/match": () => new Refused("No sound that both clips heard stands out.") });
  show(<Clips bench={two(null)} onShow={vi.fn()} />);
  expect(screen.getByText("not matched yet")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Match by sound" }));
  expect((await screen.findByRole("alert")).textContent).toContain("stands out");
});

it("matches by hand the moment that the first clip was left at", async () => {
  const calls = answering({ "POST /api/runs/{id}/match": two() });
  const bench = two(null, 2);
  show(<AnotherClip bench={{ ...bench, run: { ...bench.run, id: 2 } }} t={3.25} first={4.5} onFirst={vi.fn()} />);
  fireEvent.click(screen.getByRole("button", { name: "This is the first clip’s 4.50 s" }));
  await waitFor(() => expect(calls.at(-1)!.body).toEqual({ by: "hand", at_s: 3.25, first_s: 4.5 }));
  cleanup();
  show(<AnotherClip bench={two()} t={3} onFirst={vi.fn()} />);
  expect(screen.queryByText(/Another clip of this run/)).toBeNull();
});
