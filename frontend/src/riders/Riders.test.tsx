// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { answering, show } from "../testing";
import { Riders } from "./Riders";

vi.mock("@tanstack/react-router", () => ({
  Link: ({ children, ...rest }: { children: React.ReactNode; "aria-label"?: string }) => (
    <a href="/there" aria-label={rest["aria-label"]}>
      {children}
    </a>
  ),
}));

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const rider = (id: number, more: object = {}) => ({
  id,
  name: `Rider ${id}`,
  number: id,
  level: "novice",
  born: 2000,
  height_cm: null,
  colours: "",
  stance: "",
  guardian_consent: false,
  agreed: {},
  consents: [],
  runs: 1,
  removed_at: null,
  ...more,
});

function server(rows: ReturnType<typeof rider>[], more: Record<string, unknown> = {}) {
  const gone = new Set<number>();
  return answering({
    ...more,
    "GET /api/riders": (_: unknown, params: { query: { removed?: boolean; offset?: number } }) => {
      const its = rows
        .filter((r) => gone.has(r.id) === !!params.query.removed)
        .map((r) => ({ ...r, removed_at: gone.has(r.id) ? "2026-11-28T10:00:00Z" : null }));
      return { results: its.slice(params.query.offset ?? 0, (params.query.offset ?? 0) + 200), count: its.length };
    },
    "DELETE /api/riders/{id}": (_: unknown, params: { path: { id: number }; query?: { for_good?: boolean } }) => {
      if (params.query?.for_good)
        rows.splice(
          rows.findIndex((r) => r.id === params.path.id),
          1,
        );
      else gone.add(params.path.id);
    },
    "POST /api/riders/{id}/restore": (_: unknown, params: { path: { id: number } }) => gone.delete(params.path.id),
  });
}

it("finds a rider beyond the first page", async () => {
  server(Array.from({ length: 450 }, (_, k) => rider(k + 1)));
  show(<Riders />);
  expect(await screen.findByText("100 of 450 riders")).toBeTruthy();
  expect(screen.queryByText("Rider 144")).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Show 100 more" }));
  expect(screen.getByText("Rider 144")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Find a rider"), {
    target: { value: "Rider 444" },
  });
  expect(await screen.findByText("Rider 444")).toBeTruthy();
});

it("removes a rider, says so, and brings them back", async () => {
  server([rider(1), rider(2)]);
  show(<Riders />);
  fireEvent.click(await screen.findByRole("button", { name: "Change Rider 2" }));
  const dialog = await screen.findByRole("dialog");
  expect(within(dialog).getByRole("link", { name: "Save everything as a file" }).getAttribute("href")).toBe(
    "/api/riders/2/export",
  );
  fireEvent.click(within(dialog).getByRole("button", { name: "Remove" }));
  expect((await screen.findByRole("status")).textContent).toContain("Rider 2 was removed, with every run.");
  await waitFor(() => expect(screen.queryByRole("button", { name: "Change Rider 2" })).toBeNull());
  fireEvent.click(screen.getByRole("button", { name: "Bring Rider 2 back" }));
  expect(await screen.findByRole("button", { name: "Change Rider 2" })).toBeTruthy();
});

it("erases for good only after asking, and shows who noted consent and when", async () => {
  const calls = server([
    rider(1, {
      guardian_consent: true,
      consents: [{ kind: "share", person: "", given: true, by: "ottilie", at: "2026-11-20T10:00:00Z" }],
    }),
  ]);
  show(<Riders />);
  fireEvent.click(await screen.findByRole("button", { name: "Change Rider 1" }));
  const dialog = await screen.findByRole("dialog");
  expect(dialog.textContent).toContain("said yes, noted by ottilie");
  fireEvent.click(within(dialog).getByRole("button", { name: "Erase for good" }));
  const sure = await screen.findByRole("dialog", { name: "Erase Rider 1 for good?" });
  expect(calls.some((c) => c.call.startsWith("DELETE"))).toBe(false);
  fireEvent.click(within(sure).getByRole("button", { name: "Erase for good" }));
  expect(await screen.findByText("No riders yet. Add the first one.")).toBeTruthy();
});

it("notes who agrees to what, and says what ends where it is taken back", async () => {
  const rows = [rider(2, { agreed: { group: true }, consents: [{ kind: "group", given: true, person: "Wren, by word", by: "ada", at: "2026-11-28T10:00:00Z" }] })]; // prettier-ignore
  const calls = server(rows, {
    "POST /api/riders/{id}/agreed": (body: { kind: string; given: boolean; person: string }) => {
      rows[0]!.agreed = { ...rows[0]!.agreed, [body.kind]: body.given };
      (rows[0]!.consents as object[]).push({ ...body, by: "ada", at: "2026-11-29T10:00:00Z" });
    },
  });
  show(<Riders />);
  fireEvent.click(await screen.findByRole("button", { name: "Change Rider 2" }));
  const dialog = within(await screen.findByRole("dialog"));
  expect(dialog.getByText(/^Wren, by word said yes, noted by ada/)).toBeTruthy();
  expect(dialog.getByText("nobody has said; clips are judged")).toBeTruthy();
  fireEvent.click(dialog.getByRole("button", { name: "No: Clips are shown to other riders" }));
  expect(dialog.getByText("Films that show them to others are shown no more.")).toBeTruthy();
  fireEvent.change(dialog.getByLabelText(/Who said no/), { target: { value: "their mother" } });
  fireEvent.click(dialog.getByRole("button", { name: "Note no" }));
  expect(await dialog.findByText(/^their mother said no/)).toBeTruthy();
  expect(calls.find((c) => c.call.endsWith("/agreed"))?.body).toEqual({
    kind: "group",
    given: false,
    person: "their mother",
  });
});
