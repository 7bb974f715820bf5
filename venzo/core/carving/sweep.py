"""What does a program leave? The surface that cutters sweep, as heights on a grid."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from venzo.core.carving.bit import Bit
from venzo.core.cuts.moves import RAPID, X, Y, Z, polyline
from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput

MOST_CELLS = 40_000_000


@dataclass(frozen=True, eq=False)
class Surface:
    """Heights (rows, columns) in mm, 0 untouched and down negative; cell (i, j) stands for the point (x0 + j
    cell, y0 + i cell).
    """

    heights: Array
    x0: float
    y0: float
    cell: float

    @property
    def xs(self) -> Array:
        """x of every column, mm."""
        return np.asarray(self.x0 + np.arange(self.heights.shape[1]) * self.cell, dtype=float)

    @property
    def ys(self) -> Array:
        """y of every row, mm."""
        return np.asarray(self.y0 + np.arange(self.heights.shape[0]) * self.cell, dtype=float)


def flat(box: tuple[float, float, float, float], cell: float) -> Surface:
    """An untouched surface over a box.

    Raises:
        BadInput: more than MOST_CELLS cells.
    """
    nx, ny = (math.floor((box[k + 2] - box[k]) / cell + 1e-6) + 1 for k in (0, 1))
    if nx * ny > MOST_CELLS:
        raise BadInput(
            f"a surface of {nx} x {ny} cells is over the limit of {MOST_CELLS}; take a coarser cell than"
            f" {cell:g} mm"
        )
    return Surface(np.zeros((ny, nx)), box[0], box[1], cell)


def sweep(surface: Surface, moves: Array, bit: Bit | None, radius: float = 0.0) -> None:
    """Take off what a cutter sweeps along its cutting moves; ``bit`` a V bit, None an end mill of ``radius``
    mm. Changes ``surface`` in place.

    Lines are exact up to the grid: of every cell the lowest point of the cutter that passes over it, found in
    closed form for a pointed cone and by ternary search (the height over a line is convex) for other points.
    """
    from venzo.core.carving.sweep_kernel import sweep_lines  # here, since its compiler is dear to load

    p = polyline(moves, 0.002)
    cutting = np.ones(len(p) - 1, dtype=bool)
    if len(p) == len(moves):
        cutting = moves[1:, 0] != RAPID
    else:  # arcs became chords: rapids are always straight
        rapid = {(round(a[X], 6), round(a[Y], 6), round(a[Z], 6)) for a in moves[1:] if a[0] == RAPID}
        cutting = np.array([tuple(np.round(q, 6)) not in rapid for q in p[1:]])
    seg = np.hstack([p[:-1], p[1:]])[cutting]
    seg = seg[np.minimum(seg[:, 2], seg[:, 5]) < 0]
    if not len(seg):
        return
    if bit is None:
        sweep_lines(surface.heights, surface.x0, surface.y0, surface.cell, seg, 1.0, radius, 0.0, radius, 1)
    else:
        kind = 2 if bit.tip_radius else 3 if bit.tip else 0
        sweep_lines(
            surface.heights,
            surface.x0,
            surface.y0,
            surface.cell,
            seg,
            bit.tan,
            bit.tip / 2,
            bit.tip_radius,
            bit.diameter / 2,
            kind,
        )


def warm() -> None:
    """Compile the sweep."""
    from venzo.core.carving.sweep_kernel import sweep_lines

    s = flat((0, 0, 1, 1), 0.5)
    sweep_lines(s.heights, 0.0, 0.0, 0.5, np.array([[0.0, 0, -1, 1, 1, -1]]), 1.0, 0.0, 0.0, 1.0, 0)
