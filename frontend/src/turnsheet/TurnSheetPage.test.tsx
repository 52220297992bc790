// @vitest-environment jsdom
import { cleanup, fireEvent, screen, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, show } from "../testing";
import type { TurnSheet } from "./order";
import { TurnSheetPage } from "./TurnSheetPage";

const went = vi.fn();
let asked: object = {};
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useSearch: () => asked,
  useParams: () => ({ run: 9 }),
  Link: ({ children, search, ...rest }: { children: ReactNode; search?: { at?: number } }) => (
    <a href="/" data-at={search?.at} {...rest}>
      {children}
    </a>
  ),
}));
beforeEach(() => {
  went.mockReset();
  asked = {};
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const read = (value: number, band: "inside" | "outside" | "unsure" | null = "inside", stands_out = false) => ({
  value,
  u: 1,
  words: String(value),
  pm: "2",
  says: `${value} ± 2°`,
  band,
  stands_out,
});
const row = (n: number, side: string, value: number | null, more: Partial<ReturnType<typeof read>> = {}) => ({
  n,
  side,
  finest_side: null,
  start: n,
  end: n + 1,
  cells: [{ phase: "belly", frame: 30 * n, t: n + 0.5, read: value === null ? null : { ...read(value), ...more } }],
});
const SHEET: TurnSheet = {
  unit: "turn",
  unit_plural: "turns",
  phases: ["belly"],
  key: "lean|",
  title: "Lean",
  symbol: "°",
  rows: [
    row(1, "left", 10),
    row(2, "right", 30, { band: "outside" }),
    row(3, "left", null),
    row(4, "right", 20, { stands_out: true }),
  ],
  columns: [],
  may_show: [
    { key: "lean|", title: "Lean" },
    { key: "knee_flex|outside", title: "Knee flexion, outside" },
  ],
  may_add: [{ key: "turn_time||", title: "Time of a turn" }],
};
const picture = (url: string | null) => ({
  url,
  problem: "",
  line: [
    [0.1, 0.2],
    [0.3, 0.9],
  ],
});
const answers = (more: object = {}) => ({
  "GET /api/runs/{id}/bench": benchOf({}),
  "GET /api/runs/{run}/turn-sheet": {
    sheet: SHEET,
    pictures: [picture("/a"), picture("/b"), picture(null), picture("/d")],
    waiting: 1,
    ...more,
  },
});
const order = () => screen.getAllByRole("rowheader").map((h) => h.textContent);

it("shows each unit with its numbers, what is not as wanted and what stands out, and leads to the frame", async () => {
  answering(answers());
  show(<TurnSheetPage />);
  expect(await screen.findByText("3 of 4 pictures are made")).toBeTruthy();
  const cell = screen.getByRole("link", { name: /turn 2, belly: 30 ± 2°, frame 60/ });
  expect(cell.dataset.at).toBe("2.5");
  expect(within(cell).getByText(/not as wanted/)).toBeTruthy();
  expect(within(screen.getByRole("link", { name: /turn 4/ })).getByText("stands out")).toBeTruthy();
  expect(within(screen.getByRole("link", { name: /turn 3/ })).getByText("not read")).toBeTruthy();
});

it("sorts by a column, a unit without the number last, and lays the sides together", async () => {
  answering(answers());
  show(<TurnSheetPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Belly" }));
  expect(order()).toEqual(["2right", "4right", "1left", "3left"]);
  fireEvent.click(screen.getByRole("button", { name: "Belly" }));
  expect(order()).toEqual(["1left", "4right", "2right", "3left"]);
  fireEvent.click(screen.getByRole("button", { name: "Belly" }));
  fireEvent.change(screen.getByLabelText("How the rows lie"), { target: { value: "sides" } });
  expect(order()).toEqual(["1left", "3left", "2right", "4right"]);
  fireEvent.change(screen.getByLabelText("How the rows lie"), { target: { value: "stacked" } });
  expect(order()).toEqual(["1left", "2right", "3left", "4right"]);
});

it("goes from cell to cell by arrows, and asks for another measure and for columns by the address", async () => {
  answering(answers({ waiting: 0 }));
  show(<TurnSheetPage />);
  const first = await screen.findByRole("link", { name: /turn 1/ });
  first.focus();
  fireEvent.keyDown(first, { key: "ArrowDown" });
  expect(document.activeElement?.getAttribute("aria-label")).toMatch(/turn 2/);
  fireEvent.change(screen.getByLabelText("What the cells show"), { target: { value: "knee_flex|outside" } });
  expect(went.mock.calls[0]![0]).toMatchObject({ search: { show: "knee_flex|outside" } });
  fireEvent.change(screen.getByLabelText("Add a column"), { target: { value: "turn_time||" } });
  expect(went.mock.calls[1]![0]).toMatchObject({ search: { columns: ["turn_time||"] } });
  expect(screen.getByRole("link", { name: "Table (CSV)" }).getAttribute("href")).toContain("show=lean%7C");
});
