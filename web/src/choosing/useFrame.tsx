import { useRef } from "react";

import type { Piece, XY } from "../api/model";
import { typing, useKeys } from "../shared/keys";
import { type Grip, useHeld } from "../table/hands";
import type { Shown } from "../table/shown";
import { inFrame, shiftedAll } from "./group";

/** mm that pieces laid once more lie beside the ones they are like. */
const ASIDE = 20;

/** A frame drawn with Shift held chooses what it touches; with Ctrl as well it is added to what is chosen. */
export function useFrame(shown: Shown, grip: Grip) {
  const { held, now, put } = useHeld<[XY, XY]>();
  const take = (e: React.PointerEvent, from: XY): boolean => {
    if (!e.shiftKey || shown.preview) return false;
    const before = e.ctrlKey || e.metaKey ? shown.chosen : [];
    put([from, from]);
    grip(e, {
      move: (to) => put([from, to]),
      drop: () => {
        const found = now.current ? inFrame(shown.pieces, shown.parts, now.current) : [];
        put(null);
        shown.onChoose([...new Set([...before, ...found])]);
      },
      cancel: () => put(null),
    });
    return true;
  };
  return { held, take };
}

export const FrameMark = ({ of: [a, b], k }: { of: [XY, XY]; k: number }) => (
  <rect
    x={Math.min(a[0], b[0])}
    y={Math.min(a[1], b[1])}
    width={Math.abs(a[0] - b[0])}
    height={Math.abs(a[1] - b[1])}
    fill="rgba(28,78,73,.1)"
    stroke="#1c4e49"
    strokeWidth={1.6 / k}
    strokeDasharray={`${6 / k} ${4 / k}`}
    pointerEvents="none"
  />
);

/** Ctrl A chooses all pieces of the sheet; Ctrl C notes the chosen ones, Ctrl V lays as many more beside them. */
export function useChoosingKeys(
  { station, pieces, chosen, onChoose, preview }: Shown,
  onMore?: (p: Piece[]) => void,
) {
  const noted = useRef<Piece[]>([]);
  useKeys((e) => {
    if (station !== "nest" || preview || typing(e) || !(e.ctrlKey || e.metaKey) || e.altKey || e.shiftKey)
      return;
    const key = e.key.toLowerCase();
    if (key === "a") {
      e.preventDefault();
      onChoose(pieces.map((p) => p.id));
    }
    if (key === "c" && chosen.length) noted.current = pieces.filter((p) => chosen.includes(p.id));
    if (key === "v" && noted.current.length && onMore) {
      e.preventDefault();
      noted.current = shiftedAll(noted.current, ASIDE, ASIDE);
      onMore(noted.current);
    }
  });
}
