"""A grid of heights as a surface of triangles."""

from __future__ import annotations

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.relief.mesh import Mesh

STAIR = 0.02
"""mm; a step between two grey levels that is no higher is not seen."""


def grid_mesh(name: str, heights: Array) -> Mesh:
    """Places one apart in x and y, two triangles between any four; each square is parted along the diagonal
    that bends less, so that ridges and valleys stay whole.

    >>> m = grid_mesh("g", np.array([[0.0, 0.0], [0.0, 1.0]]))
    >>> m.points.shape, len(m.faces), m.outline.area
    ((4, 3), 2, 1.0)
    """
    rows, columns = heights.shape
    x, y = np.meshgrid(np.arange(columns, dtype=float), np.arange(rows, dtype=float))
    points = np.column_stack([x.ravel(), y.ravel(), heights.ravel()])
    at = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = (v.ravel() for v in (at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]))
    z = heights.ravel()
    first = np.abs(z[a] - z[c]) <= np.abs(z[b] - z[d])
    one = np.where(first[:, None], np.column_stack([a, b, c]), np.column_stack([a, b, d]))
    two = np.where(first[:, None], np.column_stack([a, c, d]), np.column_stack([b, c, d]))
    return Mesh(name, points, np.vstack([one, two]))
