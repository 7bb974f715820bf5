import { describe, expect, test } from "vitest";

import { inShop, path, reach, type Row, said, valueAt } from "./load";

const row = (of: Row["of"], values: (number | null)[], limits: Row["limits"] = []): Row => ({
  of,
  values,
  limits,
});
const limit = (least: number | null, most: number | null, begins = 0, ends = 100) => ({
  begins,
  ends,
  least,
  most,
});

describe("the strip of load", () => {
  test("steps where something is cut, with gaps between", () => {
    const d = path(
      row("power", [1, 2, null, 3]),
      4,
      (t) => t * 10,
      (v) => 10 - v,
      10,
    );
    expect(d).toBe("M0.0 10V9.0H10.0V8.0H20.0V10M30.0 10V7.0H40.0V10");
  });
  test("reaches as high as its values, and to a limit a little over them", () => {
    expect(reach(row("power", [null, 100], [limit(null, 140)]))).toBeCloseTo(147);
    expect(reach(row("power", [null, 100], [limit(null, 4000)]))).toBeCloseTo(105);
    expect(reach(row("feed", [0.2, 0.9]))).toBe(1);
    expect(reach(row("chip", [null, null]))).toBe(1);
  });
  test("is told at a moment and as a whole, in the shop's unit", () => {
    const chip = row("chip", [0.1, null, 0.3, 0.2], [limit(0.08, 0.25)]);
    expect(said(chip, null, null, "mm")).toBe("at most 0.3 mm; its window 0.08 mm to 0.25 mm");
    expect(said(chip, valueAt(chip, 99, 100), 99, "mm")).toBe("0.2 mm here; its window 0.08 mm to 0.25 mm");
    expect(said(chip, valueAt(chip, 30, 100), 30, "mm")).toBe("nothing is cut here");
    expect(said(row("feed", [0.5, 1]), null, null, "mm")).toBe("least 50 %, 75 % on the mean");
    expect(said(row("bend", [null]), null, null, "mm")).toBe("nothing is cut");
    expect(inShop("removal", 1000, "mm")).toBe("60.0 cm³/min");
    expect(inShop("removal", 1000, "in")).toBe("3.66 in³/min");
    expect(inShop("power", 640, "in")).toBe("0.64 kW");
  });
});
