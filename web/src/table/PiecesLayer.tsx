import { type Part, type Piece, placeOf } from "../api/model";
import { gradeFill, gradeOf, ratioAt } from "../holding/grades";
import type { DraggedPiece } from "./draggedPiece";
import { ARROWS } from "./hands";
import { mirroredPiece, nextTurn, turned } from "./lying";
import { type Shown, tellsHold } from "./shown";

type Props = {
  shown: Shown;
  dragged: DraggedPiece | null;
  take: (e: React.PointerEvent, p: Piece) => void;
  onMove?: (p: Piece) => void;
  /** A double click on a piece, in the window. */
  onTwice?: (p: Piece, part: Part, e: React.MouseEvent) => void;
};

/** Where a piece lies: in the hand, if it is dragged. */
export const here = (p: Piece, dragged: DraggedPiece | null) =>
  dragged?.was.id === p.id ? dragged.piece : p;

/** The pieces on the sheet; what is dragged lies on top. */
export function PiecesLayer({ shown, dragged, take, onMove, onTwice }: Props) {
  const { pieces, parts } = shown;
  const inOrder = dragged
    ? [...pieces.filter((p) => p.id !== dragged.was.id), ...pieces.filter((p) => p.id === dragged.was.id)]
    : pieces;
  return (
    <>
      {inOrder.map((p) => {
        const part = parts.get(p.part);
        return part && <OnePiece key={p.id} {...{ shown, dragged, take, onMove, onTwice, part }} piece={p} />;
      })}
      {pieces.map((p) => {
        const part = parts.get(p.part);
        return (
          part &&
          !shown.asCut &&
          part.features.length > 0 && <Features key={`on ${p.id}`} part={part} piece={here(p, dragged)} />
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
  onTwice,
  part,
  piece: p,
}: Props & { part: Part; piece: Piece }) {
  const { station, setup, selected, onSelect, preview, free } = shown;
  const inHand = dragged?.was.id === p.id,
    bad = !inHand && setup.layout.at_fault.includes(p.id),
    mine = selected === p.id,
    movable = station === "nest" && !!onMove && !preview;
  const look = useLook(shown, p, { dragged: inHand ? dragged : null, bad, mine });
  const keys = (e: React.KeyboardEvent) => {
    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      onSelect(p.id);
    } else if (movable && !e.ctrlKey && !e.metaKey && !e.altKey) byKey(e, p, part, onMove);
  };
  return (
    <path
      data-grab
      data-piece={p.id}
      d={part.contours.map((c) => c.d).join("")}
      transform={placeOf(here(p, dragged))}
      fillRule="evenodd"
      {...look}
      stroke={bad || (inHand && dragged?.trouble) ? "#a92f22" : "#21262a"}
      strokeWidth={mine ? 2.6 : shown.asCut ? 0.6 : 1.2}
      strokeDasharray={free.has(p.id) ? "2 2" : undefined}
      vectorEffect="non-scaling-stroke"
      tabIndex={0}
      role="button"
      aria-pressed={mine}
      aria-label={`${part.name}, piece ${p.copy_no + 1}${p.locked ? ", locked" : ""}${bad ? ", at fault" : ""}`}
      style={{ cursor: movable && !p.locked ? "grab" : "pointer" }}
      onKeyDown={keys}
      onFocus={() => onSelect(p.id)}
      onDoubleClick={(e) => onTwice?.(p, part, e)}
      onPointerDown={(e) => {
        onSelect(p.id);
        if (movable && !p.locked) take(e, p);
      }}
    />
  );
}

/** A piece is nudged by the arrow keys, turned by T and turned over by M. */
function byKey(e: React.KeyboardEvent, p: Piece, part: Part, onMove: (p: Piece) => void) {
  const nudge = ARROWS[e.key],
    step = e.shiftKey ? 10 : 1,
    key = e.key.toLowerCase();
  if (nudge) {
    e.preventDefault();
    onMove({ ...p, x: p.x + nudge[0] * step, y: p.y + nudge[1] * step });
  }
  if (key === "m" && part.mirror && !p.locked) onMove(mirroredPiece(p, part));
  if (key === "t") onMove(turned(p, part, nextTurn(part, p.rotation, e.shiftKey ? -1 : 1)));
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
function Features({ part, piece }: { part: Part; piece: Piece }) {
  const filled = part.features.every((f) => f.kind === "engraving" && f.d.endsWith("Z"));
  return (
    <path
      d={part.features.map((f) => f.d).join("")}
      transform={placeOf(piece)}
      fill={filled ? "rgba(66,48,24,.42)" : "none"}
      fillRule="evenodd"
      stroke="rgba(66,48,24,.75)"
      strokeWidth={0.7}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}
