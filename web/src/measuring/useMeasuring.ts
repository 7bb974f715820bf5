import { useMemo, useState } from "react";

import type { XY } from "../api/model";
import { typing, useKeys, withModifier } from "../shared/keys";
import type { Measure } from "./MeasureLayer";
import { type Outline, type Snap, snapTo } from "./snap";

const NONE: Outline[] = [];
/** Pixels within which the pointer snaps. */
const REACH = 16;

type Drawing = {
  /** What can be measured; asked for only while something is. */
  make: () => Outline[];
  /** What that is made of. */
  of: readonly unknown[];
  /** Pixels to a millimetre, as it is now. */
  scale: () => number;
};

/** Measuring on a drawing: D begins and ends it, each two clicks are a measure, Esc takes them away. */
export function useMeasuring({ make, of, scale }: Drawing) {
  const [on, setOn] = useState(false),
    [taken, setTaken] = useState<Measure[]>([]),
    [begun, setBegun] = useState<Snap | null>(null),
    [now, setNow] = useState<Snap | null>(null);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- what is measured, not the function that lists it
  const outlines = useMemo(() => (on ? make() : NONE), [on, ...of]);
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
      e.preventDefault(); // it is for the measures
      if (begun) setBegun(null);
      else end();
    }
  });
  const snapHere = (at: XY) => snapTo(at, outlines, REACH / scale());
  return {
    on,
    turn,
    shown: { taken, begun, now, outlines },
    move: (at: XY) => setNow(snapHere(at)),
    click: (at: XY) => {
      const here = snapHere(at);
      if (begun) setTaken([...taken, { from: begun, to: here }]);
      setBegun(begun ? null : here);
    },
  };
}
