import { expect, it } from "vitest";

import { clock, joined, named, people, ridden, rowsOf, seconds, split, type Go } from "./goes";

const go = (id: number, from_s: number, to_s: number, who = 1, rider: number | null = null, tall = 100): Go => ({
  id,
  from_s,
  to_s,
  who,
  rider,
  left_out: false,
  at_s: from_s,
  box: [0, 0, 50, tall],
  run: null,
});
const three = [go(1, 0, 4, 1, 7), go(2, 5, 9, 2), go(3, 10, 14, 1, null, 300)];

it("joins a go with the next, and splits one where it is told", () => {
  const one = joined(rowsOf(three), 0);
  expect(one.map((r) => [r.id, r.from_s, r.to_s, r.rider])).toEqual([
    [1, 0, 9, 7],
    [3, 10, 14, null],
  ]);
  expect(split(one, 0, 5)!.map((r) => [r.id, r.from_s, r.to_s])).toEqual([
    [1, 0, 5],
    [null, 5, 9],
    [3, 10, 14],
  ]);
  expect(split(one, 0, 0.2)).toBeNull();
  expect(split(one, 0, 8.8)).toBeNull();
});

it("gives a go that is put down to somebody the name that goes with their looks", () => {
  expect(ridden(rowsOf(three), 1, 1)[1]).toMatchObject({ who: 1, rider: 7 });
  // Nobody of those looks has a name yet: the row keeps its own.
  expect(ridden(rowsOf(three), 0, 2)[0]).toMatchObject({ who: 2, rider: 7 });
  expect(named(rowsOf(three), 1, 9).map((r) => r.rider)).toEqual([9, null, 9]);
});

it("shows each person by their largest picture", () => {
  expect(people(three).map((p) => [p.who, p.goes, p.shown.id])).toEqual([
    [1, 2, 3],
    [2, 1, 2],
  ]);
});

it("writes and reads times as a clock shows them", () => {
  expect([clock(0), clock(9.96), clock(62.54), clock(600)]).toEqual(["0:00.0", "0:10.0", "1:02.5", "10:00.0"]);
  expect(["1:02.5", "62.5 s", "62,5", "x", "", "1:"].map(seconds)).toEqual([62.5, 62.5, 62.5, null, null, null]);
});
