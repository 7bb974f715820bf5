import type { Unit } from "../../shared/lengths";

const STEPS = {
  mm: [0.5, 1, 2, 5, 10, 20],
  in: [0.79375, 1.5875, 3.175, 6.35, 12.7, 25.4],
};
const LINES = 6;

/** Depth from line to line of the picture, mm: the least round one with at most six through the sheet. */
export const lineStep = (thickness: number, unit: Unit) =>
  STEPS[unit].find((s) => thickness / s <= LINES + 1e-6) ?? STEPS[unit].at(-1)!;
