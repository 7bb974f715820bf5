import { expect, test } from "vitest";

import { cases } from "../tests/cases";
import { distance, gapBetween, nearestOn, placed, segments } from "./segments";
import { angleBetween, measured, snapTo } from "./snap";

test("picks on outlines are where the core finds them, to a thousandth", () => {
  expect(cases.picks.length).toBe(200);
  for (const { d, place, at, nearest, far } of cases.picks) {
    const all = segments(d).map((s) => placed(s, place));
    const found = all
      .map((s) => nearestOn(s, at))
      .reduce((a, b) => (distance(a, at) <= distance(b, at) ? a : b));
    expect(Math.abs(distance(found, at) - far)).toBeLessThan(1e-3);
    expect(distance(found, nearest)).toBeLessThan(1e-3 + 2 * Math.abs(distance(nearest, at) - far));
  }
});

test("gaps between pieces are what the core measures, to a thousandth", () => {
  for (const { one, other, gap } of cases.gaps) {
    const [a, b] = [one, other].map((o) => segments(o.d).map((s) => placed(s, o.place)));
    expect(Math.abs(gapBetween(a, b).mm - gap)).toBeLessThan(1e-3);
  }
});

test("a corner is meant beside an edge, a centre where there is nothing else", () => {
  const outline = { piece: "a", name: "a", segments: segments("M0 0L100 0L100 50L0 50Z") };
  const hole = { piece: "a", name: "a", segments: segments("M60 25A10 10 0 0 1 40 25A10 10 0 0 1 60 25Z") };
  const at = (x: number, y: number) => snapTo([x, y], [outline, hole], 4);
  expect(at(1, 1)).toMatchObject({ kind: "corner", at: [0, 0] });
  expect(at(49, 1)).toMatchObject({ kind: "middle", at: [50, 0] });
  expect(at(20, 1.5)).toMatchObject({ kind: "edge", at: [20, 0] });
  expect(at(51, 24)).toMatchObject({ kind: "centre", at: [50, 25] });
  expect(at(80, 30)).toMatchObject({ kind: "free", at: [80, 30] });
});

test("a measure has its parts and its angle", () => {
  expect(measured([0, 0], [3, 4])).toMatchObject({ mm: 5, dx: 3, dy: 4 });
  expect(measured([1, 1], [0, 1]).angle).toBe(180);
  const [s, t, u] = segments("M0 0L10 0L10 10L0 0Z");
  expect(angleBetween(s, t)).toBeCloseTo(90);
  expect(angleBetween(s, u)).toBeCloseTo(45);
  expect(angleBetween(s, s)).toBeNull();
});
