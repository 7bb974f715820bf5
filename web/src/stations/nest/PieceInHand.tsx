import type { Part, Piece } from "../../api/model";
import { movePiece } from "../../job/JobTable";
import { useJobView } from "../../job/view";
import { length, LengthField, useUnit } from "../../shared/lengths";
import { mirroredPiece, nextTurn, turned } from "../../table/lying";

/** The piece that is chosen: where it lies, and what may be done with it. */
export function PieceInHand() {
  const { job, setup, selected, chosen, swap } = useJobView();
  const { unit } = useUnit();
  const piece = setup.pieces.find((p) => p.id === selected),
    part = piece && job.parts.find((p) => p.id === piece.part);
  if (!piece || !part || chosen.length > 1) return null;
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label="Selected piece">
      <h3 className="font-semibold">
        {part.name}, piece {piece.copy_no + 1}
      </h3>
      <p className="num text-small">
        X {length(piece.x, unit)} Y {length(piece.y, unit)} {Number(piece.rotation.toFixed(2))}°
        {piece.mirrored ? ", turned over" : ""}
      </p>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Turning piece={piece} part={part} />
        <Moving piece={piece} part={part} />
      </div>
      {swap ? (
        <p className="mt-1.5 text-small" role="status">
          Now choose the piece it changes places with.
        </p>
      ) : (
        <>
          <Place piece={piece} part={part} />
          <p className="label mt-1.5">
            Drag it: near others it goes into contact, with Alt held it stays free. Arrow keys move it{" "}
            {unit === "mm" ? "1 mm" : "1/16 in"}, with Shift ten times that; T turns it
            {part.mirror ? ", M turns it over" : ""}.
          </p>
        </>
      )}
    </section>
  );
}

type Hand = { piece: Piece; part: Part };

/** The lower left corner of the piece's box, typed. */
function Place({ piece, part }: Hand) {
  const { setup, edits } = useJobView();
  const corner = lowerLeft(piece, part);
  const to = (by: { x?: number; y?: number }) =>
    edits.run(
      movePiece(setup.id, {
        ...piece,
        x: piece.x + (by.x === undefined ? 0 : by.x - corner.x),
        y: piece.y + (by.y === undefined ? 0 : by.y - corner.y),
      }),
    );
  if (piece.locked) return null;
  return (
    <div className="mt-1">
      <LengthField label="its left edge, on the sheet" mm={corner.x} onCommit={(x) => to({ x })} />
      <LengthField label="its near edge, on the sheet" mm={corner.y} onCommit={(y) => to({ y })} />
    </div>
  );
}

/** The lower left corner of a piece as it lies, from the corners of its outline. */
function lowerLeft(piece: Piece, part: Part): { x: number; y: number } {
  const w = (piece.rotation * Math.PI) / 180,
    side = piece.mirrored ? -1 : 1;
  const xs = part.rings[0].map(([x, y]) => Math.cos(w) * side * x - Math.sin(w) * y + piece.x),
    ys = part.rings[0].map(([x, y]) => Math.sin(w) * side * x + Math.cos(w) * y + piece.y);
  return { x: Math.min(...xs), y: Math.min(...ys) };
}

function Turning({ piece, part }: Hand) {
  const { setup, edits, swap, setSwap } = useJobView();
  const lay = (p: Piece) => edits.run(movePiece(setup.id, p));
  return (
    <>
      <button
        className={piece.locked ? "key-strong" : "key"}
        aria-pressed={piece.locked}
        onClick={() => edits.run({ ...movePiece(setup.id, piece), locked: !piece.locked })}
      >
        {piece.locked ? "Unlock" : "Lock"}
      </button>
      <button
        className="key"
        disabled={piece.locked || (part.rotations !== "free" && part.rotations.length < 2)}
        onClick={() => lay(turned(piece, part, nextTurn(part, piece.rotation, 1)))}
      >
        Turn
      </button>
      {part.mirror && (
        <button className="key" disabled={piece.locked} onClick={() => lay(mirroredPiece(piece, part))}>
          Turn over
        </button>
      )}
      <button
        className={swap ? "key-strong" : "key"}
        aria-pressed={!!swap}
        disabled={piece.locked}
        onClick={() => setSwap(swap ? null : piece.id)}
      >
        Change places
      </button>
    </>
  );
}

function Moving({ piece, part }: Hand) {
  const { setup, edits, select, show } = useJobView();
  const find = (copy_no: number, sheet: string, sheet_copy: number) =>
    edits.run({ kind: "find-place", setup: setup.id, part: part.id, copy_no, sheet, sheet_copy });
  const all = setup.yields.sheets;
  return (
    <>
      <button
        className="key"
        title="One piece more of this part, laid where there is room on this sheet: to make up for a spoiled one"
        onClick={() => {
          edits.run({ kind: "change-quantity", part: part.id, order: part.lines[0].order, more: 1 });
          find(part.quantity, piece.sheet, piece.sheet_copy);
        }}
      >
        One more
      </button>
      <button
        className="key"
        disabled={piece.locked}
        onClick={() => {
          select(null);
          edits.run({ kind: "take-off-piece", setup: setup.id, part: piece.part, copy_no: piece.copy_no });
        }}
      >
        Take off
      </button>
      {all
        .filter((s) => s.sheet !== piece.sheet || s.copy_no !== piece.sheet_copy)
        .map((s) => (
          <button
            key={`${s.sheet}/${s.copy_no}`}
            className="key"
            disabled={piece.locked}
            onClick={() => {
              find(piece.copy_no, s.sheet, s.copy_no);
              show(s.sheet, s.copy_no);
            }}
          >
            To sheet {all.indexOf(s) + 1}
          </button>
        ))}
    </>
  );
}
