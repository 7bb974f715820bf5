"""The numbered grid of a table: lines a square apart and a number in every square, so that boards and pieces
can be put down by number. One grid a table: zeros, boards and the program that engraves it all ask this one.

>>> grid = Grid(pitch=200, at=(10, 20), columns=5, rows=3)
>>> grid.number(1, 2), grid.square(6), grid.corner(1, 2)
(6, (1, 2), (10.0, 220.0))
"""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry import LineString, MultiPoint
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array
from venzo.core.model import Point, Value
from venzo.core.snags import BadInput
from venzo.core.voice import counted

Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Place = tuple[Coordinate, Coordinate]
DIGIT, LEAST_DIGIT = 12.0, 4.0
"""mm; height of the numbers, and the least that can still be read."""
MOST_SQUARES = 2000


class Grid(Value):
    """A numbered grid: ``at``: lower left corner of its first square on the table, mm. Squares are counted
    from 1 at the lower left, along X first.
    """

    pitch: Annotated[float, Field(ge=1, le=2000)] = 100.0
    at: Place = (0.0, 0.0)
    columns: Annotated[int, Field(ge=1, le=1000)] = 10
    rows: Annotated[int, Field(ge=1, le=1000)] = 10

    def number(self, column: int, row: int) -> int:
        """The number that stands in a square.

        Raises:
            BadInput: the grid has no such square.
        """
        if not (1 <= column <= self.columns and 1 <= row <= self.rows):
            raise BadInput(
                f"there is no square {column}, {row}: the grid has {counted(self.columns, 'column')} and"
                f" {counted(self.rows, 'row')}"
            )
        return (row - 1) * self.columns + column

    def square(self, number: int) -> tuple[int, int]:
        """Column and row of a numbered square.

        Raises:
            BadInput: the grid has no such square.
        """
        if not 1 <= number <= self.columns * self.rows:
            raise BadInput(f"there is no square {number}: the grid has {self.columns * self.rows}")
        return ((number - 1) % self.columns + 1, (number - 1) // self.columns + 1)

    def corner(self, column: int, row: int) -> Point:
        """Lower left corner of a square on the table, mm.

        Raises:
            BadInput: the grid has no such square.
        """
        self.number(column, row)
        return (self.at[0] + (column - 1) * self.pitch, self.at[1] + (row - 1) * self.pitch)

    @property
    def digit(self) -> float:
        """Height of its numbers, mm: a third of a square at most."""
        return min(DIGIT, self.pitch / 3)


def squares(width: float, height: float, pitch: float) -> tuple[int, int]:
    """Columns and rows of squares that fit; what is left over stays at the right and at the back."""
    return max(1, math.floor(width / pitch + 1e-6)), max(1, math.floor(height / pitch + 1e-6))


STROKES: dict[str, tuple[tuple[tuple[float, float], ...], ...]] = {
    "0": (((0, 0), (0.6, 0), (0.6, 1), (0, 1), (0, 0)),),
    "1": (((0.1, 0.8), (0.3, 1), (0.3, 0)),),
    "2": (((0, 1), (0.6, 1), (0.6, 0.55), (0, 0), (0.6, 0)),),
    "3": (((0, 1), (0.6, 1), (0.25, 0.6), (0.6, 0.4), (0.6, 0), (0, 0)),),
    "4": (((0.45, 0), (0.45, 1), (0, 0.35), (0.6, 0.35)),),
    "5": (((0.6, 1), (0, 1), (0, 0.55), (0.6, 0.5), (0.6, 0), (0, 0)),),
    "6": (((0.55, 1), (0, 0.5), (0, 0), (0.6, 0), (0.6, 0.5), (0, 0.5)),),
    "7": (((0, 1), (0.6, 1), (0.2, 0)),),
    "8": (((0, 0.52), (0, 1), (0.6, 1), (0.6, 0.52), (0, 0.52), (0, 0), (0.6, 0), (0.6, 0.52)),),
    "9": (((0.6, 0.5), (0, 0.5), (0, 1), (0.6, 1), (0.6, 0.5), (0.1, 0)),),
}
"""Single-line digits, one high and 0.6 wide."""


def grid_lines(grid: Grid, room: BaseGeometry | None = None) -> list[Array]:
    """Lines and numbers of a grid as polylines (n, 2) on the table, in an order of short hops: lines to and
    fro, then numbers square by square. Of them only what lies in ``room``, numbers whole or not at all.

    Raises:
        BadInput: squares too small for numbers that can be read, or too many of them.
    """
    count = grid.columns * grid.rows
    if count > MOST_SQUARES:
        raise BadInput(f"{count} squares are over the limit of {MOST_SQUARES}; take a larger pitch")
    widest = len(str(count)) * grid.digit + grid.digit / 2
    if grid.digit < LEAST_DIGIT or widest > grid.pitch:
        raise BadInput(
            f"squares of {grid.pitch:g} mm are too small for the number {count}; take a larger pitch or fewer"
            " squares"
        )
    (x0, y0), pitch = grid.at, grid.pitch
    x1, y1 = x0 + grid.columns * pitch, y0 + grid.rows * pitch
    upright = [((x0 + k * pitch, y0), (x0 + k * pitch, y1)) for k in range(grid.columns + 1)]
    level = [((x0, y0 + k * pitch), (x1, y0 + k * pitch)) for k in range(grid.rows + 1)]
    out: list[Array] = []
    for lines in (upright, level):
        for k, ends in enumerate(lines):
            out += _within(np.array(ends if k % 2 == 0 else ends[::-1]), room)
    for j in range(grid.rows):
        columns = range(grid.columns) if j % 2 == 0 else range(grid.columns - 1, -1, -1)
        for i in columns:
            strokes = _number(grid, i + 1, j + 1)
            if room is None or room.contains(MultiPoint(np.vstack(strokes))):
                out += strokes
    return out


def _within(line: Array, room: BaseGeometry | None) -> list[Array]:
    """What of a line lies in a room, in its order."""
    if room is None:
        return [line]
    whole = LineString(line)
    parts = [p for p in shapely.get_parts(whole.intersection(room)) if p.length > 1.0]
    ways = [np.asarray(shapely.get_coordinates(p)) for p in parts]
    along = [w if _far(whole, w[0]) <= _far(whole, w[-1]) else w[::-1] for w in ways]
    return sorted(along, key=lambda w: _far(whole, w[0]))


def _far(line: LineString, point: Array) -> float:
    return float(line.project(shapely.Point(point)))


def _number(grid: Grid, column: int, row: int) -> list[Array]:
    """Strokes of the number in a square."""
    x, y = (v + grid.digit / 2 for v in grid.corner(column, row))
    out = []
    for c in str(grid.number(column, row)):
        out += [np.array(s) * grid.digit + (x, y) for s in STROKES[c]]
        x += grid.digit
    return out


def grid_moves(lines: list[Array], depth: float, feed: float, plunge: float, retract: float = 3.0) -> Array:
    """Moves that engrave lines ``depth`` mm deep, or draw them with a sprung pen pressed down so far.

    Raises:
        BadInput: a depth that is none or too much; no lines.
    """
    if not 0 < depth <= 5:
        raise BadInput(f"lines {depth:g} mm deep: give a depth above 0 and up to 5 mm")
    if not lines:
        raise BadInput("nothing of the grid lies on the table; check where it begins")
    track = Track(retract, feed, plunge)
    for line in lines:
        track.over(*line[0])
        track.down(-depth)
        for x, y in line[1:]:
            track.line(float(x), float(y))
    return track.array()
