// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, Refused, show } from "../testing";
import { PairPage } from "./PairPage";

const went = vi.fn();
let asked: object = { a: 1, b: 1, ua: 1, ub: 2, mirror: true };
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useSearch: () => asked,
  Link: ({ children, ...rest }: { children: ReactNode }) => <a {...rest}>{children}</a>,
}));
vi.mock("./Half", () => ({
  Half: (p: { name: string; frame: number; words: string; mirror: boolean; children?: ReactNode }) => (
    <div>
      <p>
        {p.name} {p.frame} {p.words} {p.mirror && "mirrored"}
      </p>
      {p.children}
    </div>
  ),
}));
beforeEach(() => {
  went.mockReset();
  vi.spyOn(globalThis, "fetch").mockImplementation(() =>
    Promise.resolve(new Response(new Float32Array(200).buffer.slice(0))),
  );
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const t = Array.from({ length: 100 }, (_, k) => k / 10);
const row = (measure: string, verdict: string, difference: number, u: number) => ({
  measure,
  phase: "belly",
  limb: null,
  a: { value: 1, u },
  b: { value: 1 - difference, u },
  difference,
  u,
  p: 0.9,
  verdict,
});
const pair = (more: object = {}) => ({
  comparison: {
    format: "comparison/1",
    a: {},
    b: {},
    matched: { by: "phase", mirror: true },
    rows: [row("lean", "same", 0.1, 1), row("shoulder_tilt", "differs", 9, 1)],
    first_difference: null,
    best_units: [],
    fairness: ["They are two riders: what is right for one's build may not be for the other's."],
  },
  rows: [
    { measure: "lean", title: "Lean", a: "1 ± 2°", b: "1 ± 2°", difference: "0 ± 3°", each_frame: true, target: "" },
    {
      measure: "shoulder_tilt",
      title: "Tilt of the shoulders",
      a: "10 ± 2°",
      b: "1 ± 2°",
      difference: "9 ± 2°",
      each_frame: true,
      target: "",
    },
  ],
  chain: [],
  same: [
    {
      unit_a: 1,
      unit_b: 2,
      side_a: "left",
      side_b: "right",
      phases: ["entry", "belly"],
      a: [1, 2, 3],
      b: [5, 7, 8],
    },
  ],
  ...more,
});
const table = (answer: object) => ({
  "GET /api/runs/{id}/bench": benchOf({ t, points: ["nose"] }),
  "GET /api/pair": answer,
  "GET /api/pair/curves": {
    title: "Tilt of the shoulders",
    unit: "°",
    at: [0, 1],
    a: [1, 2],
    a_u: [1, 1],
    b: [2, null],
    b_u: [1, null],
    apart: [[0.2, 0.6]],
  },
});

it("opens at the units' beginning, steps both by phase, and puts what differs first", async () => {
  answering(table(pair()));
  show(<PairPage />);
  expect(await screen.findByText(/^A 10 .*turn 1, left · frame 10/)).toBeTruthy();
  expect(screen.getByText(/^B 50 .*turn 2, right · frame 50 mirrored/)).toBeTruthy();
  // Half of the first phase of A is half of that of B.
  for (let k = 0; k < 5; k++) fireEvent.keyDown(document.body, { key: "ArrowRight" });
  expect(screen.getByText(/^B 60 /)).toBeTruthy();
  fireEvent.keyDown(document.body, { key: "l" });
  expect(screen.getByText(/^B 55 /)).toBeTruthy();
  const titles = screen.getAllByRole("listitem").map((li) => li.textContent);
  expect(titles.findIndex((x) => x.includes("Tilt of the shoulders"))).toBeLessThan(
    titles.findIndex((x) => x.includes("Lean")),
  );
  expect(screen.getByText(/They are two riders/)).toBeTruthy();
  expect(await screen.findByRole("img", { name: /Tilt of the shoulders of both over the unit/ })).toBeTruthy();
});

it("goes to where a difference is, and mirrors at a key", async () => {
  answering(table(pair()));
  show(<PairPage />);
  fireEvent.click(await screen.findByRole("button", { name: /Tilt of the shoulders, belly/ }));
  expect(screen.getByText(/^A 25 /)).toBeTruthy();
  fireEvent.keyDown(document.body, { key: "m" });
  await waitFor(() =>
    expect(went).toHaveBeenCalledWith({ to: "/pair", search: { a: 1, b: 1, ua: 1, ub: 2, mirror: false } }),
  );
});

it("begins at the first difference of two runs, and says so where there is none", async () => {
  asked = { a: 1, b: 1 };
  const first = {
    measure: "shoulder_tilt",
    phase: "belly",
    at: 2.5,
    frame_a: 27,
    frame_b: 77,
    difference: 9,
    u: 1,
    p: 0.99,
    says: "Up to here the two are the same. From here on they are not.",
    chain: ["not_level", "banking"],
  };
  const both = pair();
  answering(
    table({ ...both, chain: ["Not level", "Banking"], comparison: { ...both.comparison, first_difference: first } }),
  );
  show(<PairPage />);
  expect(await screen.findByText(/^A 27 /)).toBeTruthy();
  expect(screen.getByText("Not level; from it: Banking")).toBeTruthy();
  cleanup();
  answering(table({ ...both, same: [both.same[0], both.same[0]] }));
  show(<PairPage />);
  expect(await screen.findByText(/Nowhere do the two part/)).toBeTruthy();
});

it("puts what the earlier Script set first, and says where curves part", async () => {
  asked = { a: 1, b: 1, ua: 1, ub: 2 };
  const both = pair();
  both.rows[0]!.target = "Lean at the belly: at least 20°";
  answering(table(both));
  show(<PairPage />);
  expect(await screen.findByText("Set by the earlier Script: Lean at the belly: at least 20°")).toBeTruthy();
  const titles = screen.getAllByRole("listitem").map((li) => li.textContent);
  expect(titles.findIndex((x) => x.includes("Lean"))).toBeLessThan(
    titles.findIndex((x) => x.includes("Tilt of the shoulders")),
  );
  fireEvent.click(screen.getByRole("button", { name: /Tilt of the shoulders, belly/ }));
  expect(await screen.findByText(/part beyond it from 20 to 60 % of the unit/)).toBeTruthy();
});

it("lays B over A as an outline, with whose it is", async () => {
  asked = { a: 1, b: 1, ua: 1, ub: 2 };
  answering(table(pair()));
  show(<PairPage />);
  fireEvent.change(await screen.findByLabelText("How they lie"), { target: { value: "outline" } });
  expect(screen.getByTestId("outline")).toBeTruthy();
  expect(screen.getByText(/turn 2, right · frame 50 · as an outline/)).toBeTruthy();
});

it("looks at both some time after a moment, each at its own speed", async () => {
  asked = { a: 1, b: 1, ua: 1, ub: 2 };
  const calls = answering(table(pair()));
  show(<PairPage />);
  fireEvent.change(await screen.findByLabelText("How they move"), { target: { value: "belly" } });
  // The belly begins at 2 s in A and at 7 s in B.
  expect(await screen.findByText(/^A 20 /)).toBeTruthy();
  expect(screen.getByText(/^B 70 /)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Seconds from that moment"), { target: { value: "0.2" } });
  expect(screen.getByText(/^A 22 /)).toBeTruthy();
  expect(screen.getByText(/^B 72 /)).toBeTruthy();
  expect(await screen.findByRole("heading", { name: "What differs at the belly + 0.20 s" })).toBeTruthy();
  expect(calls.at(-1)!.params).toMatchObject({ query: { event: "belly", offset_s: 0.2 } });
  // What is kept as a film is what is shown.
  fireEvent.change(screen.getByLabelText("How they lie"), { target: { value: "edge" } });
  fireEvent.change(screen.getByLabelText("Edge between A and B"), { target: { value: "30" } });
  fireEvent.click(screen.getByRole("button", { name: "Film" }));
  await waitFor(() =>
    expect(calls.find((c) => c.call === "POST /api/pair/films")!.body).toMatchObject({
      locked: false,
      event: "belly",
      lay: "edge",
      edge: 0.3,
    }),
  );
});

it("keeps the pair as a film: asked for, stopped, taken away, or why not", async () => {
  asked = { a: 1, b: 1, ua: 1, ub: 2, mirror: true };
  const film = (more: object) => ({ id: 5, state: "working", progress: 0.4, problem: "", url: null, ...more });
  const calls = answering({
    ...table(pair()),
    "POST /api/pair/films": film({}),
    "GET /api/pair/films/{film}": film({}),
    "DELETE /api/pair/films/{film}": null,
  });
  show(<PairPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Film" }));
  expect(await screen.findByText("The film is being made")).toBeTruthy();
  expect(calls.find((c) => c.call === "POST /api/pair/films")!.body).toMatchObject({
    unit_a: 1,
    unit_b: 2,
    mirror: true,
    locked: true,
    sized: true,
  });
  fireEvent.click(screen.getByRole("button", { name: "Stop" }));
  expect(await screen.findByRole("button", { name: "Film" })).toBeTruthy();
  cleanup();
  answering({
    ...table(pair()),
    "POST /api/pair/films": film({ id: 6 }),
    "GET /api/pair/films/{film}": film({ id: 6, state: "ready", url: "/api/pair/films/6/file" }),
  });
  show(<PairPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Film" }));
  expect((await screen.findByRole("link", { name: "Take the film (MP4)" })).getAttribute("href")).toBe(
    "/api/pair/films/6/file",
  );
  cleanup();
  answering({ ...table(pair()), "POST /api/pair/films": new Refused("the film would have 9000 frames") });
  show(<PairPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Film" }));
  expect(await screen.findByText("the film would have 9000 frames")).toBeTruthy();
});

it("draws A mended in the frame where the main thing shows", async () => {
  asked = { a: 1, b: 1, ua: 1, ub: 2 };
  answering({
    ...table(pair()),
    "GET /api/runs/{run}/ghost": { row: 22, joints: { nose: [5, 5] }, says: "Drawn with lean at 20°.", lacking: "" },
  });
  show(<PairPage />);
  await screen.findByText(/^A 10 /);
  fireEvent.keyDown(document.body, { key: "g" });
  expect(await screen.findByText("A: Drawn with lean at 20°.")).toBeTruthy();
  expect(await screen.findByText(/^A 22 /)).toBeTruthy();
  expect(screen.getByTestId("outline")).toBeTruthy();
  fireEvent.keyDown(document.body, { key: "ArrowRight" });
  expect(screen.queryByTestId("outline")).toBeNull();
});
