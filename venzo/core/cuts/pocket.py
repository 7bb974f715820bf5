"""Pockets: clearing an area by rings or rows, around islands, whole or only the rest a larger cutter left.

Nothing is left standing at any step-over below the whole diameter: what the rings or rows miss in corners and
necks is found by subtracting what they sweep, and traced.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from shapely import affinity, prepare
from shapely.geometry import LineString, MultiLineString, MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from venzo.core.cuts.areas import Area, polygon_loops, polygons_in, region_of
from venzo.core.cuts.track import Track, ramp_down, run
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points
from venzo.core.snags import BadInput
from venzo.core.tolerances import REFIT

MOST_RINGS = 1500
"""Rings or rows of one pocket; more asks for a larger step-over or cutter."""
SLACK = 0.004
"""mm by which a straight link may graze the boundary of where the cutter's middle may go."""
COARSE = 0.01
"""mm by which inner rings may differ from exact offsets."""
QUAD = 24
"""Chords of a quarter circle where a sweep is reckoned."""


@dataclass(frozen=True)
class Lines:
    """Where the cutter's middle goes at one level, in order. ``centres``: where it may be; ``wall``: how many
    at the end run along walls; ``left``: mm2 that stay along the walls.
    """

    paths: tuple[Contour, ...]
    centres: BaseGeometry
    wall: int
    left: float = 0.0
    both_ways: bool = False
    """Rows may be run from either end; stretches of rings keep their direction, climb or conventional."""


@dataclass(frozen=True)
class Clearing:
    """How an area is cleared: in rings ("offset") or rows ("raster") at an ``angle``, degrees; a raster ends
    with a run along the walls (``wall_pass``); which way along walls.
    """

    pattern: str = "offset"
    angle: float = 0.0
    wall_pass: bool = True
    climb: bool = True


def clear_area(
    area: Area,
    radius: float,
    allowance: float,
    step_over: float,
    how: Clearing = Clearing(),
    opened: BaseGeometry | None = None,
) -> Lines:
    """Paths that clear an area.

    Args:
        area: what may and must be cut.
        radius: of the cutter where it is widest below the surface, mm.
        allowance: left along the walls, mm.
        step_over: between rings or rows, over the diameter.
        how: rings or rows, and which way round.
        opened: what is cleared already; then only the rest is cut.

    Raises:
        BadInput: more than MOST_RINGS rings or rows.
    """
    outer = area.centres(radius + allowance)
    if not outer:
        return Lines((), MultiPolygon(), 0)
    centres = region_of(outer)
    step = step_over * 2 * radius
    b = centres.bounds
    if max(b[2] - b[0], b[3] - b[1]) / step > MOST_RINGS * (2 if how.pattern == "offset" else 1):
        raise BadInput(
            f"{area.name}: more than {MOST_RINGS} rows at a step-over of {step:.3g} mm; take a larger"
            " step-over or cutter"
        )
    opening = centres.buffer(radius, quad_segs=QUAD)
    must = opening.intersection(area.target.buffer(1e-6)) if area.open_sided else opening
    if opened is not None:
        must = must.difference(opened.buffer(0.02))
        must = unary_union(polygons_in(must, 0.002))
        if must.is_empty:
            return Lines((), centres, 0)
    walls = [_turned(fit(p, True, REFIT).simplified(1e-4), how.climb) for p in outer]
    if opened is not None:
        return _rest(centres, must, outer, radius, step, how.climb)
    inner: list[list[Contour]] = []
    if how.pattern == "offset":
        loops = [(c if how.climb else c.reversed()).points(COARSE) for c in walls]
        for _ in range(MOST_RINGS):
            # each ring from the one before, coarsely: only the outermost lies along a wall, and what rings
            # miss is looked for below
            loops = offset_points(loops, -step, chord=COARSE)
            rings = [fit(p, True, COARSE) for p in loops]
            loops = [r.points(COARSE) for r in rings]
            if not rings:
                break
            inner.append([_turned(r.simplified(1e-4), how.climb) for r in rings])
        paths = [r for ring in reversed(inner) for r in _near_first(ring)]
    else:
        paths = _rows(centres, step, how.angle)
    keep_walls = how.pattern == "offset" or how.wall_pass
    extra = _between(walls, inner, must, centres, radius, step) if how.pattern == "offset" else []
    left = 0.0
    if not keep_walls:
        left = sum(p.area for p in polygons_in(must.difference(_sweep(paths, radius).buffer(0.02)), 0.05))
    ends = _near_first(walls) if keep_walls else []
    return Lines((*paths, *extra, *ends), centres, len(ends), left, how.pattern == "raster")


