// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { benchOf } from "../fixtures";
import { answering, show } from "../testing";
import { KeepAsReference } from "./KeepAsReference";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it("keeps a run with whose consent it has and until when, lists what is kept, and lets it go", async () => {
  const calls = answering({
    "GET /api/references": {
      count: 1,
      results: [{ id: 3, run: 8, rider: "Bram", fault: "", consent: "in writing", until: "2020-01-01", ended: true }],
    },
    "POST /api/references": { id: 4 },
    "DELETE /api/references/{id}": null,
  });
  show(<KeepAsReference bench={benchOf({})} />);
  fireEvent.click(screen.getByRole("button", { name: "Keep as reference…" }));
  expect(await screen.findByText("Bram")).toBeTruthy();
  expect(screen.getByText(/ended on/)).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Who agreed to it"), { target: { value: "Wren, by word today" } });
  fireEvent.change(screen.getByLabelText("Until"), { target: { value: "2027-03-01" } });
  fireEvent.click(screen.getByRole("button", { name: "Keep it" }));
  await waitFor(() =>
    expect(calls.find((c) => c.call === "POST /api/references")?.body).toMatchObject({
      fault: "",
      consent: "Wren, by word today",
      until: "2027-03-01",
    }),
  );
  fireEvent.click(screen.getByRole("button", { name: "Let go" }));
  await waitFor(() => expect(calls.some((c) => c.call === "DELETE /api/references/{id}")).toBe(true));
});
