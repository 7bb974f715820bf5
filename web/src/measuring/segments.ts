/** Outlines as lines and arcs, as they are drawn, for measuring to the last digit. */
import type { Part, XY } from "../api/model";
import { type Place, toSheet } from "../table/collisions";

/** A line or an arc from ``a`` to ``b``; an arc has its middle, radius, first angle and sweep (radians, counter-clockwise positive). */
export type Segment = { a: XY; b: XY; arc?: { c: XY; r: number; start: number; sweep: number } };

const away = (p: XY, q: XY) => Math.hypot(p[0] - q[0], p[1] - q[1]);
export { away as distance };

/** The straight lines of a closed outline. */
export const ring = (points: XY[]): Segment[] =>
  points
    .map((a, i): Segment => ({ a, b: points[(i + 1) % points.length] }))
    .filter((s) => s.a[0] !== s.b[0] || s.a[1] !== s.b[1]);

/** A segment moved by so much. */
export function shifted(s: Segment, dx: number, dy: number): Segment {
  const to = ([x, y]: XY): XY => [x + dx, y + dy];
  return { a: to(s.a), b: to(s.b), ...(s.arc && { arc: { ...s.arc, c: to(s.arc.c) } }) };
}

/** A part's contours and features, to be measured on its drawing. */
export const partOutlines = (part: Part) =>
  [...part.contours, ...part.features].map((c) => ({
    piece: part.id,
    name: part.name,
    segments: segments(c.d),
  }));

/** The arc of a radius between two points, by the two flags of SVG path data. */
function arcOf(a: XY, b: XY, r: number, large: boolean, positive: boolean): Segment {
  const d = away(a, b),
    h = Math.sqrt(Math.max(0, r * r - (d * d) / 4)),
    side = large === positive ? -1 : 1;
  const [ux, uy] = [(b[0] - a[0]) / d, (b[1] - a[1]) / d];
  const c: XY = [(a[0] + b[0]) / 2 - side * uy * h, (a[1] + b[1]) / 2 + side * ux * h];
  const start = Math.atan2(a[1] - c[1], a[0] - c[0]);
  let sweep = Math.atan2(b[1] - c[1], b[0] - c[0]) - start;
  if (positive && sweep <= 0) sweep += 2 * Math.PI;
  if (!positive && sweep >= 0) sweep -= 2 * Math.PI;
  return { a, b, arc: { c, r, start, sweep } };
}

/** The segments of path data of the kind the server draws contours with: M, L, A and Z. */
export function segments(d: string): Segment[] {
  const out: Segment[] = [];
  let at: XY = [0, 0],
    first: XY = at;
  for (const [, kind, rest] of d.matchAll(/([MLAZ])([^MLAZ]*)/g)) {
    const n = rest.match(/-?\d+(?:\.\d+)?(?:e[-+]?\d+)?/gi)?.map(Number) ?? [];
    if (kind === "M") at = first = [n[0], n[1]];
    else if (kind === "Z") {
      if (away(at, first) > 1e-6) out.push({ a: at, b: first });
      at = first;
    } else {
      const to: XY = kind === "L" ? [n[0], n[1]] : [n[5], n[6]];
      if (kind === "A") out.push(arcOf(at, to, n[0], n[3] === 1, n[4] === 1));
      else if (away(at, to) > 1e-9) out.push({ a: at, b: to });
      at = to;
    }
  }
  return out;
}

/** A segment of a part, where one of its pieces lies. */
export function placed(s: Segment, p: Place): Segment {
  const to = (q: XY) => toSheet(q, p),
    m = p.mirrored ? -1 : 1;
  if (!s.arc) return { a: to(s.a), b: to(s.b) };
  const middle = to(s.arc.c),
    a = to(s.a);
  const start = Math.atan2(a[1] - middle[1], a[0] - middle[0]);
  return { a, b: to(s.b), arc: { c: middle, r: s.arc.r, start, sweep: m * s.arc.sweep } };
}

/** The place of a segment at a share of its length. */
export function along(s: Segment, t: number): XY {
  if (!s.arc) return [s.a[0] + (s.b[0] - s.a[0]) * t, s.a[1] + (s.b[1] - s.a[1]) * t];
  const { c, r, start, sweep } = s.arc;
  return [c[0] + r * Math.cos(start + sweep * t), c[1] + r * Math.sin(start + sweep * t)];
}

