/** Cases made by the core (tests/support/for_screen.py), against which the screen's own reckoning is held. */
import { readFileSync } from "node:fs";

import type { Job, XY } from "../api/model";

type Pose = { part: string; x: number; y: number; rotation: number; mirrored: boolean };
type Drawn = { d: string; place: Omit<Pose, "part"> };
export const cases = JSON.parse(readFileSync("../.stamps/for_screen.json", "utf8")) as {
  spoken: { text: string; in: string }[];
  lengths: { mm: number; shown: [string, string] }[];
  shapes: Record<string, XY[][]>;
  poses: { pair: [Pose, Pose]; gap: number }[];
  picks: { d: string; place: Omit<Pose, "part">; at: XY; nearest: XY; far: number }[];
  gaps: { one: Drawn; other: Drawn; gap: number }[];
  answers: { given: Job; full: Job }[];
};
