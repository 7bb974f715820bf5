import { useCallback, useEffect, useLayoutEffect, useState, type RefObject } from "react";

import { type Setup, type Stock, type XY } from "../api/model";
import { typing, useKeys, withModifier } from "../shared/keys";
import { boxOnTable, onTable } from "./laid";

/** Pixels to a millimetre, and where the table's X0 Y0 lies on the screen. */
export type Camera = { k: number; x: number; y: number };
/** What was looked at, kept from station to station; "sheet" and "table" fit those as the window changes. */
export type Kept = Camera | Near | "sheet" | "table";
/** A place of the sheet, mm, in the middle of the window. */
export type Near = { on: XY; k: number };
export const RULER = 30;
/** One step nearer by a key. */
export const STEP = 1.4;
const NEAREST = 40,
  FARTHEST = 0.02;

/** The camera that shows a box (mm on the table) in a window of so many pixels, beside the rulers. */
export function fitted([x0, y0, w, h]: [number, number, number, number], [width, height]: XY): Camera {
  const k = Math.max(FARTHEST, Math.min((width - RULER - 34) / w, (height - RULER - 44) / h));
  return {
    k,
    x: RULER + 8 + (width - RULER - 22 - w * k) / 2 - x0 * k,
    y: 24 + (height - RULER - 34 - h * k) / 2 + (y0 + h) * k,
  };
}

/** The camera that has a place of the table in the middle of a window of so many pixels. */
export const centred = ({ on, k }: Near, [width, height]: XY): Camera => ({
  k,
  x: width / 2 - on[0] * k,
  y: height / 2 + on[1] * k,
});

/** Nearer or farther by a factor, with what lies under a point of the screen staying there. */
export function zoomed(camera: Camera, by: number, [mx, my]: XY): Camera {
  const k = Math.min(NEAREST, Math.max(FARTHEST, camera.k * by));
  return { k, x: mx - ((mx - camera.x) * k) / camera.k, y: my - ((my - camera.y) * k) / camera.k };
}

export function useSize(box: RefObject<HTMLElement | null>): XY {
  const [size, setSize] = useState<XY>([0, 0]);
  useLayoutEffect(() => {
    const el = box.current!;
    const watch = new ResizeObserver(() => setSize([el.clientWidth, el.clientHeight]));
    watch.observe(el);
    return () => watch.disconnect();
  }, [box]);
  return size;
}

type Look = { kept: Kept; keep: (k: Kept) => void };

/** Where one looks at the table from: by wheel, two fingers, keys and buttons. */
export function useCamera(
  box: RefObject<HTMLDivElement | null>,
  { kept, keep }: Look,
  setup: Setup,
  stock: Stock | undefined,
) {
  const size = useSize(box);
  const { width, height } = setup.machine;
  const onSheet = kept === "sheet" && stock;
  const camera: Camera =
    typeof kept !== "object"
      ? fitted(
          onSheet ? boxOnTable(stock.width, stock.height, setup) : [0, 0, width, height],
          size[0] ? size : [600, 500],
        )
      : "on" in kept
        ? centred({ ...kept, on: onTable(kept.on, setup) }, size)
        : kept;
  const { k, x, y } = camera;
  const zoom = useCallback(
    (by: number, at: XY = [size[0] / 2, size[1] / 2]) => keep(zoomed({ k, x, y }, by, at)),
    [keep, k, x, y, size],
  );
  // the browser's own answer to the wheel, which scrolls or zooms the page, is not wanted here
  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const r = el.getBoundingClientRect();
      zoom(Math.exp(-e.deltaY * (e.ctrlKey ? 0.008 : 0.0015)), [e.clientX - r.left, e.clientY - r.top]);
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  }, [box, zoom]);
  useKeys((e) => {
    if (typing(e) || withModifier(e)) return;
    if (e.key === "+" || e.key === "=") zoom(STEP);
    if (e.key === "-") zoom(1 / STEP);
    if (e.key === "0") keep("sheet");
  });
  return { camera, size, zoom };
}
