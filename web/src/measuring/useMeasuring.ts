import { useMemo, useState } from "react";

import type { XY } from "../api/model";
import { typing, useKeys, withModifier } from "../shared/keys";
import type { Shown } from "../table/shown";
import { type Measure, outlinesOf, snapHere } from "./MeasureLayer";
import type { Outline, Snap } from "./snap";

const NONE: Outline[] = [];

/** Measuring on a drawing: D begins and ends it, each two clicks are a measure, Esc takes them away. */
export function useMeasuring(shown: Shown) {
  const [on, setOn] = useState(false),
    [taken, setTaken] = useState<Measure[]>([]),
    [begun, setBegun] = useState<Snap | null>(null),
    [now, setNow] = useState<Snap | null>(null);
  const { pieces, parts, stock } = shown;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- what is measured, not the object that holds it
  const outlines = useMemo(() => (on ? outlinesOf(shown) : NONE), [on, pieces, parts, stock]);
  const end = () => {
    setOn(false);
    setTaken([]);
    setBegun(null);
    setNow(null);
  };
  const turn = () => (on ? end() : setOn(true));
  useKeys((e) => {
    if (typing(e) || withModifier(e)) return;
    if (e.key.toLowerCase() === "d") turn();
    if (e.key === "Escape" && on) {
      if (begun) setBegun(null);
      else end();
    }
  });
  return {
    on,
    turn,
    shown: { taken, begun, now, outlines },
    move: (at: XY) => setNow(snapHere(at, outlines, shown.camera.k)),
    click: (at: XY) => {
      const here = snapHere(at, outlines, shown.camera.k);
      if (begun) setTaken([...taken, { from: begun, to: here }]);
      setBegun(begun ? null : here);
    },
  };
}
