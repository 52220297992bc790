// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { benchOf, unitOf } from "../fixtures";
import { answering, show } from "../testing";
import { NotePalette } from "./NotePalette";
import { Seen } from "./Seen";
import { VerdictChanged } from "./VerdictChanged";

beforeEach(() => {
  Element.prototype.scrollIntoView = () => undefined;
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const items = [
  { id: "banking", title: "Leaning in with the whole body", kind: "fault", open: false },
  { id: "skid", title: "Skidding", kind: "fault", open: true },
  { id: "spray_long", title: "Spray all through the turn", kind: "observation", open: false },
] as const;

function palette() {
  answering({
    "GET /api/runs/{id}/notable": {
      items,
      by_phase: { belly: ["skid", "spray_long", "banking"], entry: ["banking", "skid", "spray_long"] },
    },
  });
  const onNote = vi.fn();
  const turn = unitOf(2, 1, "left");
  show(
    <NotePalette
      runId={9}
      bench={benchOf({ units: [turn] })}
      turn={turn}
      phase="belly"
      t={1.7}
      open
      onOpen={() => undefined}
      onNote={onNote}
    />,
  );
  return {
    onNote,
    type: (text: string) => fireEvent.change(screen.getByRole("combobox"), { target: { value: text } }),
  };
}
const press = (key: string, more = {}) => fireEvent.keyDown(screen.getByRole("combobox"), { key, ...more });

it("lists the likeliest of the phase first and notes it for this turn with one key", async () => {
  const { onNote } = palette();
  const rows = await screen.findAllByRole("option");
  expect(rows.map((r) => r.textContent)).toEqual([
    "Skiddingopen",
    "Spray all through the turnsign",
    "Leaning in with the whole body",
  ]);
  press("Enter");
  expect(onNote).toHaveBeenLastCalledWith({
    fault: "skid",
    words: "",
    scope: "unit",
    sure: true,
    seen: true,
    t: 1.7,
    side: null,
    phase: null,
  });
});

it("filters as one types, and takes a maybe, a not there and a side", async () => {
  const { onNote, type } = palette();
  await screen.findAllByRole("option");
  type("lean");
  press("Enter", { shiftKey: true });
  expect(onNote.mock.calls.at(-1)![0]).toMatchObject({ fault: "banking", sure: false, seen: true });
  press("Enter", { altKey: true });
  expect(onNote.mock.calls.at(-1)![0]).toMatchObject({ fault: "banking", seen: false });
  fireEvent.click(screen.getByRole("radio", { name: "All left" }));
  press("Enter");
  expect(onNote.mock.calls.at(-1)![0]).toMatchObject({ scope: "side", side: "left", t: null });
  fireEvent.click(screen.getByRole("radio", { name: "Its belly" }));
  fireEvent.click(screen.getByRole("radio", { name: "Maybe" }));
  fireEvent.click(screen.getByRole("option", { name: /Leaning/ }));
  expect(onNote.mock.calls.at(-1)![0]).toMatchObject({ scope: "phase", phase: "belly", sure: false, t: 1.7 });
});

it("keeps what is no fault as words beside the frame", async () => {
  const { onNote, type } = palette();
  await screen.findAllByRole("option");
  type("weak left pole");
  press("Enter");
  expect(onNote.mock.calls.at(-1)![0]).toMatchObject({ fault: "", words: "weak left pole", t: 1.7, seen: true });
});

it("shows every note with the way to it and back", () => {
  const seen = [
    { id: 4, fault: "skid", title: "Skidding", scope: "unit", unit: 2, t: 1.7, sure: true, seen: false },
    { id: 5, fault: "", title: "", scope: "unit", unit: 2, t: 1.9, sure: true, seen: true, words: "weak left pole" },
    {
      id: 6,
      fault: "banking",
      title: "Leaning in",
      scope: "side",
      unit: null,
      t: null,
      side: "left",
      sure: false,
      seen: true,
    },
  ].map((n) => ({ side: null, phase: null, words: "", by: "ada", ...n })) as never;
  const [onGo, onBack] = [vi.fn(), vi.fn()];
  show(<Seen bench={benchOf({ seen })} onOpen={() => undefined} onGo={onGo} onBack={onBack} />);
  const rows = screen.getAllByRole("listitem");
  expect(rows[0]!.textContent).toContain("Skidding: looked, not there turn 2");
  expect(rows[2]!.textContent).toContain("Leaning in (maybe) left turns");
  fireEvent.click(within(rows[1]!).getByRole("button", { name: "turn 2" }));
  expect(onGo.mock.calls[0]![0]).toMatchObject({ id: 5 });
  fireEvent.click(within(rows[2]!).getByRole("button", { name: "Take back: Leaning in (maybe), left turns" }));
  expect(onBack.mock.calls[0]![0]).toMatchObject({ id: 6 });
});

it("says what a change did to the verdict until it is read", async () => {
  const verdict_change = {
    main_before: "Skidding",
    main_now: "Leaning in",
    main_changed: true,
    gone: ["Skidding"],
    new: [],
    surer: ["Leaning in"],
    less_sure: [],
  };
  show(<VerdictChanged bench={benchOf({ verdict_change })} />);
  expect(screen.getByRole("status").textContent).toContain(
    "the main thing is now “Leaning in”, before it was “Skidding”.",
  );
  expect(screen.getByRole("status").textContent).toContain("Gone: Skidding");
  fireEvent.click(screen.getByRole("button", { name: "I have read this" }));
  await waitFor(() => expect(screen.queryByRole("status")).toBeNull());
});
