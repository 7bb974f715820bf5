"""Where the middle of the kerf runs: beside every contour, in the waste, in the direction that gives the part
the good edge.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.cuts.profile import cutter_rings, unreached
from venzo.core.geometry.contour import Contour, Segment
from venzo.core.geometry.exact_offset import exact_offset
from venzo.core.geometry.regions import Region
from venzo.core.kerf.how import KerfHow
from venzo.core.snags import Snag, look, stop

FINE = 0.002
"""mm; chords that stand for arcs in questions of clearance."""
TURN = math.radians(40)
"""A way that turns by more has a corner there."""


@dataclass(frozen=True, eq=False)
class Body:
    """A part as it lies: what it is called, and its region in the sheet's coordinates, mm.

    ``names``: of its contours, the outline's first; ``starts``: where contours are to be entered; ``tabs``:
    middles of tabs by contour, in place of those that are spread; ``omit``: contours that are not cut.
    """

    name: str
    region: Region
    names: tuple[str, ...] = ()
    starts: dict[str, tuple[float, float]] = field(default_factory=dict)
    tabs: dict[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    omit: frozenset[str] = frozenset()

    @cached_property
    def polygon(self) -> Polygon:
        """Its metal."""
        return self.region.polygon(FINE).buffer(0)

    def contour_name(self, k: int) -> str:
        """What its contour ``k`` is called: 0 the outline, then its holes."""
        return self.names[k] if self.names else "outline" if k == 0 else f"hole {k}"


@dataclass(frozen=True, eq=False)
class Row:
    """Parts that one line goes round. ``bodies``: their indices, ascending; ``outline``: the line round all
    of them and the bridges, counter-clockwise.
    """

    bodies: tuple[int, ...]
    outline: Contour

    @property
    def metal(self) -> Polygon:
        """What comes off the sheet, holes not taken out."""
        return Polygon(self.outline.points(FINE)).buffer(0)


@dataclass(frozen=True, eq=False)
class KerfLine:
    """The closed middle line of one kerf, in its direction of travel.

    ``body``: index of the part it belongs to; ``contour``: what that part calls it; ``inside``: it runs in a
    hole (or a bay) of the part, around its waste; ``spot``: pierced at one point only, for a drill to
    follow; ``feed``: share of the feed.
    """

    path: Contour
    body: int
    contour: str
    inside: bool
    waste_left: bool
    spot: tuple[float, float] | None = None
    feed: float = 1.0
    ring: int = 0
    """Which of several of one contour."""
    small: bool = False
    """A hole, or an outline, under a few kerfs wide."""
    row: tuple[int, ...] = ()
    """Parts that it goes round together, where bridges join them."""

    @cached_property
    def area(self) -> Polygon:
        """What the line goes round."""
        return Polygon(self.path.points(FINE)).buffer(0)

    @cached_property
    def room(self) -> Polygon:
        """The same, with a hair around it: a lead ends on the line itself."""
        wide = self.area.buffer(FINE + 1e-4)
        shapely.prepare(wide)
        return wide

    @cached_property
    def boundary(self) -> shapely.LinearRing:
        """The line itself."""
        return shapely.LinearRing(self.path.points(FINE))

    @property
    def bodies(self) -> tuple[int, ...]:
        """Indices of the parts that it runs along."""
        return self.row or (self.body,)

    @property
    def frees(self) -> bool:
        """Does it let its part go? Only an outline does, not a hole or a bay of it."""
        return not self.inside


def kerf_lines(
    bodies: Sequence[Body], how: KerfHow, rows: Sequence[Row] = ()
) -> tuple[list[KerfLine], list[Snag]]:
    """The middle lines of all kerfs, half a kerf from every contour, and what cannot be cut.

    Args:
        bodies: the parts.
        how: what was decided.
        rows: parts that have one line together.

    >>> from venzo.core.geometry.contour import Contour
    >>> disc = Body("disc", Region(Contour.circle(0, 0, 50), (Contour.circle(0, 0, 10).reversed(),)))
    >>> lines, snags = kerf_lines([disc], KerfHow(kerf=1.4, feed=3800))
    >>> [(k.contour, round(k.path.length / 2 / math.pi, 2), k.path.area > 0) for k in lines]
    [('hole 1', 9.3, True), ('outline', 50.7, False)]
    """
    lines: list[KerfLine] = []
    snags: list[Snag] = []
    metal = shapely.STRtree([b.polygon for b in bodies]) if how.corners == "loop" else None

    def clear(way: Contour) -> bool:
        """Does a loop keep half a kerf and a little more from every part?"""
        line = shapely.LineString(way.points(FINE))
        return metal is None or not len(metal.query(line, "dwithin", how.kerf / 2 - 0.01))

    in_row = {n: r for r in rows for n in r.bodies}
    for n, body in enumerate(bodies):
        order = [*range(1, len(body.region.loops)), 0]
        for k in order:
            name, row = body.contour_name(k), in_row.get(n)
            if name in body.omit or (k == 0 and row is not None):
                continue
            found, said = _of_contour(body, n, k, how, clear)
            lines += found
            snags += said
    for row in rows:
        first = bodies[row.bodies[0]]
        whole = replace(first, region=Region(row.outline, ()))
        found, said = _of_contour(whole, row.bodies[0], 0, how, clear)
        lines += [replace(line, row=row.bodies) for line in found]
        snags += said
    return lines, snags


def width_of(contour: Contour) -> float:
    """Diameter of the largest disc inside a closed contour, mm, within 0.01 mm.

    >>> slot = Contour.of([(0, 0), (9, 0), (9, 4), (0, 4)])
    >>> round(width_of(Contour.circle(3, 4, 2.5)), 2), round(width_of(slot), 2)
    (5.0, 4.0)
    """
    return _widest(_in_own_frame(contour))[0]


@lru_cache(maxsize=8192)
def _widest(shape: bytes) -> tuple[float, float, float]:
    """Diameter and middle of the largest disc inside a closed contour in its own frame."""
    line = shapely.maximum_inscribed_circle(Polygon(_of_key(shape).points(FINE)).buffer(0), tolerance=0.005)
    return 2 * float(line.length), float(line.coords[0][0]), float(line.coords[0][1])


def _of_contour(
    body: Body, n: int, k: int, how: KerfHow, clear: Callable[[Contour], bool]
) -> tuple[list[KerfLine], list[Snag]]:
    contour, name = body.region.loops[k], body.contour_name(k)
    inside = k > 0
    where = f"{body.name}, {name}"
    if inside:
        small, said = _small_hole(contour, where, n, name, how)
        if small is not None or said:
            return ([small] if small is not None else []), said
    rings, left = _beside(contour, how.kerf / 2, inside)
    if not rings:
        width = width_of(contour)
        return [], [
            stop(
                "kerf.narrow",
                f"{where} is {width:.2f} mm wide, no wider than the kerf of {how.kerf:.2f} mm: it is not cut;"
                " take it out of the drawing, drill it, or cut it with a narrower kerf",
                {"part": body.name, "contour": name},
            )
        ]
    share = _share(contour, how) if inside else 1.0
    lines = []
    for r, (ring, kept_outside) in enumerate(rings):
        hole = inside or kept_outside
        # the part at the right of travel: clockwise round it, counter-clockwise in its holes
        path = ring if hole == how.waste_left else ring.reversed()
        if how.corners == "loop" and not hole:
            path = looped(path, how.kerf / 2, how.loop, clear)
        small_one = min(ring.bbox[2] - ring.bbox[0], ring.bbox[3] - ring.bbox[1]) < 6 * how.kerf
        lines.append(KerfLine(path, n, name, hole, how.waste_left, feed=share, ring=r, small=small_one))
    return lines, _not_reached(left, how, where)


Rings = list[tuple[Contour, bool]]
Patches = list[tuple[float, float, float]]


def _beside(contour: Contour, half: float, inside: bool) -> tuple[Rings, Patches]:
    """Rings half a kerf beside a contour, and places (x, y, mm2) that the kerf does not reach. Contours that
    are only moved are worked out once.
    """
    x, y = contour.vertices[0, :2].tolist()
    rings, left = _beside_own(_in_own_frame(contour), half, inside)
    return [(r.moved(x, y), o) for r, o in rings], [(u + x, v + y, a) for u, v, a in left]


def _in_own_frame(contour: Contour) -> bytes:
    """A contour's vertices from its first on, as a key."""
    own = contour.vertices - (*contour.vertices[0, :2], 0.0)
    return (np.round(own, 9) + 0.0).tobytes()


