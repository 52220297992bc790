// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, expect, it, vi } from "vitest";

import { disciplineOf, mainOf, prescriptionOf, scriptOf } from "../fixtures";
import { answering, Refused, show } from "../testing";
import { TogetherPage } from "./TogetherPage";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children }: { children: ReactNode }) => <a href="/there">{children}</a>,
}));
afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.restoreAllMocks();
});

const row = (run: number, rider: string, more: object = {}) => ({
  run, rider, number: run, title: "", says: [`${rider}: hip 0.02 ± 0.01`], verdict: "clear", told: false, message: false,
  may_share: true, trouble: "", ...more,
}); // prettier-ignore
const group = {
  discipline: "alpine_carve", discipline_title: "Turns on piste", fault: "hip_out", title: "The hips stay outside", level: "novice",
  cues: ["Close the drawer."], runs: [row(1, "Hazel", { told: true }), row(2, "Rook"), row(3, "Wren", { may_share: false })],
}; // prettier-ignore

function server(more: Record<string, unknown> = {}) {
  const script = scriptOf({ prescription: prescriptionOf({ main: mainOf("hip_out", { cue: "Close the drawer." }) }) });
  return answering({
    "GET /api/together": [group],
    "GET /api/disciplines": [disciplineOf({ faults: { hip_out: { title: "The hips stay outside" } } as never })],
    "GET /api/cues": [],
    "GET /api/runs/{run}/script": script,
    "PATCH /api/runs/{run}/script": (body: { add_text?: string }, p: { path: { run: number } }) => ({
      ...script, message: body.add_text ?? "", may_share: p.path.run !== 3,
    }),
    "POST /api/runs/{run}/script/approve": script,
    "POST /api/runs/{run}/script/share": (_: unknown, p: { path: { run: number } }) => ({ ...script, share: { path: `/s/${p.path.run}` } }),
    "POST /api/runs/{run}/telling/from": {},
    ...more,
  }); // prettier-ignore
}

it("answers all that are ticked, each on their own run, and tells what became of each", async () => {
  const calls = server();
  show(<TogetherPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Answer together" }));
  expect(screen.getByText("Rook: hip 0.02 ± 0.01")).toBeTruthy();
  fireEvent.click(screen.getByRole("checkbox", { name: /Hazel/ }));
  fireEvent.change(screen.getByLabelText("To all of them"), { target: { value: "Dear {rider}" } });
  await screen.findByRole("option", { name: "The hips stay outside" });
  fireEvent.change(screen.getByLabelText("Lesson sheet with it"), { target: { value: "hip_out" } });
  fireEvent.change(screen.getByLabelText("Telling"), { target: { value: "1" } });
  fireEvent.click(screen.getByRole("button", { name: "Approve all 2" }));
  expect(await screen.findByText(/\/s\/2/)).toBeTruthy();
  expect(await screen.findByText(/No link was made yet/)).toBeTruthy(); // Wren may be a minor
  const patched = calls.filter((c) => c.call.startsWith("PATCH"));
  expect(patched.map((c) => (c.params as { path: { run: number } }).path.run)).toEqual([2, 3]);
  expect(patched[0]!.body).toMatchObject({ add_text: "Dear {rider}", lessons: ["hip_out"], with_telling: true });
  expect(calls.filter((c) => c.call.endsWith("/from")).map((c) => c.body)).toEqual([{ run: 1 }, { run: 1 }]);
  // What was read is what is approved.
  expect(calls.find((c) => c.call.endsWith("/approve"))!.body).toMatchObject({ was: { message: "Dear {rider}" } });
});

it("writes nothing to a run whose main thing is another by now", async () => {
  const other = scriptOf({ prescription: prescriptionOf({ main: mainOf("skid", { title: "Skids" }) }) });
  const calls = server({ "GET /api/runs/{run}/script": other });
  show(<TogetherPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Answer together" }));
  fireEvent.click(screen.getByRole("button", { name: "Approve all 3" }));
  expect(await screen.findAllByText(/Nothing was written: the main thing is “Skids”/)).toHaveLength(3);
  expect(calls.some((c) => c.call.startsWith("PATCH") || c.call.endsWith("/approve"))).toBe(false);
});

it("goes on with the others where one cannot be approved, and keeps what was typed", async () => {
  server({
    "POST /api/runs/{run}/script/approve": (_: unknown, p: { path: { run: number } }) =>
      p.path.run === 1 ? new Refused("The numbers are from before.", 409) : scriptOf(),
  });
  show(<TogetherPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Answer together" }));
  fireEvent.change(screen.getByLabelText("To all of them"), { target: { value: "Well done" } });
  fireEvent.click(screen.getByRole("button", { name: "Approve all 3" }));
  expect(await screen.findByText("The numbers are from before.")).toBeTruthy();
  expect(await screen.findByText(/\/s\/2/)).toBeTruthy();
  await waitFor(() => expect(screen.getByRole("button", { name: "Approve all 3" })).toBeTruthy());
  expect(screen.getByLabelText<HTMLTextAreaElement>("To all of them").value).toBe("Well done");
});

it("writes into the Scripts without approving any", async () => {
  const calls = server();
  show(<TogetherPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Answer together" }));
  fireEvent.click(screen.getByRole("button", { name: "Put into 3 Scripts" }));
  await waitFor(() => expect(screen.getAllByText("Written into the Script.")).toHaveLength(3));
  expect(calls.some((c) => c.call.endsWith("/approve"))).toBe(false);
});

it("says where there is nothing to answer together", async () => {
  server({ "GET /api/together": [] });
  show(<TogetherPage />);
  expect(await screen.findByText(/No two runs/)).toBeTruthy();
});
