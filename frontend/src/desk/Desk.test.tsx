// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, expect, it, vi } from "vitest";

import { answering, Refused, show } from "../testing";
import { Desk } from "./Desk";

const went = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  Link: ({ children, to, params, ...rest }: { children: ReactNode; to: string; params?: { run: number } }) => (
    <a href={to.replace("$run", String(params?.run))} {...rest}>
      {children}
    </a>
  ),
}));
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const run = (id: number, more: object = {}) => ({
  id,
  rider: { id, name: `Rider ${id}`, number: id, colours: "blue jacket" },
  title: "Turns on piste",
  level: "intermediate",
  intention_text: "",
  state: "ready",
  approved: false,
  main_title: "Leaning in",
  outline: [0, 80, 0, -80, 0],
  problem: "",
  step: "",
  progress: null,
  seconds_left: null,
  clip: { frames: 300 },
  ...more,
});
const desk = (...rows: object[]) => ({
  "GET /api/runs/busy": rows.filter((r) => ["queued", "working"].includes((r as { state: string }).state)),
  "GET /api/runs": { results: rows, count: rows.length },
  "GET /api/session-films": { results: [], count: 0 },
  "GET /api/disciplines": [],
  "GET /api/riders": { results: [] },
});

it("puts what waits for the coach before what is approved", async () => {
  answering(desk(run(1, { approved: true }), run(2)));
  show(<Desk />);
  const waiting = (await screen.findByRole("heading", { name: "Waiting for you" })).closest("section")!;
  const approved = screen.getByRole("heading", { name: "Approved" }).closest("section")!;
  expect(within(waiting).getByText("Rider 2")).toBeTruthy();
  expect(within(approved).getByText("Rider 1")).toBeTruthy();
  expect(waiting.compareDocumentPosition(approved) & Node.DOCUMENT_POSITION_FOLLOWING).toBeTruthy();
});

it("says how to begin where there is nothing yet", async () => {
  answering(desk());
  show(<Desk />);
  expect(await screen.findByText(/Nothing waits here/)).toBeTruthy();
  expect(screen.queryByRole("heading", { name: "Approved" })).toBeNull();
});

