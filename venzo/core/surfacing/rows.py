"""Where does a surfacing cutter run? Rows, perimeter and spiral, so that everything is swept and nothing is
stepped on in the middle.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import KeepOut, Surfacing

CLEAR = 2.0
"""mm between the work and the cutter's edge where it goes down."""
HAIR = 0.02
"""mm further than a corner needs, against rounding."""
EVEN = 1e-9
"""Rows; a division this near to a whole number is even (of a step 5 mm wide that is 5 picometres)."""
LEAST_REST = 0.02
"""mm2; smaller spots that a pattern leaves are rounding."""
MOST_ROWS = 20_000
WIDEST_SPIRAL = 0.84
"""Of the diameter: with wider steps the corners of a square spiral leave spots between them (s <= 2 R / (4 -
2 sqrt 2) = 0.853 D).
"""

Extent = Callable[[float], tuple[float, float] | None]
"""Of a row at a place across: from where to where the cutter's middle has something to do; None: nothing."""


@dataclass(frozen=True, eq=False)
class Room:
    """Where the cutter's middle can go (None: anywhere), what it keeps out of, and what of the work is to be
    clean (None: all of it). mm, the board's coordinates.
    """

    reach: BaseGeometry | None = None
    dead: Sequence[KeepOut] = ()
    wanted: BaseGeometry | None = None

    def at(self, depth: float) -> Room:
        """The same for a tip ``depth`` mm below Z 0: what lies deeper is not in its way."""
        return replace(self, dead=[d for d in self.dead if d.bars(depth)])


@dataclass(frozen=True, eq=False)
class Run:
    """One run at one level: points (n, 2) of the cutter's middle. ``outside``: it starts clear of the work,
    where it may go straight down; ``rest``: over what the pattern left.
    """

    points: Array
    outside: bool
    rest: bool = False

    @property
    def length(self) -> float:
        """mm."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def row_count(across: float, cutter: float, step: float, overrun: float = 0.0) -> int:
    """Rows over a width so that the cutter's edge reaches ``overrun`` beyond both sides and no two are
    further apart than ``step``, mm: ceil((W + 2 o - D) / s) + 1.

    >>> row_count(635, 50.8, 0.4 * 50.8), row_count(635, 50.8, 0.1 * 50.8)
    (30, 116)
    >>> row_count(300, 60, 27), row_count(40, 60, 27)
    (10, 1)
    """
    room = across + 2 * overrun - cutter
    # a tenth is no binary fraction: what comes out even must not ask for a row more
    return 1 if room <= 1e-9 else math.ceil(room / step - EVEN) + 1


def rows_run(found: Sequence[Run], flip: bool) -> int:
    """Rows of the pattern that are really run: lines along them (``flip``: along y), each place across
    counted once.
    """
    places: list[float] = []
    for r in found:
        if r.rest:
            continue
        d = np.diff(r.points, axis=0)
        across, along = (0, 1) if flip else (1, 0)
        straight = (np.abs(d[:, across]) < HAIR) & (np.abs(d[:, along]) > HAIR)
        places += r.points[:-1, across][straight].tolist()
    return len(np.unique(np.round(np.array(places) / HAIR)))


def row_places(across: float, cutter: float, step: float, overrun: float) -> Array:
    """Where the rows' middle lines lie across the work, mm from its edge, evenly spread."""
    n = row_count(across, cutter, step, overrun)
    if n > MOST_ROWS:
        raise BadInput(
            f"{n} rows over {across:g} mm are over the limit of {MOST_ROWS}; take a larger step-over or"
            " cutter"
        )
    if n == 1:
        return np.array([across / 2])
    return np.linspace(cutter / 2 - overrun, across + overrun - cutter / 2, n)


def reach_beyond(across: float, cutter: float, places: Array, overrun: float) -> float:
    """How far beyond the work's ends (mm, negative: short of them) the middle must run so that the ends are
    swept between rows and to the corners too, and the edge overruns.
    """
    r = cutter / 2
    gap = float(np.diff(places).max()) / 2 if len(places) > 1 else 0.0
    corner = max(
        float(places[0]), across - float(places[-1]), 0.0
    )  # from the outermost row to the work's edge
    sag = max(gap, corner)
    if sag >= r - 1e-9:
        return max(0.0, overrun - r)
    return max(overrun - r, min(0.0, HAIR - math.sqrt(r * r - sag * sag)))


