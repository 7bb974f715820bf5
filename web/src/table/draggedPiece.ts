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
  /** The others that are dragged with it, where they would lie. */
  others: Map<string, Piece>;
};

/** Where a piece comes to lie that is dragged so far, and what is wrong there. */
function laid(
  d: { was: Piece; from: XY; hand: XY; free: boolean },
  part: Part,
  { setup, stock, k }: { setup: Setup; stock: Stock; k: number },
  around: Around,
  with_: Piece[],
  parts: Map<string, Part>,
): DraggedPiece {
  const began = performance.now();
  const loose = { ...d.was, x: d.was.x + d.hand[0] - d.from[0], y: d.was.y + d.hand[1] - d.from[1] };
  const { neighbours: others, obstacles } = around;
  // several go as they lie to one another; one alone goes into contact
  const snap =
    d.free || with_.length ? null : snapped(part, loose, others, obstacles, stock, setup.spacing, SNAP / k);
  const piece = snap ?? loose;
  const dragged = new Map(
    with_.map((p) => [p.id, { ...p, x: p.x + piece.x - d.was.x, y: p.y + piece.y - d.was.y }]),
  );
  const solids = [solid(part, piece), ...[...dragged.values()].map((p) => solid(parts.get(p.part)!, p))];
  const wrong = solids.reduce<Trouble>(
    (found, s) => found ?? trouble(s, others, obstacles, stock, setup.spacing),
    null,
  );
  performance.measure("venzo-drag", { start: began });
  return { was: d.was, from: d.from, hand: d.hand, piece, contact: !!snap, trouble: wrong, others: dragged };
}

/** A piece that is dragged over the sheet: predicted here, judged by the server when it is let go. */
export function useDraggedPiece(
  { setup, stock, parts, pieces, camera, chosen, onSelect }: Omit<Shown, "stock"> & { stock?: Stock },
  grip: Grip,
  at: (e: React.PointerEvent) => XY,
  onMove?: (p: Piece) => void,
  onMoveAll?: (p: Piece[], does: "moved") => void,
) {
  const { held, now, put } = useHeld<DraggedPiece>();
  const take = (e: React.PointerEvent, was: Piece) => {
    const part = parts.get(was.part);
    if (!part || !stock) return;
    performance.clearMeasures("venzo-drag");
    const from = at(e);
    const together = onMoveAll && chosen.length > 1 && chosen.includes(was.id),
      with_ = together
        ? pieces.filter((p) => p.id !== was.id && chosen.includes(p.id) && !p.locked && parts.has(p.part))
        : [];
    const others = pieces.filter((p) => p.id !== was.id && !with_.includes(p));
    const around = {
      neighbours: neighbours(others, parts),
      obstacles: obstaclesOf(stock, was.sheet_copy),
    };
    const lay = (hand: XY, free: boolean) =>
      put(laid({ was, from, hand, free }, part, { setup, stock, k: camera.k }, around, with_, parts));
    lay(from, e.altKey);
    grip(e, {
      move: (hand, moved) => lay(hand, moved.altKey),
      drop: () => {
        const d = now.current;
        put(null);
        if (!d) return;
        // a click on one of several chooses it alone
        if (Math.hypot(d.piece.x - was.x, d.piece.y - was.y) * camera.k <= MOVED) {
          if (with_.length) onSelect(was.id);
        } else if (with_.length) onMoveAll?.([d.piece, ...d.others.values()], "moved");
        else onMove?.(d.piece);
      },
      cancel: () => put(null),
    });
  };
  return { dragged: held, take };
}
