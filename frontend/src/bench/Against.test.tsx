import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { beforeEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering } from "../testing";
import { Against, useAgainst } from "./Against";

const went = vi.fn();
vi.mock("@tanstack/react-router", () => ({ useNavigate: () => went }));
beforeEach(() => went.mockClear());

const bench = benchOf({ t: [0, 1] });
function Here() {
  return <Against {...useAgainst({ ...bench, units: [{} as never] }, 1, vi.fn())} />;
}
const show = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Here />
    </QueryClientProvider>,
  );
const choice = (b: number | null) => ({
  against: [{ kind: "drawn", words: "a drawn rider", b, unit_a: null, unit_b: null, mirror: true }],
  best_units: [],
});

it("opens a drawn rider at once where it is there", async () => {
  answering({ "GET /api/runs/{run}/against": choice(9) });
  show();
  fireEvent.click(await screen.findByRole("button", { name: /a drawn rider/ }));
  expect(went).toHaveBeenCalledWith({ to: "/pair", search: { a: bench.run.id, b: 9, mirror: true } });
});

it("has one drawn first, with its progress, and goes there once it is ready; or stops it", async () => {
  let state = { id: 9, state: "working", progress: 0.3, problem: "" };
  const calls = answering({
    "GET /api/runs/{run}/against": choice(null),
    "POST /api/runs/{run}/drawn": () => state,
    "GET /api/runs/{run}/drawn": () => state,
    "DELETE /api/runs/{run}/drawn": null,
  });
  show();
  fireEvent.click(await screen.findByRole("button", { name: /a drawn rider/ }));
  expect(await screen.findByText("A rider is being drawn")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Stop" }));
  await waitFor(() => expect(calls.some((c) => c.call === "DELETE /api/runs/{run}/drawn")).toBe(true));
  expect(went).not.toHaveBeenCalled();
  await waitFor(() => expect(screen.queryByText("A rider is being drawn")).toBeNull());
  state = { ...state, state: "ready", progress: 1 };
  fireEvent.click(screen.getByRole("button", { name: /a drawn rider/ }));
  await waitFor(() =>
    expect(went).toHaveBeenCalledWith({ to: "/pair", search: { a: bench.run.id, b: 9, mirror: true } }),
  );
});

it("says why none could be drawn", async () => {
  answering({
    "GET /api/runs/{run}/against": choice(null),
    "POST /api/runs/{run}/drawn": { id: 9, state: "failed", progress: 0, problem: "The rider could not be drawn." },
    "GET /api/runs/{run}/drawn": { id: 9, state: "failed", progress: 0, problem: "The rider could not be drawn." },
  });
  show();
  fireEvent.click(await screen.findByRole("button", { name: /a drawn rider/ }));
  expect(await screen.findByText("The rider could not be drawn.")).toBeTruthy();
});