def _between(
    walls: list[Contour],
    inner: list[list[Contour]],
    must: BaseGeometry,
    centres: BaseGeometry,
    radius: float,
    step: float,
) -> list[Contour]:
    """Closed paths that clear what rings leave between them.

    Let C be the region inside one ring and C' the next, C shrunk by the step. What neither sweeps is C shrunk
    by the radius less C' grown by it: nothing where the step is at most the radius, since shrinking by more
    lies inside shrinking by less. So only wider step-overs are looked at, ring by ring. (Rows need no such
    look: from any place in C the way straight to the nearest row, at most half a step, ends on the row or
    crosses the wall's ring before.)
    """
    if step <= radius - 4 * COARSE:
        return []
    rings = [walls, *inner, []]
    regions_ = [region_of([c.points(COARSE) for c in _as_region(r)]) for r in rings]
    out: list[Contour] = []
    for k, (here, nxt) in enumerate(pairwise(regions_)):
        deep = here.buffer(-radius + 0.012, quad_segs=QUAD)
        if deep.is_empty:
            continue
        rest = deep.difference(nxt.buffer(radius - 0.012, quad_segs=QUAD)) if not nxt.is_empty else deep
        if rest.area < 0.0004:
            continue
        near = [*rings[k], *rings[k + 1]]
        out += _remains([*near, *out[-40:]], rest.intersection(must), centres, radius)
    return out


def _as_region(rings: list[Contour]) -> list[Contour]:
    """Rings as they bound a region: the outermost counter-clockwise, those within clockwise. Rings of one
    distance never overlap, so depth is a matter of containment.
    """
    rings = [r for r in rings if len(r.points(COARSE)) > 2]  # smaller ones are specks
    shapes = [Polygon(r.points(COARSE)).buffer(0) for r in rings]
    out = []
    for i, r in enumerate(rings):
        depth = sum(
            1
            for j, other in enumerate(shapes)
            if j != i and other.area > shapes[i].area and other.contains(shapes[i].representative_point())
        )
        out.append(r.oriented(depth % 2 == 0))
    return out


def _turned(ring: Contour, climb: bool) -> Contour:
    """Outer rings come counter-clockwise and islands clockwise, which is climb for a right-hand spindle."""
    return ring if climb else ring.reversed()


def _near_first(rings: list[Contour]) -> list[Contour]:
    """Rings of one distance, each next to the one before."""
    if len(rings) < 2:
        return rings
    rest, out = list(rings), []
    here = rest[0].vertices[0, :2]
    while rest:
        k = min(range(len(rest)), key=lambda i: math.hypot(*(rest[i].vertices[0, :2] - here)))
        out.append(rest.pop(k))
        here = out[-1].vertices[0, :2]
    return out


def _line(c: Contour) -> LineString:
    p = c.points(0.01)
    return LineString(np.vstack([p, p[:1]]) if c.closed else p)


def _sweep(paths: Sequence[Contour], radius: float) -> BaseGeometry:
    """What a disc sweeps along paths (slightly less: chords lie inside its circle)."""
    if not paths:
        return MultiPolygon()
    return MultiLineString([_line(p) for p in paths]).buffer(radius, quad_segs=QUAD)


def _remains(
    paths: Sequence[Contour], must: BaseGeometry, centres: BaseGeometry, radius: float
) -> list[Contour]:
    """Closed paths that clear what the given ones leave of ``must``.

    A place the opening holds and no path sweeps lies where the cutter's middle may go (else the nearest place
    on the outermost ring would sweep it), so running around its edge clears it; repeated until nothing is
    left.
    """
    out: list[Contour] = []
    inside = centres.buffer(-0.01)
    for _ in range(6):
        rest = must.difference(_sweep([*paths, *out], radius).buffer(0.012))
        patches = [p for p in polygons_in(rest, 0.0004) if not p.buffer(-0.004).is_empty]
        found = 0
        for p in patches:
            for piece in polygons_in(p.buffer(0.02).intersection(inside), 1e-5) or _spots(p, inside):
                ring = piece.simplify(0.01).exterior if piece.area > 1e-5 else piece.exterior
                pts = np.array(ring.coords)[:-1]
                if len(pts) >= 3:
                    out.append(Contour.of(pts.tolist()))
                    found += 1
        if not found:
            break
    return out


def _spots(p: Polygon, inside: BaseGeometry) -> list[Polygon]:
    """A speck too thin to run around: visited at its nearest allowed place."""
    if inside.is_empty:
        return []
    from shapely.ops import nearest_points

    at = nearest_points(inside, p.representative_point())[0]
    return [box(at.x - 0.002, at.y - 0.002, at.x + 0.002, at.y + 0.002)]


