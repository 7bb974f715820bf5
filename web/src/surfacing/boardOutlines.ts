import type { BenchView, XY } from "../api/model";
import { ring, type Segment, segments } from "../measuring/segments";
import type { Outline } from "../measuring/snap";
import type { Place } from "./boardPlace";

const rect = (x0: number, y0: number, x1: number, y1: number) =>
  ring([
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ]);

/** What can be measured on a board's drawing: boards, table, what is kept clear of and what stays uncut, and the
 * rows that are shown. mm from the board's corner. */
export function boardOutlines(at: Place, rows: BenchView["layers"][number] | undefined): Outline[] {
  const { b, m, ox, oy, view } = at;
  const named = (name: string, all: Segment[], piece: string | null = null): Outline => ({
    piece,
    name,
    segments: all,
  });
  return [
    named(b.name, rect(0, 0, b.width, b.height), b.name),
    ...(m ? [named("table", rect(-ox, -oy, m.width - ox, m.height - oy))] : []),
    ...(m?.dead_areas ?? []).map((d) => named("dead area", rect(d[0] - ox, d[1] - oy, d[2] - ox, d[3] - oy))),
    ...(at.onGrid ? at.others : []).map((o) => {
      const [cx, cy] = at.corner(o.square ?? 1);
      return named(o.name, rect(cx - ox, cy - oy, cx - ox + o.width, cy - oy + o.height), o.id);
    }),
    ...b.dead.map((d) => named("kept clear of", rect(d.x0, d.y0, d.x1, d.y1))),
    ...view.uncut.map((u) => named("stays uncut", ring(u.map((p): XY => [p[0], p[1]])))),
    ...(rows?.runs ?? []).map((r) => named("row", segments(r.d))),
  ].filter((o) => o.segments.length);
}
