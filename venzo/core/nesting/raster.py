"""Where is the first free place for a shape on a sheet? Column runs over a grid of cells.

A shape is rasterised conservatively (every cell it touches counts), so a place found here is truly free. For
each column the sheet keeps, per cell, the next occupied and the next free cell above it; a run of the shape
that meets an occupied cell can then jump straight past the obstacle.
"""

from __future__ import annotations

import math

import numba
import numpy as np
from numpy.typing import NDArray

from venzo.core.geometry.contour import Array

Ints = NDArray[np.int32]
TOUCH = math.sqrt(0.5)
"""A shape grown by this many cells covers the centre of every cell it touches."""


def column_runs(
    rings: list[Array], cell: float, x0: float = 0.0, y0: float = 0.0
) -> tuple[int, Ints, Ints, Ints]:
    """Runs of cells whose centres lie inside the rings (even-odd).

    Returns:
        first column, pointers ``(columns + 1,)`` into the runs, run starts and run ends (end exclusive), in
        cells from (x0, y0).
    """
    cols, ys = [], []
    for ring in rings:
        p = (ring - (x0, y0)) / cell - 0.5  # cell centres on whole numbers
        q = np.roll(p, -1, axis=0)
        lo = np.ceil(np.minimum(p[:, 0], q[:, 0])).astype(np.int64)
        hi = np.ceil(np.maximum(p[:, 0], q[:, 0])).astype(np.int64)  # half open: a vertex counts once
        count = hi - lo
        keep = count > 0
        if not keep.any():
            continue
        p, q, lo, count = p[keep], q[keep], lo[keep], count[keep]
        edge = np.repeat(np.arange(len(p)), count)
        col = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + lo[edge]
        t = (col - p[edge, 0]) / (q[edge, 0] - p[edge, 0])
        cols.append(col)
        ys.append(p[edge, 1] + t * (q[edge, 1] - p[edge, 1]))
    if not cols:
        return 0, np.zeros(1, np.int32), np.zeros(0, np.int32), np.zeros(0, np.int32)
    col, y = np.concatenate(cols), np.concatenate(ys)
    order = np.lexsort((y, col))
    col, y = col[order], y[order]
    a, b = np.ceil(y[0::2]).astype(np.int32), np.floor(y[1::2]).astype(np.int32) + 1
    own = col[0::2]
    keep = b > a
    a, b, own = a[keep], b[keep], own[keep]
    if not len(a):
        return 0, np.zeros(1, np.int32), np.zeros(0, np.int32), np.zeros(0, np.int32)
    first = int(own.min())
    n = int(own.max()) - first + 1
    pointer = np.searchsorted(own - first, np.arange(n + 1)).astype(np.int32)
    return first, pointer, a, b


@numba.njit(cache=True, nogil=True)
def mark(occupied, next_occupied, next_free, longest, first, pointer, a, b):  # pragma: no cover - compiled
    """Occupy runs and bring the next-cell tables of the touched columns up to date, and how long the longest
    free run of each is.
    """
    width, height = occupied.shape
    for c in range(len(pointer) - 1):
        x = first + c
        if x < 0 or x >= width:
            continue
        for r in range(pointer[c], pointer[c + 1]):
            for y in range(max(a[r], 0), min(b[r], height)):
                occupied[x, y] = 1
        nf = height
        no = 2 * height
        free = most = 0
        for y in range(height - 1, -1, -1):
            if occupied[x, y]:
                no = y
                free = 0
            else:
                nf = y
                free += 1
                most = max(most, free)
            next_occupied[x, y] = no
            next_free[x, y] = nf
        longest[x] = most


@numba.njit(cache=True, nogil=True)
def first_fit(
    next_occupied, next_free, longest, first, pointer, a, b, x_start, x_stop, y_stop
):  # pragma: no cover - compiled
    """Leftmost, then lowest offset (cells) at which no run meets an occupied cell; (-1, -1) if none.

    Offsets range over x_start .. x_stop and 0 .. y_stop, both inclusive; runs must stay inside the grid
    there. Where a column has no free run as long as one of the shape's nothing is tried.
    """
    columns = len(pointer) - 1
    tallest = np.zeros(columns, np.int64)
    for c in range(columns):
        for r in range(pointer[c], pointer[c + 1]):
            tallest[c] = max(tallest[c], b[r] - a[r])
    tight = 0
    for ix in range(x_start, x_stop + 1):
        # the column that stood in the way is now one further left in the shape
        tight = max(tight - 1, 0)
        room = True
        for k in range(columns):
            c = k + tight
            if c >= columns:
                c -= columns
            if longest[ix + first + c] < tallest[c]:
                tight = c
                room = False
                break
        if not room:
            continue
        iy = 0
        hint = 0
        while iy <= y_stop:
            blocked = False
            for k in range(columns):
                c = k + hint
                if c >= columns:
                    c -= columns
                x = ix + first + c
                for r in range(pointer[c], pointer[c + 1]):
                    no = next_occupied[x, iy + a[r]]
                    if no < iy + b[r]:
                        iy = next_free[x, no] - a[r]
                        blocked = True
                        hint = c
                        break
                if blocked:
                    break
            if not blocked:
                return ix, iy
    return -1, -1


class Grid:
    """The occupied cells of one sheet, with ``pad`` free cells around its box so that grown shapes stay
    inside; ``origin``: the corner (mm) that cells are counted from.
    """

    def __init__(
        self, width: float, height: float, cell: float, pad: int, origin: tuple[float, float] = (0.0, 0.0)
    ):
        self.cell, self.pad, self.origin = cell, pad, origin
        shape = (math.ceil(width / cell) + 2 * pad + 2, math.ceil(height / cell) + 2 * pad + 2)
        self.occupied = np.zeros(shape, np.uint8)
        self.next_occupied = np.full(shape, 2 * shape[1], np.int32)
        self.next_free = np.tile(np.arange(shape[1], dtype=np.int32), (shape[0], 1))
        self.longest = np.full(shape[0], shape[1], np.int32)

    def fill(self, rings: list[Array]) -> None:
        """Occupy the cells whose centres lie inside the rings (sheet coordinates)."""
        x, y = (o - self.pad * self.cell for o in self.origin)
        first, pointer, a, b = column_runs(rings, self.cell, x, y)
        if len(a):
            mark(self.occupied, self.next_occupied, self.next_free, self.longest, first, pointer, a, b)

    def copy(self) -> Grid:
        """The grid as it is, to try something on."""
        out = Grid.__new__(Grid)
        out.cell, out.pad, out.origin = self.cell, self.pad, self.origin
        out.occupied, out.next_occupied = self.occupied.copy(), self.next_occupied.copy()
        out.next_free, out.longest = self.next_free.copy(), self.longest.copy()
        return out

    def fit(
        self, runs: tuple[int, Ints, Ints, Ints], x_start: int, x_stop: int, y_stop: int
    ) -> tuple[int, int]:
        """First free offset in cells (see ``first_fit``); runs are relative to the shape's box corner."""
        first, pointer, a, b = runs
        return first_fit(
            self.next_occupied,
            self.next_free,
            self.longest,
            first + self.pad,
            pointer,
            a + self.pad,
            b + self.pad,
            x_start,
            x_stop,
            y_stop,
        )
