import { useEffect, useRef, useState } from "react";

import type { Stock, XY } from "../api/model";
import { onSheet } from "./laid";
import type { Shown } from "./shown";

/** Where the picture of an area (x0, y0, x1, y1 on the sheet, mm) so many pixels wide is fetched. */
export type CutPicture = (area: Area, px: number) => string;
type Area = [number, number, number, number];
export type Seen = { address: string; area: Area };

const WIDEST = 1600,
  /** Pixels to which widths are rounded, so that a picture serves again. */
  STEP = 100;

/** The picture of what is looked at, once it is there; what was seen last stays until the next is. */
export function useCut(shown: Shown, size: XY, picture: CutPicture | undefined): Seen | null {
  const area = lookedAt(shown, size);
  const px = Math.min(WIDEST, Math.ceil(((area[2] - area[0]) * shown.camera.k) / STEP) * STEP);
  const some = !!size[0] && area[2] > area[0] && area[3] > area[1];
  const seen = useLatest(picture && some ? { address: picture(area, px), area } : null);
  return picture ? seen : null;
}

/** The sheet as it is cut, under the pieces. */
export function CutLayer({ seen, stock }: { seen: Seen; stock: Stock }) {
  const [x0, y0, x1, y1] = seen.area;
  return (
    <>
      <rect width={stock.width} height={stock.height} fill="#f5ecd6" pointerEvents="none" />
      <image
        href={seen.address}
        x={x0}
        y={-y1}
        width={x1 - x0}
        height={y1 - y0}
        transform="scale(1 -1)"
        preserveAspectRatio="none"
        pointerEvents="none"
        data-testid="as-cut"
        data-address={seen.address}
      />
    </>
  );
}

/** The part of the sheet that is in the window, to whole tenths of its size, so that small moves ask nothing. */
function lookedAt({ setup, stock, camera }: Shown, size: XY): Area {
  const corners = [0, size[0]].flatMap((x) =>
    [0, size[1]].map((y) => onSheet([(x - camera.x) / camera.k, (camera.y - y) / camera.k], setup)),
  );
  const xs = corners.map((p) => p[0]),
    ys = corners.map((p) => p[1]);
  const grid = Math.max(1, 2 ** Math.floor(Math.log2(Math.max(1, size[0] / camera.k / 4))));
  const down = (v: number) => Math.floor(v / grid) * grid,
    up = (v: number) => Math.ceil(v / grid) * grid;
  return [
    Math.max(0, down(Math.min(...xs))),
    Math.max(0, down(Math.min(...ys))),
    Math.min(stock.width, up(Math.max(...xs))),
    Math.min(stock.height, up(Math.max(...ys))),
  ];
}

/** The latest picture asked for, one at a time: those asked for meanwhile but the last are never fetched. */
function useLatest(wanted: Seen | null): Seen | null {
  const [seen, setSeen] = useState<Seen | null>(null);
  const next = useRef<Seen | null>(null),
    busy = useRef(false),
    alive = useRef(true);
  useEffect(() => {
    alive.current = true;
    return () => {
      alive.current = false;
    };
  }, []);
  const address = wanted?.address;
  useEffect(() => {
    next.current = wanted;
    const fetchNext = () => {
      const now = next.current;
      if (busy.current || !now) return;
      busy.current = true;
      next.current = null;
      const image = new Image();
      const done = (good: boolean) => {
        busy.current = false;
        if (!alive.current) return;
        if (good) setSeen(now);
        fetchNext();
      };
      image.onload = () => done(true);
      image.onerror = () => done(false);
      image.src = now.address;
    };
    fetchNext();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is wanted is its address
  }, [address]);
  return seen;
}
