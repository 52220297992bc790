// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import * as client from "../api/client";
import { answering, Refused, show } from "../testing";
import { ChangeRun, NewRun } from "./NewRun";
import { forget } from "./sendings";
import { SendClip, SendTracks } from "./SendClip";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  localStorage.clear();
  forget(12);
});

const number = (title: string, unit = "") => ({ title, takes: "number", unit, choices: [] });
const words = (title: string) => ({ title, takes: "words", unit: "", choices: [] });
const book = (id: string, conditions: object, more: object = {}) => ({
  id,
  title: id.replace("_", " "),
  from_tracks: true,
  asks_front_foot: false,
  conditions,
  faults: { low_edge: { title: "The edge is low" } },
  ...more,
});
const usual = (more: object = {}) => ({
  discipline: "alpine_carve",
  level: "advanced",
  conditions: {},
  gear: {},
  title: "",
  intention_text: "",
  intention_faults: [],
  as_on: null,
  ...more,
});
const rider = { id: 3, name: "Wren", number: 7, level: "advanced" };
const table = (more: object = {}) => ({
  "GET /api/riders": { results: [rider], count: 1 },
  "GET /api/disciplines": [
    book("alpine_carve", { slope_deg: number("Slope", "°"), snow: words("Snow") }),
    book("alpine_gates", { set: { title: "Course", takes: "choice", unit: "", choices: ["giant_slalom", "slalom"] } }),
    book("slalom_ski", {
      rope_m: { ...number("Rope", "m"), takes: "rope" },
      boat_kmh: number("Boat speed", "km/h"),
      buoys: { ...words("Round buoys"), takes: "yes_no" },
    }),
    book("snowboard", {}, { asks_front_foot: true }),
    book("on_sheets", {}, { from_tracks: false }),
  ],
  "GET /api/riders/{id}/usual": usual(),
  "GET /api/rope": { words: "14.25 m (28 off)" },
  "PATCH /api/riders/{id}": { id: 3 },
  "POST /api/runs": { id: 12 },
  "PATCH /api/runs/{id}": { id: 12 },
  ...more,
});
const choose = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });
const save = (name = "Save") => fireEvent.submit(screen.getByRole("button", { name }).closest("form")!);
const clip = new File(["x"], "run.mp4", { type: "video/mp4" });

/** The sheet with what it cannot do without. */
async function sheet(more: object = {}) {
  const calls = answering(table(more));
  const onOpen = vi.fn();
  show(<NewRun open onOpen={onOpen} />);
  await screen.findByRole("option", { name: "Wren · 7" });
  await screen.findByRole("option", { name: "slalom ski" });
  choose("Rider", "3");
  await waitFor(() => expect(calls.some((c) => c.call === "GET /api/riders/{id}/usual")).toBe(true));
  await waitFor(() => expect(screen.getByText(/^alpine carve · advanced/)).toBeTruthy());
  choose("Filmed", "front");
  return { calls, onOpen, sent: () => calls.filter((c) => !c.call.startsWith("GET")) };
}

it("saves who, what they try, from where, and closes", async () => {
  const { sent, onOpen } = await sheet();
  choose("What they are trying to do", "quieter shoulders");
  choose("Which is about", "low_edge");
  choose("Degrees off that view", "-12");
  choose("Gear", "slalom ski");
  save();
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  expect(sent()[0]).toMatchObject({
    call: "POST /api/runs",
    body: {
      rider_id: 3,
      discipline: "alpine_carve",
      level: "advanced",
      view: "front",
      view_offset_deg: -12,
      intention_text: "quieter shoulders",
      intention_faults: ["low_edge"],
      filmed_fps: null,
      gear: { notes: "slalom ski" },
      conditions: {},
    },
  });
});

it("takes the rider's own level until another is chosen", async () => {
  const { sent } = await sheet();
  expect(screen.getByLabelText<HTMLSelectElement>("Level").value).toBe("advanced");
  choose("Level", "novice");
  save();
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]!.body).toMatchObject({ level: "novice" });
});

it("asks for the conditions of the discipline: a choice where there is one, a number with comma or point", async () => {
  const { sent } = await sheet();
  expect(screen.getByLabelText("Slope (°)")).toBeTruthy();
  choose("Discipline", "slalom_ski");
  expect(screen.queryByLabelText("Slope (°)")).toBeNull();
  expect(screen.queryByLabelText("ball")).toBeNull(); // belongs to single crossings
  choose("Rope", "28");
  expect(await screen.findByText("Understood as 14.25 m (28 off)")).toBeTruthy();
  choose("Boat speed (km/h)", "54,5");
  choose("Round buoys", "no");
  save();
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]!.body).toMatchObject({
    discipline: "slalom_ski",
    conditions: { rope: "28", boat_kmh: 54.5, buoys: false },
  });
});