def _rows(centres: BaseGeometry, step: float, angle: float) -> list[Contour]:
    """Rows to and fro at an angle, joined into chains where the step across stays inside."""
    level = affinity.rotate(centres, -angle, origin=(0, 0))
    x0, y0, x1, y1 = level.bounds
    edge = min(0.005, (y1 - y0) / 4)
    n = max(1, math.ceil((y1 - y0 - 2 * edge) / step - 1e-9)) + 1
    ys = np.linspace(y0 + edge, y1 - edge, n) if y1 - y0 > 2 * edge else np.array([(y0 + y1) / 2])
    rows: list[list[tuple[float, float]]] = []
    for y in ys:
        cut = level.intersection(LineString([(x0 - 1, y), (x1 + 1, y)]))
        parts = [
            g for g in getattr(cut, "geoms", None) or [cut] if g.geom_type == "LineString" and g.length > 1e-6
        ]
        rows.append(
            sorted(
                (min(p.coords[0][0], p.coords[-1][0]), max(p.coords[0][0], p.coords[-1][0])) for p in parts
            )
        )
    fat = level.buffer(SLACK)
    prepare(fat)
    left = {(i, k) for i, r in enumerate(rows) for k in range(len(r))}
    chains: list[list[tuple[float, float]]] = []
    while left:
        i, k = min(left)
        left.discard((i, k))
        a, b = rows[i][k]
        chain = [(a, ys[i]), (b, ys[i])]
        while i + 1 < len(rows):
            here = chain[-1]
            best = None
            for j, (p, q) in enumerate(rows[i + 1]):
                if (i + 1, j) not in left:
                    continue
                for x, far in ((p, q), (q, p)):
                    if best is None or abs(x - here[0]) < best[0]:
                        best = (abs(x - here[0]), x, far, j)
            if best is None or not fat.covers(LineString([here, (best[1], ys[i + 1])])):
                break
            i += 1
            left.discard((i, best[3]))
            chain += [(best[1], ys[i]), (best[2], ys[i])]
        chains.append(chain)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    return [
        Contour.of([(x * c - y * s, x * s + y * c) for x, y in chain], closed=False).simplified(1e-6)
        for chain in chains
    ]


def _rest(
    centres: BaseGeometry, must: BaseGeometry, outer: list[Array], radius: float, step: float, climb: bool
) -> Lines:
    """Only what earlier, larger cutters left: stretches of the rings from which something of it is
    reached.
    """
    zone = must.buffer(radius - 0.01, quad_segs=QUAD)
    paths: list[Contour] = []
    levels = [outer]
    k = 1
    while k < MOST_RINGS:  # inner rings only as far as the rest is wide
        within = polygon_loops(centres.buffer(-k * step, quad_segs=QUAD).intersection(zone))
        if not within or k * step > 3 * radius:
            break
        levels.append(polygon_loops(centres.buffer(-k * step, quad_segs=QUAD)))
        k += 1
    for loops in reversed(levels):
        for p in loops:
            ring = p if climb else p[::-1]
            closed = LineString(np.vstack([ring, ring[:1]]))
            if zone.covers(closed):
                paths.append(fit(ring, True, REFIT).simplified(1e-4))
                continue
            cut = closed.intersection(zone)
            pieces = [
                g
                for g in getattr(cut, "geoms", None) or [cut]
                if g.geom_type == "LineString" and g.length > 1e-3
            ]
            paths += [fit(np.array(c), False, REFIT) for c in _joined(pieces, ring)]
    extra = _remains(paths, must, centres, radius)
    return Lines((*paths, *extra), centres, 0)


def _joined(pieces: list[LineString], ring: Array) -> list[list[tuple[float, float]]]:
    """Stretches of a ring; the two that meet at its first vertex become one."""
    lines = [list(p.coords) for p in pieces]
    start = tuple(ring[0])
    head = next((i for i, c in enumerate(lines) if math.dist(c[0], start) < 1e-9), None)
    tail = next((i for i, c in enumerate(lines) if math.dist(c[-1], start) < 1e-9), None)
    if head is not None and tail is not None and head != tail:
        joined = lines[tail] + lines[head][1:]
        lines = [c for i, c in enumerate(lines) if i not in (head, tail)] + [joined]
    return [[(x, y) for x, y, *_z in c] for c in lines]


