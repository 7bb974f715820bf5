import { useMemo } from "react";

import type { Job, Part, Piece, Setup, SheetPlan, Station, Stock, XY } from "../api/model";
import type { Camera } from "./camera";

/** What the table shows, for each of its layers. */
export type Shown = {
  setup: Setup;
  station: Station;
  stock: Stock;
  copy: number;
  parts: Map<string, Part>;
  pieces: Piece[];
  /** The cuts of the sheet, in order. */
  plan?: SheetPlan;
  /** A layout that a search has just found stands in place of the accepted one. */
  preview: boolean;
  /** The sheet is shown as it is cut: nothing fills the pieces. */
  asCut: boolean;
  /** The moment on the tape, s; null: none, the whole program. */
  time: number | null;
  /** Pieces whose outline has been cut through by then. */
  free: Set<string>;
  selected: string | null;
  onSelect: (id: string | null) => void;
  /** All that are chosen. */
  chosen: string[];
  onChoose: (ids: string[]) => void;
  camera: Camera;
  /** A place on the sheet, mm, in pixels of the window. */
  px: (onSheet: XY) => XY;
};

/** Is it the hold of the pieces that the drawing tells? */
export const tellsHold = ({ station, plan, preview, asCut }: Shown) =>
  !asCut && (station === "cuts" || station === "prove") && !!plan?.hold && !preview;

export type Given = {
  job: Job;
  setup: Setup;
  sheet: string;
  copy: number;
  station: Station;
  selected: string | null;
  onSelect: (id: string | null) => void;
  chosen?: string[];
  onChoose?: (ids: string[]) => void;
  time: number | null;
  preview: Piece[] | null;
  /** Where hands have put pieces, till that is answered. */
  ahead?: ReadonlyMap<string, Piece>;
};

/** What lies on the sheet that is shown, and how far its program is. */
export function useLying({ job, setup, sheet, copy, time, preview, ahead }: Given) {
  const stock = setup.stock.find((s) => s.id === sheet) ?? setup.stock[0];
  const parts = useMemo(() => new Map(job.parts.map((p) => [p.id, p])), [job.parts]);
  const pieces = useMemo(
    () =>
      (preview ?? setup.pieces)
        .map((p) => ahead?.get(p.id) ?? p)
        .filter((p) => p.sheet === stock?.id && p.sheet_copy === copy),
    [preview, setup.pieces, stock?.id, copy, ahead],
  );
  const plan = setup.sheets.find((s) => s.sheet === stock?.id && s.copy_no === copy);
  const free = useMemo(() => {
    if (time === null || !plan) return new Set<string>();
    const outline = (piece: string) => parts.get(piece.split("#")[0])?.contours[0].name;
    const done = plan.cuts.filter(
      (c) => c.frees && c.contour === outline(c.piece) && c.begins + c.seconds <= time,
    );
    return new Set(done.map((c) => c.piece));
  }, [time, plan, parts]);
  return { stock, parts, pieces, plan, free };
}
