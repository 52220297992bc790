import { act, renderHook } from "@testing-library/react";
import { expect, it } from "vitest";

import { usePlayer } from "./usePlayer";

const times = Array.from({ length: 11 }, (_, i) => i / 10);

it("steps by frames and stays inside the clip", () => {
  const { result } = renderHook(() => usePlayer(times));
  act(() => result.current.step(1));
  act(() => result.current.step(1));
  expect(result.current.frame).toBe(2);
  act(() => result.current.step(-10));
  expect(result.current.frame).toBe(0);
  act(() => result.current.step(99));
  expect(result.current.frame).toBe(10);
});

it("jumps to a frame, never past either end", () => {
  const { result } = renderHook(() => usePlayer(times));
  act(() => result.current.go(7));
  expect(result.current.frame).toBe(7);
  act(() => result.current.go(400));
  expect(result.current.frame).toBe(10);
  act(() => result.current.go(-1));
  expect(result.current.frame).toBe(0);
});
