import type { Part, Piece } from "../api/model";
import { ratioAt, times } from "../holding/grades";
import { here } from "./PiecesLayer";
import { toSheet } from "./collisions";
import type { DraggedPiece } from "./draggedPiece";
import { type Box, type Label, roomFor } from "./labels";
import { LockMark } from "./marks";
import { type Shown, tellsHold } from "./shown";

/** Pixels that a letter of a name takes. */
const LETTER = 6.2;

type Named = Label & { piece: Piece; part: Part; upright: boolean; fits: boolean; figure: string | null };

/** Names of the pieces, and how many times their load holds them, where there is room for them. */
export function LabelsLayer({
  shown,
  dragged,
  covered,
}: {
  shown: Shown;
  dragged: DraggedPiece | null;
  covered: Box[];
}) {
  const all = shown.pieces.flatMap((p): Named[] => {
    const part = shown.parts.get(p.part);
    return part ? [named(shown, here(p, dragged), part)] : [];
  });
  const room = roomFor(
    all.filter((l) => l.fits),
    covered,
  );
  return (
    <>
      {all.map((l) =>
        room.has(l.id) ? (
          <Name key={l.id} label={l} />
        ) : l.piece.locked ? (
          <LockMark key={l.id} x={l.x} y={l.y} />
        ) : null,
      )}
    </>
  );
}

function named(shown: Shown, p: Piece, part: Part): Named {
  const { camera, plan, time, px } = shown;
  const [x, y] = px(toSheet([part.label[0], part.label[1]], p));
  const w = (part.box[2] - part.box[0]) * camera.k,
    h = (part.box[3] - part.box[1]) * camera.k,
    long = part.name.length * LETTER,
    lying = Math.round(p.rotation / 90) % 2 === 0;
  const upright = (lying ? h > w : w > h) && long > Math.min(w, h);
  const small = part.label[2] * camera.k < 8 || Math.min(w, h) < 13 || Math.max(w, h) < 34;
  const ratio = ratioAt(plan, p.id, time);
  const figure =
    tellsHold(shown) && part.label[2] * camera.k > 19 && ratio !== undefined ? `${times(ratio)}×` : null;
  const tall = (figure ? 30 : 14) + (p.locked ? 12 : 0);
  return {
    id: p.id,
    x,
    y,
    width: upright ? tall : long,
    height: upright ? long : tall,
    weight: part.label[2],
    piece: p,
    part,
    upright,
    fits: !small && (long <= Math.max(w, h) || Math.min(w, h) >= 44),
    figure,
  };
}

function Name({ label: { x, y, upright, part, piece, figure } }: { label: Named }) {
  return (
    <g pointerEvents="none" transform={`translate(${x} ${y})${upright ? " rotate(-90)" : ""}`}>
      <text textAnchor="middle" dy={piece.locked ? -2 : 4} fontSize={12} className="haloed">
        {part.name}
      </text>
      {figure && (
        <text className="num haloed" textAnchor="middle" dy={18} fontSize={13} fontWeight={600}>
          {figure}
        </text>
      )}
      {piece.locked && <LockMark x={0} y={8} />}
    </g>
  );
}
