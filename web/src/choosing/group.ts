/** Several pieces handled as one: where each comes to lie. */
import type { Part, Piece, XY } from "../api/model";
import { placed, type Segment, segments } from "../measuring/segments";
import { nextTurn } from "../table/lying";

export type Box = [x0: number, y0: number, x1: number, y1: number];
export type Parts = Map<string, Part>;
export type Side = "left" | "right" | "near" | "far" | "middle X" | "middle Y";

const QUARTER = Math.PI / 2;
/** The box of a segment; of an arc with its bulges. */
function extent(s: Segment): XY[] {
  if (!s.arc) return [s.a, s.b];
  const { c, r, start, sweep } = s.arc,
    out = [s.a, s.b];
  for (
    let k = Math.ceil(Math.min(start, start + sweep) / QUARTER);
    k * QUARTER < Math.max(start, start + sweep);
    k++
  )
    out.push([c[0] + r * Math.cos(k * QUARTER), c[1] + r * Math.sin(k * QUARTER)]);
  return out;
}

/** The upright box of a piece as it lies, mm. */
export function boxOf(p: Piece, parts: Parts): Box {
  const outline = parts.get(p.part)!.contours[0].d;
  const points = segments(outline).flatMap((s) => extent(placed(s, p)));
  const xs = points.map((q) => q[0]),
    ys = points.map((q) => q[1]);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/** The box about several pieces. */
export function boxAbout(pieces: Piece[], parts: Parts): Box {
  const all = pieces.map((p) => boxOf(p, parts));
  return [
    Math.min(...all.map((b) => b[0])),
    Math.min(...all.map((b) => b[1])),
    Math.max(...all.map((b) => b[2])),
    Math.max(...all.map((b) => b[3])),
  ];
}

export const shifted = (p: Piece, dx: number, dy: number): Piece => ({ ...p, x: p.x + dx, y: p.y + dy });

/** All of them as one, so far to the right and up. */
export const shiftedAll = (pieces: Piece[], dx: number, dy: number) => pieces.map((p) => shifted(p, dx, dy));

/** All set against one side of the box about them, or on its middle line. */
export function aligned(pieces: Piece[], parts: Parts, side: Side): Piece[] {
  const [x0, y0, x1, y1] = boxAbout(pieces, parts);
  return pieces.map((p) => {
    const b = boxOf(p, parts);
    if (side === "left") return shifted(p, x0 - b[0], 0);
    if (side === "right") return shifted(p, x1 - b[2], 0);
    if (side === "near") return shifted(p, 0, y0 - b[1]);
    if (side === "far") return shifted(p, 0, y1 - b[3]);
    if (side === "middle X") return shifted(p, (x0 + x1 - b[0] - b[2]) / 2, 0);
    return shifted(p, 0, (y0 + y1 - b[1] - b[3]) / 2);
  });
}

/** Spread out along an axis so that the gaps between neighbours are equal; the outermost stay. */
export function spread(pieces: Piece[], parts: Parts, along: "x" | "y"): Piece[] {
  const [lo, hi] = along === "x" ? ([0, 2] as const) : ([1, 3] as const);
  const all = pieces.map((p) => ({ p, b: boxOf(p, parts) })).sort((a, b) => a.b[lo] - b.b[lo]);
  if (all.length < 3) return pieces;
  const [from, to] = [all[0].b[lo], Math.max(...all.map((a) => a.b[hi]))];
  const gap = (to - from - all.reduce((n, a) => n + a.b[hi] - a.b[lo], 0)) / (all.length - 1);
  let at = from;
  return all.map(({ p, b }) => {
    const by = at - b[lo];
    at += b[hi] - b[lo] + gap;
    return along === "x" ? shifted(p, by, 0) : shifted(p, 0, by);
  });
}

/** All turned together a quarter turn about the middle of the box about them; null where a part may not lie so. */
export function turnedTogether(pieces: Piece[], parts: Parts): Piece[] | null {
  const [x0, y0, x1, y1] = boxAbout(pieces, parts),
    mid: XY = [(x0 + x1) / 2, (y0 + y1) / 2];
  if (!pieces.every((p) => mayLie(parts.get(p.part)!, p.rotation + 90))) return null;
  return pieces.map((p) => ({
    ...p,
    x: mid[0] - (p.y - mid[1]),
    y: mid[1] + (p.x - mid[0]),
    rotation: (p.rotation + 90) % 360,
  }));
}

function mayLie(part: Part, rotation: number): boolean {
  if (part.rotations === "free") return true;
  const wanted = ((rotation % 360) + 360) % 360;
  return part.rotations.some((r) => Math.abs(((r - wanted + 540) % 360) - 180) < 0.01);
}

/** Each turned on its own to the next way it may lie. */
export const nextTurns = (pieces: Piece[], parts: Parts, turn: (p: Piece, part: Part, to: number) => Piece) =>
  pieces.map((p) => {
    const part = parts.get(p.part)!;
    return turn(p, part, nextTurn(part, p.rotation, 1));
  });

/** All as one in the middle of a sheet. */
export function centred(pieces: Piece[], parts: Parts, sheet: { width: number; height: number }): Piece[] {
  const [x0, y0, x1, y1] = boxAbout(pieces, parts);
  return shiftedAll(pieces, (sheet.width - x0 - x1) / 2, (sheet.height - y0 - y1) / 2);
}

/** Pieces that a frame touches. */
export function inFrame(pieces: Piece[], parts: Parts, [a, b]: [XY, XY]): string[] {
  const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])],
    [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
  return pieces
    .filter((p) => {
      if (!parts.has(p.part)) return false;
      const c = boxOf(p, parts);
      return c[0] <= x1 && c[2] >= x0 && c[1] <= y1 && c[3] >= y0;
    })
    .map((p) => p.id);
}
