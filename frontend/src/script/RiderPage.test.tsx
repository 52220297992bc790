// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../api/client";
import { prescriptionOf } from "../fixtures";
import { show } from "../testing";
import { RiderPage } from "./RiderPage";

afterEach(cleanup);

const drill = {
  id: "drawer", fault: "hip_out", title: "Close the drawer", sign: "the belt buckle leads", worse_first: null,
  steps: [{ stage: "still" as const, text: "Stand and push", dose: "10 times" }, { stage: "slow" as const, text: "On the flat", dose: "4 runs" }],
}; // prettier-ignore
const main = {
  fault: "hip_out", side: "both", verdict: "clear" as const, title: "The hips stay outside", why: "In 5 of 6 turns.", cue: "Hip in",
  by: "software" as const,
}; // prettier-ignore

const page = (more: Partial<Schemas["Shared"]> = {}): Schemas["Shared"] => ({
  rider: "Wren", coach: "Ottilie", club: "Lanternfell", approved_at: "2026-11-20T10:00:00Z", discipline: "alpine_carve",
  prescription: prescriptionOf({ main, drills: [drill] }), nothing_words: "", titles: {}, targets: ["Hip: at least 0.1"], message: "",
  retest_on: "2026-12-04", pictures: [], since: [], figure: null, version: 1, film: null, ticks: [], lines: [], others: [], lessons: [],
  begins: {}, closing: [], clips_back: [], ...more,
}); // prettier-ignore

it("puts the film first, with its captions, and says so while it is being made", () => {
  const film = { state: "ready", url: "/api/shared/t/film", captions: "/api/shared/t/captions" };
  const { container, unmount } = show(<RiderPage page={page({ film })} base="/api/shared/t" />);
  const video = container.querySelector("video")!;
  expect(video.querySelector("track")?.getAttribute("src")).toBe("/api/shared/t/captions");
  const cue = screen.getByText("Hip in");
  expect(video.compareDocumentPosition(cue) & Node.DOCUMENT_POSITION_FOLLOWING).toBeTruthy();
  unmount();
  show(<RiderPage page={page({ film: { ...film, url: null, state: "working" } })} />);
  expect(screen.getByText(/still being made/)).toBeTruthy();
});

it("lets the reader tick what is done, and shows what was", () => {
  const tick = vi.fn();
  show(<RiderPage page={page({ ticks: [{ drill: "drawer", step: 1, at: "2026-11-21T10:00:00Z" }] })} onTick={tick} />);
  const boxes = screen.getAllByRole<HTMLInputElement>("checkbox");
  expect(boxes.map((b) => b.checked)).toEqual([false, true]);
  fireEvent.click(boxes[0]!);
  expect(tick).toHaveBeenCalledWith("drawer", 0, true);
});

it("sends a line back, and keeps what was typed where that fails", async () => {
  const send = vi.fn().mockRejectedValueOnce(new Error("No connection.")).mockResolvedValue(undefined);
  show(<RiderPage page={page()} onLine={send} />);
  const box = screen.getByLabelText<HTMLInputElement>("Your line");
  fireEvent.change(box, { target: { value: " It clicked " } });
  fireEvent.click(screen.getByRole("button", { name: "Send" }));
  expect((await screen.findByRole("alert")).textContent).toMatch(/No connection\. What you wrote is still here/);
  expect(box.value).toBe(" It clicked ");
  fireEvent.click(screen.getByRole("button", { name: "Send" }));
  expect(await screen.findByText("Sent.")).toBeTruthy();
  expect(send).toHaveBeenLastCalledWith("It clicked");
});

it("offers paper and calendar on the page itself, not in a preview, and says that it was changed", () => {
  const { unmount } = show(<RiderPage page={page({ version: 2 })} base="/api/shared/t" />);
  expect(screen.getByText("Into my calendar").getAttribute("href")).toBe("/api/shared/t/calendar");
  expect(screen.getByText(/changed since it was first sent/)).toBeTruthy();
  unmount();
  show(<RiderPage page={page()} />);
  expect(screen.queryByText("Into my calendar")).toBeNull();
  expect(screen.queryByLabelText("Your line")).toBeNull();
});

it("shows what comes after, lessons, the club's words, and where a ladder goes on", () => {
  const others = [{ fault: "banking", title: "Leaning in", cue: "Hips over the ski." }];
  const lessons = [{ fault: "skid", title: "Skids", url: "/api/shared/t/lessons/skid" }];
  show(<RiderPage page={page({ others, lessons, closing: ["See you."], begins: { drawer: 1 } })} />);
  expect(screen.getByText("Hips over the ski.", { exact: false })).toBeTruthy();
  expect(screen.getByRole("link", { name: "Skids (PDF)" }).getAttribute("href")).toBe(lessons[0]!.url);
  expect(screen.getByText("See you.")).toBeTruthy();
  expect(screen.getByText(/On the flat/).textContent).toContain("Begin here.");
});

it("sends a clip back, shows how far it is, and what went wrong", async () => {
  const clips_back = [{ run: 5, name: "old.mp4", at: "2026-11-21T10:00:00Z", state: "unreadable" as const, problem: "It holds no pictures." }]; // prettier-ignore
  let fail: (e: Error) => void = () => undefined;
  const onClip = vi.fn((_: File, onShare: (n: number, w: boolean) => void) => {
    onShare(0.42, true);
    return new Promise<void>((_ok, no) => {
      fail = no;
    });
  });
  show(<RiderPage page={page({ clips_back })} onClip={onClip} />);
  expect(screen.getByText(/old.mp4 has arrived, but cannot be judged: It holds no pictures/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Your clip"), { target: { files: [new File(["x"], "new.mp4")] } });
  expect(screen.getByText("waiting for the connection")).toBeTruthy();
  fail(new Error("Stopped."));
  expect(await screen.findByText("Stopped.")).toBeTruthy();
  expect(screen.getByLabelText("Your clip")).toBeTruthy();
});
