// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { film as filmQuery } from "../api/queries";
import { useQuery } from "@tanstack/react-query";
import { answering, Refused, show } from "../testing";
import { Goes } from "./GoesPage";
import type { Film, Go, Row } from "./goes";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useParams: () => ({ film: 4 }),
  Link: ({ children, to, params, ...rest }: { children: ReactNode; to: string; params?: { run: number } }) => (
    <a href={to.replace("$run", String(params?.run))} {...rest}>
      {children}
    </a>
  ),
}));
beforeEach(() => {
  HTMLMediaElement.prototype.play = vi.fn(() => Promise.resolve());
  HTMLMediaElement.prototype.pause = vi.fn();
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const go = (id: number, from_s: number, to_s: number, who: number, more: Partial<Go> = {}): Go => ({
  id,
  from_s,
  to_s,
  who,
  rider: null,
  left_out: false,
  at_s: from_s,
  box: [10, 10, 60, 110],
  run: null,
  ...more,
});
const film = (goes: Go[], more: Partial<Film> = {}): Film => ({
  id: 4,
  film: 9,
  name: "hall.mp4",
  title: "",
  discipline: "alpine_carve",
  added: "2026-11-29T08:00:00Z",
  state: "ready",
  step: "",
  progress: 1,
  problem: "",
  length_s: 60,
  fps: 60,
  width: 1280,
  height: 720,
  goes_found: goes.length,
  goes_judged: 0,
  goes,
  version: 1,
  playable: true,
  ...more,
});
const riders = {
  results: [
    { id: 1, name: "Wren", number: 7 },
    { id: 2, name: "Bram", number: 23 },
  ],
  count: 2,
};

/** A server that keeps the table as it is sent. */
function server(start: Film, more: Record<string, unknown> = {}) {
  let now = start;
  const calls = answering({
    "GET /api/riders": riders,
    "GET /api/disciplines": [{ id: "alpine_carve", title: "Carving on piste" }],
    "GET /api/session-films/{id}": () => now,
    "PUT /api/session-films/{id}/goes": (body: { goes: Row[] }) => {
      const goes = body.goes.map((r, k) => ({ ...go(0, 0, 0, 1), ...r, id: r.id ?? 100 + k }));
      now = { ...now, version: now.version! + 1, goes: goes.sort((a, b) => a.from_s - b.from_s) };
      return now;
    },
    ...more,
  });
  return {
    calls,
    sent: () => calls.filter((c) => c.call.startsWith("PUT")).map((c) => (c.body as { goes: Row[] }).goes),
  };
}
function Page({ start }: { start: Film }) {
  const now = useQuery({ ...filmQuery(4), initialData: start, staleTime: Infinity }).data;
  return <Goes film={now} />;
}
const three = () => film([go(1, 0, 5, 1), go(2, 8, 14, 2), go(3, 20, 26, 1)]);
const press = (key: string, more = {}) => fireEvent.keyDown(document.body, { key, ...more });
const idle = () => waitFor(() => expect(screen.queryByText("Saving")).toBeNull());

it("names all goes of one person at once, and puts a go down to another by one key", async () => {
  const { sent } = server(three());
  show(<Page start={three()} />);
  await screen.findAllByRole("option", { name: /Wren/ });
  fireEvent.change(await screen.findByLabelText("Name of person 1, 2 goes"), { target: { value: "1" } });
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => r.rider),
    ).toEqual([1, null, 1]),
  );
  await idle();
  press("ArrowDown");
  press("1");
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => [r.who, r.rider]),
    ).toEqual([
      [1, 1],
      [1, 1],
      [1, 1],
    ]),
  );
  await idle();
  press("z", { ctrlKey: true });
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => r.who),
    ).toEqual([1, 2, 1]),
  );
});

it("joins, splits where the film stands, leaves out, and takes it all back", async () => {
  const { sent } = server(three());
  show(<Page start={three()} />);
  press("j");
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => [r.from_s, r.to_s]),
    ).toEqual([
      [0, 14],
      [20, 26],
    ]),
  );
  await idle();
  screen.getByLabelText<HTMLVideoElement>("The film").currentTime = 6;
  press("s");
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => [r.from_s, r.to_s]),
    ).toEqual([
      [0, 6],
      [6, 14],
      [20, 26],
    ]),
  );
  await idle();
  press("x");
  await waitFor(() => expect(sent().at(-1)![0]!.left_out).toBe(true));
  await idle();
  for (let k = 0; k < 3; k++) {
    fireEvent.click(screen.getByRole("button", { name: "Undo" }));
    await idle();
  }
  await waitFor(() =>
    expect(
      sent()
        .at(-1)!
        .map((r) => [r.from_s, r.to_s, r.left_out]),
    ).toEqual([
      [0, 5, false],
      [8, 14, false],
      [20, 26, false],
    ]),
  );
  expect(screen.getByRole("button", { name: "Undo" })).toHaveProperty("disabled", true);
});

it("says why a go cannot be split, and keeps what the server refuses from standing", async () => {
  const start = three();
  server(start, {
    "PUT /api/session-films/{id}/goes": () => new Refused("Somebody else has changed these goes.", 409),
  });
  show(<Page start={start} />);
  press("s");
  expect(await screen.findByText(/Play the film to where the second go begins/)).toBeTruthy();
  press("x");
  expect(await screen.findByRole("alert")).toHaveProperty("textContent", "Somebody else has changed these goes.");
  await waitFor(() => expect(screen.queryByText("Left out")).toBeNull());
});

it("judges what has a rider, and shows each verdict with its fix", async () => {
  const run = {
    id: 31,
    state: "ready" as const,
    step: "",
    progress: 1,
    problem: "",
    main_title: "Leaning in",
    cue: "Level the shoulders",
    approved: false,
    removed: false,
  };
  const start = film([go(1, 0, 5, 1, { rider: 1 }), go(2, 8, 14, 2)]);
  const { calls } = server(start, {
    "POST /api/session-films/{id}/judge": film([go(1, 0, 5, 1, { rider: 1, run }), go(2, 8, 14, 2)]),
  });
  show(<Page start={start} />);
  expect(screen.getByText("1 without a rider")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Judge 1 go" }));
  const row = (await screen.findByRole("link", { name: "Leaning in" })).closest("li")!;
  expect(within(row).getByText("Level the shoulders")).toBeTruthy();
  expect(calls.some((c) => c.call === "POST /api/session-films/{id}/judge")).toBe(true);
  // What a run was made of keeps its times.
  press("j");
  expect(await screen.findByText(/remove the run first/)).toBeTruthy();
  expect(within(row).queryByLabelText("Go 1 begins")).toBeNull();
});

it("tells of a film on its way, of one without a go, and of one that could not be searched", () => {
  server(film([], { state: "working", step: "Looking for goes", progress: 0.4 }));
  show(<Goes film={film([], { state: "working", step: "Looking for goes", progress: 0.4 })} />);
  expect(screen.getByText("Looking for goes, 40 %")).toBeTruthy();
  cleanup();
  show(<Goes film={film([])} />);
  expect(screen.getByText(/Nobody was seen riding/)).toBeTruthy();
  cleanup();
  show(<Goes film={film([], { state: "failed", problem: "hall.mp4: the file holds only sound." })} />);
  expect(screen.getByRole("alert").textContent).toContain("only sound");
  expect(screen.getByRole("button", { name: "Go on" })).toBeTruthy();
});
