import { type PointerEvent, type RefObject, useState } from "react";

import type { XY } from "../api/model";
import { MeasureLayer } from "./MeasureLayer";
import type { Outline } from "./snap";
import { useMeasuring } from "./useMeasuring";

/** Pixels to a millimetre, and where the drawing's 0, 0 lies in the layer over it. */
type View = { k: number; x: number; y: number; width: number };
function viewOf(drawing: SVGGraphicsElement, over: SVGSVGElement): View {
  const m = drawing.getScreenCTM()!,
    r = over.getBoundingClientRect();
  return { k: m.a, x: m.e - r.left, y: m.f - r.top, width: r.width };
}

/** Measuring over a drawing of its own: an SVG, or a group in it, in mm with Y upwards. */
export function MeasureOver({
  drawing,
  make,
  of,
}: {
  drawing: RefObject<SVGGraphicsElement | null>;
  make: () => Outline[];
  of: readonly unknown[];
}) {
  const [view, setView] = useState<View | null>(null);
  const measuring = useMeasuring({ make, of, scale: () => view?.k ?? 1 });
  const at = (e: PointerEvent<SVGSVGElement>): XY => {
    const v = viewOf(drawing.current!, e.currentTarget);
    setView(v);
    const r = e.currentTarget.getBoundingClientRect();
    return [(e.clientX - r.left - v.x) / v.k, (v.y - (e.clientY - r.top)) / v.k];
  };
  return (
    <>
      {measuring.on && (
        <svg
          className="absolute inset-0 h-full w-full cursor-crosshair"
          data-testid="measure-over"
          onPointerMove={(e) => measuring.move(at(e))}
          onPointerDown={(e) => {
            e.preventDefault();
            measuring.click(at(e));
          }}
        >
          {view && (
            <MeasureLayer
              px={([x, y]) => [view.x + x * view.k, view.y - y * view.k]}
              {...measuring.shown}
              width={view.width}
            />
          )}
        </svg>
      )}
      <button
        className={`${measuring.on ? "key-strong" : "key"} absolute right-4 top-3 z-10 !py-0`}
        aria-pressed={measuring.on}
        title="measure: two clicks (D); Esc takes the measures away"
        onClick={measuring.turn}
      >
        Measure
      </button>
    </>
  );
}
