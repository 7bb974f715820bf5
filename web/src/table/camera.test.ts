import { expect, test } from "vitest";

import { ticks } from "./Rulers";
import { centred, type Camera, fitted, RULER, zoomed } from "./camera";
import { boxOf, type Label, roomFor } from "./labels";

const onScreen = (c: Camera, x: number, y: number) => [c.x + x * c.k, c.y - y * c.k];

test("what is fitted lies in the window beside the rulers, whatever its size", () => {
  for (const [w, h] of [
    [1220, 610],
    [2440, 1220],
    [300, 2000],
    [20, 20],
  ])
    for (const size of [
      [930, 540],
      [390, 300],
      [640, 420],
    ] as [number, number][]) {
      const c = fitted([50, 30, w, h], size);
      const [left, bottom] = onScreen(c, 50, 30),
        [right, top] = onScreen(c, 50 + w, 30 + h);
      expect(left).toBeGreaterThanOrEqual(RULER);
      expect(right).toBeLessThanOrEqual(size[0]);
      expect(top).toBeGreaterThanOrEqual(0);
      expect(bottom).toBeLessThanOrEqual(size[1] - 8);
    }
});

test("nearer and farther keep the place under the pointer", () => {
  let c = fitted([0, 0, 2440, 1220], [930, 540]);
  const at: [number, number] = [400, 300],
    under = [(at[0] - c.x) / c.k, (c.y - at[1]) / c.k];
  for (const by of [1.4, 3, 0.2, 50, 1e-6, 1e6]) {
    c = zoomed(c, by, at);
    expect((at[0] - c.x) / c.k).toBeCloseTo(under[0], 6);
    expect((c.y - at[1]) / c.k).toBeCloseTo(under[1], 6);
    expect(c.k).toBeGreaterThanOrEqual(0.02);
    expect(c.k).toBeLessThanOrEqual(40);
  }
});

test("rulers count in round figures of the unit, their marks apart", () => {
  for (const k of [0.05, 0.3, 1, 4, 20])
    for (const unit of ["mm", "in"] as const) {
      const marks = ticks(2440, k, unit);
      if (marks.length > 1 && k > 0.06) expect((marks[1] - marks[0]) * k).toBeGreaterThan(40);
      const step = (marks[1] ?? 1000) / (unit === "mm" ? 1 : 25.4);
      expect(Math.abs(step * 8 - Math.round(step * 8))).toBeLessThan(1e-9);
    }
});

test("no two names over one another, none under a key; the weightiest is there", () => {
  let seed = 7;
  const next = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let n = 0; n < 50; n++) {
    const labels: Label[] = Array.from({ length: 40 }, (_, i) => ({
      id: String(i),
      x: next() * 600,
      y: next() * 400,
      width: 20 + next() * 80,
      height: 14 + next() * 20,
      weight: next(),
    }));
    const taken: [number, number, number, number][] = [[450, 0, 600, 30]];
    const room = roomFor(labels, taken),
      shown = labels.filter((l) => room.has(l.id)).map(boxOf);
    for (const [i, a] of shown.entries())
      for (const b of [...shown.slice(i + 1), ...taken])
        expect(a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3]).toBe(false);
    expect(shown.length).toBeGreaterThan(5);
  }
});

test("a place of the table that is shown lies in the middle of the window", () => {
  const camera = centred({ on: [360, 130], k: 9 }, [900, 500]);
  expect(camera.x + 360 * camera.k).toBeCloseTo(450);
  expect(camera.y - 130 * camera.k).toBeCloseTo(250);
});
