/** Predictions for the hand: how near two pieces are, where a point lies in a part's frame. The server judges on drop. */
import type { Part, Piece, Stock, XY } from "../api/model";

export type Place = Pick<Piece, "x" | "y" | "rotation" | "mirrored">;

const turn = (degrees: number) => {
  const w = (degrees * Math.PI) / 180;
  return [Math.cos(w), Math.sin(w)] as const;
};

export function toSheet([x, y]: XY, p: Place): XY {
  const [c, s] = turn(p.rotation),
    mx = p.mirrored ? -x : x;
  return [c * mx - s * y + p.x, s * mx + c * y + p.y];
}

export function toPart([x, y]: XY, p: Place): XY {
  const [c, s] = turn(-p.rotation),
    dx = x - p.x,
    dy = y - p.y,
    mx = c * dx - s * dy;
  return [p.mirrored ? -mx : mx, s * dx + c * dy];
}

export type Solid = { rings: XY[][]; box: [number, number, number, number] };

export const solid = (part: Part, place: Place): Solid =>
  solidOf(part.rings.map((r) => r.map((p) => toSheet(p, place))));

function solidOf(rings: XY[][]): Solid {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of rings[0]) {
    x0 = Math.min(x0, x);
    y0 = Math.min(y0, y);
    x1 = Math.max(x1, x);
    y1 = Math.max(y1, y);
  }
  return { rings, box: [x0, y0, x1, y1] };
}

function inside([x, y]: XY, rings: XY[][]): boolean {
  let odd = false;
  for (const r of rings)
    for (let i = 0, j = r.length - 1; i < r.length; j = i++)
      if (
        r[i][1] > y !== r[j][1] > y &&
        x < ((r[j][0] - r[i][0]) * (y - r[i][1])) / (r[j][1] - r[i][1]) + r[i][0]
      )
        odd = !odd;
  return odd;
}

function pointToSegment(px: number, py: number, a: XY, b: XY): number {
  const dx = b[0] - a[0],
    dy = b[1] - a[1],
    n = dx * dx + dy * dy;
  const t = n ? Math.max(0, Math.min(1, ((px - a[0]) * dx + (py - a[1]) * dy) / n)) : 0;
  return Math.hypot(px - a[0] - t * dx, py - a[1] - t * dy);
}

const cross = (a: XY, b: XY, c: XY) => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

type Box = [number, number, number, number];
const apart = (a: Box, b: Box, reach: number) =>
  a[0] - reach > b[2] || b[0] - reach > a[2] || a[1] - reach > b[3] || b[1] - reach > a[3];
const boxOf = (p: XY, q: XY): Box => [
  Math.min(p[0], q[0]),
  Math.min(p[1], q[1]),
  Math.max(p[0], q[0]),
  Math.max(p[1], q[1]),
];

/** Does an edge lie beyond reach of a box? Asked for every pair of edges, so it makes nothing anew. */
const beyond = (b: Box, r: XY, s: XY, reach: number) =>
  Math.max(r[0], s[0]) < b[0] - reach ||
  Math.min(r[0], s[0]) > b[2] + reach ||
  Math.max(r[1], s[1]) < b[1] - reach ||
  Math.min(r[1], s[1]) > b[3] + reach;

/** Distance between two edges; 0 where they cross. */
function between(p: XY, q: XY, r: XY, s: XY): number {
  if (cross(p, q, r) * cross(p, q, s) < 0 && cross(r, s, p) * cross(r, s, q) < 0) return 0;
  return Math.min(
    pointToSegment(p[0], p[1], r, s),
    pointToSegment(q[0], q[1], r, s),
    pointToSegment(r[0], r[1], p, q),
    pointToSegment(s[0], s[1], p, q),
  );
}

/** Distance between two pieces in mm; 0 where they overlap. Stops looking beyond ``reach``. */
export function gap(a: Solid, b: Solid, reach: number): number {
  if (apart(a.box, b.box, reach)) return Infinity;
  if (inside(a.rings[0][0], b.rings) || inside(b.rings[0][0], a.rings)) return 0;
  let best = Infinity;
  for (const ra of a.rings)
    for (let i = 0; i < ra.length; i++) {
      const p = ra[i],
        q = ra[(i + 1) % ra.length];
      if (beyond(b.box, p, q, reach)) continue;
      const edge = boxOf(p, q);
      for (const rb of b.rings)
        for (let j = 0; j < rb.length; j++) {
          const r = rb[j],
            s = rb[(j + 1) % rb.length];
          if (beyond(edge, r, s, reach)) continue;
          const d = between(p, q, r, s);
          if (d === 0) return 0;
          best = Math.min(best, d);
        }
    }
  return best;
}

