import { expect, test } from "vitest";

import type { Part, Piece, XY } from "../api/model";
import { cases } from "../tests/cases";
import { gap, nearestOnRing, obstaclesOf, snapped, solid, toPart, toSheet, trouble } from "./collisions";

const part = (name: string) => ({ rings: cases.shapes[name] }) as Part;

test("a thousand pairs are as far apart as the server's judge finds them", () => {
  for (const { pair, gap: judged } of cases.poses) {
    const [a, b] = pair.map((p) => solid(part(p.part), p));
    const found = gap(a, b, 500);
    expect(Math.abs(found - judged), JSON.stringify(pair)).toBeLessThan(1e-6);
    expect(gap(b, a, 500)).toBeCloseTo(found, 6);
  }
});

test("looking no farther than asked never calls a near piece far", () => {
  for (const { pair, gap: judged } of cases.poses) {
    const [a, b] = pair.map((p) => solid(part(p.part), p));
    if (judged < 9) expect(Math.abs(gap(a, b, 9) - judged)).toBeLessThan(1e-6);
    else expect(gap(a, b, 9)).toBeGreaterThanOrEqual(9 - 1e-6);
  }
});

test("a place goes to the sheet and back", () => {
  for (const { pair } of cases.poses.slice(0, 200)) {
    const p: XY = [12.3, -4.5];
    const back = toPart(toSheet(p, pair[0]), pair[0]);
    expect(Math.hypot(back[0] - p[0], back[1] - p[1])).toBeLessThan(1e-9);
  }
});

test("the nearest point of a ring is on it, and no corner is nearer", () => {
  const ring = cases.shapes.ell[0];
  for (const { pair } of cases.poses.slice(0, 200)) {
    const p: XY = [pair[0].x - 60, pair[0].y - 60];
    const q = nearestOnRing(p, ring),
      away = Math.hypot(p[0] - q[0], p[1] - q[1]);
    for (const c of ring) expect(away).toBeLessThanOrEqual(Math.hypot(p[0] - c[0], p[1] - c[1]) + 1e-9);
    expect(nearestOnRing(q, ring)[0]).toBeCloseTo(q[0], 9);
  }
});

const around = ({ rings, lying }: (typeof cases.handed)[number]) =>
  lying.map((p, n) => ({
    id: `${n}`,
    name: p.part,
    solid: solid({ rings: [rings[p.part]] } as Part, p),
  }));

test("what the page says of a piece in the hand is what the server says when it is let go", () => {
  let fits = 0;
  for (const c of cases.handed) {
    const own = solid({ rings: [c.rings[c.moved.part]] } as Part, c.moved);
    const said = trouble(own, around(c), obstaclesOf(c.stock, 0), c.stock, c.spacing);
    expect(!said, JSON.stringify({ ...c, rings: undefined, said })).toBe(c.fits);
    fits += c.fits ? 1 : 0;
  }
  expect(fits).toBeGreaterThan(100);
  expect(cases.handed.length - fits).toBeGreaterThan(100);
});

test("where a piece snaps to, it may lie", () => {
  let snaps = 0;
  for (const c of cases.handed) {
    const part = { rings: [c.rings[c.moved.part]] } as Part;
    const to = snapped(
      part,
      c.moved as unknown as Piece,
      around(c),
      obstaclesOf(c.stock, 0),
      c.stock,
      c.spacing,
      12,
    );
    if (!to) continue;
    snaps += 1;
    expect(trouble(solid(part, to), around(c), obstaclesOf(c.stock, 0), c.stock, c.spacing)).toBeNull();
  }
  expect(snaps).toBeGreaterThan(50);
});
