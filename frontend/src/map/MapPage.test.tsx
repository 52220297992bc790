// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { benchOf, unitOf } from "../fixtures";
import { answering, show } from "../testing";
import { MapPage } from "./MapPage";
import { framed, softEdge, type RunMap } from "./scale";

const went = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useParams: () => ({ run: 9 }),
  Link: ({ children, search, ...rest }: { children: ReactNode; search?: { at?: number } }) => (
    <a href="/" data-at={search?.at} {...rest}>
      {children}
    </a>
  ),
}));
beforeEach(() => went.mockReset());
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const axis = (lo: number, hi: number) => ({ title: "across", unit: "m", lo, hi, ticks: [], words: [] });
const mapOf = (more: Partial<RunMap> = {}): RunMap => ({
  title: "Line through the gates",
  x: axis(0, 10),
  y: axis(0, 5),
  equal: true,
  scale_bar: 2,
  scale_words: "2 m",
  areas: [],
  lines: [
    {
      unit: 1,
      side: "left",
      kind: "path",
      at: [
        [0, 0],
        [10, 0],
      ],
      u: [
        [1, 0.5],
        [1, 0.5],
      ],
      width: [],
      t: [1, 2],
      words: "turn 1",
    },
  ],
  marks: [{ unit: 1, side: "left", kind: "costs", at: [5, 1], u: [0, 0], t: 1.5, words: "1.42 ± 0.02 s" }],
  says: ["Seen square to the slope."],
  lacking: "",
  ...more,
});
const answers = (map: RunMap) => ({
  "GET /api/runs/{id}/bench": benchOf({ units: [unitOf(1, 1, "left")] }),
  "GET /api/runs/{run}/map": { map },
});

it("draws to scale: a step is as long along x as along y, and what is long lies along the page", () => {
  const flat = framed(mapOf());
  expect(flat.laid).toBe(false);
  expect(flat.size([1, 0])[0]).toBeCloseTo(flat.size([0, 1])[1]);
  expect(flat.at([0, 0])[1]).toBeGreaterThan(flat.at([0, 5])[1]);
  const long = framed(mapOf({ y: axis(-50, 0) }));
  expect(long.laid).toBe(true);
  // Down the slope is to the right.
  expect(long.at([0, -50])[0]).toBeGreaterThan(long.at([0, 0])[0]);
  expect(framed(mapOf({ equal: false })).size([10, 0])[0]).toBeCloseTo(908);
});

it("makes the soft edge as wide as U square to the line", () => {
  const map = mapOf();
  const frame = framed(map);
  const corners = softEdge(map.lines[0]!, frame)
    .split(" ")
    .map((p) => p.split(",").map(Number));
  const half = frame.size([0, 0.5])[1];
  expect(corners).toHaveLength(4);
  expect(Math.abs(corners[0]![1]! - corners.at(-1)![1]!)).toBeCloseTo(2 * half, 0);
});

it("lists the units with what was measured, and a press on a line goes to its moment", async () => {
  answering(answers(mapOf()));
  const { container } = show(<MapPage />);
  const unit = await screen.findByRole("link", { name: /turn 1.*1.42 ± 0.02 s/ });
  expect(unit.dataset.at).toBe("1");
  fireEvent.focus(unit);
  fireEvent.click(container.querySelector("svg g.cursor-pointer polyline")!);
  expect(went.mock.calls[0]![0]).toMatchObject({ search: { at: expect.any(Number) as number } });
  expect(screen.getByText("2 m")).toBeTruthy();
});

it("says why there is none", async () => {
  answering(answers(mapOf({ lacking: "The trace shows from above.", lines: [], marks: [] })));
  show(<MapPage />);
  expect(await screen.findByText("The trace shows from above.")).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Print" })).toBeNull();
});