export type Trouble = { text: string } | null;
export type Neighbour = { id: string; name: string; solid: Solid };

/** What lies around a piece that is being moved, worked out once when it is taken up. */
export function neighbours(others: Piece[], parts: Map<string, Part>): Neighbour[] {
  return others.flatMap((o) => {
    const p = parts.get(o.part);
    return p ? [{ id: o.id, name: p.name, solid: solid(p, o) }] : [];
  });
}

/** Something of the sheet's own in the way, with the clearance to it. */
export type Obstacle = { name: string; solid: Solid; clearance: number };

/** What pieces keep away from on one of the sheets of a stock: what the server judges by. */
export const obstaclesOf = (stock: Stock, copy: number): Obstacle[] =>
  stock.in_the_way
    .filter((w) => w.copy_no === null || w.copy_no === copy)
    .map((w) => ({
      name: w.name,
      clearance: w.clearance,
      solid: solidOf([w.outline.map((p): XY => [p[0], p[1]])]),
    }));

function overEdge(own: Solid, stock: Stock): number {
  const m = stock.margin,
    [x0, y0, x1, y1] = own.box;
  let over = Math.max(m - x0, m - y0, x1 - (stock.width - m), y1 - (stock.height - m));
  if (stock.outline.length > 2)
    for (const p of own.rings[0]) {
      const q = nearestOnRing(p, stock.outline),
        d = Math.hypot(q[0] - p[0], q[1] - p[1]);
      over = Math.max(over, inside(p, [stock.outline]) ? m - d : m + d);
    }
  // a corner of the outline that points inwards may lie within an edge of the piece
  if (stock.outline.length > 2)
    for (const c of stock.outline) {
      const q = nearestOnRing(c, own.rings[0]),
        d = Math.hypot(q[0] - c[0], q[1] - c[1]);
      over = Math.max(over, inside(c, [own.rings[0]]) ? m + d : m - d);
    }
  return over;
}

/** What is wrong with a piece at a place, in words with the number; null if nothing is. */
export function trouble(
  own: Solid,
  around: Neighbour[],
  obstacles: Obstacle[],
  stock: Stock,
  spacing: number,
): Trouble {
  const over = overEdge(own, stock),
    shown = (d: number) => (Math.floor(d * 10) / 10).toFixed(1); // never rounded up over what is judged
  if (over > 0.01) return { text: `${Math.max(over, 0.1).toFixed(1)} mm over the margin` };
  for (const o of around) {
    const d = gap(own, o.solid, spacing);
    if (d === 0) return { text: `overlaps ${o.name}` };
    if (d < spacing - 0.01) return { text: `${shown(d)} mm from ${o.name}, ${spacing.toFixed(1)} mm needed` };
  }
  for (const o of obstacles) {
    const d = gap(own, o.solid, o.clearance);
    if (d === 0) return { text: `over ${o.name}` };
    if (d < o.clearance - 0.01)
      return { text: `${shown(d)} mm from ${o.name}, ${o.clearance.toFixed(1)} mm needed` };
  }
  return null;
}

/** The smallest push (mm) that parts two solids to ``want``, by their nearest points; null where they overlap. */
function push(a: Solid, b: Solid, want: number, reach: number): XY | null {
  if (
    a.box[0] - reach > b.box[2] ||
    b.box[0] - reach > a.box[2] ||
    a.box[1] - reach > b.box[3] ||
    b.box[1] - reach > a.box[3]
  )
    return [0, 0];
  let best = Infinity,
    from: XY = [0, 0],
    to: XY = [0, 0];
  for (const [p, q, sign] of [
    [a, b, 1],
    [b, a, -1],
  ] as const)
    for (const ring of p.rings)
      for (const v of ring) {
        if (
          v[0] < q.box[0] - reach ||
          v[0] > q.box[2] + reach ||
          v[1] < q.box[1] - reach ||
          v[1] > q.box[3] + reach
        )
          continue;
        for (const other of q.rings) {
          const n = nearestOnRing(v, other),
            d = Math.hypot(n[0] - v[0], n[1] - v[1]);
          if (d < best) {
            best = d;
            from = sign === 1 ? v : n;
            to = sign === 1 ? n : v;
          }
        }
      }
  if (best > reach) return [0, 0];
  if (best < 1e-9) return null;
  const f = (want - best) / best;
  return [(from[0] - to[0]) * f, (from[1] - to[1]) * f];
}

