"""Carvings and lines that follow a relief: moves planned on the level, laid on its surface."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import FEED, KIND, LINE, RAPID, X, Y, Z, chords
from venzo.core.geometry.contour import Array
from venzo.core.relief.block import Relief

STEP = 0.1
"""mm between places at which the surface is asked for its height."""
OFF = 0.005
"""mm by which a way may leave the surface it follows, up or down."""
CHORD = 0.005
"""mm; arcs become chords within this."""
MOST = 3_000_000
"""Places along one cut."""


@dataclass(frozen=True, eq=False)
class UnderCarving:
    """The reliefs of a part that carvings may follow, each with what it covers."""

    laid: tuple[tuple[Relief, BaseGeometry], ...]

    def heights(self, at: Array) -> Array:
        """How high the surface lies at places (n, 2), mm: 0 is the face, where no relief is."""
        out = np.zeros(len(at))
        for relief, area in self.laid:
            own = shapely.contains_xy(area, at[:, 0], at[:, 1])
            if own.any():
                out[own] = np.minimum(out[own], relief.ground.heights(at[own]))
        return out

    def slopes(self, at: Array) -> Array:
        """How steep it is there: rise over run."""
        d = STEP / 2
        dx = self.heights(at + (d, 0)) - self.heights(at - (d, 0))
        dy = self.heights(at + (0, d)) - self.heights(at - (0, d))
        return np.hypot(dx, dy) / STEP


def on_surface(moves: Array, under: UnderCarving, plunge: float) -> Array:
    """Moves whose Z was reckoned from the face, reckoned from the surface under them: what lies at or below
    0 goes down with it; what lies above stays. Every way follows the surface within ``OFF``; where it falls
    it falls no faster than ``plunge``, mm/min.

    >>> from venzo.core.cuts.moves import row
    >>> flat = UnderCarving(())
    >>> way = np.array([row(RAPID, 0, 0, 3), row(LINE, 0, 0, -1, 500), row(LINE, 9, 0, -1, 900)])
    >>> on_surface(way, flat, 500.0)[:, Z].tolist()
    [3.0, -1.0, -1.0]
    """
    from venzo.core.relief.rolling_kernel import thin

    points, of = chords(moves, CHORD)
    kind, feed = moves[of, KIND], moves[of, FEED]
    begin, end = points[:-1], points[1:]
    n = _parts(begin, end, kind)
    which = np.repeat(np.arange(len(n)), n)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n) + 1) / n[which]
    at = begin[which] + (end[which] - begin[which]) * t[:, None]
    own = (at[:, 2] <= 1e-9) & (kind[which] != RAPID)
    at[own, 2] += under.heights(at[own, :2])
    first = points[:1].copy()
    every = np.vstack([first, at])
    flat = np.hypot(*np.diff(every[:, :2], axis=0).T)
    s = np.concatenate([[0.0], np.cumsum(flat)])
    keep = np.zeros(len(every), dtype=bool)
    keep[0] = True
    ends = np.cumsum(n)
    for a, b in zip(ends - n, ends, strict=True):
        if b - a > 1:
            part = np.zeros(b - a + 1, dtype=bool)
            thin(s[a : b + 1], every[a : b + 1, 2], OFF, part)
            keep[a + 1 : b + 1] = part[1:]
        keep[b] = True
    out = np.zeros((len(every), 7))
    out[:, [X, Y, Z]] = every
    out[1:, KIND] = np.where(kind[which] == RAPID, RAPID, LINE)
    out[0, KIND] = moves[0, KIND]
    out[1:, FEED] = feed[which]
    out[0, FEED] = moves[0, FEED]
    return _no_faster_down(out[keep], plunge)


def _parts(begin: Array, end: Array, kind: Array) -> np.ndarray:
    """In how many parts each way is looked at: a way across the work every ``STEP`` mm."""
    across = np.hypot(*(end - begin)[:, :2].T)
    cuts = (kind != RAPID) & (np.minimum(begin[:, 2], end[:, 2]) <= 1e-9)
    n = np.where(cuts, np.maximum(1, np.ceil(across / STEP)), 1).astype(int)
    total = int(n.sum())
    if total > MOST:
        n = np.where(cuts, np.maximum(1, np.ceil(n * MOST / total)), 1).astype(int)
    return n


def _no_faster_down(moves: Array, plunge: float) -> Array:
    """Moves whose feed is held so that they sink no faster than ``plunge``."""
    out = moves.copy()
    d = np.diff(out[:, [X, Y, Z]], axis=0)
    long, falls = np.sqrt((d**2).sum(axis=1)), np.maximum(-d[:, 2], 0.0)
    most = np.where(falls > 1e-9, plunge * long / np.maximum(falls, 1e-9), np.inf)
    cutting = (out[1:, KIND] != RAPID) & (out[1:, FEED] > 0)
    held = np.maximum(1.0, np.floor(np.minimum(out[1:, FEED], most)))
    out[1:, FEED] = np.where(cutting & (most < out[1:, FEED]), held, out[1:, FEED])
    return out


def slopes_along(moves: Array, under: UnderCarving) -> Array:
    """How steep the surface is, rise over run, at places evenly picked along a carving's way."""
    at = moves[(moves[:, KIND] != RAPID) & (moves[:, Z] < 0)][:, [X, Y]]
    return under.slopes(at[:: max(1, len(at) // 5000)]) if len(at) else np.zeros(0)


def wider_uphill(slope: float, half_angle: float) -> float:
    """How many times as wide a V bit's stroke is on its uphill side as on the level: a flank that leans out
    by tan(a) a mm meets a surface that rises ``slope`` a mm at 1 / (1 - slope tan(a)) of the level's width
    (plane geometry); infinite where the surface is as steep as the flank.

    >>> round(wider_uphill(0.5, 30.0), 3), wider_uphill(2.0, 30.0)
    (1.406, inf)
    """
    rest = 1 - slope * math.tan(math.radians(half_angle))
    return 1 / rest if rest > 1e-9 else math.inf


def meets(under: UnderCarving, lines: Sequence[Array]) -> float:
    """How far the surface lies below the face at most along lines (n, 2), mm: 0 where they meet no relief."""
    deepest = 0.0
    for line in lines:
        if len(line) > 1:
            at = shapely.get_coordinates(shapely.LineString(line).segmentize(1.0))
            deepest = max(deepest, -float(under.heights(at).min()))
    return deepest
