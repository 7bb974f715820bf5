import type { Machine } from "../api/model";
import { bare, readCorners, type Unit } from "../shared/lengths";

/** Two corners as they are typed in the shop's unit. */
export const corners = (r: [number, number, number, number], unit: Unit) =>
  `${bare(r[0], unit)}, ${bare(r[1], unit)}; ${bare(r[2], unit)}, ${bare(r[3], unit)}`;

/** Every two corners are a box. */
export function boxes(points: [number, number][]): [number, number, number, number][] {
  if (points.length % 2) throw new Error("give two corners for each area: x, y; x, y");
  return points.flatMap((p, k) =>
    k % 2
      ? []
      : [
          [
            Math.min(p[0], points[k + 1][0]),
            Math.min(p[1], points[k + 1][1]),
            Math.max(p[0], points[k + 1][0]),
            Math.max(p[1], points[k + 1][1]),
          ] as [number, number, number, number],
        ],
  );
}

/** Vacuum zones, a line each: name: x, y; x, y. */
export async function readZones(text: string, unit: Unit): Promise<Machine["zones"]> {
  const lines = text.split("\n").filter((line) => line.trim());
  return Promise.all(
    lines.map(async (line, k) => {
      const [name, rest] = line.includes(":") ? line.split(":") : [String(k + 1), line],
        found = boxes(await readCorners(rest, unit));
      if (found.length !== 1) throw new Error(`zone ${name.trim()}: give its two corners, x, y; x, y`);
      return { id: name.trim(), rect: found[0] };
    }),
  );
}
