// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { AskedPage } from "./AskedPage";
import { SendersPage } from "./SendersPage";

const ASKED = {
  title: "Send me your Friday run",
  club: "Lanternfell",
  coach: "Ottilie",
  discipline: "Snowboard",
  asks_front_foot: true,
  rider: "",
  expires: "2026-12-07T18:00:00Z",
  answer_by: "2026-12-09",
  most_clips: 2,
  agree: "Lanternfell may keep this clip.",
  guardian: "I agree for them.",
  adult_born: 2007,
};
const clip = (more: object) => ({
  id: 1, name: "a.mp4", intention_text: "", state: "held", problem: "", advice: [], at: "2026-12-01T10:00:00Z", answer: null, ...more,
}); // prettier-ignore
const PAGE = { ...ASKED, name: "Ysolde", open: true, known: false, conditions: {}, clips: [] as object[] };

let answers: Record<string, () => [number, object]>;
const calls: { path: string; body?: unknown }[] = [];
beforeEach(() => {
  calls.length = 0;
  vi.stubGlobal("fetch", (path: string, given?: RequestInit) => {
    calls.push({ path: `${given?.method ?? "GET"} ${path}`, body: given?.body && JSON.parse(given.body as string) });
    const [status, body] = answers[`${given?.method ?? "GET"} ${path}`]!();
    return Promise.resolve(new Response(status === 204 ? null : JSON.stringify(body), { status }));
  });
});
afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.unstubAllGlobals();
});

it("asks a guardian of a minor, and for the front foot where it matters", async () => {
  const assign = vi.fn();
  vi.stubGlobal("location", { ...location, assign });
  answers = {
    "GET /api/asked/t": () => [200, ASKED],
    "POST /api/asked/t": () => [201, { token: "own" }],
  };
  render(<AskedPage token="t" />);
  fireEvent.change(await screen.findByLabelText("Your name"), { target: { value: "Ysolde" } });
  fireEvent.change(screen.getByLabelText("Level"), { target: { value: "novice" } });
  fireEvent.change(screen.getByLabelText("Front foot"), { target: { value: "goofy" } });
  fireEvent.change(screen.getByLabelText("Year of birth"), { target: { value: "1990" } });
  expect(screen.queryByLabelText(/guardian who agrees/)).toBeNull();
  fireEvent.change(screen.getByLabelText("Year of birth"), { target: { value: "2012" } });
  fireEvent.change(screen.getByLabelText(/guardian who agrees/), { target: { value: "Orla" } });
  fireEvent.click(screen.getByLabelText("I am the guardian and agree"));
  fireEvent.click(screen.getByRole("button", { name: "Go on to the clip" }));
  await waitFor(() => expect(assign).toHaveBeenCalledWith("/sent/own"));
  expect(calls.at(-1)!.body).toEqual({
    name: "Ysolde", born: 2012, level: "novice", stance: "goofy", agrees: true, guardian: "Orla",
  }); // prettier-ignore
  // Opened again on the same phone, the link leads back to the sender's own page.
  cleanup();
  render(<AskedPage token="t" />);
  expect((await screen.findByRole("link", { name: "Open your page" })).getAttribute("href")).toBe("/sent/own");
});

it("shows what is wrong at its field, and keeps what was typed", async () => {
  answers = {
    "GET /api/asked/t": () => [200, { ...ASKED, asks_front_foot: false }],
    "POST /api/asked/t": () => [400, { problem: "born: too old", fields: { born: "Ensure this value is right." } }],
  };
  render(<AskedPage token="t" />);
  fireEvent.change(await screen.findByLabelText("Your name"), { target: { value: "Ysolde" } });
  fireEvent.change(screen.getByLabelText("Year of birth"), { target: { value: "1990" } });
  fireEvent.change(screen.getByLabelText("Level"), { target: { value: "novice" } });
  fireEvent.click(screen.getByLabelText("I agree"));
  fireEvent.click(screen.getByRole("button", { name: "Go on to the clip" }));
  expect((await screen.findByRole("alert")).textContent).toBe("Ensure this value is right.");
  expect(screen.getByLabelText<HTMLInputElement>("Your name").value).toBe("Ysolde");
});

it("says that a link ended", async () => {
  answers = { "GET /api/asked/t": () => [404, { problem: "This link does not take clips any more." }] };
  render(<AskedPage token="t" />);
  expect(await screen.findByText(/any more/)).toBeTruthy();
  expect(screen.queryByRole("button", { name: "Try again" })).toBeNull();
});

it("tells of each clip what became of it, and what to film better", async () => {
  answers = {
    "GET /api/sent/own": () => [
      200,
      {
        ...PAGE,
        clips: [
          clip({ id: 1, advice: ["Stand nearer."] }),
          clip({ id: 2, state: "unreadable", problem: "Nobody can be found in this clip." }),
          clip({ id: 3, state: "in", answer: "/s/abc" }),
        ],
      },
    ],
  };
  render(<SendersPage token="own" />);
  expect(await screen.findByText("Stand nearer.")).toBeTruthy();
  expect(screen.getByText(/Nobody can be found/).textContent).toContain("cannot be judged");
  expect(screen.getByRole("link", { name: "Read the answer" }).getAttribute("href")).toBe("/s/abc");
  // Two count; the one that could not be judged does not.
  expect(screen.getByText("You have sent all the clips that this link takes.")).toBeTruthy();
});

it("takes a clip back only after asking once more, and says what went wrong", async () => {
  let there = [clip({})];
  let refuse = true;
  answers = {
    "GET /api/sent/own": () => [200, { ...PAGE, clips: there }],
    "DELETE /api/sent/own/taken-back/1": () => {
      if (refuse) return [409, { problem: "This clip is answered already." }];
      there = [];
      return [204, {}];
    },
  };
  render(<SendersPage token="own" />);
  fireEvent.click(await screen.findByRole("button", { name: "Take it back" }));
  expect(calls.some((c) => c.path.startsWith("DELETE"))).toBe(false);
  fireEvent.click(screen.getByRole("button", { name: "Erase it" }));
  expect((await screen.findByRole("alert")).textContent).toContain("answered already");
  refuse = false;
  fireEvent.click(screen.getByRole("button", { name: "Take it back" }));
  fireEvent.click(screen.getByRole("button", { name: "Erase it" }));
  await waitFor(() => expect(screen.queryByText("a.mp4")).toBeNull());
});
