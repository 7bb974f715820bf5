import { type Part, type Piece, type Setup, placeOf } from "../api/model";
import { pieceBeside } from "../choosing/beside";
import { shifted, shiftedAll, turnedTogether } from "../choosing/group";
import { gradeFill, gradeOf, ratioAt } from "../holding/grades";
import { isUp } from "../job/partsIn";
import { type Unit, useUnit } from "../shared/lengths";
import type { DraggedPiece } from "./draggedPiece";
import { ARROWS } from "./hands";
import { mirroredPiece, nextTurn, turned } from "./lying";
import { type Shown, tellsHold } from "./shown";

type Props = {
  shown: Shown;
  dragged: DraggedPiece | null;
  take: (e: React.PointerEvent, p: Piece) => void;
  onMove?: (p: Piece) => void;
  onMoveAll?: (p: Piece[], does: "moved" | "turned") => void;
  /** A double click on a piece, in the window. */
  onTwice?: (p: Piece, part: Part, e: React.MouseEvent) => void;
};

/** Where a piece lies: in the hand, if it is dragged. */
export const here = (p: Piece, dragged: DraggedPiece | null) =>
  dragged?.was.id === p.id ? dragged.piece : (dragged?.others.get(p.id) ?? p);

/** The pieces on the sheet; what is dragged lies on top. */
export function PiecesLayer({ shown, dragged, take, onMove, onMoveAll, onTwice }: Props) {
  const { pieces, parts } = shown;
  const inOrder = dragged
    ? [...pieces.filter((p) => p.id !== dragged.was.id), ...pieces.filter((p) => p.id === dragged.was.id)]
    : pieces;
  return (
    <>
      {inOrder.map((p) => {
        const part = parts.get(p.part);
        return (
          part && (
            <OnePiece key={p.id} {...{ shown, dragged, take, onMove, onMoveAll, onTwice, part }} piece={p} />
          )
        );
      })}
      {pieces.map((p) => {
        const part = parts.get(p.part);
        return (
          part &&
          !shown.asCut &&
          part.features.length > 0 && (
            <Features key={`on ${p.id}`} setup={shown.setup} part={part} piece={here(p, dragged)} />
          )
        );
      })}
    </>
  );
}

function OnePiece({
  shown,
  dragged,
  take,
  onMove,
  onMoveAll,
  onTwice,
  part,
  piece: p,
}: Props & { part: Part; piece: Piece }) {
  const { station, setup, chosen, onSelect, onChoose, preview } = shown;
  const inHand = dragged?.was.id === p.id || !!dragged?.others.has(p.id),
    bad = !inHand && setup.layout.at_fault.includes(p.id),
    mine = chosen.includes(p.id),
    movable = station === "nest" && !!onMove && !preview;
  const { unit } = useUnit();
  const look = useLook(shown, p, { dragged: inHand ? dragged : null, bad, mine });
  // one stop for Tab; from it direction keys go from piece to piece
  const stop = chosen.length ? chosen[chosen.length - 1] === p.id : shown.pieces[0]?.id === p.id;
  const keys = (e: React.KeyboardEvent) => {
    if (goesOn(e, p, shown, movable)) return;
    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      onSelect(p.id);
    } else if (movable && !e.ctrlKey && !e.metaKey && !e.altKey) {
      if (chosen.length > 1 && mine && onMoveAll) allByKey(e, { ...shown, unit }, onMoveAll);
      else if (!p.locked) byKey(e, p, part, onMove, unit);
    }
  };
  const press = (e: React.PointerEvent) => {
    if (adding(e)) {
      e.stopPropagation();
      onChoose(mine ? chosen.filter((id) => id !== p.id) : [...chosen, p.id]);
    } else {
      const held = movable && !p.locked;
      if (!mine || !held) onSelect(p.id);
      if (held) take(e, p);
    }
  };
  return (
    <path
      data-grab
      data-piece={p.id}
      d={part.contours.map((c) => c.d).join("")}
      transform={placeOf(here(p, dragged))}
      fillRule="evenodd"
      {...look}
      {...lineOf(shown, p, mine, bad || (inHand && !!dragged?.trouble))}
      vectorEffect="non-scaling-stroke"
      tabIndex={stop ? 0 : -1}
      role="button"
      aria-pressed={mine}
      aria-label={`${part.name}, piece ${p.copy_no + 1}${p.locked ? ", locked" : ""}${bad ? ", at fault" : ""}`}
      style={{ cursor: movable && !p.locked ? "grab" : "pointer" }}
      onKeyDown={keys}
      onFocus={() => !mine && onSelect(p.id)}
      onDoubleClick={(e) => onTwice?.(p, part, e)}
      // a piece that is added to others does not take the focus, which would choose it alone
      onMouseDown={(e) => adding(e) && e.preventDefault()}
      onPointerDown={press}
    />
  );
}

