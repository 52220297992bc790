import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

// Files share one document: each test takes its own parts off the page, and what it kept in the browser.
afterEach(() => {
  cleanup();
  localStorage.clear();
});
