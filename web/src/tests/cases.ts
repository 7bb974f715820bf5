/** Cases made by the core (tests/support/for_screen.py), against which the screen's own reckoning is held. */
import { readFileSync } from "node:fs";

import type { Job, Stock, XY } from "../api/model";

type Pose = { part: string; x: number; y: number; rotation: number; mirrored: boolean };
type Drawn = { d: string; place: Omit<Pose, "part"> };
export const cases = JSON.parse(readFileSync("../.stamps/for_screen.json", "utf8")) as {
  spoken: { text: string; in: string }[];
  lengths: { mm: number; shown: [string, string] }[];
  shapes: Record<string, XY[][]>;
  poses: { pair: [Pose, Pose]; gap: number }[];
  handed: {
    stock: Stock;
    spacing: number;
    lying: Pose[];
    moved: Pose;
    /** One loop of each part. */
    rings: Record<string, XY[]>;
    fits: boolean;
  }[];
  picks: { d: string; place: Omit<Pose, "part">; at: XY; nearest: XY; far: number }[];
  gaps: { one: Drawn; other: Drawn; gap: number }[];
  answers: { given: Job; full: Job }[];
};