def along_x(s: Surfacing, width: float, height: float, grain: str | None) -> bool:
    """Do the rows run along x?"""
    if s.along == "grain" and grain:
        return grain == "x"
    if s.along in ("x", "y"):
        return s.along == "x"
    return width >= height


def runs(
    s: Surfacing,
    width: float,
    height: float,
    share: float | None = None,
    grain: str | None = None,
    room: Room = Room(),
    extent: Extent | None = None,
) -> list[Run]:
    """Runs that surface one level of a board ``width`` x ``height`` mm, its lower left corner at 0, 0.

    Args:
        s: how.
        share: step-over over the diameter, if not ``s.step_over``.
        grain: along "x" or "y".
        room: where the cutter may go.
        extent: what of each row has something to cut; rows only.

    Raises:
        BadInput: too many rows.
    """
    share = s.step_over if share is None else share
    flip = not along_x(s, width, height, grain)
    long, across = (height, width) if flip else (width, height)
    free = _free(s.cutter, width, height, room)
    if s.pattern == "spiral":
        lines = [_spiral(s, long, across, share)]
    else:
        lines = []
        ring = s.pattern == "rows+perimeter"
        if ring:
            lines.append(_ring(long, across, _inset(s.cutter, s.overrun), s.ways != "conventional"))
        turned = affine_transform(free, [0, 1, -1, 0, 0, across]) if flip and free is not None else free
        lines += _rows(s, long, across, share, ring, extent, turned)
    if flip:
        # turned, not mirrored: climb stays climb
        lines = [np.column_stack([across - p[:, 1], p[:, 0]]) for p in lines]
    out = [_run(q, s, width, height, free) for p in lines for q in _clipped(p, free)]
    if free is not None and extent is None:
        work = box(0, 0, width, height)
        work = work.intersection(room.wanted) if room.wanted is not None else work
        out += _rest(out, s, (width, height), work, share * s.cutter, flip, free)
    return out


def _run(p: Array, s: Surfacing, width: float, height: float, free: BaseGeometry | None) -> Run:
    """A line as a run, with its way in."""
    q = _approach(p, s, width, height, free)
    work = box(0, 0, width, height).buffer(s.cutter / 2 + CLEAR / 2)
    return Run(q, not work.intersects(Point(q[0])))


def _rest(
    found: Sequence[Run],
    s: Surfacing,
    size: tuple[float, float],
    work: BaseGeometry,
    step: float,
    flip: bool,
    free: BaseGeometry,
) -> list[Run]:
    """Runs over all that the pattern leaves though the cutter can reach it: along what stands in the way,
    where rows end in scallops, and rows over what a spiral or a perimeter could not go round.
    """
    r = s.cutter / 2
    room = free.intersection(work.buffer(r)).buffer(-HAIR / 4)
    reachable = room.buffer(r - HAIR, quad_segs=32).intersection(work)
    swept_ = swept(found, s.cutter, 32).buffer(HAIR)
    out: list[Run] = []
    for lines in (_along_edges, _over, _along_edges):
        missed = _sizable(reachable.difference(swept_))
        if missed.is_empty:
            break
        more = [
            replace(_run(p, s, *size, free), rest=True) for p in lines(room, missed, s.cutter, step, flip)
        ]
        out += more
        swept_ = swept_.union(swept(more, s.cutter, 32).buffer(HAIR))
    return out


def _sizable(g: BaseGeometry) -> BaseGeometry:
    """Polygons that are more than a sliver of rounding."""
    parts = shapely.get_parts(g.buffer(-HAIR).buffer(HAIR))
    return shapely.union_all([p for p in parts if p.area > LEAST_REST])


def _over(room: BaseGeometry, missed: BaseGeometry, cutter: float, step: float, flip: bool) -> list[Array]:
    """Rows to and fro over what is missed, in the direction of the others."""
    out: list[Array] = []
    for part in shapely.get_parts(missed):
        here = room.intersection(part.buffer(0.5 * cutter - 2 * HAIR))
        if here.is_empty:
            continue
        x0, y0, x1, y1 = here.bounds
        low, high = (x0, x1) if flip else (y0, y1)
        for k, at in enumerate(np.linspace(low, high, max(2, math.ceil((high - low) / step) + 1))):
            row = [(at, y0 - 1), (at, y1 + 1)] if flip else [(x0 - 1, at), (x1 + 1, at)]
            out += _stretches(LineString(row[:: 1 if k % 2 == 0 else -1]).intersection(here))
    return out


