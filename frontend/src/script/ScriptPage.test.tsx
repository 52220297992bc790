// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Script } from "../api/client";
import { benchOf, disciplineOf, findingOf, mainOf, prescriptionOf, runOf, scriptOf } from "../fixtures";
import { answering, Refused, show } from "../testing";
import { ScriptPage } from "./ScriptPage";

vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ run: 9 }),
  Link: ({ children, to, params, ...rest }: { children: ReactNode; to: string; params?: object }) => (
    <a href={to} data-params={JSON.stringify(params)} {...rest}>
      {children}
    </a>
  ),
}));

const written = scriptOf({
  nothing_words: "Nothing is to be put right in what this clip shows.",
  titles: { not_level: "The inside shoulder drops", banking: "Leaning in", late_edge: "Late edge" },
  targets: ["Shoulder tilt under 8°"],
  prescription: prescriptionOf({
    main: mainOf("not_level", {
      title: "The inside shoulder drops",
      why: "It is there in 8 of 8 turns.",
      cue: "Outside hand to the boot.",
    }),
    findings: [findingOf("not_level", "root"), findingOf("banking", "symptom")],
    strengths: [{ id: "rhythm", text: "The turns come evenly." }],
    cues: [
      { fault: "not_level", cue: "Outside hand to the boot." },
      { fault: "banking", cue: "Hips over the outside ski." },
    ],
    drills: [
      {
        id: "d1",
        fault: "not_level",
        title: "Hands on the hips",
        steps: [{ stage: "still", text: "Stand across the slope.", dose: "5 times" }],
        sign: "the belt stays level",
        worse_first: "It feels slow.",
      },
      { id: "d2", fault: "banking", title: "Of another fault", steps: [], sign: "", worse_first: "" },
    ],
    cannot_tell: [
      {
        fault: "late_edge",
        reason: "view",
        film_next: "Film from the front at 120.",
        unlock: { presses: 0, points: [], view: "front", also_unlocks: [] },
      },
    ],
    cautions: ["Keep to slopes that are open."],
  }),
});
const link: NonNullable<Script["share"]> = {
  path: "/s/abc",
  made: "2026-11-26T10:00:00Z",
  expires: "2027-01-30T10:00:00Z",
};
const bench = benchOf({ run: runOf({ title: "Turns on piste" }) });

/** A server that keeps the Script and changes it as it is told to. */
function server(start: Partial<Script> = {}, more: Record<string, unknown> = {}) {
  let script: Script = { ...written, ...start };
  const change = (by: Partial<Script>) => (script = { ...script, ...by });
  return answering({
    "GET /api/runs/{run}/script": () => script,
    "GET /api/runs/{id}/bench": () => bench,
    "GET /api/runs/{run}/following": { following: null },
    "GET /api/disciplines": [
      disciplineOf({ faults: { banking: { title: "Leaning in" }, skid: { title: "Skids" } } as never }),
    ],
    "GET /api/cues": [
      { fault: "not_level", level: "novice", cue: "Lift the inside hand.", says: "moved the number in 2 of 3" },
    ],
    "GET /api/texts": [{ id: 1, title: "Greeting", text: "Dear {rider}", filled: "Dear Wren", closing: false }],
    "GET /api/runs/{id}/choices": {
      faults: {
        not_level: {
          title: "The inside shoulder drops",
          cues: [
            { cue: "Outside hand to the boot.", used: 0 },
            { cue: "Lift the inside hand.", used: 2 },
          ],
          drills: [{ id: "d1", title: "Hands on the hips", used: 0 }],
        },
      },
      reasons: ["The camera makes it look so"],
    },
    "POST /api/runs/{id}/edits": (edit: { kind: string; faults: string[]; reason: string }) => {
      for (const fault of edit.faults ?? [])
        script = {
          ...script,
          dropped: Object.fromEntries(
            Object.entries({ ...script.dropped, [fault]: edit.reason }).filter(([, reason]) => reason),
          ),
        };
      return bench;
    },
    "GET /api/runs/{run}/script/offered": [
      { caption: "Shoulder tilt at the belly of turn 2", image: "data:image/jpeg;base64,AA==" },
    ],
    "PATCH /api/runs/{run}/script": (body: { cue?: string; was?: object; lessons?: string[] }) => {
      const { cue, lessons, ...rest } = body;
      delete rest.was;
      const main = script.prescription.main && { ...script.prescription.main, ...(cue ? { cue } : {}) };
      const sheets = lessons?.map((fault) => ({ fault, title: `About ${fault}` }));
      return change({
        ...(rest as Partial<Script>),
        ...(sheets ? { lessons: sheets } : {}),
        prescription: { ...script.prescription, main },
      });
    },
    "POST /api/runs/{run}/script/approve": () => change({ approved_at: "2026-11-26T10:00:00Z" }),
    "DELETE /api/runs/{run}/script/approve": () => change({ approved_at: null }),
    "POST /api/runs/{run}/script/share": () => change({ share: link }),
    "DELETE /api/runs/{run}/script/share": () => change({ share: null }),
    ...more,
  });
}

