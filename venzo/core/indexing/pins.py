"""Pins that long stock is dropped on: where they may stand, and whether it goes on them any other way."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations

import numpy as np
import shapely

from venzo.core.faces.dowel_places import Room
from venzo.core.faces.registration import Dowel, DowelPin
from venzo.core.geometry.contour import Array
from venzo.core.indexing.positions import Indexing, IndexPins
from venzo.core.indexing.reach import Span
from venzo.core.model import Point

LEAST_ERROR = 0.5
"""mm; a wrong pair of holes nearer than this goes on with a mallet."""
APART, NEAREST = 120.0, 40.0
"""mm between pins that are placed here, and that a person places, at least: nearer ones do not keep stock
straight.
"""
STEP = 5.0
"""mm between places that are tried."""


@dataclass(frozen=True)
class Hole:
    """A hole in the stock for a pin at a position (from 0): its middle and diameter, mm."""

    pin: str
    position: int
    at: Point
    diameter: float


def holes_of(brought: IndexPins, indexing: Indexing) -> list[Hole]:
    """Every hole that the stock has for its pins, position by position; none for the first, where it lies as
    the zero has it.
    """
    out = []
    for k in range(1, indexing.count):
        dx, dy = indexing.shift(k)
        out += [Hole(p.id, k, (p.x + dx, p.y + dy), p.hole) for p in brought.pins]
    return out


@dataclass(frozen=True)
class WrongHoles:
    """Two holes that are not a position's own, and by how much the pins miss them, mm (at most 0: they
    fit).
    """

    first: Hole
    second: Hole
    error: float

    @property
    def says(self) -> str:
        """In words."""
        a, b = self.first, self.second
        if a.position == b.position:
            return f"end for end on the holes of position {a.position + 1}"
        return f"on a hole of position {a.position + 1} and one of position {b.position + 1}"


def nearest_wrong(brought: IndexPins, indexing: Indexing) -> WrongHoles | None:
    """The pair of holes that is nearest to going on the pins though it is no position's own: the stock free
    to slide and turn, the distance of the holes against that of the pins, and their diameters, count.
    """
    if len(brought.pins) != 2:
        return None
    a, b = brought.pins
    apart = math.dist(a.at, b.at)
    found = []
    for h, g in permutations(holes_of(brought, indexing), 2):
        if (h.pin, g.pin) == (a.id, b.id) and h.position == g.position:
            continue
        slack = (h.diameter - a.diameter + g.diameter - b.diameter) / 2
        too_thick = max(a.diameter - h.diameter, b.diameter - g.diameter)
        error = max(abs(math.dist(h.at, g.at) - apart) - slack, too_thick)
        found.append(WrongHoles(h, g, error))
    return min(found, key=lambda w: w.error, default=None)


def misplaced(brought: IndexPins, indexing: Indexing, room: Room, reach: Span) -> list[tuple[str, str]]:
    """Pins whose holes cannot be where they are, each with the reason; ``reach``: what the cutter gets at
    along the axis as the stock lies first, mm.
    """
    out = []
    column = indexing.column
    for p in brought.pins:
        if not reach[0] + p.hole / 2 <= p.at[column] <= reach[1] - p.hole / 2:
            out.append((p.id, "no cutter reaches its place in the spoilboard"))
    for h in holes_of(brought, indexing):
        spot = shapely.Point(h.at)
        here = h.at[column] - indexing.offset(h.position - 1)
        if not room.clear_of(h.diameter).buffer(0.1).contains(spot):
            out.append((h.pin, f"its hole for position {h.position + 1} does not lie clear in the stock"))
        elif not reach[0] + h.diameter / 2 <= here <= reach[1] - h.diameter / 2:
            out.append(
                (h.pin, f"its hole for position {h.position + 1} is out of reach at the position before")
            )
    return out


def propose_pins(indexing: Indexing, room: Room, reach: Span, sorts: Sequence[DowelPin]) -> IndexPins | None:
    """Two pins as far apart along the axis as there is room for at every position, of the shop's sorts; None
    where there is none.
    """
    for one, other in _pairs(sorts):
        spots = _clear_spots(indexing, room, reach, max(one.diameter + one.fit, other.diameter + other.fit))
        for p, q in _far_apart(spots, indexing.column):
            pins = tuple(
                Dowel(id=i, x=x, y=y, diameter=s.diameter, fit=s.fit, length=s.length)
                for i, (x, y), s in (("p1", p, one), ("p2", q, other))
            )
            brought = IndexPins(pins=pins)
            wrong = nearest_wrong(brought, indexing)
            if wrong is None or wrong.error >= LEAST_ERROR:
                return brought
    return None


def _pairs(sorts: Sequence[DowelPin]) -> list[tuple[DowelPin, DowelPin]]:
    ordered = sorted(sorts, key=lambda s: s.diameter)
    return [(a, b) for a in ordered for b in ordered if b.diameter >= a.diameter]


def _clear_spots(indexing: Indexing, room: Room, reach: Span, hole: float) -> Array:
    """Places of a pin (n, 2) whose holes are clear and in reach at every position."""
    s, column = room.stock, indexing.column
    low, high = reach[0] + hole / 2, reach[1] - hole / 2
    along = np.arange(math.ceil(low / STEP) * STEP, high + 1e-9, STEP)
    across = np.arange(STEP, (s.height, s.width)[column], STEP / 2)
    grid = np.array(np.meshgrid(along, across)).reshape(2, -1).T
    xy = grid if column == 0 else grid[:, ::-1]
    clear = room.clear_of(hole)
    shapely.prepare(clear)
    good = np.ones(len(xy), dtype=bool)
    for k in range(1, indexing.count):
        shift = np.array(indexing.shift(k))
        step = indexing.offset(k) - indexing.offset(k - 1)
        moved = xy[good] + shift
        ahead = xy[good][:, column] + step
        fits = shapely.intersects_xy(clear, moved[:, 0], moved[:, 1])
        good[good] = fits & (ahead >= low) & (ahead <= high)
    return xy[good]


def _far_apart(spots: Array, column: int) -> list[tuple[Point, Point]]:
    """Pairs of places in one row along the axis, those that are farthest apart first."""
    out: list[tuple[float, Point, Point]] = []
    for row in np.unique(spots[:, 1 - column]) if len(spots) else ():
        mine = np.sort(spots[spots[:, 1 - column] == row][:, column])
        for a, b in ((mine[0], mine[-1]), (mine[0], mine[-2] if len(mine) > 2 else mine[-1])):
            if b - a >= APART:
                ends = [(float(v), float(row)) if column == 0 else (float(row), float(v)) for v in (a, b)]
                out.append((float(b - a), ends[0], ends[1]))
    return [(p, q) for _d, p, q in sorted(out, key=lambda t: (-t[0], t[1]))]
