/** What the pointer snaps to while something is measured. */
import type { XY } from "../api/model";
import { along, distance, nearestOn, type Segment } from "./segments";

/** An outline that can be measured: a contour of a piece, or the sheet's edge. */
export type Outline = { piece: string | null; name: string; segments: Segment[] };
export type Snap = {
  at: XY;
  kind: "corner" | "middle" | "centre" | "edge" | "free";
  outline?: Outline;
  segment?: Segment;
};

/** Points count as this much nearer than they are: a corner is what one means beside an edge. */
const POINTS_FIRST = 0.45;

/** Radians; where an outline turns by less it goes on smoothly, and an arc of less is one of many that make up a curve. */
const SMOOTH = 0.05,
  ROUND = 0.35;

/** Does the outline turn where a segment begins? */
function isCorner(all: Segment[], i: number): boolean {
  const [before, after] = [all[(i + all.length - 1) % all.length], all[i]];
  const turn = heading(after, 0) - heading(before, 1);
  return Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn))) > SMOOTH;
}
function heading(s: Segment, t: 0 | 1): number {
  if (!s.arc) return Math.atan2(s.b[1] - s.a[1], s.b[0] - s.a[0]);
  return s.arc.start + s.arc.sweep * t + (Math.sign(s.arc.sweep) * Math.PI) / 2;
}

/** The nearest corner, middle of an edge, centre of an arc, or place on an edge, within reach (mm). */
export function snapTo(p: XY, outlines: Outline[], reach: number): Snap {
  let best: Snap = { at: p, kind: "free" },
    far = reach;
  const offer = (at: XY, kind: Snap["kind"], outline: Outline, segment: Segment) => {
    const d = distance(p, at);
    if (d > reach) return;
    const counts = kind === "edge" ? d : d * POINTS_FIRST;
    if (counts < far) {
      far = counts;
      best = { at, kind, outline, segment };
    }
  };
  for (const o of outlines)
    o.segments.forEach((s, i) => {
      const edge = nearestOn(s, p);
      const round = s.arc && distance(s.arc.c, p) <= reach;
      if (distance(edge, p) > reach && !round) return;
      const ends = [isCorner(o.segments, i), isCorner(o.segments, (i + 1) % o.segments.length)];
      offer(edge, "edge", o, s);
      if (ends[0]) offer(s.a, "corner", o, s);
      if (ends[1]) offer(s.b, "corner", o, s);
      if (!s.arc || (ends[0] && ends[1])) offer(along(s, 0.5), "middle", o, s);
      if (s.arc && Math.abs(s.arc.sweep) > ROUND) offer(s.arc.c, "centre", o, s);
    });
  return best;
}

/** What two picks come to: distance, its parts along X and Y, and the angle from X (degrees, counter-clockwise). */
export function measured(a: XY, b: XY) {
  const dx = b[0] - a[0],
    dy = b[1] - a[1];
  const angle = (Math.atan2(dy, dx) * 180) / Math.PI;
  return { mm: Math.hypot(dx, dy), dx, dy, angle: angle === -180 ? 180 : angle };
}

/** The angle between two straight edges, 0 to 90 degrees; null where one is an arc. */
export function angleBetween(s?: Segment, t?: Segment): number | null {
  if (!s || !t || s === t || s.arc || t.arc) return null;
  const way = ({ a, b }: Segment) => Math.atan2(b[1] - a[1], b[0] - a[0]);
  const turn = Math.abs((((way(s) - way(t)) * 180) / Math.PI) % 180);
  return Math.min(turn, 180 - turn);
}