beforeEach(() => {
  Element.prototype.scrollIntoView = () => undefined;
});
afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.restoreAllMocks();
});

it("puts what is good first, then the one thing, its reason and its own ladder", async () => {
  server();
  show(<ScriptPage />);
  expect(await screen.findByText("The turns come evenly.")).toBeTruthy();
  expect(await screen.findByText("Wren")).toBeTruthy();
  const text = document.body.textContent;
  expect(text.indexOf("What is good")).toBeLessThan(text.indexOf("The one thing"));
  expect(text).toContain("It is there in 8 of 8 turns.");
  expect(text).toContain("Standing");
  expect(text).toContain("(5 times)");
  expect(text).toContain("It works when: the belt stays level");
  expect(text).toContain("At first: It feels slow.");
  expect(text).not.toContain("Of another fault");
});

it("shows the pictures that go with it while the Script is written", async () => {
  server();
  show(<ScriptPage />);
  expect(
    (await screen.findByRole("img", { name: "Shoulder tilt at the belly of turn 2" })).getAttribute("src"),
  ).toContain("data:image/jpeg");
});

it("says what could not be told and how to film it", async () => {
  server();
  show(<ScriptPage />);
  expect(await screen.findByText("Cannot be told (1)")).toBeTruthy();
  expect(screen.getByText(/Film from the front at 120/)).toBeTruthy();
});

it("gives another cue only where the coach wants it, in the coach's words", async () => {
  const calls = server();
  show(<ScriptPage />);
  const box = await screen.findByRole("checkbox", { name: "Leaning in" });
  expect(screen.queryByLabelText("Cue for Leaning in")).toBeNull();
  fireEvent.click(box);
  const words = await screen.findByLabelText<HTMLTextAreaElement>("Cue for Leaning in");
  expect(words.value).toBe("Hips over the outside ski.");
  fireEvent.change(words, { target: { value: "Pole of the outside hand low." } });
  fireEvent.blur(words);
  await waitFor(() => {
    expect(calls.find((c) => c.call === "POST /api/runs/{id}/edits")?.body).toEqual({
      kind: "cue", fault: "banking", cue: "Pole of the outside hand low.",
    }); // prettier-ignore
  });
});

it("shows what came of a cue before beside the choice", async () => {
  server();
  show(<ScriptPage />);
  const button = await screen.findByRole("button", { name: /Lift the inside hand/ });
  await waitFor(() => expect(button.textContent).toContain("moved the number in 2 of 3"));
});

it("adds a lesson sheet and leaves it out again", async () => {
  server();
  show(<ScriptPage />);
  await screen.findByRole("option", { name: "Skids" });
  fireEvent.change(screen.getByLabelText("Add a lesson sheet"), { target: { value: "skid" } });
  const sheet = await screen.findByRole("link", { name: "About skid" });
  expect(sheet.getAttribute("href")).toBe("/api/runs/9/script/lessons/skid");
  fireEvent.click(screen.getByRole("button", { name: "Leave out About skid" }));
  await waitFor(() => expect(screen.queryByRole("link", { name: "About skid" })).toBeNull());
});

