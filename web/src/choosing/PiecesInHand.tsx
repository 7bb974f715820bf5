import { useMemo } from "react";

import type { Piece } from "../api/model";
import { changePieces } from "../job/JobTable";
import { useJobView } from "../job/view";
import { LengthField } from "../shared/lengths";
import { many } from "../shared/many";
import { turned } from "../table/lying";
import {
  aligned,
  boxAbout,
  centred,
  nextTurns,
  type Parts,
  shiftedAll,
  type Side,
  spread,
  turnedTogether,
} from "./group";

const SIDES: Side[] = ["left", "right", "near", "far", "middle X", "middle Y"];

/** Several pieces that are chosen: where they lie, and what may be done with all of them in one edit. */
export function PiecesInHand() {
  const { job, setup, edits, chosen, choose, search } = useJobView();
  const parts: Parts = useMemo(() => new Map(job.parts.map((p) => [p.id, p])), [job.parts]);
  const pieces = setup.pieces.filter((p) => chosen.includes(p.id) && parts.has(p.part));
  // what is shown while a search runs is not the plan's layout yet
  if (pieces.length < 2 || search.preview) return null;
  const free = pieces.filter((p) => !p.locked),
    locked = pieces.length - free.length,
    onOne = new Set(pieces.map((p) => `${p.sheet}/${p.sheet_copy}`)).size === 1,
    stock = setup.stock.find((s) => s.id === pieces[0].sheet);
  const lay = (now: Piece[], does: "moved" | "turned" | "aligned" | "spread out" | "centred") =>
    edits.run(changePieces(setup, now, does));
  const name = (side: Side) =>
    side.startsWith("middle") ? `on their middle along ${side.slice(-1)}` : `${side} edges`;
  const together = free.length > 1 ? turnedTogether(free, parts) : null;
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label="Chosen pieces">
      <h3 className="font-semibold">{many(pieces.length, "piece")} chosen</h3>
      <p className="label">
        {countsOf(pieces, parts)}
        {locked
          ? `; ${locked} locked, which stay${locked === 1 ? "s" : ""} where ${locked === 1 ? "it is" : "they are"}`
          : ""}
      </p>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <button
          className="key"
          disabled={!together}
          title="a quarter turn of all of them about their middle"
          onClick={() => together && lay(together, "turned")}
        >
          Turn together
        </button>
        <button
          className="key"
          disabled={!free.length}
          onClick={() => lay(nextTurns(free, parts, turned), "turned")}
        >
          Turn each
        </button>
        <button
          className="key"
          onClick={() =>
            edits.run({
              kind: "change-pieces",
              setup: setup.id,
              does: locked ? "unlocked" : "locked",
              pieces: pieces.map((p) => ({ part: p.part, copy_no: p.copy_no, locked: !locked })),
            })
          }
        >
          {locked ? "Unlock" : "Lock"}
        </button>
        <button
          className="key"
          disabled={!free.length}
          onClick={() => {
            choose([]);
            edits.run({
              kind: "change-pieces",
              setup: setup.id,
              does: "taken off",
              pieces: free.map((p) => ({ part: p.part, copy_no: p.copy_no, off: true })),
            });
          }}
        >
          Take off
        </button>
        {onOne && stock && (
          <button
            className="key"
            disabled={!free.length}
            onClick={() => lay(centred(free, parts, stock), "centred")}
          >
            Centre on the sheet
          </button>
        )}
      </div>
      {onOne && free.length > 1 && (
        <>
          <p className="label mt-2">set against one another</p>
          <div className="flex flex-wrap gap-1.5">
            {SIDES.map((side) => (
              <button key={side} className="key" onClick={() => lay(aligned(free, parts, side), "aligned")}>
                {name(side)}
              </button>
            ))}
          </div>
          <p className="label mt-2">spread out with equal gaps</p>
          <div className="flex gap-1.5">
            {(["x", "y"] as const).map((along) => (
              <button
                key={along}
                className="key"
                disabled={free.length < 3}
                onClick={() => lay(spread(free, parts, along), "spread out")}
              >
                along {along.toUpperCase()}
              </button>
            ))}
          </div>
          <Corner pieces={free} parts={parts} lay={(now) => lay(now, "moved")} />
        </>
      )}
      <p className="label mt-1.5">
        Arrow keys and dragging move them together. Ctrl C and Ctrl V lay as many more; Esc lets go.
      </p>
    </section>
  );
}

function countsOf(pieces: Piece[], parts: Parts): string {
  const counts = new Map<string, number>();
  for (const p of pieces) {
    const { name } = parts.get(p.part)!;
    counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  return [...counts].map(([name, n]) => `${n} ${name}`).join(", ");
}

/** The lower left corner of the box about them, typed. */
function Corner({ pieces, parts, lay }: { pieces: Piece[]; parts: Parts; lay: (now: Piece[]) => void }) {
  const [x0, y0] = boxAbout(pieces, parts);
  return (
    <div className="mt-1">
      <LengthField
        label="their left edge, on the sheet"
        mm={x0}
        onCommit={(x) => lay(shiftedAll(pieces, x - x0, 0))}
      />
      <LengthField
        label="their near edge, on the sheet"
        mm={y0}
        onCommit={(y) => lay(shiftedAll(pieces, 0, y - y0))}
      />
    </div>
  );
}
