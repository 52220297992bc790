import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";

import type { Schemas } from "../api/client";
import type { FrameSource } from "../video/frames";
import { CameraMarks } from "./CameraMarks";
import type { Footage } from "./types";
import { People } from "./People";
import { Plans } from "./Plans";
import { Verdicts } from "./Verdicts";

afterEach(cleanup);
beforeAll(() => {
  HTMLCanvasElement.prototype.getContext = (() => ({ drawImage: () => undefined })) as never;
  // The picture on the page is half as large as the clip's.
  SVGElement.prototype.getBoundingClientRect = () => ({
    left: 0,
    top: 0,
    width: 640,
    height: 360,
    right: 640,
    bottom: 360,
    x: 0,
    y: 0,
    toJSON: () => "",
  });
});

const source = { frame: () => Promise.resolve(document.createElement("canvas")) } as unknown as FrameSource;
const person = (frame: number) => ({ frame, box: [100, 100, 200, 300], share: 0.9 });
const footage = {
  run: { id: 4, rider: { name: "Wren" }, clip: { width: 1280, height: 720, play_width: 1280, play_height: 720 } },
  t: Array.from({ length: 101 }, (_, i) => i / 60),
  people: [person(10), person(12)],
  chosen: 0,
  camera: {},
  fall_words: "The fall of the body in the air gives 183 ± 9 pixels a metre.",
  camera_words: { level: "level by the horizon, turned by 2.0°" },
  plans: [
    { view: "side_left", words: ["Stand 12 m from the rider."], shows: ["Knee flexion"] },
    { view: "front", words: ["Stand below the run."], shows: ["Lean"] },
  ],
  measures: [{ id: "knee_flex", title: "Knee flexion" }],
} as unknown as Footage;

it("shows each verdict with what it hides, and what to do next time where it is not good", () => {
  const verdicts = [
    {
      id: "sharp",
      title: "Sharpness",
      grade: "good",
      words: "The rider is sharp.",
      hides: "",
      next_time: "Keep it so.",
    },
    {
      id: "rate",
      title: "Rate",
      grade: "poor",
      words: "24 frames a second.",
      hides: "Times are read to ±0.02 s only.",
      next_time: "Film at 120.",
    },
  ] as Schemas["Verdict"][];
  render(<Verdicts verdicts={verdicts} />);
  // What is wanting comes first; what is good is one line, to be opened.
  const rate = screen.getByText("Rate").closest("li");
  const sharp = screen.getByText("Sharpness").closest("li");
  expect(rate!.compareDocumentPosition(sharp!)).toBe(Node.DOCUMENT_POSITION_FOLLOWING);
  expect(sharp!.closest("details")!.querySelector("summary")!.textContent).toContain("Good: sharpness");
  expect(sharp!.textContent).not.toContain("Keep it so");
  expect(rate!.textContent).toContain("poor");
  expect(rate!.textContent).toContain("±0.02 s only");
  expect(rate!.textContent).toContain("Next time: Film at 120.");
});

it("asks which of several people is the rider, and follows another when told", () => {
  const choose = vi.fn();
  render(<People footage={footage} source={source} busy={false} onChoose={choose} />);
  expect(screen.getByRole("heading").textContent).toBe("Which of them is Wren?");
  expect(screen.getAllByRole("img")).toHaveLength(2);
  expect(screen.queryByRole("button", { name: "Follow person 1" })).toBeNull();
  screen.getByRole("button", { name: "Follow person 2" }).click();
  expect(choose).toHaveBeenCalledWith(1);
});

it("asks nothing where only one person is in the picture", () => {
  const { container } = render(
    <People footage={{ ...footage, people: [footage.people[0]!] }} source={source} busy={false} onChoose={vi.fn()} />,
  );
  expect(container.textContent).toBe("");
});

it("a picture that cannot be shown breaks nothing", async () => {
  const broken = { frame: () => Promise.reject(new Error("gone")) } as unknown as FrameSource;
  render(<People footage={footage} source={broken} busy={false} onChoose={vi.fn()} />);
  await Promise.resolve();
  expect(screen.getByRole("button", { name: "Follow person 2" })).toBeTruthy();
});

const plans = () =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Plans footage={footage} />
    </QueryClientProvider>,
  );

it("lists where to stand, the best place first, with what it shows", () => {
  plans();
  const [first, second] = within(screen.getByRole("region", { name: "How to film next time" })).getAllByText(
    /^\d\. From the/,
  );
  expect(first!.textContent).toBe("1. From the rider’s left");
  expect(second!.textContent).toBe("2. From the front");
  expect(screen.getByText("Stand 12 m from the rider.")).toBeTruthy();
  expect(screen.getByText("Shows knee flexion.")).toBeTruthy();
});

it("keeps the plan on screen when the one for chosen measures cannot be had, and says so", async () => {
  vi.stubGlobal("fetch", () => Promise.reject(new Error("gone")));
  plans();
  fireEvent.click(screen.getByRole("button", { name: "Knee flexion", hidden: true }));
  expect((await screen.findByRole("alert")).textContent).not.toBe("");
  expect(screen.getByText("Stand 12 m from the rider.")).toBeTruthy();
});

function camera() {
  const [save, point] = [vi.fn<Parameters<typeof CameraMarks>[0]["onSave"]>(), vi.fn()];
  render(<CameraMarks footage={footage} source={source} busy={false} onSave={save} onPoint={point} />);
  const picture = screen.getByRole("application");
  return { save, point, press: (x: number, y: number) => fireEvent.pointerDown(picture, { clientX: x, clientY: y }) };
}
it("marks by the keyboard too: arrows move a cross, Enter marks, Backspace takes back", () => {
  const { save } = camera();
  const picture = screen.getByRole("application");
  const key = (key: string, more = {}) => fireEvent.keyDown(picture, { key, ...more });
  key("ArrowLeft", { shiftKey: true });
  key("Enter");
  key("ArrowRight");
  key("Enter");
  key("Backspace");
  expect(saving().disabled).toBe(true);
  key("ArrowUp", { altKey: true });
  key("Enter");
  saving().click();
  expect(save).toHaveBeenCalledWith({
    level: {
      by: "horizon",
      frame: 50,
      points: [
        [620, 360],
        [625, 359],
      ],
    },
  });
});

