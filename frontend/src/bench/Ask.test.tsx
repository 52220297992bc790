import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../api/client";
import { benchOf } from "../fixtures";
import { Ask } from "./Ask";

afterEach(cleanup);

const question = (frame: number): Schemas["Question"] => ({
  frame,
  t: frame / 60,
  landmark: "l_knee",
  unit: 1,
  phase: "belly",
  measure: "edge",
  gain: 0.5,
  why: "The left knee is missing there",
  settles: "whether the edge is high enough",
});
const bench = benchOf();

function ask(answer: Schemas["Question"][] | Error, props: Partial<Parameters<typeof Ask>[0]> = {}) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  if (answer instanceof Error) vi.stubGlobal("fetch", () => Promise.reject(answer));
  else client.setQueryData(["questions", 4, "v1"], answer);
  const spies = { onAsk: vi.fn(), onRight: vi.fn() };
  render(
    <QueryClientProvider client={client}>
      <Ask runId={4} bench={bench} asked={null} busy={false} {...spies} {...props} />
    </QueryClientProvider>,
  );
  return spies;
}

it("names the frame, the joint, why it is asked and what it would settle", () => {
  const { onAsk } = ask([question(120)]);
  const item = screen.getByRole("listitem");
  expect(item.textContent).toMatch(/Frame 120: left knee/i);
  expect(item.textContent).toContain("The left knee is missing there.");
  expect(item.textContent).toContain("It would settle whether the edge is high enough.");
  screen.getByRole("button", { name: /Frame 120/ }).click();
  expect(onAsk).toHaveBeenCalledWith(question(120));
});

it("shows three of many, and all when asked", async () => {
  ask([10, 20, 30, 40, 50].map(question));
  expect(screen.getAllByRole("listitem")).toHaveLength(3);
  screen.getByRole("button", { name: "Show all 5" }).click();
  expect(await screen.findByRole("button", { name: "Show the first three" })).toBeTruthy();
  expect(screen.getAllByRole("listitem")).toHaveLength(5);
});

it("offers to confirm the joint that is looked at, and only that", () => {
  const { onRight } = ask([question(10), question(20)], { asked: question(20) });
  const buttons = screen.getAllByRole("button", { name: "It is right as it is" });
  expect(buttons).toHaveLength(1);
  buttons[0]!.click();
  expect(onRight).toHaveBeenCalledWith(question(20));
});

it("takes no answer while the last one is worked out", () => {
  ask([question(20)], { asked: question(20), busy: true });
  expect(screen.getByRole("button", { name: "It is right as it is" })).toHaveProperty("disabled", true);
});

it("says when nothing hangs on a single frame", () => {
  ask([]);
  expect(screen.getByText("Nothing in doubt hangs on a single frame.")).toBeTruthy();
  expect(screen.queryByRole("listitem")).toBeNull();
});

it("tells a failure instead of an empty list", async () => {
  ask(new Error("gone"));
  expect((await screen.findByRole("alert")).textContent).not.toBe("");
});
