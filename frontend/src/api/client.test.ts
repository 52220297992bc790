import { afterEach, expect, it, vi } from "vitest";

import { need, Problem, problemOf } from "./client";

afterEach(() => vi.restoreAllMocks());
const answer = (status: number) => new Response(null, { status });

it("hands on what was answered", async () => {
  expect(await need(Promise.resolve({ data: 7, response: answer(200) }))).toBe(7);
});

it("turns a refusal into its sentence and fields", async () => {
  const refused = Promise.resolve({
    error: { problem: "Number 7 is Wren's.", fields: { number: "taken" } },
    response: answer(400),
  });
  const problem = await need(refused).catch((e: unknown) => e as Problem);
  expect(problem).toBeInstanceOf(Problem);
  expect((problem as Problem).message).toBe("Number 7 is Wren's.");
  expect((problem as Problem).fields).toEqual({ number: "taken" });
  expect((problem as Problem).status).toBe(400);
});

it("says so when the server cannot be reached", async () => {
  const gone = Promise.reject<{ data?: number; response: Response }>(new TypeError("network"));
  await expect(need(gone)).rejects.toThrow("cannot be reached");
});

it("has a plain sentence for answers that are not ours", async () => {
  expect((await problemOf(new Response("<html>", { status: 502 }))).message).toMatch(/could not answer/);
  expect((await problemOf(new Response("", { status: 413 }))).message).toMatch(/too large/);
});
