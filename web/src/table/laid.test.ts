import { expect, test } from "vitest";

import { boxOnTable, onSheet, onTable } from "./laid";

test("sheet to table and back is the same place, and a turn is counter-clockwise about the corner", () => {
  for (const turn of [0, 0.57, -3, 20])
    for (const p of [
      [0, 0],
      [600, 0],
      [123, 456],
    ] as [number, number][]) {
      const laid = { sheet_at: [130, 70] as [number, number], turn };
      const back = onSheet(onTable(p, laid), laid);
      expect(back[0]).toBeCloseTo(p[0], 9);
      expect(back[1]).toBeCloseTo(p[1], 9);
    }
  expect(onTable([1000, 0], { sheet_at: [0, 0], turn: 90 })[1]).toBeCloseTo(1000);
});

test("the box of a turned sheet holds its corners", () => {
  const [x, y, w, h] = boxOnTable(600, 400, { sheet_at: [100, 100], turn: 30 });
  expect(x).toBeCloseTo(100 - 200);
  expect(y).toBeCloseTo(100);
  expect(w).toBeCloseTo(600 * Math.cos(Math.PI / 6) + 200);
  expect(h).toBeCloseTo(300 + 400 * Math.cos(Math.PI / 6));
});
