// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { EyePage } from "./EyePage";
import { Line } from "./Questions";
import type { Item } from "./types";

beforeEach(() => {
  localStorage.clear();
  vi.stubGlobal("matchMedia", () => ({ matches: true }));
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const strip = (url: string) => ({ url, count: 4, columns: 2, cell_px: 300, step_s: 0.05 });
const item = (id: number, more: Partial<Item> = {}): Item => ({
  id,
  exercise: "fault",
  discipline: "alpine_carve",
  title: "Turns on piste",
  level: "novice",
  view: "front",
  ask: "What is wrong here?",
  points: 0,
  options: [
    { id: "banking", title: "Banking" },
    { id: "", title: "Nothing" },
  ],
  titles: [],
  strips: [strip(`/${id}.webp`)],
  ...more,
});
const scored = (more: object = {}) => ({
  right: true,
  error: null,
  unit: "",
  says: "",
  truth: "Banking, 1.3 scales.",
  answer: "banking",
  order: null,
  frames: null,
  line: null,
  fault: "banking",
  due: "2026-12-02T10:00:00Z",
  ...more,
});
const empty = { answers: 0, read: [], smallest: [], alarms: null, shares: [], weeks: [], agreement: [] };
const base = { "GET /api/disciplines": [], "GET /api/eye/profile": empty };
const nothing = { items: [], ready: 0, making: false };

it("says that riders are being made, and what the profile will hold", async () => {
  answering({ ...base, "GET /api/eye/next": { ...nothing, making: true } });
  show(<EyePage />);
  expect(await screen.findByText(/first riders are being simulated/)).toBeTruthy();
  expect(await screen.findByText(/will stand here after a few sessions/)).toBeTruthy();
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Begin" }).disabled).toBe(true);
});

it("asks, tells the truth at once, goes on by Enter and sums up", async () => {
  let asked = 0;
  const calls = answering({
    ...base,
    "GET /api/eye/next": () => (asked++ ? nothing : { items: [item(1), item(2)], ready: 2, making: false }),
    "POST /api/eye/items/{item}/answer": (body: { given: { answer: string } }) =>
      scored({ right: body.given.answer === "banking" }),
  });
  show(<EyePage />);
  await screen.findByText(/2 looks are ready/);
  fireEvent.click(screen.getByRole("button", { name: "Begin" }));
  fireEvent.keyDown(window, { key: "1" });
  expect(await screen.findByText("Right.")).toBeTruthy();
  expect(screen.getByText(/1.3 scales/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Next" }));
  fireEvent.click(await screen.findByRole("button", { name: /Nothing/ }));
  expect(await screen.findByText("Not so.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Next" }));
  expect(await screen.findByRole("heading", { name: "1 of 2 right" })).toBeTruthy();
  const given = calls.filter((c) => c.call.startsWith("POST")).map((c) => (c.body as { given: object }).given);
  expect(given).toEqual([{ answer: "banking" }, { answer: "" }]);
});

it("keeps the question where an answer is refused", async () => {
  answering({
    ...base,
    "GET /api/eye/next": { items: [item(1)], ready: 1, making: false },
    "POST /api/eye/items/{item}/answer": new Refused("The server cannot be reached."),
  });
  show(<EyePage />);
  await screen.findByText(/1 looks? are ready/);
  fireEvent.click(screen.getByRole("button", { name: "Begin" }));
  fireEvent.keyDown(window, { key: "2" });
  expect((await screen.findByRole("alert")).textContent).toContain("cannot be reached");
  expect(screen.getByText("What is wrong here?")).toBeTruthy();
});

it("takes a chain in the order it is pressed, one back where it was wrong", async () => {
  const chain = item(1, {
    exercise: "cause",
    options: ["a", "b", "c"].map((id) => ({ id, title: id.toUpperCase() })),
  });
  const calls = answering({
    ...base,
    "GET /api/eye/next": { items: [chain], ready: 1, making: false },
    "POST /api/eye/items/{item}/answer": scored({ order: ["c", "a", "b"], answer: null }),
  });
  show(<EyePage />);
  await screen.findByText(/ready/);
  fireEvent.click(screen.getByRole("button", { name: "Begin" }));
  for (const key of ["1", "Backspace", "3", "1", "2"]) fireEvent.keyDown(window, { key });
  await screen.findByText("Right.");
  expect(calls.find((c) => c.call.startsWith("POST"))?.body).toMatchObject({ given: { order: ["c", "a", "b"] } });
});

it("moves a point of a line by arrows and gives it by Enter", async () => {
  const given = vi.fn();
  show(<Line item={item(1, { exercise: "angle", points: 2 })} scored={null} busy={false} onGive={given} />);
  const point = screen.getByRole("button", { name: /Point 2 of 2/ });
  fireEvent.keyDown(point, { key: "ArrowRight", shiftKey: true });
  fireEvent.keyDown(point, { key: "ArrowUp" });
  fireEvent.keyDown(point, { key: "Enter" });
  await waitFor(() => expect(given).toHaveBeenCalled());
  const [, second] = (given.mock.calls[0]![0] as { line: number[][] }).line;
  expect(second![0]).toBeCloseTo(0.53);
  expect(second![1]).toBeCloseTo(0.345);
});

it("shows every figure of the profile with its interval", async () => {
  const interval = { value: 2.1, low: 1.0, high: 3.1 };
  answering({
    ...base,
    "GET /api/eye/next": nothing,
    "GET /api/eye/profile": {
      answers: 60,
      read: [
        { id: "trunk_lean", title: "Trunk lean", unit: "°", n: 30, bias: interval, spread: { ...interval, value: 3 } },
      ],
      smallest: [
        {
          exercise: "fault",
          discipline: "alpine_carve",
          title: "Turns on piste",
          view: "front",
          size: 0.9,
          low: 0.7,
          high: 1.2,
          n: 40,
        },
      ],
      alarms: {
        d_prime: interval,
        criterion: { value: -0.4, low: -0.7, high: -0.1 },
        alarms: { value: 0.2, low: 0.1, high: 0.37 },
        n: 117,
        clean: 30,
      },
      shares: [{ exercise: "fault", right: 30, n: 40, low: 0.6, high: 0.86 }],
      weeks: [{ start: 0, right: 30, n: 40 }],
      agreement: [
        { with: "Corin", kind: "kappa", value: 0.54, low: 0.42, high: 0.66, items: 78, coaches: 2, says: "fair" },
        { with: "all coaches", kind: "kappa", value: 0.5, low: null, high: null, items: 39, coaches: 3, says: "fair" },
      ],
    },
  });
  show(<EyePage />);
  expect(await screen.findByText("(+1.0 to +3.1)")).toBeTruthy();
  expect(screen.getByText(/0.70 to 1.20/)).toBeTruthy();
  expect(screen.getByText(/quick to say that something is wrong/)).toBeTruthy();
  expect(screen.getByText(/0.42 to 0.66/)).toBeTruthy();
  expect(screen.getByText(/no interval/)).toBeTruthy();
});