def _of_key(shape: bytes) -> Contour:
    return Contour(np.frombuffer(shape).reshape(-1, 3).copy())


@lru_cache(maxsize=8192)
def _beside_own(shape: bytes, half: float, inside: bool) -> tuple[Rings, Patches]:
    """``_beside`` of a contour in its own frame; exact where the contour leaves just one ring."""
    contour = _of_key(shape)
    rings = cutter_rings(contour, half, inside)
    if len(rings) == 1:
        exact = exact_offset(contour.oriented(True), -half if inside else half, rings[0][0])
        rings = [(exact, rings[0][1])] if exact is not None else rings
    return rings, unreached(contour, rings, half, inside) if rings else []


def _not_reached(left: Patches, how: KerfHow, where: str) -> list[Snag]:
    if not left:
        return []
    x, y, area = left[0]
    return [
        look(
            "kerf.unreached",
            f"{where}: a place narrower than the kerf of {how.kerf:.2f} mm stays uncut"
            f" ({area:.1f} mm2); widen it in the drawing, or leave it",
            {"x": x, "y": y},
        )
    ]


def _share(contour: Contour, how: KerfHow) -> float:
    if how.thickness is None:
        return 1.0
    return how.holes.slow_to if width_of(contour) < how.holes.slow_below * how.thickness else 1.0


