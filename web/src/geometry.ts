/** Predictions for the hand: how near two pieces are, where a point lies in a part's frame. The server judges on drop. */
import type { Part, Piece, Stock, XY } from "./model";

type Place = Pick<Piece, "x" | "y" | "rotation" | "mirrored">;

const turn = (degrees: number) => { const w = (degrees * Math.PI) / 180; return [Math.cos(w), Math.sin(w)] as const; };

export function toSheet([x, y]: XY, p: Place): XY {
  const [c, s] = turn(p.rotation), mx = p.mirrored ? -x : x;
  return [c * mx - s * y + p.x, s * mx + c * y + p.y];
}

export function toPart([x, y]: XY, p: Place): XY {
  const [c, s] = turn(-p.rotation), dx = x - p.x, dy = y - p.y, mx = c * dx - s * dy;
  return [p.mirrored ? -mx : mx, s * dx + c * dy];
}

export type Solid = { rings: XY[][]; box: [number, number, number, number] };

export function solid(part: Part, place: Place): Solid {
  const rings = part.rings.map((r) => r.map((p) => toSheet(p, place)));
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of rings[0]) { x0 = Math.min(x0, x); y0 = Math.min(y0, y); x1 = Math.max(x1, x); y1 = Math.max(y1, y); }
  return { rings, box: [x0, y0, x1, y1] };
}

function inside([x, y]: XY, rings: XY[][]): boolean {
  let odd = false;
  for (const r of rings)
    for (let i = 0, j = r.length - 1; i < r.length; j = i++)
      if (r[i][1] > y !== r[j][1] > y && x < ((r[j][0] - r[i][0]) * (y - r[i][1])) / (r[j][1] - r[i][1]) + r[i][0]) odd = !odd;
  return odd;
}

function pointToSegment(px: number, py: number, a: XY, b: XY): number {
  const dx = b[0] - a[0], dy = b[1] - a[1], n = dx * dx + dy * dy;
  const t = n ? Math.max(0, Math.min(1, ((px - a[0]) * dx + (py - a[1]) * dy) / n)) : 0;
  return Math.hypot(px - a[0] - t * dx, py - a[1] - t * dy);
}

const cross = (a: XY, b: XY, c: XY) => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

/** Distance between two pieces in mm; 0 where they overlap. Stops looking beyond ``reach``. */
export function gap(a: Solid, b: Solid, reach: number): number {
  if (a.box[0] - reach > b.box[2] || b.box[0] - reach > a.box[2] || a.box[1] - reach > b.box[3] || b.box[1] - reach > a.box[3]) return Infinity;
  if (inside(a.rings[0][0], b.rings) || inside(b.rings[0][0], a.rings)) return 0;
  let best = Infinity;
  for (const ra of a.rings) for (let i = 0; i < ra.length; i++) {
    const p = ra[i], q = ra[(i + 1) % ra.length];
    const lo0 = Math.min(p[0], q[0]) - reach, hi0 = Math.max(p[0], q[0]) + reach, lo1 = Math.min(p[1], q[1]) - reach, hi1 = Math.max(p[1], q[1]) + reach;
    if (hi0 < b.box[0] || lo0 > b.box[2] || hi1 < b.box[1] || lo1 > b.box[3]) continue;
    for (const rb of b.rings) for (let j = 0; j < rb.length; j++) {
      const r = rb[j], s = rb[(j + 1) % rb.length];
      if (Math.max(r[0], s[0]) < lo0 || Math.min(r[0], s[0]) > hi0 || Math.max(r[1], s[1]) < lo1 || Math.min(r[1], s[1]) > hi1) continue;
      if (cross(p, q, r) * cross(p, q, s) < 0 && cross(r, s, p) * cross(r, s, q) < 0) return 0;
      best = Math.min(best, pointToSegment(p[0], p[1], r, s), pointToSegment(r[0], r[1], p, q));
    }
  }
  return best;
}

export type Trouble = { text: string } | null;

/** What is wrong with a piece at a place, in words with the number; null if nothing is. */
export function trouble(part: Part, place: Piece, others: Piece[], parts: Map<string, Part>, stock: Stock, spacing: number): Trouble {
  const own = solid(part, place), m = stock.margin, [x0, y0, x1, y1] = own.box;
  const over = Math.max(m - x0, m - y0, x1 - (stock.width - m), y1 - (stock.height - m));
  if (over > 0.01) return { text: `${over.toFixed(1)} mm over the margin` };
  for (const o of others) {
    const p = parts.get(o.part);
    if (!p) continue;
    const d = gap(own, solid(p, o), spacing);
    if (d === 0) return { text: `overlaps ${p.name}` };
    if (d < spacing - 0.01) return { text: `${d.toFixed(1)} mm from ${p.name}, ${spacing.toFixed(1)} needed` };
  }
  return null;
}

/** Nearest point on a closed ring. */
export function nearestOnRing([x, y]: XY, ring: XY[]): XY {
  let best: XY = ring[0], far = Infinity;
  for (let i = 0; i < ring.length; i++) {
    const a = ring[i], b = ring[(i + 1) % ring.length], dx = b[0] - a[0], dy = b[1] - a[1], n = dx * dx + dy * dy;
    const t = n ? Math.max(0, Math.min(1, ((x - a[0]) * dx + (y - a[1]) * dy) / n)) : 0;
    const p: XY = [a[0] + t * dx, a[1] + t * dy], d = Math.hypot(p[0] - x, p[1] - y);
    if (d < far) { far = d; best = p; }
  }
  return best;
}