it("begins the ladder where the coach says", async () => {
  const steps = ["Stand.", "Walk."].map((text) => ({ stage: "still" as const, text, dose: "once" }));
  const drills = [{ ...written.prescription.drills[0]!, steps }];
  server({ prescription: { ...written.prescription, drills }, stepped: "It goes on with step 2.", begins: { d1: 1 } });
  show(<ScriptPage />);
  expect((await screen.findByText(/Walk\./)).textContent).toContain("Begin here.");
  expect(screen.getByText("It goes on with step 2.")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Begins with"), { target: { value: "0" } });
  await waitFor(() => expect(screen.getByText(/Walk\./).textContent).not.toContain("Begin here."));
});

it("puts a text of the club into the message", async () => {
  server();
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Texts of the club…" }));
  fireEvent.click(await screen.findByRole("button", { name: "Put it in" }));
  expect(screen.getByLabelText<HTMLTextAreaElement>("Message to the rider").value).toBe("Dear Wren");
});

it("does not approve what somebody else wrote meanwhile, and shows it", async () => {
  let refuse = true;
  const calls = server({}, {
    "POST /api/runs/{run}/script/approve": () => {
      if (!refuse) return { ...written, approved_at: "2026-11-26T10:00:00Z" };
      refuse = false;
      return new Refused("Somebody else has changed the message meanwhile.", 409, { message: "Theirs" });
    },
  }); // prettier-ignore
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Approve" }));
  expect((await screen.findByText(/not approved yet/)).textContent).toContain("message");
  expect(calls.find((c) => c.call.endsWith("/approve"))?.body).toMatchObject({ was: { message: "" } });
  fireEvent.click(screen.getByRole("button", { name: "Approve" }));
  expect(await screen.findByRole("button", { name: "Reopen" })).toBeTruthy();
});

it("saves a cue that is written again when it is left, and not an empty one", async () => {
  const calls = server();
  show(<ScriptPage />);
  const cue = await screen.findByLabelText("Cue");
  fireEvent.change(cue, { target: { value: "   " } });
  fireEvent.blur(cue);
  fireEvent.change(cue, { target: { value: "Reach down the hill." } });
  fireEvent.blur(cue);
  await waitFor(() =>
    expect(calls.filter((c) => c.call.startsWith("PATCH")).map((c) => c.body)).toEqual([
      { cue: "Reach down the hill.", was: { cue: "Outside hand to the boot." } },
    ]),
  );
});

it("takes another of the playbook's cues at a press", async () => {
  const calls = server();
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: /Lift the inside hand/ }));
  await waitFor(() => expect(screen.getByLabelText<HTMLTextAreaElement>("Cue").value).toBe("Lift the inside hand."));
  expect(calls.find((c) => c.call.startsWith("PATCH"))?.body).toEqual({ cue: "Lift the inside hand." });
});

it("saves the message and the day of the next look", async () => {
  const calls = server();
  show(<ScriptPage />);
  const message = await screen.findByLabelText("Message to the rider");
  fireEvent.change(message, { target: { value: "Well done." } });
  fireEvent.blur(message);
  await waitFor(() =>
    expect(
      calls.some((c) => c.call.startsWith("PATCH") && (c.body as { message?: string }).message === "Well done."),
    ).toBe(true),
  );
  fireEvent.change(screen.getByLabelText("Film again on"), { target: { value: "2027-01-08" } });
  await waitFor(() => expect(calls.at(-1)?.body).toEqual({ retest_on: "2027-01-08" }));
});

/** Open the menu of a finding and choose. */
async function choose(finding: string, item: string) {
  fireEvent.keyDown(await screen.findByRole("button", { name: `Your word on: ${finding}` }), { key: "Enter" });
  fireEvent.click(await screen.findByRole("menuitem", { name: item }));
}
const lastEdit = (calls: { call: string; body: unknown }[]) =>
  calls.filter((c) => c.call === "POST /api/runs/{id}/edits").at(-1)?.body;

it("drops findings at once for one reason, shows them struck through, and takes them back", async () => {
  const calls = server();
  show(<ScriptPage />);
  await choose("Leaning in", "Drop…");
  const dialog = await screen.findByRole("dialog", { name: "Drop findings" });
  fireEvent.click(within(dialog).getByLabelText("not_level"));
  expect(within(dialog).getByRole("button", { name: "Drop 2" }).hasAttribute("disabled")).toBe(true);
  fireEvent.change(within(dialog).getByLabelText("Reason"), { target: { value: "other" } });
  fireEvent.change(within(dialog).getByLabelText("In your own words"), { target: { value: "the slope breaks there" } });
  fireEvent.click(within(dialog).getByRole("button", { name: "Drop 2" }));
  await waitFor(() =>
    expect(lastEdit(calls)).toEqual({
      kind: "drop",
      faults: ["banking", "not_level"],
      reason: "the slope breaks there",
    }),
  );
  expect((await screen.findAllByText(/the slope breaks there/))[0]?.querySelector("s")?.textContent).toBe("Leaning in");
  fireEvent.click(screen.getAllByRole("button", { name: "Take back" })[0]!);
  await waitFor(() => expect(lastEdit(calls)).toEqual({ kind: "drop", faults: ["banking"], reason: "" }));
});