def _small_hole(
    contour: Contour, where: str, n: int, name: str, how: KerfHow
) -> tuple[KerfLine | None, list[Snag]]:
    """A hole that is too narrow for its thickness to be cut: pierced for the drill."""
    if how.thickness is None:
        return None, []
    width, t = width_of(contour), how.thickness
    if width >= how.holes.drill_below * t:
        return None, []
    _w, u, v = _widest(_in_own_frame(contour))
    middle = (u + float(contour.vertices[0, 0]), v + float(contour.vertices[0, 1]))
    if width <= how.kerf:
        return None, [
            stop(
                "kerf.narrow",
                f"{where} is {width:.2f} mm wide: no wider than the kerf of {how.kerf:.2f} mm, so that even a"
                " pierce spoils it; drill it, or take it out of the drawing",
                {"contour": name},
            )
        ]
    spot = KerfLine(
        contour.oriented(True),
        n,
        name,
        True,
        how.waste_left,
        middle,
        small=True,
    )
    return spot, [
        look(
            "kerf.drill",
            f"{where} is {width:.2f} mm wide, under {how.holes.drill_below:g} times the sheet's {t:g} mm: it"
            " is only pierced, for a drill to follow; set the limit lower to have it cut",
            {"contour": name, "x": round(middle[0], 3), "y": round(middle[1], 3)},
        )
    ]


def corners_of(path: Contour, half: float) -> list[tuple[float, float]]:
    """Stretches (from, to: distances along) of a closed way that are corners: where it turns sharply, and
    the arcs of half a kerf with which it goes round sharp corners of the part.
    """
    segs = path.segments()
    out = []
    for k, s in enumerate(segs):
        if (
            s.bulge
            and abs(4 * math.atan(s.bulge)) > TURN
            and s.length < 4 * abs(math.atan(s.bulge)) * half * 1.05
        ):
            out.append((float(path.starts[k]), float(path.starts[k + 1])))
        before = segs[k - 1]
        ax, ay = before.at(1.0)[2:]
        bx, by = s.at(0.0)[2:]
        if ax * bx + ay * by < math.cos(TURN):
            at = float(path.starts[k])
            out.append((at, at))
    return out


def looped(path: Contour, half: float, length: float, clear: Callable[[Contour], bool]) -> Contour:
    """An outline's way with a loop at each of the part's sharp corners instead of the arc round it: straight
    on past the corner, round through the waste, and back in line with the next side, so that the kerf lags
    outside the part.

    Only corners between two straight sides get one, and only where the loop is ``clear``.
    """
    segs = list(path.segments())
    rows: list[tuple[float, float, float]] = []
    n = len(segs)
    for k, s in enumerate(segs):
        before, after = segs[k - 1], segs[(k + 1) % n]
        sweep = 4 * math.atan(s.bulge)
        corner = (
            s.bulge != 0
            and abs(sweep) > TURN
            and abs(sweep) < math.radians(150)
            and abs(s.length - abs(sweep) * half) < 0.02
            and before.bulge == 0
            and after.bulge == 0
        )
        loop = _loop(s, before, after, half, length) if corner else []
        if loop and clear(Contour.of([*loop, (s.x1, s.y1, 0.0)], False)):
            rows += loop
        else:
            rows.append((s.x0, s.y0, s.bulge))
    return Contour.of(rows)


def _loop(
    s: Segment, before: Segment, after: Segment, half: float, length: float
) -> list[tuple[float, float, float]]:
    """Rows from the end of one side to the begin of the next, through a loop beyond the corner."""
    ux, uy = before.at(1.0)[2:]
    vx, vy = after.at(0.0)[2:]
    sweep = 4 * math.atan(s.bulge)
    reach = half * math.tan(abs(sweep) / 2)
    cx, cy = s.x0 + ux * reach, s.y0 + uy * reach
    out, back = (cx + ux * length, cy + uy * length), (cx - vx * length, cy - vy * length)
    # the arc leaves along the first side and comes in along the second, turned the long way round
    turn = -math.copysign(2 * math.pi - abs(sweep), sweep)
    bulge = math.tan(turn / 8)
    mid = _arc_middle(out, back, turn)
    return [
        (s.x0, s.y0, 0.0),
        (*out, bulge),
        (*mid, bulge),
        (*back, 0.0),
    ]


def _arc_middle(a: tuple[float, float], b: tuple[float, float], turn: float) -> tuple[float, float]:
    """The middle of the arc from ``a`` to ``b`` that turns by ``turn`` radians."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    rise = math.tan(turn / 4) / 2
    return (a[0] + b[0]) / 2 + dy * rise, (a[1] + b[1]) / 2 - dx * rise