def lay_levels(
    levels: Sequence[tuple[float, Lines]],
    begins: float,
    track: Track,
    entry: str,
    ramp: float,
    radius: float,
    wall_feed: float,
) -> None:
    """Lay the moves of every level: entry, paths with straight links where those stay inside, hops where they
    do not.
    """
    before = begins
    for level, lines in levels:
        fat = lines.centres.buffer(SLACK)
        prepare(fat)
        for n, path in enumerate(lines.paths):
            walls = n >= len(lines.paths) - lines.wall
            feed = track.feed * wall_feed if walls and len(lines.paths) > lines.wall else track.feed
            s = 0.0
            linked = False
            if n and track.rows and abs(track.at[2] - level) < 1e-6:
                here = track.at[:2]
                if path.closed:
                    s = path.nearest(*here)[0]
                elif lines.both_ways and math.dist(here, path.vertices[-1, :2]) < math.dist(
                    here, path.vertices[0, :2]
                ):
                    path = path.reversed()
                x, y = path.at(s)[:2]
                if math.dist(here, (x, y)) < 1e-6 or fat.covers(LineString([here, (x, y)])):
                    track.line(x, y, feed=feed)
                    linked = True
            if not linked:
                x, y = path.at(s)[:2]
                if entry == "helix" and n == 0 and _helix(track, lines.centres, before, level, radius, ramp):
                    here = track.at[:2]
                    s = path.nearest(*here)[0] if path.closed else 0.0
                    x, y = path.at(s)[:2]
                    if fat.covers(LineString([here, (x, y)])):
                        track.line(x, y)
                    else:
                        track.over(x, y)
                        track.down(level)
                else:
                    track.over(x, y)
                    track.down(min(0.0, before))
                    if entry == "plunge":
                        track.down(level)
                    else:
                        s = ramp_down(track, path, s, min(0.0, before), level, ramp)
            track.follow(
                run(path, s, s + path.length) if path.closed else run(path, 0.0, path.length),
                level,
                level,
                path.length,
                feed,
            )
        before = level


def _helix(track: Track, centres: BaseGeometry, z0: float, z1: float, radius: float, ramp: float) -> bool:
    """Go down along a helix where the area is widest; False where it is too narrow for one."""
    import shapely

    widest = max(polygons_in(centres), key=lambda p: p.area, default=None)
    if widest is None:
        return False
    line = shapely.maximum_inscribed_circle(widest, tolerance=0.5)
    cx, cy = line.coords[0]
    turn = min(0.9 * radius, 0.9 * line.length)
    if turn < 0.3 * radius:
        return False
    turns = max(1, math.ceil(ramp / (2 * math.pi * turn)))
    track.over(cx + turn, cy)
    track.down(min(0.0, z0))
    drop = min(0.0, z0) - z1
    plunge = min(
        track.feed,
        max(track.plunge, track.plunge * math.hypot(2 * math.pi * turn * turns, drop) / max(drop, 1e-9)),
    )
    for k in range(2 * turns):
        side = -1 if k % 2 == 0 else 1
        track.arc(True, cx + side * turn, cy, cx, cy, min(0.0, z0) - drop * (k + 1) / (2 * turns), plunge)
    for side in (-1, 1):
        track.arc(True, cx + side * turn, cy, cx, cy, z1)
    return True


def engagement(
    paths: Sequence[Contour], radius: float, cell: float | None = None
) -> tuple[float, float, float]:
    """How much of the diameter bites along paths run in order: mean, 95th percentile and most, as shares of
    the diameter.

    Measured on a grid: the area newly removed in every short step over step length times diameter.
    """
    cell = cell or radius / 12
    pts = []
    for p in paths:
        line = _line(p)
        n = max(2, math.ceil(line.length / (radius / 4)))
        pts.append(np.array([line.interpolate(t, normalized=True).coords[0] for t in np.linspace(0, 1, n)]))
    allp = np.vstack(pts)
    lo = allp.min(axis=0) - radius - 2 * cell
    shape = tuple(np.ceil((allp.max(axis=0) + radius + 2 * cell - lo) / cell).astype(int) + 1)
    gone = np.zeros(shape, bool)
    k = math.ceil(radius / cell) + 1
    off = np.arange(-k, k + 1)
    shares: list[float] = []
    for part in pts:
        last = None
        for q in part:
            i, j = np.round((q - lo) / cell).astype(int)
            dx = (off + i) * cell + lo[0] - q[0]
            dy = (off + j) * cell + lo[1] - q[1]
            disc = dx[:, None] ** 2 + dy[None, :] ** 2 <= radius * radius
            view = gone[i - k : i + k + 1, j - k : j + k + 1]
            new = int((disc & ~view).sum())
            view |= disc
            if last is not None:
                d = math.dist(last, q)
                if d > 1e-6:
                    shares.append(min(1.0, new * cell * cell / (d * 2 * radius)))
            last = q
    a = np.array(shares) if shares else np.zeros(1)
    return float(a.mean()), float(np.percentile(a, 95)), float(a.max())


def swept_region(paths: Sequence[Contour], radius: float) -> BaseGeometry:
    """What a disc of ``radius`` sweeps along paths."""
    return _sweep(paths, radius)