def _along_edges(
    room: BaseGeometry, missed: BaseGeometry, cutter: float, step: float, flip: bool
) -> list[Array]:
    """The edges of where the middle may be, near what is missed."""
    near = room.boundary.intersection(missed.buffer(cutter / 2 + step))
    return _stretches(near.simplify(HAIR / 8))


def _stretches(g: BaseGeometry) -> list[Array]:
    """Lines of a geometry, joined where they meet."""
    merged = shapely.line_merge(shapely.union_all([p for p in shapely.get_parts(g) if p.length > HAIR]))
    return [shapely.get_coordinates(p) for p in shapely.get_parts(merged) if p.length > HAIR]


def _inset(cutter: float, overrun: float) -> float:
    """Of the outermost ring from the work's edge: the edge overruns, and a square corner is swept too (inset
    <= R / sqrt 2).
    """
    return min(cutter / 2 - overrun, 0.7 * cutter / 2)


def _ring(long: float, across: float, inset: float, climb: bool) -> Array:
    """The perimeter. Waste is outside and the work inside: climb has the work to the right, clockwise."""
    a, b, c, d = inset, long - inset, inset, across - inset
    if b <= a or d <= c:
        a = b = long / 2 if b <= a else a
        c, d = (across / 2, across / 2) if d <= c else (c, d)
    pts = np.array([(a, c), (b, c), (b, d), (a, d), (a, c)])
    return pts[::-1] if climb else pts


def _rows(
    s: Surfacing,
    long: float,
    across: float,
    share: float,
    ring: bool,
    extent: Extent | None,
    room: BaseGeometry | None = None,
) -> list[Array]:
    places = row_places(across, s.cutter, share * s.cutter, s.overrun)
    beyond = reach_beyond(across, s.cutter, places, s.overrun)
    if ring:  # the perimeter has done the ends; rows only have to meet it
        beyond = min(beyond, -_inset(s.cutter, s.overrun))
    a, b = -beyond, long + beyond
    if b <= a:
        a = b = long / 2
        b += 1e-3
    out: list[Array] = []
    forwards = True
    for y in places:
        span = (a, b)
        if extent is not None:
            found = extent(float(y))
            if found is None:
                continue
            span = max(a, found[0]), min(b, found[1])
            if span[1] <= span[0]:
                continue
        for lo, hi in _open(span, float(y), room, forwards or s.ways != "both ways"):
            if s.ways == "both ways":
                p = np.array([(lo, y), (hi, y)]) if forwards else np.array([(hi, y), (lo, y)])
                near = (
                    bool(out)
                    and 0 < y - out[-1][-1, 1] < 1.01 * share * s.cutter + 1e-6
                    and abs(out[-1][-1, 0] - p[0, 0]) < s.cutter
                )
                if near and (room is None or room.buffer(1e-6).covers(LineString([out[-1][-1], p[0]]))):
                    out[-1] = np.vstack([out[-1], p])
                else:
                    out.append(p)
            else:
                # rows go up across the work, so what is still uncut lies above: to the right of a row run
                # backwards, which is climb for a clockwise spindle
                out.append(np.array([(hi, y), (lo, y)] if s.ways == "climb" else [(lo, y), (hi, y)]))
        forwards = not forwards
    return out


def _open(
    span: tuple[float, float], y: float, room: BaseGeometry | None, forwards: bool
) -> list[tuple[float, float]]:
    """Stretches of a row where the cutter's middle may be, in running order."""
    if room is None:
        return [span]
    left = LineString([(span[0], y), (span[1], y)]).intersection(room)
    found = sorted(
        (g.bounds[0], g.bounds[2])
        for g in getattr(left, "geoms", [left])
        if isinstance(g, LineString) and g.length > 1e-6
    )
    return found if forwards else found[::-1]