it("names the main thing of a run that is ready, and leads to its Bench", async () => {
  answering(desk(run(7), run(8, { main_title: "", rider: { id: 8, name: "Wren", number: null, colours: "" } })));
  show(<Desk />);
  expect(await screen.findByText("Leaning in")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Open Rider 7's run on the Bench" }).getAttribute("href")).toBe("/runs/7");
  expect(screen.getByText("Nothing to put right")).toBeTruthy();
  expect(screen.getByLabelText("no number").textContent).toBe("–");
});

it.each([
  [40, "about 40 s left"],
  [3, "about 5 s left"],
  [600, "about 10 min left"],
])("tells how far long work is and about how long it still takes (%s s)", async (left, words) => {
  answering(desk(run(3, { state: "working", step: "Following the rider", progress: 0.4, seconds_left: left })));
  show(<Desk />);
  expect((await screen.findByText(/Following the rider/)).textContent).toContain(words);
  expect(screen.getByRole("progressbar").getAttribute("aria-label")).toBe("Analysis of Rider 3's run");
});

it("says that a run waits in the queue, and cancels it", async () => {
  const calls = answering({ ...desk(run(3, { state: "queued" })), "POST /api/runs/{id}/cancel": {} });
  show(<Desk />);
  expect(await screen.findByText(/In the queue/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  await waitFor(() => expect(calls.filter((c) => c.call === "GET /api/runs").length).toBeGreaterThan(1));
  expect(calls.find((c) => c.call === "POST /api/runs/{id}/cancel")?.params).toEqual({ path: { id: 3 } });
});

it("tells why a run failed, and offers what mends it", async () => {
  const calls = answering({
    ...desk(run(4, { state: "failed", problem: "run.mp4: the pictures end in the middle; send it again." })),
    "POST /api/runs/{id}/retry": {},
  });
  show(<Desk />);
  expect(await screen.findByText(/end in the middle/)).toBeTruthy();
  expect(screen.getByRole("button", { name: "Hand in tracks" })).toBeTruthy();
  expect(screen.getByRole("button", { name: "Send another clip" })).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  await waitFor(() => expect(calls.map((c) => c.call)).toContain("POST /api/runs/{id}/retry"));
});

it("asks for the clip of a run that has none, and offers no tracks before it", async () => {
  answering(desk(run(5, { state: "new", clip: null })));
  show(<Desk />);
  const add = await screen.findByRole("button", { name: "Add the clip" });
  expect(screen.queryByRole("button", { name: "Try again" })).toBeNull();
  expect(screen.queryByRole("button", { name: "Hand in tracks" })).toBeNull();
  fireEvent.click(add);
  const dialog = await screen.findByRole("dialog", { name: "The clip of Rider 5's run" });
  expect(within(dialog).getByRole("button", { name: "Send" }).hasAttribute("disabled")).toBe(true);
  expect(within(dialog).getByLabelText("Clip").getAttribute("accept")).toContain(".mkv");
});

it("keeps a cancelled run's clip and says so", async () => {
  answering(desk(run(6, { state: "cancelled" })));
  show(<Desk />);
  expect(await screen.findByText("Cancelled; the clip is kept.")).toBeTruthy();
});

it("turns the pages of a long list", async () => {
  const calls = answering({ ...desk(), "GET /api/runs": { results: [run(1)], count: 120 } });
  show(<Desk />);
  expect(await screen.findByText("1–50 of 120")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Sooner" }).hasAttribute("disabled")).toBe(true);
  fireEvent.click(screen.getByRole("button", { name: "Later" }));
  expect(await screen.findByText("51–100 of 120")).toBeTruthy();
  expect(calls.findLast((c) => c.call === "GET /api/runs")?.params).toEqual({
    query: { order: "due", offset: 50, limit: 50 },
  });
  fireEvent.click(screen.getByRole("button", { name: "Later" }));
  expect(await screen.findByText("101–120 of 120")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Later" }).hasAttribute("disabled")).toBe(true);
});

it("says what is wrong when the server refuses, and asks again on request", async () => {
  let broken = true;
  answering({
    ...desk(),
    "GET /api/runs": () => (broken ? new Refused("The database rests.", 503) : { results: [run(1)], count: 1 }),
  });
  show(<Desk />);
  expect(await screen.findByText(/The database rests/)).toBeTruthy();
  broken = false;
  fireEvent.click(screen.getByRole("button"));
  expect(await screen.findByText("Rider 1")).toBeTruthy();
});

it("removes a run and brings it back, and shows what was removed", async () => {
  const gone: number[] = [];
  const calls = answering({
    ...desk(run(1), run(2)),
    "GET /api/runs": (_: unknown, params: { query: { removed?: boolean } }) => {
      const rows = [run(1), run(2)].filter((r) => gone.includes(r.id) === !!params.query.removed);
      return { results: rows, count: rows.length };
    },
    "DELETE /api/runs/{id}": (_: unknown, params: { path: { id: number } }) => void gone.push(params.path.id),
    "POST /api/runs/{id}/restore": () => gone.splice(0),
  });
  show(<Desk />);
  const more = await screen.findByRole("button", { name: "More for Rider 2’s run" });
  fireEvent.keyDown(more, { key: "Enter" });
  fireEvent.click(await screen.findByRole("menuitem", { name: "Remove" }));
  expect((await screen.findByRole("status")).textContent).toContain(
    "Rider 2’s run was removed. It is kept for 30 days.",
  );
  await waitFor(() => expect(screen.queryByText("Rider 2")).toBeNull());
  fireEvent.click(screen.getByRole("button", { name: "Removed" }));
  expect(await screen.findByText("Rider 2")).toBeTruthy();
  fireEvent.click(screen.getAllByRole("button", { name: "Bring it back" }).at(-1)!);
  await waitFor(() => expect(calls.some((c) => c.call === "POST /api/runs/{id}/restore")).toBe(true));
  expect(await screen.findByText("Nothing was removed in the last 30 days.")).toBeTruthy();
});

it("finds by words and by discipline over all pages, and says when nothing matches", async () => {
  const calls = answering({
    ...desk(),
    "GET /api/disciplines": [{ id: "snowboard", title: "Snowboard", from_tracks: true }],
  });
  show(<Desk />);
  fireEvent.change(await screen.findByLabelText("Find a run"), { target: { value: "wren" } });
  expect(await screen.findByText("No run matches.")).toBeTruthy();
  await screen.findByRole("option", { name: "Snowboard" });
  fireEvent.change(screen.getByLabelText("Discipline"), { target: { value: "snowboard" } });
  await waitFor(() =>
    expect(calls.filter((c) => c.call === "GET /api/runs").at(-1)?.params).toMatchObject({
      query: { find: "wren", discipline: "snowboard", offset: 0 },
    }),
  );
});

it("follows the progress of what is analysed without asking for the whole list again, until it is done", async () => {
  let state = "working";
  let progress = 0.3;
  const calls = answering({
    ...desk(),
    "GET /api/runs": () => ({ results: [run(1, { state, progress: 0.1, step: "Following the rider" })], count: 1 }),
    "GET /api/runs/busy": () =>
      state === "working" ? [{ id: 1, state, step: "Following the rider", progress, seconds_left: 20 }] : [],
  });
  show(<Desk />);
  await waitFor(() => expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("30"));
  progress = 0.6;
  await waitFor(() => expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("60"));
  expect(calls.filter((c) => c.call === "GET /api/runs")).toHaveLength(1);
  state = "ready";
  expect(await screen.findByText("Leaning in")).toBeTruthy();
});

it("opens the Bench by eye while a rider is followed, and where nobody can be", async () => {
  const calls = answering({
    ...desk(
      run(1, { state: "working", progress: 0.4, clip: { frames: 300, playable: true } }),
      run(2, { state: "failed", problem: "nobody can be followed", clip: { frames: 300, playable: true } }),
      run(3, { state: "working", progress: 0.1, clip: { frames: 300, playable: false } }),
    ),
    "POST /api/runs/{id}/by_eye": {},
  });
  show(<Desk />);
  fireEvent.click(await screen.findByRole("button", { name: "Judge Rider 1’s run by eye" }));
  await waitFor(() => expect(went).toHaveBeenCalledWith({ to: "/runs/$run", params: { run: 1 } }));
  expect(calls.some((c) => c.call === "POST /api/runs/{id}/by_eye")).toBe(true);
  expect(screen.getByRole("button", { name: "Judge Rider 2’s run by eye" })).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Judge Rider 3’s run by eye" })).toBeNull();
});

const PLAN = {
  counts: { judge: 2 },
  minutes: { alpine_carve: { each: 7, low: 5, high: 9, n: 6 }, snowboard_carve: { each: 12, low: 6, high: 24, n: 0 } },
  waiting: 3,
  needed_min: 75,
  needed_low_min: 40,
  needed_high_min: 130,
  week: [60, 60, 60, 60, 60, 0, 0],
  week_said: false,
  done_on: "2026-12-04",
  next_on: "2026-12-07",
  late: [{ run: 4, rider: "Wren", due: "2026-12-02", on: "2026-12-04" }],
  late_count: 1,
};

it("says how long what waits takes, what will be late, and how that is known", async () => {
  const calls = answering({
    ...desk(run(1)),
    "GET /api/desk": PLAN,
    "PUT /api/desk/week": { ...PLAN, week_said: true, late: [], late_count: 0 },
  });
  show(<Desk />);
  const time = await screen.findByRole("region", { name: "Time" });
  expect(time.textContent).toMatch(/3 wait: about 1 h 15 min \(40 min to 2 h 10 min\), answered by Friday,? .*4/);
  expect(time.textContent).toContain("1 will be later than its day");
  fireEvent.click(screen.getByRole("button", { name: "Minutes" }));
  const dialog = await screen.findByRole("dialog", { name: "Minutes" });
  expect(dialog.textContent).toContain("from 6 of yours");
  expect(dialog.textContent).toContain("(assumed, 6 to 24: fewer than 4 of your answers are known)");
  expect(dialog.textContent).toMatch(/promise no earlier day/);
  fireEvent.change(within(dialog).getByLabelText("Saturday"), { target: { value: "180,5" } });
  fireEvent.click(within(dialog).getByRole("button", { name: "Keep" }));
  await waitFor(() => expect(calls.some((c) => c.call === "PUT /api/desk/week")).toBe(true));
  expect(calls.find((c) => c.call === "PUT /api/desk/week")!.body).toEqual({
    minutes: [60, 60, 60, 60, 60, 180.5, 0],
  });
});

it("sets the day of several, removes them and brings them back", async () => {
  const calls = answering({
    ...desk(run(1), run(2)),
    "POST /api/desk/many": (b: { runs: number[] }) => ({ runs: b.runs }),
  });
  show(<Desk />);
  fireEvent.click(await screen.findByLabelText("Choose Rider 1’s run"));
  fireEvent.click(screen.getByLabelText("Choose Rider 2’s run"));
  const bar = screen.getByRole("region", { name: "Chosen runs" });
  fireEvent.change(within(bar).getByLabelText("Due on"), { target: { value: "2030-01-02" } });
  fireEvent.click(within(bar).getByRole("button", { name: "Set" }));
  await waitFor(() => expect(screen.queryByRole("region", { name: "Chosen runs" })).toBeNull());
  fireEvent.click(screen.getByLabelText("Choose Rider 1’s run"));
  fireEvent.click(screen.getByRole("button", { name: "Remove" }));
  fireEvent.click(await screen.findByRole("button", { name: "Bring them back" }));
  await waitFor(() => expect(calls.filter((c) => c.call === "POST /api/desk/many")).toHaveLength(3));
  expect(calls.filter((c) => c.call === "POST /api/desk/many").map((c) => c.body)).toEqual([
    { runs: [1, 2], due: "2030-01-02" },
    { runs: [1], removed: true },
    { runs: [1], removed: false },
  ]);
});

it("draws who is answered, and shows the seed and what the chances came from", async () => {
  const made = {
    id: 3,
    made: "2026-12-01T10:00:00Z",
    by: "Ottilie",
    seed: "4f2a",
    places: 1,
    entries: [
      { rider: 1, name: "Wren", run: 1, missed: 2, last: false, drawn: 1 },
      { rider: 2, name: "Bram", run: 2, missed: 0, last: true, drawn: null },
    ],
  };
  const known: object[] = [];
  const calls = answering({
    ...desk(run(1)),
    "GET /api/desk": PLAN,
    "GET /api/draws": () => [...known],
    "POST /api/draws": () => (known.unshift(made), made),
  });
  show(<Desk />);
  fireEvent.click(await screen.findByRole("button", { name: "Draw" }));
  const dialog = await screen.findByRole("dialog", { name: "Draw who is answered" });
  expect(await within(dialog).findByText("Nobody has been drawn yet.")).toBeTruthy();
  fireEvent.change(within(dialog).getByLabelText("Places"), { target: { value: "1" } });
  fireEvent.click(within(dialog).getByRole("button", { name: "Draw" }));
  expect(await within(dialog).findByText("4f2a")).toBeTruthy();
  expect(within(dialog).getByText("2 draws missed")).toBeTruthy();
  expect(within(dialog).getByText("drawn the last time")).toBeTruthy();
  expect(calls.find((c) => c.call === "POST /api/draws")!.body).toEqual({ places: 1 });
});

it("narrows by where runs stand, and asks the lists again only when something came", async () => {
  let version = "1";
  const calls = answering({
    ...desk(run(1, { stands: "judge", due: "2001-01-01" })),
    "GET /api/desk": PLAN,
    "GET /api/desk/news": () => ({ version }),
  });
  vi.useFakeTimers({ shouldAdvanceTime: true });
  show(<Desk />);
  expect(await screen.findByText(/Was due/)).toBeTruthy();
  expect(screen.getByText("Ready to judge")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Where it stands"), { target: { value: "judge" } });
  await waitFor(() =>
    expect(calls.findLast((c) => c.call === "GET /api/runs")!.params).toMatchObject({
      query: { stands: "judge", order: "due" },
    }),
  );
  const asked = () => calls.filter((c) => c.call === "GET /api/runs").length;
  const before = asked();
  await vi.advanceTimersByTimeAsync(31_000);
  expect(asked()).toBe(before);
  version = "2";
  await vi.advanceTimersByTimeAsync(16_000);
  await waitFor(() => expect(asked()).toBe(before + 1));
  vi.useRealTimers();
});

it("takes clips that are dropped on the page, and says where that was no film", async () => {
  answering({
    ...desk(),
    "GET /api/runs": { results: [run(1)], count: 1 },
    "POST /api/riders/named": [],
  });
  show(<Desk />);
  await screen.findByRole("heading", { name: "Desk" });
  const drag = (type: string, files: File[]) =>
    fireEvent(window, Object.assign(new Event(type, { bubbles: true, cancelable: true }), { dataTransfer: { types: ["Files"], files } })); // prettier-ignore
  drag("dragover", []);
  expect(await screen.findByText("Drop clips here: each makes a run")).toBeTruthy();
  drag("drop", [new File(["x"], "letter.txt", { type: "text/plain" })]);
  expect((await screen.findByRole("alert")).textContent).toContain("That was no film");
  drag("drop", [new File(["x"], "a.mp4", { type: "video/mp4" }), new File(["x"], "b.MOV")]);
  expect(await screen.findByRole("heading", { name: "2 new runs" })).toBeTruthy();
  expect(screen.getByLabelText("Rider of b.MOV")).toBeTruthy();
  expect(screen.queryByText(/That was no film/)).toBeNull();
});
