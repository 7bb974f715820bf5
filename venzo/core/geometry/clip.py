"""The polygon clipper, and nothing else: unions and offsets of point loops, in integers.

The one module that knows the library, so that another can take its place. Nothing here knows of arcs: what
comes out is refitted by those who asked.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
import pyclipr

from venzo.core.geometry.contour import Array

SCALE = 1e5
"""Integers a millimetre: 1e-5 mm each."""
FillRule = Literal["evenodd", "nonzero", "positive"]
FILL = {
    "evenodd": pyclipr.FillRule.EvenOdd,
    "nonzero": pyclipr.FillRule.NonZero,
    "positive": pyclipr.FillRule.Positive,
}


def union(loops: Sequence[Array], rule: FillRule, scale: float = SCALE) -> list[Array]:
    """The boundary of what loops paint together.

    Args:
        loops: points ``(n, 2)`` each; they may cross themselves and one another.
        rule: which windings are painted: odd ones, all but 0, or those above 0.
        scale: integers a unit of length; coordinates times the scale must stay below 2^62.

    Returns:
        Loops that do not cross, outer ones counter-clockwise, holes clockwise.

    >>> square = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
    >>> both = union([square, square + 5], "nonzero")
    >>> len(both), len(both[0])
    (1, 8)
    """
    clip = pyclipr.Clipper()
    clip.scaleFactor = scale
    clip.preserveCollinear = False
    clip.addPaths([np.ascontiguousarray(p) for p in loops], pyclipr.Subject)
    return [np.asarray(r)[:, :2] for r in clip.execute(pyclipr.Union, FILL[rule]) if len(r) > 2]


def grown(loops: Sequence[Array], distance: float, round_joins: bool, chord: float) -> list[Array]:
    """Loops of one region, grown (positive) or shrunk by ``distance`` mm.

    ``chord``: mm, largest distance between a round join and its chords; corners are mitred without
    ``round_joins``.

    >>> square = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
    >>> grown([square], 2, False, 0.01)[0].min(axis=0).tolist()
    [-2.0, -2.0]
    """
    clip = pyclipr.ClipperOffset()
    clip.scaleFactor = SCALE
    clip.arcTolerance = chord * SCALE
    clip.preserveCollinear = False
    join = pyclipr.JoinType.Round if round_joins else pyclipr.JoinType.Miter
    # one group: the offsetter takes its idea of inside and outside from the outermost ring of a group
    clip.addPaths([np.ascontiguousarray(loop) for loop in loops], join, pyclipr.EndType.Polygon)
    return [np.asarray(r)[:, :2] for r in clip.execute(distance) if len(r) > 2]