/** The place on a segment that is nearest to a point. */
export function nearestOn(s: Segment, p: XY): XY {
  if (!s.arc) {
    const dx = s.b[0] - s.a[0],
      dy = s.b[1] - s.a[1];
    const t = ((p[0] - s.a[0]) * dx + (p[1] - s.a[1]) * dy) / (dx * dx + dy * dy || 1);
    return along(s, Math.max(0, Math.min(1, t)));
  }
  const { c, start, sweep } = s.arc,
    turn = 2 * Math.PI;
  const angle = Math.atan2(p[1] - c[1], p[0] - c[0]) - start;
  const on = sweep > 0 ? ((angle % turn) + turn) % turn : -(((-angle % turn) + turn) % turn);
  if (Math.abs(on) <= Math.abs(sweep)) return along(s, on / sweep);
  return away(p, s.a) <= away(p, s.b) ? s.a : s.b;
}

/** Seeds on each of two segments from which the nearest places are walked to. */
const SEEDS = [0, 0.25, 0.5, 0.75, 1];
/** The nearest places of two segments: from several seeds, each in turn nearest to the other until they stand still. */
function nearestPair(s: Segment, t: Segment): [XY, XY] {
  const cross = crossing(s, t);
  if (cross) return [cross, cross];
  let best: [XY, XY] = [s.a, t.a];
  for (const seed of SEEDS)
    for (const [one, other, flip] of [
      [s, t, false],
      [t, s, true],
    ] as const) {
      let p = along(one, seed),
        q = nearestOn(other, p);
      for (let n = 0; n < 60; n++) {
        const next = nearestOn(one, q);
        if (away(next, p) < 1e-9) break;
        p = next;
        q = nearestOn(other, p);
      }
      if (away(p, q) < away(...best)) best = flip ? [q, p] : [p, q];
    }
  return best;
}

/** Where two segments cross, if they do: by halving where one changes sides of the other. */
function crossing(s: Segment, t: Segment): XY | null {
  if (s.arc && !t.arc) return crossing(t, s);
  const side = sideOf(s),
    n = t.arc ? 24 : 1;
  for (let i = 0; i < n; i++) {
    let [lo, hi] = [i / n, (i + 1) / n];
    const sign = Math.sign(side(along(t, lo)));
    if (sign === Math.sign(side(along(t, hi)))) continue;
    for (let k = 0; k < 60; k++) {
      const mid = (lo + hi) / 2;
      if (Math.sign(side(along(t, mid))) === sign) lo = mid;
      else hi = mid;
    }
    const p = along(t, (lo + hi) / 2);
    if (away(nearestOn(s, p), p) < 1e-6) return p;
  }
  return null;
}

const sideOf = (s: Segment) => (p: XY) =>
  s.arc
    ? away(p, s.arc.c) - s.arc.r
    : (s.b[0] - s.a[0]) * (p[1] - s.a[1]) - (s.b[1] - s.a[1]) * (p[0] - s.a[0]);

/** The least distance between two outlines, and where it is. */
export function gapBetween(one: Segment[], other: Segment[]): { from: XY; to: XY; mm: number } {
  let best: [XY, XY] = [one[0].a, other[0].a];
  const boxes = other.map(boxOf);
  for (const s of one) {
    const box = boxOf(s);
    other.forEach((t, i) => {
      if (apart(box, boxes[i]) >= away(...best)) return;
      const pair = nearestPair(s, t);
      if (away(...pair) < away(...best)) best = pair;
    });
  }
  return { from: best[0], to: best[1], mm: away(...best) };
}

type Box = [number, number, number, number];
function boxOf(s: Segment): Box {
  if (s.arc) {
    const { c, r } = s.arc;
    return [c[0] - r, c[1] - r, c[0] + r, c[1] + r];
  }
  return [
    Math.min(s.a[0], s.b[0]),
    Math.min(s.a[1], s.b[1]),
    Math.max(s.a[0], s.b[0]),
    Math.max(s.a[1], s.b[1]),
  ];
}
const apart = (a: Box, b: Box) =>
  Math.hypot(Math.max(0, a[0] - b[2], b[0] - a[2]), Math.max(0, a[1] - b[3], b[1] - a[3]));