it("keeps to itself the conditions of a discipline that was chosen before", async () => {
  const { sent } = await sheet();
  choose("Snow", "groomed");
  choose("Discipline", "alpine_gates");
  choose("Course", "slalom");
  save();
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]!.body).toMatchObject({ conditions: { set: "slalom" } });
});

it("offers only what clips can be judged of", async () => {
  await sheet();
  const titles = within(screen.getByLabelText("Discipline"))
    .getAllByRole("option")
    .map((o) => o.textContent);
  expect(titles).toEqual(["alpine carve", "alpine gates", "slalom ski", "snowboard"]);
});

it("says beside the field what the server refuses, and keeps what was typed", async () => {
  const refused = {
    error: { problem: "view_offset_deg: too far off.", fields: { view_offset_deg: "60° at the most." } },
    response: { status: 400 },
  };
  const { onOpen } = await sheet();
  vi.spyOn(client.api, "POST").mockResolvedValueOnce(refused);
  choose("Name of the run", "Lane 2");
  save();
  expect(await screen.findByText("60° at the most.")).toBeTruthy();
  expect(screen.getByLabelText<HTMLInputElement>("Name of the run").value).toBe("Lane 2");
  expect(onOpen).not.toHaveBeenCalled();
});

it("says a problem of the whole as one sentence", async () => {
  const { onOpen } = await sheet({ "POST /api/runs": new Refused("The club's room for clips is full.", 409) });
  save();
  expect((await screen.findByRole("alert")).textContent).toBe(
    "The club's room for clips is full. What you typed is kept.",
  );
  expect(onOpen).not.toHaveBeenCalled();
});

it("a clip that did not arrive is sent again to the same run, not to a second one", async () => {
  const { sent, onOpen } = await sheet();
  const sending = vi
    .spyOn(client, "sendClip")
    .mockRejectedValueOnce(new Error("The connection was lost for a minute."))
    .mockResolvedValueOnce();
  fireEvent.change(screen.getByLabelText("Clip"), { target: { files: [clip] } });
  save("Save and send");
  expect(await screen.findByText("The connection was lost for a minute.")).toBeTruthy();
  choose("Name of the run", "Lane 3");
  save("Save and send");
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  expect(sent().map((c) => c.call)).toEqual(["POST /api/runs", "PATCH /api/runs/{id}"]);
  expect(sent()[1]).toMatchObject({ params: { path: { id: 12 } }, body: { title: "Lane 3" } });
  expect(sending.mock.calls.map((c) => c[0])).toEqual([12, 12]);
});

const run = { id: 12, rider: { name: "Wren" } } as client.Run;
const chosen = (label: string, file: File) =>
  fireEvent.change(screen.getByLabelText(label), { target: { files: [file] } });

it("shows how far a clip is, waits for a lost connection, and can be stopped", async () => {
  let told: { share: (n: number) => void; waiting: (w: boolean) => void } | null = null;
  vi.spyOn(client, "sendClip").mockImplementation((_run, _file, share, waiting, signal) => {
    told = { share, waiting };
    return new Promise((_, refuse) =>
      signal.addEventListener("abort", () => refuse(new Error("Sending was stopped."))),
    );
  });
  const onOpen = vi.fn();
  show(<SendClip run={run} open onOpen={onOpen} />);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Send" }).disabled).toBe(true);
  chosen("Clip", clip);
  save("Send");
  await waitFor(() => expect(told).not.toBeNull());
  told!.share(0.42);
  expect((await screen.findByRole("progressbar", { name: "Sending" })).getAttribute("aria-valuenow")).toBe("42");
  told!.waiting(true);
  expect(await screen.findByRole("progressbar", { name: "Waiting for the connection" })).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  expect(await screen.findByText("Sending was stopped.")).toBeTruthy();
  expect(screen.queryByRole("progressbar")).toBeNull();
  expect(onOpen).not.toHaveBeenCalled();
});

it("tracks go their own way and close the dialog", async () => {
  const sending = vi.spyOn(client, "sendTracks").mockResolvedValue();
  const onOpen = vi.fn();
  show(<SendTracks run={run} open onOpen={onOpen} />);
  expect(screen.getByText(/COCO keypoints or C3D/)).toBeTruthy();
  chosen("Tracks", new File(["{}"], "tracks.json"));
  save("Send");
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  expect(sending.mock.calls[0]![0]).toBe(12);
});