it("lets the coach choose another main thing, another cue and a drill of their own", async () => {
  const calls = server();
  show(<ScriptPage />);
  await choose("Leaning in", "Make this the main thing");
  await waitFor(() => expect(lastEdit(calls)).toEqual({ kind: "choose", fault: "banking" }));
  await choose("The inside shoulder drops", "Cue and drill…");
  const dialog = await screen.findByRole("dialog", { name: "Cue and drill: The inside shoulder drops" });
  // What this club chose before is offered as such.
  fireEvent.click(await within(dialog).findByRole("button", { name: /Lift the inside hand.*chosen 2 times here/ }));
  fireEvent.click(within(dialog).getByLabelText("One of my own"));
  expect(within(dialog).getByRole("button", { name: "Use these" }).hasAttribute("disabled")).toBe(true);
  fireEvent.change(within(dialog).getByLabelText("Name of the drill"), { target: { value: "Tray" } });
  fireEvent.change(within(dialog).getByLabelText("Slowly"), { target: { value: "Carry a tray." } });
  fireEvent.click(within(dialog).getByRole("button", { name: "Use these" }));
  await waitFor(() =>
    expect(calls.filter((c) => c.call === "POST /api/runs/{id}/edits").map((c) => c.body)).toEqual([
      { kind: "choose", fault: "banking" },
      { kind: "cue", fault: "not_level", cue: "Lift the inside hand." },
      {
        kind: "drill",
        fault: "not_level",
        title: "Tray",
        steps: [{ stage: "slow", text: "Carry a tray.", dose: "" }],
      },
    ]),
  );
});

it("says what the software would have said, and what cannot be told apart", async () => {
  const main = mainOf("not_level", {
    by: "coach",
    would_be: { fault: "banking", side: "both", cue: null, drill: null, why: "Leaning in explains three." },
    rivals: [
      {
        fault: "late_edge",
        title: "Late edge",
        kind: "behind",
        says: "Perhaps behind it",
        parts: "Film it from behind",
      },
    ],
  });
  server({ prescription: { ...written.prescription, main } });
  show(<ScriptPage />);
  expect(await screen.findByText(/The software would have said: Leaning in explains three/)).toBeTruthy();
  expect(screen.getByText("Film it from behind.")).toBeTruthy();
});

it("offers what was written on the Bench to the message", async () => {
  server({ noted_words: ["weak left pole"] });
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Add “weak left pole”" }));
  expect(screen.getByLabelText<HTMLTextAreaElement>("Message to the rider").value).toBe("weak left pole");
});

it("locks what is approved, makes a link and withdraws it, and opens again", async () => {
  server();
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Approve" }));
  fireEvent.click(await screen.findByRole("button", { name: "Make a link for the rider" }));
  expect(screen.queryByLabelText("Cue")).toBeNull();
  expect(screen.queryByRole("button", { name: "Your word on: Leaning in" })).toBeNull();
  expect(screen.getByText("No message.")).toBeTruthy();
  const link = await screen.findByRole("link", { name: /\/s\/abc$/ });
  expect(link.getAttribute("href")).toBe(`${location.origin}/s/abc`);
  expect(document.body.textContent).toMatch(/January.*2027/);
  await sure("Withdraw", "for good");
  expect(await screen.findByText(/It has not left yet/)).toBeTruthy();
  await sure("Reopen", "not approved any more");
  expect(await screen.findByLabelText("Cue")).toBeTruthy();
});

