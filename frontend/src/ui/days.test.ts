// @vitest-environment jsdom
import { expect, it } from "vitest";

import { day } from "./days";

it("names a day in the reader's own way, and never the day before or after", () => {
  expect(day("2026-12-10", "en-GB")).toMatch(/^Thursday,? 10 December 2026$/);
  expect(day("2027-01-01", "de")).toBe("Freitag, 1. Januar 2027");
  expect(day("2026-12-10")).toContain("10");
});