it("asks for the front foot where the discipline hangs on it and the rider's is not known, and keeps it with the rider", async () => {
  const { sent } = await sheet();
  expect(screen.queryByLabelText("Foot in front")).toBeNull();
  choose("Discipline", "snowboard");
  choose("Foot in front", "goofy");
  save();
  await waitFor(() => expect(sent()).toHaveLength(2));
  expect(sent()[0]).toMatchObject({ call: "PATCH /api/riders/{id}", body: { stance: "goofy" } });
  expect(sent()[1]).toMatchObject({ call: "POST /api/runs", body: { discipline: "snowboard" } });
});

it("says beside the rope what no rope is", async () => {
  await sheet({
    "GET /api/rope": new Refused("no rope is 17 off; the nearest loops are 18.25 m (15 off) and 16 m (22 off)."),
  });
  choose("Discipline", "slalom_ski");
  choose("Rope", "17 off");
  expect(await screen.findByText(/no rope is 17 off/)).toBeTruthy();
});

it("has what was typed when the sheet is opened again, and lets it go when asked", async () => {
  await sheet();
  choose("What they are trying to do", "quieter shoulders");
  expect(screen.getByText("Not saved yet; it is kept in this browser.")).toBeTruthy();
  cleanup();
  await sheet();
  expect(screen.getByLabelText<HTMLInputElement>("What they are trying to do").value).toBe("quieter shoulders");
  fireEvent.click(screen.getByRole("button", { name: "Start again" }));
  expect(screen.getByLabelText<HTMLInputElement>("What they are trying to do").value).toBe("");
});

it("sends only what was changed of a run, with what it was", async () => {
  const calls = answering(table());
  const onOpen = vi.fn();
  const old = {
    id: 12,
    rider,
    discipline: "slalom_ski",
    title: "Pass 1",
    level: "advanced",
    intention_text: "",
    intention_faults: [],
    view: "front",
    view_offset_deg: 0,
    filmed_fps: null,
    gear: {},
    conditions: { rope_off_ft: 28, buoys: true },
  };
  show(<ChangeRun run={old as never} open onOpen={onOpen} />);
  await screen.findByRole("option", { name: "Wren · 7" });
  expect((await screen.findByLabelText<HTMLInputElement>("Rope")).value).toBe("28 off");
  choose("Filmed", "rear");
  choose("Round buoys", "no");
  save();
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  const body = calls.find((c) => c.call === "PATCH /api/runs/{id}")!.body as Record<string, unknown>;
  expect(body).toMatchObject({ view: "rear", was: { view: "front" }, conditions: { rope: "28 off", buoys: false } });
  expect(Object.keys(body).sort()).toEqual(["conditions", "view", "was"]);
});

it("goes on sending when the sheet is closed, and says where the very clip is that was refused", async () => {
  answering(table());
  let fail: (e: Error) => void = () => undefined;
  vi.spyOn(client, "sendClip").mockImplementation((_r, _f, onShare) => {
    onShare(0.4);
    return new Promise((_, reject) => (fail = reject));
  });
  const page = show(<SendClip run={run} open onOpen={vi.fn()} />);
  fireEvent.change(screen.getByLabelText("Clip"), { target: { files: [clip] } });
  save("Send");
  expect(await screen.findByRole("progressbar")).toBeTruthy();
  page.unmount();
  show(<SendClip run={run} open onOpen={vi.fn()} />);
  expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("40");
  fail(new client.Problem("This very clip is already in run 9 of Bram.", 400, {}, null, 9));
  expect((await screen.findByRole("link", { name: "Open that run" })).getAttribute("href")).toBe("/runs/9");
});

it("guesses all but the clip and the rider from the rider's last run, and leaves what was typed", async () => {
  const calls = answering(
    table({
      "GET /api/riders/{id}/usual": usual({
        discipline: "slalom_ski",
        level: "novice",
        conditions: { rope_off_ft: 28, boat_kmh: 54.7 },
        intention_text: "hold the edge",
      }),
    }),
  );
  show(<NewRun open onOpen={vi.fn()} />);
  await screen.findByRole("option", { name: "Wren · 7" });
  choose("What they are trying to do", "be early");
  choose("Rider", "3");
  await screen.findByText(/slalom ski · novice · rope 28 off · boat speed 54.7 km\/h · view as the picture shows it/);
  save();
  await waitFor(() => expect(calls.some((c) => c.call === "POST /api/runs")).toBe(true));
  expect(calls.find((c) => c.call === "POST /api/runs")!.body).toMatchObject({
    rider_id: 3,
    discipline: "slalom_ski",
    level: "novice",
    view: "",
    intention_text: "be early",
    conditions: { rope: "28 off", boat_kmh: 54.7 },
  });
});

