"""Where does the middle of a round cutter go? Offsets of regions, with arcs refitted."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.clip import grown
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.tolerances import CHORD, OFFSET, REFIT


@dataclass(frozen=True)
class Ring:
    """One loop of an offset: a contour and whether it bounds the offset region from inside (a hole)."""

    contour: Contour
    hole: bool


def offset_points(
    rings: list[Array], distance: float, round_joins: bool = True, chord: float = OFFSET / 2
) -> list[Array]:
    """Polygons grown (positive) or shrunk (negative) by ``distance`` mm.

    Args:
        rings: point loops ``(n, 2)``; outer loops counter-clockwise, holes clockwise.
        distance: mm.
        round_joins: False for mitred corners.
        chord: mm, largest distance between a round join and its chords.

    Returns:
        Loops in the same convention; an empty list when nothing is left.
    """
    if distance == 0:
        return rings
    if distance < 0:
        # what holds no disc of the distance leaves nothing; as a sliver thinner than the integer grid it
        # would turn its sides round and be grown instead
        least = math.pi * distance * distance * 0.98
        rings = [r for r in rings if not 0 <= signed_area(r) < least]
        if not any(signed_area(r) > 0 for r in rings):
            return []
    return grown(rings, distance, round_joins, chord)


def signed_area(points: Array) -> float:
    """Area of a point loop, positive counter-clockwise."""
    q = points - points[0]
    x, y = q.T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)


def offset(outer: list[Contour], distance: float, tolerance: float = REFIT) -> list[Ring]:
    """The rings at ``distance`` mm from the boundary of a region, arcs refitted.

    ``outer`` holds the region's boundary loops (outline counter-clockwise, holes clockwise). Positive grows.

    >>> ring, = offset([Contour.circle(0, 0, 10)], 3)
    >>> len(ring.contour.vertices), round(ring.contour.length / 2 / np.pi, 2)
    (2, 13.0)
    """
    loops = offset_points([c.points(CHORD) for c in outer], distance)
    return [Ring(fit(loop, True, tolerance).simplified(1e-4), signed_area(loop) < 0) for loop in loops]
