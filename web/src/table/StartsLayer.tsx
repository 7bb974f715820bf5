import type { CutCell, Part, Piece, SheetPlan, XY } from "../api/model";
import { ringOf } from "./TabsLayer";
import { nearestOnRing, toPart, toSheet } from "./collisions";
import { ARROWS, type Grip, useHeld } from "./hands";
import type { Shown } from "./shown";

export type OnStart = (part: string, contour: string, start: XY) => void;

/** The first profile of every contour of a piece: where that is entered. */
function entries(plan: SheetPlan | undefined, p: Piece, part: Part): CutCell[] {
  const profiles = (plan?.cuts ?? []).filter(
    (c) => c.piece === p.id && c.kind === "profile" && part.contours.some((k) => k.name === c.contour),
  );
  return [...new Map(profiles.toReversed().map((c) => [c.contour, c])).values()].toReversed();
}

/** Where each contour of a piece is entered as it is planned, on its edge, in the part's own coordinates. */
export const entered = (plan: SheetPlan | undefined, p: Piece, part: Part): Map<string, XY> =>
  new Map(
    entries(plan, p, part).map((c) => [
      c.contour,
      nearestOnRing(toPart(c.start, p), ringOf(part, c.contour)),
    ]),
  );

/** Where the contours of the selected piece are entered: dragged along the edge, or moved by keys. */
export function StartsLayer({ shown, grip, onStart }: { shown: Shown; grip: Grip; onStart: OnStart }) {
  const { held, now, put } = useHeld<{ contour: string; at: XY }>();
  const p = shown.pieces.find((q) => q.id === shown.selected),
    part = p && shown.parts.get(p.part);
  if (!p || !part) return null;
  return entries(shown.plan, p, part).map((c) => {
    const ring = ringOf(part, c.contour),
      on = held?.contour === c.contour ? held.at : nearestOnRing(toPart(c.start, p), ring),
      onSheet = toSheet(on, p),
      [x, y] = shown.px(onSheet);
    const take = (e: React.PointerEvent) => {
      put({ contour: c.contour, at: on });
      grip(e, {
        move: (at) => put({ contour: c.contour, at: nearestOnRing(toPart(at, p), ring) }),
        drop: () => {
          if (now.current) onStart(p.part, c.contour, now.current.at);
          put(null);
        },
        cancel: () => put(null),
      });
    };
    const keys = (e: React.KeyboardEvent) => {
      const way = ARROWS[e.key],
        step = e.shiftKey ? 25 : 5;
      if (!way) return;
      e.preventDefault();
      const to: XY = [onSheet[0] + way[0] * step, onSheet[1] + way[1] * step];
      onStart(p.part, c.contour, nearestOnRing(toPart(to, p), ring));
    };
    return (
      <path
        key={c.contour}
        d="M0 -6L6 0L0 6L-6 0Z"
        transform={`translate(${x} ${y})`}
        fill="#fffdf8"
        stroke="#1c4e49"
        strokeWidth={2}
        data-grab
        data-start={c.contour}
        tabIndex={0}
        role="button"
        style={{ cursor: "grab" }}
        aria-label={`start of ${c.contour}; arrow keys move it`}
        onPointerDown={take}
        onKeyDown={keys}
      />
    );
  });
}
