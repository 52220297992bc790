// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";

import { answering, show } from "../testing";
import { BookPage } from "./BookPage";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children }: { children: React.ReactNode }) => <a href="/there">{children}</a>,
  useParams: () => ({ rider: 4 }),
  useSearch: () => ({}),
  useNavigate: () => vi.fn(),
}));

beforeAll(() => {
  vi.stubGlobal("ResizeObserver", class { observe() {} unobserve() {} disconnect() {} }); // prettier-ignore
});
afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.restoreAllMocks();
});

const point = (run: number, on: string, value: number) => ({
  run,
  on,
  value,
  pm: 0.02,
  units: 4,
  says: `${value} ± 0.02`,
});
const book = {
  rider: "Hazel",
  discipline: "alpine_carve",
  disciplines: [{ id: "alpine_carve", title: "Turns on piste", runs: 2 }],
  runs: [
    { run: 1, on: "2026-10-01", title: "", level: "novice", gear: ["bindings 2 cm back"], set_up: { notes: "bindings 2 cm back" }, felt: "" },
    { run: 2, on: "2026-10-15", title: "", level: "novice", gear: ["bindings 2 cm back"], set_up: {}, felt: "" },
  ],
  prescribed: [
    {
      run: 1, on: "2026-10-01", fault: "The hips stay outside", cue: "Close the drawer", outcome: "moved", seen_in: 2, film_again: "2026-10-15",
      drill: "Drawer", steps: 3, begin: 1, ticked: [{ step: "On the flat.", at: "2026-10-08T10:00:00Z" }],
      pictures: [{ url: "/p/0", caption: "The hip at turn 2", run: 1, t: 3.2 }],
      targets: [{ target: "Hip: at least 0.1", before: "0.02 ± 0.02", now: "0.14 ± 0.02", verdict: "in_band", says: "in the band now" }],
    },
  ],
  series: [
    { title: "Hip at the belly", unit: "leg", target: [0.1, null], sides: [{ side: "left", points: [point(1, "2026-10-01", 0.02), point(2, "2026-10-15", 0.14)] }] },
  ],
}; // prettier-ignore

it("shows what was given, what became of it, the numbers with their ±, gear and the club's cues", async () => {
  answering({
    "GET /api/riders/{rider}/book": book,
    "GET /api/cues": [
      { fault: "hip_out", title: "The hips stay outside", level: "novice", cue: "Close the drawer", given: 3, moved: 2, no_change: 1, worse: 0, cannot_tell: 0, not_yet: 0, says: "moved the number in 2 of 3 (95 % interval 21 to 94 %)" },
    ],
  }); // prettier-ignore
  show(<BookPage />);
  expect(await screen.findByText("in the band now")).toBeTruthy();
  expect(await screen.findByText("0.14 ± 0.02")).toBeTruthy();
  expect(screen.getAllByText(/bindings 2 cm back/)).toHaveLength(1);
  expect(await screen.findByText(/2 of 3 \(95 % interval 21 to 94 %\)/)).toBeTruthy();
});

it("shows what was ticked and the pictures, and keeps how gear felt", async () => {
  const calls = answering({
    "GET /api/riders/{rider}/book": book, "GET /api/cues": [], "PATCH /api/runs/{id}": {},
  }); // prettier-ignore
  show(<BookPage />);
  expect(await screen.findByText(/“Drawer”, from step 2: 1 of 3 steps ticked/)).toBeTruthy();
  expect(screen.getByText("On the flat.")).toBeTruthy();
  expect(screen.getByRole("img", { name: "The hip at turn 2" }).closest("a")).toBeTruthy();
  const felt = screen.getByLabelText("How it felt");
  fireEvent.change(felt, { target: { value: "quicker" } });
  fireEvent.blur(felt);
  await waitFor(() =>
    expect(calls.find((c) => c.call === "PATCH /api/runs/{id}")?.body).toMatchObject({
      gear: { notes: "bindings 2 cm back", felt: "quicker" },
    }),
  );
});

it("says what will stand in an empty Book", async () => {
  answering({
    "GET /api/riders/{rider}/book": { ...book, discipline: "", disciplines: [], runs: [], prescribed: [], series: [] },
  });
  show(<BookPage />);
  expect(await screen.findByText(/No run of Hazel is judged yet/)).toBeTruthy();
});
