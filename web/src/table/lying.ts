/** A piece turned or turned over where it lies. */
import type { Part, Piece, XY } from "../api/model";
import { toSheet } from "./collisions";

/** The next rotation a part allows, or a quarter turn where it may lie freely. */
export function nextTurn(part: Part, now: number, way: 1 | -1): number {
  if (part.rotations === "free") return (now + way * 15 + 360) % 360;
  const all = [...part.rotations].sort((a, b) => a - b),
    i = all.findIndex((r) => Math.abs(((r - now + 540) % 360) - 180) < 0.01);
  return all[(i + way + all.length) % all.length];
}

/** A piece turned about the middle of its box. */
export function turned(p: Piece, part: Part, rotation: number): Piece {
  const mid: XY = [(part.box[0] + part.box[2]) / 2, (part.box[1] + part.box[3]) / 2];
  const before = toSheet(mid, p),
    after = toSheet(mid, { ...p, rotation });
  return { ...p, rotation, x: p.x + before[0] - after[0], y: p.y + before[1] - after[1] };
}

/** A piece turned over about the middle of its box. */
export function mirroredPiece(p: Piece, part: Part): Piece {
  const mid: XY = [(part.box[0] + part.box[2]) / 2, (part.box[1] + part.box[3]) / 2],
    flip = { ...p, mirrored: !p.mirrored };
  const before = toSheet(mid, p),
    after = toSheet(mid, flip);
  return { ...flip, x: p.x + before[0] - after[0], y: p.y + before[1] - after[1] };
}