/**
 * The place near by at which a piece just touches what it may touch: spacing to its neighbours, the margin to the edge.
 * A piece laid into its neighbour slides out again, as long as it need not go farther than ``reach`` mm; null where no such place is near.
 */
export function snapped(
  part: Part,
  place: Piece,
  around: Neighbour[],
  obstacles: Obstacle[],
  stock: Stock,
  spacing: number,
  reach: number,
): Piece | null {
  const near = (own: Solid) =>
    around.filter(
      (o) =>
        !(
          own.box[0] - reach - spacing > o.solid.box[2] ||
          o.solid.box[0] - reach - spacing > own.box[2] ||
          own.box[1] - reach - spacing > o.solid.box[3] ||
          o.solid.box[1] - reach - spacing > own.box[3]
        ),
    );
  const at = (x: number, y: number): Piece => ({ ...place, x, y });
  const base = solid(part, place),
    close = near(base);
  const moved = (dx: number, dy: number): Solid => ({
    rings: base.rings.map((r) => r.map((p): XY => [p[0] + dx, p[1] + dy])),
    box: [base.box[0] + dx, base.box[1] + dy, base.box[2] + dx, base.box[3] + dy],
  });
  let start: XY = [0, 0];
  if (trouble(base, close, obstacles, stock, spacing)) {
    // out of the overlap by the shortest of sixteen ways
    let least = Infinity;
    for (let k = 0; k < 16; k++) {
      const ux = Math.cos((k * Math.PI) / 8),
        uy = Math.sin((k * Math.PI) / 8);
      if (trouble(moved(ux * reach, uy * reach), close, obstacles, stock, spacing)) continue;
      let lo = 0,
        hi = Math.min(reach, least);
      if (hi < reach && trouble(moved(ux * hi, uy * hi), close, obstacles, stock, spacing)) continue;
      for (let n = 0; n < 9; n++) {
        const mid = (lo + hi) / 2;
        if (trouble(moved(ux * mid, uy * mid), close, obstacles, stock, spacing)) lo = mid;
        else hi = mid;
      }
      if (hi < least) {
        least = hi;
        start = [ux * hi, uy * hi];
      }
    }
    if (least === Infinity) return null;
  }
  // then up to the nearest contacts, one after the other
  let [dx, dy] = start;
  for (let n = 0; n < 6; n++) {
    const own = moved(dx, dy),
      m = stock.margin,
      [x0, y0, x1, y1] = own.box;
    let px = 0,
      py = 0,
      size = Infinity;
    const offer = (x: number, y: number) => {
      const d = Math.hypot(x, y);
      if (d > 1e-3 && d < size && Math.hypot(dx + x, dy + y) <= reach) {
        px = x;
        py = y;
        size = d;
      }
    };
    if (stock.outline.length < 3) {
      offer(m - x0, 0);
      offer(0, m - y0);
      offer(stock.width - m - x1, 0);
      offer(0, stock.height - m - y1);
    }
    for (const o of close) {
      const p = push(own, o.solid, spacing + 1e-3, reach + spacing);
      if (p) offer(...p);
    }
    if (size === Infinity || trouble(moved(dx + px, dy + py), close, obstacles, stock, spacing)) break;
    dx += px;
    dy += py;
  }
  return dx || dy ? at(place.x + dx, place.y + dy) : null;
}

/** Nearest point on a closed ring. */
export function nearestOnRing([x, y]: XY, ring: XY[]): XY {
  let best: XY = ring[0],
    far = Infinity;
  for (let i = 0; i < ring.length; i++) {
    const a = ring[i],
      b = ring[(i + 1) % ring.length],
      dx = b[0] - a[0],
      dy = b[1] - a[1],
      n = dx * dx + dy * dy;
    const t = n ? Math.max(0, Math.min(1, ((x - a[0]) * dx + (y - a[1]) * dy) / n)) : 0;
    const p: XY = [a[0] + t * dx, a[1] + t * dy],
      d = Math.hypot(p[0] - x, p[1] - y);
    if (d < far) {
      far = d;
      best = p;
    }
  }
  return best;
}