/** A card of clips as it is chosen. */
async function card(names: string[], more: object = {}) {
  let id = 20;
  const calls = answering(table({ "POST /api/runs": () => ({ id: ++id }), ...more }));
  const onOpen = vi.fn();
  show(<NewRun open onOpen={onOpen} />);
  await screen.findByRole("option", { name: "Wren · 7" });
  const files = names.map((n) => new File(["x"], n, { type: "video/mp4" }));
  fireEvent.change(screen.getByLabelText("Clip"), { target: { files } });
  await screen.findByLabelText(`Rider of ${names[0]}`);
  return { calls, onOpen };
}

it("makes a run of each clip of a card, and says which has no rider yet", async () => {
  const sending = vi.spyOn(client, "sendClip").mockResolvedValue();
  const { calls, onOpen } = await card(["a.mp4", "b.mp4", "c.mp4"]);
  expect(screen.getByRole("button", { name: "Go" }).hasAttribute("disabled")).toBe(true);
  fireEvent.click(screen.getByRole("button", { name: "Leave c.mp4 out" }));
  choose("Rider of a.mp4", "3");
  expect(await screen.findByText("1 still without a rider")).toBeTruthy();
  choose("All of one rider:", "3");
  choose("What they are trying on b.mp4", "be early");
  await waitFor(() => expect(screen.getByRole("button", { name: "Go" }).hasAttribute("disabled")).toBe(false));
  save("Go");
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  const made = calls.filter((c) => c.call === "POST /api/runs").map((c) => c.body);
  expect(made).toHaveLength(2);
  expect(made.map((b) => (b as { intention_text: string }).intention_text).sort()).toEqual(["", "be early"]);
  expect(sending.mock.calls.map((c) => [c[0], c[1].name])).toEqual([
    [21, "a.mp4"],
    [22, "b.mp4"],
  ]);
});

it("keeps the rows that failed, uses a clip that is there already, and makes no run twice", async () => {
  const sending = vi
    .spyOn(client, "sendClip")
    .mockRejectedValueOnce(new client.Problem("This very clip is already in run 9 of Bram.", 409, {}, null, 9))
    .mockRejectedValueOnce(new Error("The connection was lost."))
    .mockResolvedValueOnce();
  const { calls, onOpen } = await card(["a.mp4", "b.mp4"], { "POST /api/runs/{id}/same_clip": { id: 21 } });
  choose("All of one rider:", "3");
  await waitFor(() => expect(screen.getByRole("button", { name: "Go" }).hasAttribute("disabled")).toBe(false));
  save("Go");
  expect(await screen.findByText("The connection was lost.")).toBeTruthy();
  fireEvent.click(await screen.findByRole("button", { name: "Use its clip here too" }));
  await screen.findByLabelText("Sent");
  expect(calls.at(-1)).toMatchObject({
    call: "POST /api/runs/{id}/same_clip",
    body: { run: 9 },
    params: { path: { id: 21 } },
  });
  save("Go");
  await waitFor(() => expect(onOpen).toHaveBeenCalledWith(false));
  expect(calls.filter((c) => c.call === "POST /api/runs")).toHaveLength(2);
  expect(sending).toHaveBeenCalledTimes(3);
  forget(21);
  forget(22);
});

it("starts from the riders that the files name, and lets one follow the file above", async () => {
  const { calls } = await card(["wren 1.mp4", "x.mp4"], {
    "POST /api/riders/named": [
      { rider: 3, by: "“wren” in the file’s name" },
      { rider: null, by: "" },
    ],
  });
  expect(await screen.findByText(/Guessed by “wren” in the file’s name/)).toBeTruthy();
  expect(screen.getByLabelText<HTMLSelectElement>("Rider of wren 1.mp4").value).toBe("3");
  expect(calls.find((c) => c.call.endsWith("/named"))?.body).toEqual({ files: ["wren 1.mp4", "x.mp4"] });
  fireEvent.click(screen.getByRole("button", { name: "x.mp4: same rider as the file above" }));
  await waitFor(() => expect(screen.getByLabelText<HTMLSelectElement>("Rider of x.mp4").value).toBe("3"));
  choose("Rider of wren 1.mp4", "4");
  expect(screen.queryByText(/Guessed by/)).toBeNull();
});
