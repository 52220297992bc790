import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";

// What is waited for comes at once, or late on a busy machine.
configure({ asyncUtilTimeout: 20_000 });

// Files share one document: each test takes its own parts off the page, and what it kept in the browser.
afterEach(() => {
  cleanup();
  localStorage.clear();
});
