// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { ReckonerPage } from "./ReckonerPage";
import type { Calculator } from "./types";

let search: { calc?: string; run?: number } = {};
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => search,
  Link: ({ children, search: s, ...rest }: { children: ReactNode; search?: { calc?: string } }) => (
    <a href={`/?calc=${s?.calc}`} {...rest}>
      {children}
    </a>
  ),
}));
beforeEach(() => {
  search = {};
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const field = (key: string, more: object = {}) => ({
  key,
  title: key,
  unit: "s",
  takes: "number" as const,
  choices: [],
  answer: false,
  default: null,
  ...more,
});
const flight: Calculator = {
  id: "flight",
  title: "Flight",
  doc: "Time and height.",
  formula: "h = g·t²/8",
  source: "free fall",
  example: { air_time: "0.86 s" },
  story: "A jump.",
  disciplines: ["figure_jump"],
  fields: [field("air_time", { answer: true, title: "Time in the air" }), field("height", { unit: "m", answer: true })],
};
const rope: Calculator = { ...flight, id: "rope", title: "Rope", disciplines: [], example: {} };
const answer = (words: string) => ({
  rows: [
    { key: "air_time", words: "0.86", pm: "", unit: "s", given: true, assumed: false },
    { key: "height", words, pm: "0.04", unit: "m", given: false, assumed: false },
  ],
  says: [`a rise of ${words} m`],
  cautions: ["mind the landing"],
  plot: null,
  lacking: "",
});
const base = {
  "GET /api/reckoner": [flight, rope],
  "GET /api/riders": { count: 1, results: [{ id: 4, name: "Hazel" }] },
  "GET /api/reckonings": { count: 0, results: [] },
};

it("opens with its worked example, and what is typed asks again", async () => {
  const calls = answering({
    ...base,
    "POST /api/reckoner/{name}": (body: { said: Record<string, string> }) =>
      answer(body.said.air_time === "0.86 s" ? "0.91" : "1.23"),
  });
  show(<ReckonerPage />);
  expect(await screen.findByText("a rise of 0.91 m")).toBeTruthy();
  expect(screen.getByText("mind the landing")).toBeTruthy();
  expect(screen.getByText(/= 0.91 ± 0.04 m/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText(/^Time in the air/), { target: { value: "1 s" } });
  expect(await screen.findByText("a rise of 1.23 m")).toBeTruthy();
  expect(calls.at(-1)?.body).toEqual({ said: { air_time: "1 s" }, unknown: "" });
});

it("asks for the field that is chosen as the unknown", async () => {
  const calls = answering({ ...base, "POST /api/reckoner/{name}": () => answer("0.91") });
  show(<ReckonerPage />);
  await screen.findByText("a rise of 0.91 m");
  fireEvent.change(screen.getByLabelText(/^height/), { target: { value: "2 m" } });
  fireEvent.click(screen.getByRole("button", { name: "Ask for time in the air" }));
  await waitFor(() => expect(calls.at(-1)?.body).toEqual({ said: { height: "2 m" }, unknown: "air_time" }));
});

it("shows what is wrong in place of an answer, and nothing before anything is typed", async () => {
  answering({ ...base, "POST /api/reckoner/{name}": () => new Refused("air_time: that cannot be.") });
  show(<ReckonerPage />);
  expect((await screen.findByRole("alert")).textContent).toBe("“Time in the air”: that cannot be.");
  expect(screen.queryByText(/a rise of/)).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Clear" }));
  expect(await screen.findByText(/Type what you know/)).toBeTruthy();
});

it("keeps an answer with a rider and lets it go and back", async () => {
  const kept: object[] = [];
  const calls = answering({
    ...base,
    "POST /api/reckoner/{name}": () => answer("0.91"),
    "GET /api/reckonings": () => ({ count: kept.length, results: [...kept] }),
    "POST /api/reckonings": (body: object) => {
      kept.push({
        id: 1,
        title: "Flight",
        kept: "2026-12-01T10:00:00Z",
        unknown: "",
        reckoning: { says: "it was" },
        ...body,
      });
      return kept[0];
    },
    "DELETE /api/reckonings/{id}": () => kept.pop() && undefined,
  });
  show(<ReckonerPage />);
  await screen.findByText("a rise of 0.91 m");
  fireEvent.change(screen.getByLabelText("Rider to keep it with"), { target: { value: "4" } });
  fireEvent.click(await screen.findByRole("button", { name: "Keep with this rider" }));
  expect(await screen.findByText("it was")).toBeTruthy();
  expect(calls.find((c) => c.call === "POST /api/reckonings")?.body).toMatchObject({ rider: 4, name: "flight" });
  fireEvent.click(screen.getByRole("button", { name: "Let go" }));
  fireEvent.click(await screen.findByRole("button", { name: "Undo" }));
  expect(await screen.findByText("it was")).toBeTruthy();
});

it("opens for a run's discipline and takes its readings, of what may be asked for only one", async () => {
  search = { run: 9 };
  const calls = answering({
    ...base,
    "GET /api/reckoner": [rope, flight],
    "GET /api/runs/{id}/bench": { run: { discipline: "figure_jump", rider: { name: "Hazel" } } },
    "GET /api/reckoner/{name}/from/{run}": {
      rider: "Hazel",
      title: "",
      discipline: "figure_jump",
      offered: {
        air_time: [{ text: "0.55 ± 0.02 s", says: "air time", sure: true }],
        height: [{ text: "0.4 m", says: "height", sure: true }],
      },
    },
    "POST /api/reckoner/{name}": () => answer("0.37"),
  });
  show(<ReckonerPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Take from this run" }));
  await screen.findByText("a rise of 0.37 m");
  expect(calls.find((c) => c.call === "POST /api/reckoner/{name}")?.body).toEqual({
    said: { air_time: "0.55 ± 0.02 s" },
    unknown: "",
  });
});

it("takes nothing by itself that hangs on an unsure clock, and says what cannot be told", async () => {
  search = { run: 9 };
  answering({
    ...base,
    "GET /api/runs/{id}/bench": { run: { discipline: "figure_jump", rider: { name: "Hazel" } } },
    "GET /api/reckoner/{name}/from/{run}": {
      rider: "Hazel",
      title: "",
      discipline: "figure_jump",
      offered: { air_time: [{ text: "0.55 ± 0.02 s", says: "only the file vouches for its clock", sure: false }] },
    },
    "POST /api/reckoner/{name}": () => answer("0.37"),
  });
  show(<ReckonerPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Take from this run" }));
  expect(screen.getByLabelText<HTMLInputElement>(/^Time in the air,/).value).toBe("");
  expect(screen.getAllByText(/vouches for its clock/).length).toBeGreaterThan(0);
});

it("shows no answer as that of what is typed while that is on its way", async () => {
  let let_go = () => {};
  answering({
    ...base,
    "POST /api/reckoner/{name}": (body: { said: Record<string, string> }) =>
      body.said.air_time === "0.86 s"
        ? answer("0.91")
        : new Promise((done) => {
            let_go = () => done(answer("1.23"));
          }),
  });
  show(<ReckonerPage />);
  await screen.findByText("a rise of 0.91 m");
  fireEvent.change(screen.getByLabelText(/^Time in the air,/), { target: { value: "1 s" } });
  await waitFor(() => expect(screen.getByRole("region", { name: "Answer" }).getAttribute("aria-busy")).toBe("true"));
  expect(screen.getByText(/= 0.91 ± 0.04 m/).getAttribute("aria-busy")).toBe("true");
  let_go();
  await screen.findByText("a rise of 1.23 m");
  expect(screen.getByRole("region", { name: "Answer" }).getAttribute("aria-busy")).toBe("false");
});
