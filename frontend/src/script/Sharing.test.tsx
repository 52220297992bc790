// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { scriptOf } from "../fixtures";
import { answering, Refused, show } from "../testing";
import { Sharing } from "./Sharing";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const share = { token: "t", path: "/s/t", made: "2026-11-20T10:00:00Z", expires: "2027-01-20T10:00:00Z", seen: 0, seen_at: null }; // prettier-ignore
const approved = { approved_at: "2026-11-20T10:00:00Z", share };

it("says whether the page was opened, what is ticked, and what the rider wrote", () => {
  const { unmount } = show(<Sharing run={9} script={scriptOf(approved)} onDo={vi.fn()} busy={false} />);
  expect(screen.getByText("Not opened yet.")).toBeTruthy();
  unmount();
  const read = scriptOf({
    ...approved,
    share: { ...share, seen: 3, seen_at: "2026-11-22T10:00:00Z" },
    ticks: [{ drill: "d", step: 0, at: "2026-11-22T10:00:00Z" }],
    lines: [{ text: "It clicked!", at: "2026-11-22T10:00:00Z" }],
  });
  show(<Sharing run={9} script={read} onDo={vi.fn()} busy={false} />);
  expect(screen.getByText(/Opened 3 times.*One step of the ladder ticked/)).toBeTruthy();
  expect(screen.getByText(/It clicked!/)).toBeTruthy();
});

it("mails the link, and says where nothing left because no server is set", async () => {
  const mails = [{ to: "wren@example.org", subject: "Your run", text: "Hello Wren", at: "2026-11-20T11:00:00Z", left: false }]; // prettier-ignore
  const calls = answering({ "POST /api/runs/{run}/script/mail": scriptOf({ ...approved, mails }) });
  show(<Sharing run={9} script={scriptOf(approved)} onDo={vi.fn()} busy={false} />);
  fireEvent.change(screen.getByLabelText("Mail address"), { target: { value: "wren@example.org" } });
  fireEvent.click(screen.getByRole("button", { name: "Send by mail" }));
  await vi.waitFor(() => expect(calls[0]?.body).toEqual({ to: "wren@example.org" }));
  cleanup();
  show(<Sharing run={9} script={scriptOf({ ...approved, mails })} onDo={vi.fn()} busy={false} />);
  expect(screen.getByText(/Not sent to wren@example\.org: no mail server is set here/)).toBeTruthy();
});

it("says what a mail server refused, and keeps the address", async () => {
  answering({ "POST /api/runs/{run}/script/mail": new Refused("The mail server did not take it.", 409) });
  show(<Sharing run={9} script={scriptOf(approved)} onDo={vi.fn()} busy={false} />);
  const box = screen.getByLabelText<HTMLInputElement>("Mail address");
  fireEvent.change(box, { target: { value: "wren@example.org" } });
  fireEvent.click(screen.getByRole("button", { name: "Send by mail" }));
  expect((await screen.findByRole("alert")).textContent).toMatch(/did not take it/);
  expect(box.value).toBe("wren@example.org");
});
