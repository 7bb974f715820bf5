import { type BenchLine, type BenchView, type XY } from "../api/model";

/** Where a board and those on one program with it lie on the drawing; mm to pixels. */
export function placed(view: BenchView, others: BenchLine[], room: XY, whole: boolean) {
  const b = view.bench.board,
    m = view.machine,
    over = view.bench.how.overrun + view.bench.how.cutter * 0.6;
  // several boards lie on the numbered grid of the table; one alone where it is said to lie
  const onGrid = others.length > 0 && m !== null,
    { pitch, columns, rows, at } = view.grid;
  const corner = (square: number): XY => [
    at[0] + ((square - 1) % columns) * pitch,
    at[1] + Math.floor((square - 1) / columns) * pitch,
  ];
  const [ox, oy] = onGrid ? corner(view.bench.square ?? 1) : [b.x, b.y];
  const area: [number, number, number, number] =
    (whole || onGrid) && m
      ? [-ox, -oy, m.width - ox, m.height - oy]
      : [-over, -over, b.width + over, b.height + over];
  const pad = 34,
    k = Math.max(
      0.01,
      Math.min((room[0] - 2 * pad) / (area[2] - area[0]), (room[1] - 2 * pad - 26) / (area[3] - area[1])),
    );
  const W = (area[2] - area[0]) * k,
    H = (area[3] - area[1]) * k,
    px = (v: number) => v / k;
  return { view, others, m, b, over, onGrid, pitch, columns, rows, corner, ox, oy, area, k, W, H, px };
}

/** A board's place on the drawing. */
export type Place = ReturnType<typeof placed>;
