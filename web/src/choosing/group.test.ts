import { expect, test } from "vitest";

import type { Part, Piece } from "../api/model";
import { pieceBeside } from "./beside";
import { aligned, boxAbout, boxOf, centred, inFrame, spread, turnedTogether } from "./group";

const part = (id: string, d: string, rotations: Part["rotations"] = "free") =>
  ({ id, contours: [{ name: "outline", d }], rotations }) as unknown as Part;
const parts = new Map([
  ["plate", part("plate", "M0 0L80 0L80 50L0 50Z")],
  ["disc", part("disc", "M60 30A30 30 0 0 1 0 30A30 30 0 0 1 60 30Z", [0, 180])],
]);
const piece = (id: string, of: string, x: number, y: number, rotation = 0): Piece =>
  ({ id, part: of, x, y, rotation, mirrored: false }) as Piece;
const some = [piece("a", "plate", 10, 20), piece("b", "disc", 140, 90), piece("c", "plate", 320, 15, 90)];

test("a box holds the bulges of arcs", () => {
  expect(boxOf(some[1], parts).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([140, 90, 200, 150]);
});

test("aligned pieces share their side and move along one axis only", () => {
  const was = boxAbout(some, parts);
  for (const [side, at] of [
    ["left", 0],
    ["near", 1],
    ["right", 2],
    ["far", 3],
  ] as const) {
    const now = aligned(some, parts, side);
    for (const p of now) expect(boxOf(p, parts)[at]).toBeCloseTo(was[at], 9);
    const kept = at % 2 ? "x" : "y";
    expect(now.map((p) => p[kept])).toEqual(some.map((p) => p[kept]));
  }
  for (const p of aligned(some, parts, "middle Y")) {
    const b = boxOf(p, parts);
    expect((b[1] + b[3]) / 2).toBeCloseTo((was[1] + was[3]) / 2, 9);
  }
});

test("spread pieces have equal gaps, the outermost stay", () => {
  const now = spread(some, parts, "x").map((p) => boxOf(p, parts));
  expect(now[1][0] - now[0][2]).toBeCloseTo(now[2][0] - now[1][2], 9);
  const [before, after] = [boxAbout(some, parts), boxAbout(spread(some, parts, "x"), parts)];
  expect([after[0], after[2]].map((v) => v.toFixed(6))).toEqual(
    [before[0], before[2]].map((v) => v.toFixed(6)),
  );
});

test("turned together four times they lie as they lay; what may not lie so is refused", () => {
  const plates = [some[0], some[2]];
  let now: Piece[] | null = plates;
  for (let n = 0; n < 4; n++) now = turnedTogether(now!, parts);
  now!.forEach((p, i) => {
    expect(p.x).toBeCloseTo(plates[i].x, 9);
    expect(p.y).toBeCloseTo(plates[i].y, 9);
    expect(p.rotation).toBe(plates[i].rotation);
  });
  expect(turnedTogether(some, parts)).toBeNull();
});

test("direction keys go to the piece that lies that way", () => {
  const boxed = new Map(
    [...parts].map(([id, p]) => [id, { ...p, box: id === "disc" ? [0, 0, 60, 60] : [0, 0, 80, 50] } as Part]),
  );
  const row = [0, 1, 2, 3].map((n) => piece(`${n}`, "plate", 100 * (n % 2), 70 * Math.floor(n / 2)));
  const goes = (from: number, way: [number, number]) => pieceBeside(row[from], way, row, boxed)?.id;
  expect([goes(0, [1, 0]), goes(0, [0, 1]), goes(3, [-1, 0]), goes(3, [0, -1])]).toEqual([
    "1",
    "2",
    "2",
    "1",
  ]);
  expect([goes(0, [-1, 0]), goes(3, [0, 1])]).toEqual([undefined, undefined]);
});

test("centred on the sheet, and caught by a frame", () => {
  const b = boxAbout(centred(some, parts, { width: 1000, height: 600 }), parts);
  expect(b[0] + b[2]).toBeCloseTo(1000, 9);
  expect(b[1] + b[3]).toBeCloseTo(600, 9);
  expect(
    inFrame(some, parts, [
      [0, 0],
      [150, 100],
    ]),
  ).toEqual(["a", "b"]);
  expect(
    inFrame(some, parts, [
      [399, 300],
      [210, 0],
    ]),
  ).toEqual(["c"]);
});
