import { type Part, type Piece, type Setup, type Stock, type XY } from "../api/model";
import {
  neighbours,
  type Neighbour,
  type Obstacle,
  obstaclesOf,
  snapped,
  solid,
  trouble,
  type Trouble,
} from "./collisions";
import { type Grip, useHeld } from "./hands";
import type { Shown } from "./shown";

/** Pixels within which a dragged piece goes into contact by itself; Alt held down leaves it free. */
const SNAP = 14;
/** Pixels that a piece must be moved by to count as moved. */
const MOVED = 2;

type Around = { neighbours: Neighbour[]; obstacles: Obstacle[] };
export type DraggedPiece = {
  was: Piece;
  from: XY;
  /** Where the hand is, mm on the sheet. */
  hand: XY;
  /** Where the piece would lie now. */
  piece: Piece;
  contact: boolean;
  trouble: Trouble;
};

/** Where a piece comes to lie that is dragged so far, and what is wrong there. */
function laid(
  d: { was: Piece; from: XY; hand: XY; free: boolean },
  part: Part,
  { setup, stock, k }: { setup: Setup; stock: Stock; k: number },
  around: Around,
): DraggedPiece {
  const began = performance.now();
  const loose = { ...d.was, x: d.was.x + d.hand[0] - d.from[0], y: d.was.y + d.hand[1] - d.from[1] };
  const { neighbours: others, obstacles } = around;
  const snap = d.free ? null : snapped(part, loose, others, obstacles, stock, setup.spacing, SNAP / k);
  const piece = snap ?? loose;
  const wrong = trouble(solid(part, piece), others, obstacles, stock, setup.spacing);
  performance.measure("venzo-drag", { start: began });
  return { was: d.was, from: d.from, hand: d.hand, piece, contact: !!snap, trouble: wrong };
}

/** A piece that is dragged over the sheet: predicted here, judged by the server when it is let go. */
export function useDraggedPiece(
  { setup, stock, parts, pieces, camera }: Omit<Shown, "stock"> & { stock?: Stock },
  grip: Grip,
  at: (e: React.PointerEvent) => XY,
  onMove?: (p: Piece) => void,
) {
  const { held, now, put } = useHeld<DraggedPiece>();
  const take = (e: React.PointerEvent, was: Piece) => {
    const part = parts.get(was.part);
    if (!part || !stock) return;
    performance.clearMeasures("venzo-drag");
    const from = at(e);
    const others = pieces.filter((p) => p.id !== was.id);
    const around = {
      neighbours: neighbours(others, parts),
      obstacles: obstaclesOf(stock, setup.screws, setup.kerf + 3),
    };
    const lay = (hand: XY, free: boolean) =>
      put(laid({ was, from, hand, free }, part, { setup, stock, k: camera.k }, around));
    lay(from, e.altKey);
    grip(e, {
      move: (hand, moved) => lay(hand, moved.altKey),
      drop: () => {
        const d = now.current;
        put(null);
        if (d && Math.hypot(d.piece.x - was.x, d.piece.y - was.y) * camera.k > MOVED) onMove?.(d.piece);
      },
      cancel: () => put(null),
    });
  };
  return { dragged: held, take };
}
