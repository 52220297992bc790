// @vitest-environment jsdom
import { act, renderHook, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";

import { useInOrder } from "./useInOrder";

it("does what was asked one after the other, however fast it was asked", async () => {
  const done: string[] = [];
  const hook = renderHook(() =>
    useInOrder(async (what: string) => {
      await new Promise((r) => setTimeout(r, what === "slow" ? 30 : 1));
      done.push(what);
    }),
  );
  act(() => {
    hook.result.current.add("slow");
    hook.result.current.add("quick");
  });
  expect(hook.result.current.waiting).toEqual(["slow", "quick"]);
  await waitFor(() => expect(hook.result.current.waiting).toEqual([]));
  expect(done).toEqual(["slow", "quick"]);
});

it("keeps what could not be done with its reason, goes on with the rest, and tries again when asked", async () => {
  let broken = true;
  const done: number[] = [];
  const hook = renderHook(() =>
    useInOrder((what: number) =>
      broken && what === 1 ? Promise.reject(new Error("no answer")) : Promise.resolve(done.push(what)),
    ),
  );
  act(() => [1, 2].forEach(hook.result.current.add));
  await waitFor(() => expect(done).toEqual([2]));
  expect(hook.result.current.failed.map((f) => [f.what, f.error.message])).toEqual([[1, "no answer"]]);
  broken = false;
  act(() => hook.result.current.again());
  await waitFor(() => expect(done).toEqual([2, 1]));
  expect(hook.result.current.failed).toEqual([]);
});