const saving = () => screen.getByRole<HTMLButtonElement>("button", { name: "Save the mark" });

it("a horizon is two presses, saved in the clip's own pixels", () => {
  const { save, press } = camera();
  expect(saving().disabled).toBe(true);
  press(50, 180);
  expect(saving().disabled).toBe(true);
  press(600, 190);
  saving().click();
  expect(save).toHaveBeenCalledWith({
    level: {
      by: "horizon",
      frame: 50,
      points: [
        [100, 360],
        [1200, 380],
      ],
    },
  });
});

it("a third press begins the line again", () => {
  const { save, press } = camera();
  for (const [x, y] of [
    [10, 10],
    [600, 20],
    [30, 40],
    [500, 60],
  ] as const)
    press(x, y);
  saving().click();
  expect(save.mock.calls[0]![0].level?.points).toEqual([
    [60, 80],
    [1000, 120],
  ]);
});

it("a known length needs its metres, with a comma or a point", () => {
  const { save, press } = camera();
  fireEvent.click(screen.getByRole("button", { name: "Known length" }));
  press(10, 10);
  press(20, 10);
  expect(saving().disabled).toBe(true);
  const metres = screen.getByLabelText("Metres");
  fireEvent.change(metres, { target: { value: "zero" } });
  expect(saving().disabled).toBe(true);
  fireEvent.change(metres, { target: { value: "1,9" } });
  saving().click();
  expect(save).toHaveBeenCalledWith({
    scale: {
      frame: 50,
      points: [
        [20, 20],
        [40, 20],
      ],
      metres: 1.9,
    },
  });
});

it("straight things take three points and more, and several of them", () => {
  const { save, press } = camera();
  fireEvent.click(screen.getByRole("button", { name: "Straight things" }));
  press(10, 10);
  press(20, 11);
  expect(saving().disabled).toBe(true);
  press(30, 10);
  expect(saving().disabled).toBe(false);
  fireEvent.click(screen.getByRole("button", { name: "Next line" }));
  press(10, 300);
  expect(saving().disabled).toBe(true); // a line of one point is not one
  press(20, 301);
  press(30, 300);
  saving().click();
  expect(save.mock.calls[0]![0].lens?.lines).toHaveLength(2);
});

it("tells what is marked already, and takes it back", () => {
  const { save } = camera();
  expect(screen.getByText(/turned by 2\.0°/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: /take back/i }));
  expect(save).toHaveBeenCalledWith({ level: null });
});

it("offers the scale that the fall in the air gives, and only where there is one", () => {
  const { save } = camera();
  expect(screen.getByText(/183 ± 9 pixels a metre/)).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Use it as the scale" }));
  expect(save).toHaveBeenCalledWith({ scale: { by: "fall" } });
  cleanup();
  render(
    <CameraMarks
      footage={{ ...footage, fall_words: "" }}
      source={source}
      busy={false}
      onSave={save}
      onPoint={vi.fn()}
    />,
  );
  expect(screen.queryByRole("button", { name: "Use it as the scale" })).toBeNull();
});

it("a rider whom the search missed is pointed at, head first", () => {
  const { save, point, press } = camera();
  fireEvent.click(screen.getByRole("button", { name: "The rider" }));
  const follow = () => screen.getByRole<HTMLButtonElement>("button", { name: "Follow them" });
  press(300, 100);
  expect(follow().disabled).toBe(true);
  press(305, 250);
  follow().click();
  expect(point).toHaveBeenCalledWith({ frame: 50, head: [600, 200], feet: [610, 500] });
  expect(save).not.toHaveBeenCalled();
});

it("head and feet are of one frame: another frame begins the mark again", () => {
  const { press } = camera();
  fireEvent.click(screen.getByRole("button", { name: "The rider" }));
  press(300, 100);
  fireEvent.change(screen.getByRole("slider"), { target: { value: "60" } });
  press(305, 250);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Follow them" }).disabled).toBe(true);
});

it("a rectangle on the ice is four corners and two sides, and only where a trace is read", () => {
  const save = vi.fn();
  render(
    <CameraMarks footage={{ ...footage, on_ice: true }} source={source} busy={false} onSave={save} onPoint={vi.fn()} />,
  );
  fireEvent.click(screen.getByRole("button", { name: "Rectangle on the ice" }));
  const picture = screen.getByRole("application");
  const corners = [
    [100, 200],
    [400, 210],
    [380, 120],
    [120, 100],
  ] as const;
  for (const [x, y] of corners) fireEvent.pointerDown(picture, { clientX: x, clientY: y });
  expect(saving().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("First side, metres"), { target: { value: "3" } });
  expect(saving().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("Next side, metres"), { target: { value: "1,5" } });
  saving().click();
  expect(save).toHaveBeenCalledWith({
    plane: { frame: 50, points: corners.map(([x, y]) => [2 * x, 2 * y]), sides_m: [3, 1.5] },
  });
  cleanup();
  camera();
  expect(screen.queryByRole("button", { name: "Rectangle on the ice" })).toBeNull();
});

it("starting again forgets what was pressed", () => {
  const { press } = camera();
  press(10, 10);
  press(600, 20);
  fireEvent.click(screen.getByRole("button", { name: "Start again" }));
  expect(saving().disabled).toBe(true);
});