it.each([
  ["copied", () => Promise.resolve(), "Copied"],
  [
    "kept from the clipboard by the browser",
    () => Promise.reject(new Error("not allowed")),
    "Mark the link and copy it by hand",
  ],
])("says whether the link was %s", async (_, writeText, words) => {
  vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText } });
  server({ approved_at: "2026-11-26T10:00:00Z", share: link });
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Copy" }));
  expect(await screen.findByText(new RegExp(words))).toBeTruthy();
  vi.unstubAllGlobals();
});

it("warns when the numbers changed after the approval", async () => {
  server({ approved_at: "2026-11-26T10:00:00Z", stale: true });
  show(<ScriptPage />);
  expect((await screen.findByText(/numbers changed after you approved/)).textContent).toContain(
    "Reopen it to bring it up to date",
  );
});

it("says that its numbers are from before a change that could not be worked out", async () => {
  server({ trouble: "the view is upside down." });
  show(<ScriptPage />);
  expect((await screen.findByText(/from before the run/)).textContent).toContain("the view is upside down");
});

it("tells what the server refuses and keeps what was typed", async () => {
  server({}, { "PATCH /api/runs/{run}/script": new Refused("retest_on: give a day that is still to come.") });
  show(<ScriptPage />);
  const message = await screen.findByLabelText("Message to the rider");
  fireEvent.change(message, { target: { value: "Well done." } });
  fireEvent.blur(message);
  expect((await screen.findByRole("alert")).textContent).toContain("still to come");
  expect(document.body.textContent).toContain("Not saved; it is kept in this browser.");
  expect((message as HTMLTextAreaElement).value).toBe("Well done.");
});

it("says so where nothing is to be put right, and still asks for what is good", async () => {
  const nothing = { ...written.prescription, main: null, findings: [], strengths: [], drills: [], cues: [] };
  server({ prescription: nothing, targets: [] });
  show(<ScriptPage />);
  expect((await screen.findAllByText(/Nothing is to be put right/)).length).toBe(2);
  expect(screen.getByText(/No strength stands out clearly/)).toBeTruthy();
  expect(screen.getByText("Nothing is held against a target.")).toBeTruthy();
  expect(screen.getByText("Nothing.")).toBeTruthy();
});

it("saves what was typed before it approves, one after the other", async () => {
  const calls = server();
  show(<ScriptPage />);
  fireEvent.change(await screen.findByLabelText("Message to the rider"), { target: { value: "Well skied!" } });
  fireEvent.click(screen.getByRole("button", { name: "Approve" }));
  await screen.findByRole("button", { name: "Reopen" });
  const sent = calls.filter((c) => !c.call.startsWith("GET"));
  expect(sent.map((c) => c.call)).toEqual(["PATCH /api/runs/{run}/script", "POST /api/runs/{run}/script/approve"]);
  expect(sent[0]!.body).toEqual({ message: "Well skied!", was: { message: "" } });
  expect(localStorage.length).toBe(0);
});

it("puts gear before the cue where it explains the main thing, and says what would tell more", async () => {
  const gear = [{ text: "Use a fixed pylon.", because_of: "pull_point_slips", explains: ["banking"], first: true }];
  server({
    prescription: { ...written.prescription, gear, unlock: "Film from the side next time to settle two faults." },
  });
  show(<ScriptPage />);
  await screen.findByText("Use a fixed pylon.");
  const text = document.body.textContent;
  expect(text.indexOf("Gear first")).toBeLessThan(text.indexOf("The one thing"));
  expect(text).toContain("To tell more: Film from the side next time");
});

/** Press a button that asks first, and go on. */
async function sure(name: string, about: string) {
  fireEvent.click(screen.getByRole("button", { name }));
  const dialog = await screen.findByRole("dialog");
  expect(dialog.textContent).toContain(about);
  fireEvent.click(within(dialog).getByRole("button", { name }));
}

it("reopens nothing where the coach leaves it", async () => {
  const calls = server({ approved_at: "2026-11-26T10:00:00Z", share: link });
  show(<ScriptPage />);
  fireEvent.click(await screen.findByRole("button", { name: "Reopen" }));
  const dialog = await screen.findByRole("dialog");
  expect(dialog.textContent).toContain("The rider’s link stops working for good");
  fireEvent.click(within(dialog).getByRole("button", { name: "Leave it" }));
  await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  expect(calls.some((c) => c.call.startsWith("DELETE"))).toBe(false);
});

