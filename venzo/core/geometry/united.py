"""What do loops that cross paint together? Their outer boundary, curves refitted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from venzo.core.geometry.clip import FillRule, union
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit

FINENESS = 1e8
"""Integers over the largest coordinate: drawings of any size are united alike."""


def united(loops: Sequence[Contour], rule: FillRule, chord: float) -> list[Contour]:
    """Crossing loops as the boundary of what they paint, on the layer of the first.

    ``chord``: mm, largest distance between a curve and its chords, before and after.

    >>> apart = [Contour.circle(0, 0, 10), Contour.circle(30, 0, 10)]
    >>> [round(c.area, 2) for c in united(apart, "nonzero", 0.01)]
    [314.16, 314.16]
    """
    span = float(np.abs(np.array([c.bbox for c in loops])).max())
    found = union([c.points(chord) for c in loops], rule, FINENESS / max(span, 1e-9))
    return [fit(points, True, chord, loops[0].layer) for points in found]