def _spiral(s: Surfacing, long: float, across: float, share: float) -> Array:
    inset = _inset(s.cutter, s.overrun)
    step = min(share, WIDEST_SPIRAL) * s.cutter
    a, b, c, d = inset, long - inset, inset, across - inset
    if b < a or d < c:
        return _ring(long, across, inset, s.ways != "conventional")
    # steps so that the last turn meets itself in the middle
    turns = max(1, math.ceil((min(b - a, d - c)) / (2 * step) - 1e-9))
    step = min(b - a, d - c) / (2 * turns) if min(b - a, d - c) > 0 else step
    pts = [(a, c), (b, c), (b, d), (a, d)]
    for k in range(1, turns + 1):
        x0, x1, y0, y1 = a + k * step, b - k * step, c + k * step, d - k * step
        pts.append((a + (k - 1) * step, y0))
        if x1 - x0 < -1e-9 or y1 - y0 < -1e-9:
            break
        pts += [(x1, y0), (x1, y1), (x0, y1)] if k < turns or x1 - x0 > 1e-9 or y1 - y0 > 1e-9 else [(x1, y0)]
    p = np.array([q for i, q in enumerate(pts) if i == 0 or math.dist(q, pts[i - 1]) > 1e-9])
    if s.ways != "conventional":  # clockwise has the work to the right
        p = np.column_stack([p[:, 0], across - p[:, 1]])
    return p if s.inwards else p[::-1]


def _free(cutter: float, width: float, height: float, room: Room) -> BaseGeometry | None:
    """Where the cutter's middle may be; None: anywhere."""
    dead, reach = room.dead, room.reach
    if not dead and reach is None:
        return None
    far = max(width, height) + 10 * cutter
    free: BaseGeometry = reach if reach is not None else box(-far, -far, width + far, height + far)
    # round corners as polygons lie outside the true arc, so that the rim never comes nearer than the margin
    closed = [
        box(*d.box).buffer((cutter / 2 + d.margin) / math.cos(math.pi / 64), quad_segs=16) for d in dead
    ]
    return free.difference(shapely.union_all(closed)) if closed else free


def _clipped(p: Array, free: BaseGeometry | None) -> list[Array]:
    """A line's stretches where the middle may be, in the line's direction."""
    if free is None:
        return [p]
    left = LineString(p).intersection(free.buffer(1e-9))
    parts = [g for g in getattr(left, "geoms", [left]) if isinstance(g, LineString) and g.length > 1e-6]
    whole = LineString(p)
    if len(parts) > 1:
        merged = shapely.line_merge(shapely.multilinestrings(parts), directed=True)
        parts = [g for g in getattr(merged, "geoms", [merged]) if isinstance(g, LineString)]
    return [
        shapely.get_coordinates(g) for g in sorted(parts, key=lambda g: whole.project(Point(g.coords[0])))
    ]


def _approach(p: Array, s: Surfacing, width: float, height: float, free: BaseGeometry | None) -> Array:
    """The run with a way in from clear of the work, where the line points outwards far enough and nothing is
    in the way.
    """
    r = s.cutter / 2 + CLEAR
    work: Polygon = box(0, 0, width, height)
    if work.distance(Point(p[0])) >= r:
        return p
    ahead = p[1] - p[0]
    size = float(np.hypot(*ahead))
    if size < 1e-9:
        return p
    back = -ahead / size
    t = 0.0
    # straight back along the first stretch, as far as the work and the cutter are wide at most
    for t in np.linspace(0, s.cutter * 1.5 + s.overrun, 60):
        q = p[0] + back * t
        if work.distance(Point(q)) >= r:
            break
    else:
        return p
    q = p[0] + back * (t + 1e-3)
    if free is not None and not free.covers(LineString([q, p[0]])):
        return p
    if work.intersection(LineString([q, p[0]])).length > s.cutter:
        return p
    return np.vstack([q, p])


def swept(found: Sequence[Run], cutter: float, fine: int = 64) -> BaseGeometry:
    """Area (mm) that the cutter sweeps; ``fine``: chords a quarter turn, 64 lie within 0.01 % of the
    radius.
    """
    shapes = [
        (LineString(r.points) if len(r.points) > 1 else Point(r.points[0])).buffer(cutter / 2, quad_segs=fine)
        for r in found
    ]
    return shapely.union_all(shapes) if shapes else Polygon()


def uncut(found: Sequence[Run], cutter: float, work: BaseGeometry) -> BaseGeometry:
    """What of the work stays uncut."""
    left = work.difference(swept(found, cutter, 16).buffer(0.003 * cutter, quad_segs=2))
    parts = [g for g in getattr(left, "geoms", [left]) if isinstance(g, Polygon) and g.area > 0.5]
    return shapely.union_all(parts) if parts else Polygon()
