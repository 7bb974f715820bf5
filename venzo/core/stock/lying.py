"""How does a sheet lie on the table? Its place, its turn where it was laid crooked, and the way from sheet to
table and to program coordinates.

>>> crooked = lying((100.0, 50.0), (1100.0, 60.0))
>>> round(math.degrees(crooked.turn), 3), np.round(crooked.on_table(np.array([[500.0, 0.0]])), 2).tolist()
(0.573, [[599.98, 55.0]])
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon, box

from venzo.core.geometry.contour import Array
from venzo.core.model import Point


@dataclass(frozen=True)
class Lying:
    """A sheet's lower left corner on the table, mm, and its turn about it, radians counter-clockwise."""

    at: Point = (0.0, 0.0)
    turn: float = 0.0

    @property
    def _turned(self) -> Array:
        c, s = math.cos(self.turn), math.sin(self.turn)
        return np.array([[c, -s], [s, c]])

    def on_table(self, xy: Array) -> Array:
        """Points of the sheet (n, 2) in table coordinates, mm."""
        if not self.turn:
            return np.asarray(xy + np.array(self.at))
        return np.asarray(xy @ self._turned.T + np.array(self.at))

    def on_sheet(self, xy: Array) -> Array:
        """Points of the table (n, 2) in sheet coordinates, mm."""
        if not self.turn:
            return np.asarray(xy - np.array(self.at))
        return np.asarray((xy - np.array(self.at)) @ self._turned)

    def point_on_table(self, at: Point) -> Point:
        """One point of the sheet in table coordinates, mm."""
        x, y = self.on_table(np.array([at]))[0].tolist()
        return (x, y)

    def point_on_sheet(self, at: Point) -> Point:
        """One point of the table in sheet coordinates, mm."""
        x, y = self.on_sheet(np.array([at]))[0].tolist()
        return (x, y)

    def rect_on_sheet(self, rect: tuple[float, float, float, float]) -> Polygon:
        """An upright box of the table, as the sheet sees it, mm."""
        x0, y0, x1, y1 = rect
        if not self.turn:
            dx, dy = self.at
            return box(x0 - dx, y0 - dy, x1 - dx, y1 - dy)
        return Polygon(self.on_sheet(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])))

    def bounds(self, width: float, height: float) -> tuple[float, float, float, float]:
        """The upright box of the table that a sheet reaches over, mm."""
        corners = self.on_table(np.array([[0.0, 0.0], [width, 0.0], [width, height], [0.0, height]]))
        (x0, y0), (x1, y1) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
        return (x0, y0, x1, y1)

    def moves_from(self, moves: Array, datum: Point, columns: tuple[tuple[int, int], ...]) -> Array:
        """Moves on the sheet as they are from a zero of it, along the machine's axes; ``columns``: pairs that
        hold X and Y. The moves given stay as they are.
        """
        out = moves.copy()
        for pair in columns:
            xy = out[:, pair] - np.array(datum)
            out[:, pair] = xy @ self._turned.T if self.turn else xy
        return np.asarray(out)

    def moves_back(self, moves: Array, datum: Point, columns: tuple[tuple[int, int], ...]) -> Array:
        """Moves from a zero, put back on the sheet: what ``moves_from`` does, undone."""
        out = moves.copy()
        for pair in columns:
            xy = out[:, pair] @ self._turned if self.turn else out[:, pair]
            out[:, pair] = xy + np.array(datum)
        return np.asarray(out)


def lying(corner: Point, edge: Point | None = None) -> Lying:
    """How a sheet lies by its lower left corner and, where it is crooked, a second point read on its lower
    edge, both on the table, mm.
    """
    if edge is None:
        return Lying(corner)
    return Lying(corner, math.atan2(edge[1] - corner[1], edge[0] - corner[0]))
