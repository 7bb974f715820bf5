/** Which piece lies beside another, in the direction of an arrow key. */
import type { Part, Piece, XY } from "../api/model";
import { toSheet } from "../table/collisions";

const middle = (p: Piece, parts: Map<string, Part>): XY => {
  const [x0, y0, x1, y1] = parts.get(p.part)!.box;
  return toSheet([(x0 + x1) / 2, (y0 + y1) / 2], p);
};

/** The nearest piece that way; what lies to the side counts as farther. */
export function pieceBeside(
  from: Piece,
  [dx, dy]: XY,
  pieces: Piece[],
  parts: Map<string, Part>,
): Piece | null {
  const [x, y] = middle(from, parts);
  let best: Piece | null = null,
    least = Infinity;
  for (const p of pieces) {
    if (p.id === from.id || !parts.has(p.part)) continue;
    const [a, b] = middle(p, parts),
      ahead = (a - x) * dx + (b - y) * dy,
      aside = Math.abs((a - x) * dy) + Math.abs((b - y) * dx);
    if (ahead <= 1e-6 || ahead < aside / 3) continue;
    if (ahead + 2 * aside < least) {
      least = ahead + 2 * aside;
      best = p;
    }
  }
  return best;
}