it("has what was typed after the page was loaded again, and asks before it is left", async () => {
  server({}, { "PATCH /api/runs/{run}/script": new Refused("The server cannot be reached.", 503) });
  const first = show(<ScriptPage />);
  fireEvent.change(await screen.findByLabelText("Message to the rider"), { target: { value: "Half a thought" } });
  expect(document.body.textContent).toContain("Not saved yet; it is kept in this browser.");
  const leaving = new Event("beforeunload", { cancelable: true });
  window.dispatchEvent(leaving);
  expect(leaving.defaultPrevented).toBe(true);
  first.unmount();
  server();
  show(<ScriptPage />);
  const message = await screen.findByLabelText<HTMLTextAreaElement>("Message to the rider");
  expect(message.value).toBe("Half a thought");
  fireEvent.blur(message);
  await waitFor(() => expect(document.body.textContent).toContain("Saved"));
  await waitFor(() => expect(localStorage.length).toBe(0));
});

it("shows both texts where somebody else has changed one, and lets the coach choose", async () => {
  let seen = 0;
  const calls = server(
    {},
    {
      "PATCH /api/runs/{run}/script": () =>
        seen++
          ? { ...written, message: "Mine" }
          : new Refused("Somebody else has changed the message meanwhile.", 409, { message: "Theirs" }),
    },
  );
  show(<ScriptPage />);
  const message = await screen.findByLabelText("Message to the rider");
  fireEvent.change(message, { target: { value: "Mine" } });
  fireEvent.blur(message);
  const both = await screen.findByRole("alert");
  expect(both.textContent).toContain("Yours: Mine");
  expect(both.textContent).toContain("Theirs: Theirs");
  fireEvent.click(within(both).getByRole("button", { name: "Keep mine" }));
  await waitFor(() =>
    expect(calls.filter((c) => c.call.startsWith("PATCH")).at(-1)?.body).toEqual({
      message: "Mine",
      was: { message: "Theirs" },
    }),
  );
  await waitFor(() => expect(screen.queryByText(/Somebody else/)).toBeNull());
});

it("asks for the year of birth or consent while the Script is written, not when it is shared", async () => {
  let born: number | null = null;
  const calls = server(
    {},
    {
      "GET /api/runs/{run}/script": () => ({ ...written, may_share: born !== null, rider: { ...written.rider, born } }),
      "PATCH /api/riders/{id}": (body: { born: number }) => (born = body.born),
    },
  );
  show(<ScriptPage />);
  expect((await screen.findByText(/may be a minor/)).textContent).toContain("the year of birth is not known");
  fireEvent.change(screen.getByLabelText("Born in"), { target: { value: "1994" } });
  fireEvent.click(screen.getByRole("button", { name: "Save the year" }));
  await waitFor(() => expect(screen.queryByText(/may be a minor/)).toBeNull());
  expect(calls.find((c) => c.call.startsWith("PATCH"))).toMatchObject({
    body: { born: 1994 },
    params: { path: { id: 7 } },
  });
});

it("keeps what is typed into one field while another is being saved", async () => {
  let answer: () => void = () => undefined;
  const calls = server(
    {},
    {
      "PATCH /api/runs/{run}/script": (body: { cue?: string; message?: string }) =>
        new Promise(
          (done) =>
            (answer = () =>
              done({
                ...written,
                message: body.message ?? "",
                prescription: {
                  ...written.prescription,
                  main: { ...written.prescription.main, cue: body.cue ?? "Outside hand to the boot." },
                },
              })),
        ),
    },
  );
  show(<ScriptPage />);
  const cue = await screen.findByLabelText("Cue");
  fireEvent.change(cue, { target: { value: "Reach down the hill." } });
  fireEvent.blur(cue);
  await waitFor(() => expect(calls.filter((c) => c.call.startsWith("PATCH"))).toHaveLength(1));
  const message = screen.getByLabelText<HTMLTextAreaElement>("Message to the rider");
  fireEvent.change(message, { target: { value: "Lovely rhythm" } });
  answer();
  await waitFor(() => expect(localStorage.length).toBe(1));
  expect(message.value).toBe("Lovely rhythm");
  fireEvent.blur(message);
  await waitFor(() =>
    expect(calls.filter((c) => c.call.startsWith("PATCH")).at(-1)?.body).toMatchObject({ message: "Lovely rhythm" }),
  );
});
