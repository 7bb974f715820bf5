/** How the sheet lies on the table: its corner, and its turn where it was laid crooked. */
import type { Setup, XY } from "../api/model";

export type Laid = Pick<Setup, "sheet_at" | "turn">;

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** A point of the sheet on the table, mm. */
export function onTable([x, y]: XY, { sheet_at: [sx, sy], turn }: Laid): XY {
  const c = Math.cos(radians(turn)),
    s = Math.sin(radians(turn));
  return [sx + c * x - s * y, sy + s * x + c * y];
}

/** A point of the table on the sheet, mm. */
export function onSheet([x, y]: XY, { sheet_at: [sx, sy], turn }: Laid): XY {
  const c = Math.cos(radians(turn)),
    s = Math.sin(radians(turn));
  return [c * (x - sx) + s * (y - sy), -s * (x - sx) + c * (y - sy)];
}

/** The upright box, x y width height, that a sheet takes on the table, mm. */
export function boxOnTable(width: number, height: number, laid: Laid): [number, number, number, number] {
  const corners = (
    [
      [0, 0],
      [width, 0],
      [width, height],
      [0, height],
    ] as XY[]
  ).map((p) => onTable(p, laid));
  const xs = corners.map((p) => p[0]),
    ys = corners.map((p) => p[1]);
  const x = Math.min(...xs),
    y = Math.min(...ys);
  return [x, y, Math.max(...xs) - x, Math.max(...ys) - y];
}

/** The same for what is drawn in SVG. */
export const laidTransform = ({ sheet_at: [x, y], turn }: Laid) =>
  `translate(${x} ${y})${turn ? ` rotate(${turn})` : ""}`;
