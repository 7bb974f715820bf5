import type { CutSection } from "../../api/model";

type Gap = { from: number; to: number; deepest: number };

/** Where the line runs through what was cut: from, to, and how deep at most, mm. */
export function gaps(view: Pick<CutSection, "points">): Gap[] {
  const out: Gap[] = [];
  let now: Gap | null = null;
  for (const [s, z] of view.points) {
    if (z < -1e-3) {
      now ??= { from: s, to: s, deepest: z };
      now.to = s;
      now.deepest = Math.min(now.deepest, z);
    } else if (now) {
      out.push(now);
      now = null;
    }
  }
  if (now) out.push(now);
  return out;
}
