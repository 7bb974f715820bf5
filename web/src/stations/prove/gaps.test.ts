import { describe, expect, test } from "vitest";

import { gaps } from "./gaps";
import { lineStep } from "./lineStep";

describe("a section", () => {
  test("tells where it runs through cuts, and how deep", () => {
    const points: [number, number][] = [
      [0, 0],
      [10, 0],
      [10.1, -5],
      [16, -5],
      [16.1, 0],
      [30, 0],
      [30.1, -3],
      [33, -18],
      [36, -18],
      [36.1, 0],
      [50, 0],
    ];
    expect(gaps({ points })).toEqual([
      { from: 10.1, to: 16, deepest: -5 },
      { from: 30.1, to: 36, deepest: -18 },
    ]);
  });
  test("may begin and end in a cut, or meet none", () => {
    expect(
      gaps({
        points: [
          [0, -2],
          [4, -2],
          [4.1, 0],
          [9, 0],
          [9.1, -1],
          [12, -1],
        ],
      }),
    ).toEqual([
      { from: 0, to: 4, deepest: -2 },
      { from: 9.1, to: 12, deepest: -1 },
    ]);
    expect(
      gaps({
        points: [
          [0, 0],
          [12, 0],
        ],
      }),
    ).toEqual([]);
  });
});

test("depth lines are round in the shop's unit, at most six through a sheet", () => {
  expect([2, 6, 17.6, 18, 40, 300].map((t) => lineStep(t, "mm"))).toEqual([0.5, 1, 5, 5, 10, 20]);
  expect([0.25, 0.5, 0.75].map((t) => lineStep(t * 25.4, "in") / 25.4)).toEqual([1 / 16, 1 / 8, 1 / 8]);
});
