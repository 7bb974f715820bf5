/** Where names stand in a drawing: no two over one another, none under what lies over the drawing. */

export type Box = [number, number, number, number];
export type Label = { id: string; x: number; y: number; width: number; height: number; weight: number };

const meet = (a: Box, b: Box) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];
export const boxOf = (l: Label): Box => [
  l.x - l.width / 2,
  l.y - l.height / 2,
  l.x + l.width / 2,
  l.y + l.height / 2,
];

/** The labels that have room beside one another and beside what is taken already; the weightiest come first. */
export function roomFor(labels: Label[], taken: Box[]): Set<string> {
  const put = [...taken],
    shown = new Set<string>();
  for (const label of [...labels].sort((a, b) => b.weight - a.weight)) {
    const box = boxOf(label);
    if (put.some((other) => meet(box, other))) continue;
    put.push(box);
    shown.add(label.id);
  }
  return shown;
}
