"""How well the two faces of a part meet: the errors of laying stock a second time, at the part.

Worst cases add up. Stock on dowels may lie wherever every dowel is within its hole; how far a place of it
then moves is a linear programme (small turns are linear), each hole's play taken as the polygon about its
circle.

>>> from venzo.core.faces.registration import Dowel, Dowels
>>> from venzo.core.faces.turn import Turn
>>> two = Dowels(dowels=(Dowel(id="a", x=0, y=0, diameter=8), Dowel(id="b", x=500, y=0, diameter=10)))
>>> met = faces_meet(Laying(two, Turn("x", 500, 300)), [(250.0, 0.0), (250.0, 150.0)])
>>> round(met.across, 2), [w for w, _mm in met.items]
(0.13, ['play of the dowels in their holes', 'holes off their places'])
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from venzo.core.faces.registration import Dowels, Errors, FenceCorners, JigCorner, MeasuredEdges
from venzo.core.faces.turn import Turn
from venzo.core.model import Point
from venzo.core.stock.zeros import corner_of

SIDES = 24
"""Of the polygon about the circle that a hole's play is."""
HAIR = 1e-3
"""Share of the largest play."""
Zero = Literal["top", "bed"]


@dataclass(frozen=True)
class Laying:
    """How stock is laid a second time, and what the shop keeps to; ``zeros``: of Z before and after the
    turn.
    """

    registration: Dowels | FenceCorners | MeasuredEdges | JigCorner
    turn: Turn
    errors: Errors = field(default_factory=Errors)
    zeros: tuple[Zero, Zero] = ("top", "bed")


@dataclass(frozen=True)
class Meeting:
    """How far the faces are off each other at worst, mm: ``across`` in the plane, ``through`` in height, with
    what each comes from.
    """

    across: float
    through: float
    items: tuple[tuple[str, float], ...]
    through_items: tuple[tuple[str, float], ...] = ()


def faces_meet(laying: Laying, places: Sequence[Point]) -> Meeting:
    """How well the faces meet at ``places`` of the stock (mm, as the first face is up): at the worst of them.

    Raises:
        ValueError: there are fewer than two dowels, which leave the stock free to turn.
    """
    r = laying.registration
    if isinstance(r, Dowels):
        items = _on_dowels(r, laying.errors, places)
    elif isinstance(r, FenceCorners):
        items = _in_fences(r, laying, places)
    elif isinstance(r, JigCorner):
        items = _in_jig(laying, places)
    else:
        items = _by_edges(laying, places)
    items = tuple((w, mm) for w, mm in items if mm > 1e-9)
    through = _through(laying)
    return Meeting(sum(mm for _w, mm in items), sum(mm for _w, mm in through), items, through)


def _through(laying: Laying) -> tuple[tuple[str, float], ...]:
    """What is left between the faces is as planned where one is zeroed on the top and the other on the bed,
    whatever the stock is thick: both floors are then reckoned from the same face.
    """
    e = laying.errors
    items = [("zeros of both faces", 2 * e.zero)]
    if laying.zeros[0] == laying.zeros[1]:
        items.append(("thickness as read", e.thickness))
    return tuple(items)


def _on_dowels(r: Dowels, e: Errors, places: Sequence[Point]) -> tuple[tuple[str, float], ...]:
    at = np.array([d.at for d in r.dowels])
    if len(at) < 2:
        raise ValueError("fewer than two dowels leave the stock free to turn")
    layings = 2 if r.sets == "one" else 1
    play = moved(at, [d.fit / 2 for d in r.dowels], places)
    off = moved(at, [2 * e.placing] * len(at), places)
    return (("play of the dowels in their holes", layings * play), ("holes off their places", off))


def moved(dowels: np.ndarray, play: Sequence[float], places: Sequence[Point]) -> float:
    """How far any of ``places`` (mm) may move while every dowel (n, 2) stays within its play, mm; at most a
    hundredth more than it really does. Slides and small turns within the play of all are a polytope; whatever
    is linear is most at one of its corners.
    """
    from scipy.spatial import HalfspaceIntersection, QhullError  # slow to import: only where it is asked

    w = np.linspace(0, 2 * math.pi, SIDES, endpoint=False)
    ways = np.column_stack([np.cos(w), np.sin(w)])
    scale = max(float(np.hypot(*(dowels - dowels.mean(axis=0)).T).max()), 1.0)
    middle = dowels.mean(axis=0)

    def rows(p: np.ndarray) -> np.ndarray:
        """How a slide and a turn (scaled to mm) move a place along every way."""
        x, y = (p - middle) / scale
        return np.column_stack([ways, ways @ np.array([-y, x])])

    limits = np.vstack([rows(d) for d in dowels])
    most = np.repeat(np.asarray(play, dtype=float), SIDES)
    if not most.any():
        return 0.0
    if np.ptp(dowels, axis=0).max() < 1e-9:  # dowels at one place leave it free to turn
        return math.inf
    # a dowel without play still has a hair of it, or there is no inside to begin from
    halfspaces = np.column_stack([limits, -np.maximum(most / most.max(), HAIR)])
    try:
        corners = HalfspaceIntersection(halfspaces, np.zeros(3)).intersections
    except QhullError:
        return math.inf
    asked = np.vstack([rows(np.asarray(p, dtype=float)) for p in places])
    return float((asked @ corners.T).max() * most.max())


def _in_fences(r: FenceCorners, laying: Laying, places: Sequence[Point]) -> tuple[tuple[str, float], ...]:
    e, turn = laying.errors, laying.turn
    corner = corner_of(r.corner, turn.width, turn.height)
    far = max(math.dist(corner, p) for p in places)
    long = max(turn.width, turn.height)
    items = [("edges against the fences, twice", 2 * e.edge * math.sqrt(2) * (1 + far / long))]
    if r.second == "same corner":
        items.append(("the stock's own size", e.size))
        items.append(("stock out of square", e.square * far / 1000))
    return tuple(items)


def _in_jig(laying: Laying, places: Sequence[Point]) -> tuple[tuple[str, float], ...]:
    """A piece against a jig's two sides: it was cut out true, and its size does not count."""
    far = max(math.hypot(*p) for p in places)
    long = max(laying.turn.width, laying.turn.height)
    return (("edges against the jig", laying.errors.edge * math.sqrt(2) * (1 + far / long)),)


def _by_edges(laying: Laying, places: Sequence[Point]) -> tuple[tuple[str, float], ...]:
    e, turn = laying.errors, laying.turn
    middle = (turn.width / 2, turn.height / 2)
    far = max(math.dist(middle, p) for p in places)
    long = max(turn.width, turn.height)
    touched = 2 * e.edge * math.sqrt(2) * (1 + 2 * far / long)
    return (
        ("edges touched, twice", touched),
        ("stock out of square", e.square * (min(turn.width, turn.height) / 2 + far) / 1000),
    )
