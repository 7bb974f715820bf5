"""Which closed loops cross themselves or each other, where, and what they bound by the even-odd rule."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import reduce

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.many import polygons

TOUCH = 0.02
"""mm; loops that reach into each other no further than this touch."""
FINE = 0.005
"""mm; chords of what is asked closely, and of what is bounded."""


@dataclass(frozen=True)
class Crossing:
    """Loops (their numbers) that cross at x, y (mm); one number: it crosses itself."""

    loops: tuple[int, ...]
    x: float
    y: float


def crossings(loops: Sequence[Contour]) -> list[Crossing]:
    """Loops that cross themselves, and pairs that reach into each other but do not contain each other.

    >>> plate, hole = Contour.of([(0, 0), (20, 0), (20, 9), (0, 9)]), Contour.circle(20, 4, 3)
    >>> over = [(c.loops, round(c.x)) for c in crossings([plate, hole])]
    >>> over, crossings([plate, Contour.circle(10, 4, 3)])
    ([((0, 1), 20)], [])
    """
    if not loops:
        return []
    solids = polygons(list(loops), TOUCH)
    out: list[Crossing] = []
    fine = shapely.is_valid(solids)
    for i, (p, ok) in enumerate(zip(solids, fine, strict=True)):
        if not ok and not _only_touches(p):
            x, y = _place(p)
            out.append(Crossing((i,), x, y))
    whole = [p if ok else _area(p) for p, ok in zip(solids, fine, strict=True)]
    tree = shapely.STRtree(whole)
    for i, j in tree.query(whole, predicate="overlaps").T.tolist():
        if i < j and _reach(*(_area(p) for p in polygons([loops[i], loops[j]], FINE))):
            spot = whole[i].boundary.intersection(whole[j].boundary).representative_point()
            out.append(Crossing((i, j), float(spot.x), float(spot.y)))
    return out


def _area(p: Polygon) -> BaseGeometry:
    """What a loop bounds by the even-odd rule, without lines that bound nothing."""
    return shapely.make_valid(p).buffer(0)


def _only_touches(p: Polygon) -> bool:
    """Does an invalid loop merely touch itself, double back by a hair, or bound nothing?

    Where it crosses itself some of what it bounds runs the other way round, which its signed area takes off:
    twice the smallest lobe at least.
    """
    whole = _area(p)
    lobes = [g.area for g in getattr(whole, "geoms", [whole]) if not g.buffer(-TOUCH / 2).is_empty]
    return not lobes or abs(whole.area - abs(p.area)) <= min(TOUCH * p.length, min(lobes) / 2)


def _place(p: Polygon) -> tuple[float, float]:
    where = shapely.is_valid_reason(p).split("[")[-1].strip("]").split()
    return (float(where[0]), float(where[1])) if len(where) >= 2 else p.exterior.coords[0][:2]


def _reach(a: BaseGeometry, b: BaseGeometry) -> bool:
    """Do two areas overlap by more than a touch, each with more than a touch outside the other?"""
    return all(
        not g.buffer(-TOUCH / 2).is_empty for g in (a.intersection(b), a.difference(b), b.difference(a))
    )


def even_odd(loops: Sequence[Contour]) -> list[Contour]:
    """The boundaries of what some loops bound together by the even-odd rule, curves refitted."""
    areas = [_area(p) for p in polygons(list(loops), FINE)]
    whole = reduce(lambda a, b: a.symmetric_difference(b), areas)
    layer = loops[0].layer
    out = []
    for g in getattr(whole, "geoms", [whole]):
        if isinstance(g, Polygon) and not g.buffer(-TOUCH / 2).is_empty:
            out += [
                fit(shapely.get_coordinates(r)[:-1], True, FINE, layer) for r in (g.exterior, *g.interiors)
            ]
    return out