const lineOf = ({ asCut, free }: Shown, p: Piece, mine: boolean, bad: boolean) => ({
  stroke: bad ? "#a92f22" : "#21262a",
  strokeWidth: mine ? 2.6 : asCut ? 0.6 : 1.2,
  strokeDasharray: free.has(p.id) ? "2 2" : undefined,
});

/** Is a piece added to those that are chosen? */
const adding = (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) =>
  e.shiftKey || e.ctrlKey || e.metaKey;

/** Direction keys go to the piece beside; where they move the piece that has the focus, with Ctrl. */
function goesOn(e: React.KeyboardEvent, p: Piece, { pieces, parts }: Shown, movable: boolean): boolean {
  const way = ARROWS[e.key];
  if (!way || !(e.ctrlKey || e.metaKey || !movable)) return false;
  e.preventDefault();
  const next = pieceBeside(p, way, pieces, parts);
  if (next) document.querySelector<SVGElement>(`[data-piece="${CSS.escape(next.id)}"]`)?.focus();
  return true;
}

/** One step of an arrow key: a millimetre, or a sixteenth of an inch; ten with Shift. */
const stepOf = (unit: Unit, many: boolean) => (unit === "mm" ? 1 : 25.4 / 16) * (many ? 10 : 1);

/** A piece is nudged by the arrow keys, turned by T and turned over by M. */
function byKey(e: React.KeyboardEvent, p: Piece, part: Part, onMove: (p: Piece) => void, unit: Unit) {
  const nudge = ARROWS[e.key],
    step = stepOf(unit, e.shiftKey),
    key = e.key.toLowerCase();
  if (nudge) {
    e.preventDefault();
    onMove(shifted(p, nudge[0] * step, nudge[1] * step));
  }
  if (key === "m" && part.mirror) onMove(mirroredPiece(p, part));
  if (key === "t") onMove(turned(p, part, nextTurn(part, p.rotation, e.shiftKey ? -1 : 1)));
}

/** All that are chosen are nudged by the arrow keys, and turned together by T. */
function allByKey(
  e: React.KeyboardEvent,
  { parts, pieces, chosen, unit }: Shown & { unit: Unit },
  onMoveAll: NonNullable<Props["onMoveAll"]>,
) {
  const all = pieces.filter((q) => chosen.includes(q.id) && !q.locked);
  const nudge = ARROWS[e.key],
    step = stepOf(unit, e.shiftKey);
  if (nudge && all.length) {
    e.preventDefault();
    onMoveAll(shiftedAll(all, nudge[0] * step, nudge[1] * step), "moved");
  }
  const now = e.key.toLowerCase() === "t" ? turnedTogether(all, parts) : null;
  if (now) onMoveAll(now, "turned");
}

/** How a piece is filled: by how firmly it is held where that is told, else by what is the matter with it. */
function useLook(
  shown: Shown,
  p: Piece,
  { dragged, bad, mine }: { dragged: DraggedPiece | null; bad: boolean; mine: boolean },
) {
  const { plan, time, station, free } = shown;
  if (shown.asCut) return { fill: mine ? "rgba(28,78,73,.16)" : "transparent" };
  const grade = tellsHold(shown) && plan?.hold ? gradeOf(ratioAt(plan, p.id, time), plan.hold.margin) : null;
  if (dragged) return { fill: dragged.trouble ? "#f3c9be" : "#bcd8cf", "data-hold": grade ?? undefined };
  if (grade) return { fill: gradeFill(grade, "table"), fillOpacity: 0.92, "data-hold": grade };
  const fillOpacity = station === "cuts" || station === "prove" ? 0.55 : undefined;
  if (bad) return { fill: "url(#at-fault)", fillOpacity };
  if (free.has(p.id)) return { fill: "#f6f0e2", fillOpacity };
  return { fill: mine ? "#bfd8d0" : "rgba(250,244,230,.88)", fillOpacity };
}

/** What is engraved or pocketed reads through whatever shades the piece. */
function Features({ setup, part, piece }: { setup: Setup; part: Part; piece: Piece }) {
  const up = part.features.filter((f) => isUp(setup, f)),
    under = part.features.filter((f) => !isUp(setup, f)),
    filled = up.every((f) => f.kind === "engraving" && f.d.endsWith("Z"));
  return (
    <g transform={placeOf(piece)} pointerEvents="none">
      <path
        d={up.map((f) => f.d).join("")}
        fill={filled ? "rgba(66,48,24,.42)" : "none"}
        fillRule="evenodd"
        stroke="rgba(66,48,24,.75)"
        strokeWidth={0.7}
        vectorEffect="non-scaling-stroke"
      />
      {under.length > 0 && (
        <path
          d={under.map((f) => f.d).join("")}
          fill="none"
          stroke="rgba(66,48,24,.6)"
          strokeWidth={0.7}
          strokeDasharray="2 4"
          vectorEffect="non-scaling-stroke"
        >
          <title>on the face underneath</title>
        </path>
      )}
    </g>
  );
}
