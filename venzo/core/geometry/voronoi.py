"""The segment Voronoi diagram, and nothing else: which places are nearest to which edge.

The one module that knows the library, so that another can take its place.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pyvoronoi

from venzo.core.geometry.contour import Array

FACTOR = 1e4
"""Units of the diagram per mm: it reckons in 32-bit integers, so drawings may be up to 200 m."""
WIDEST = 200_000.0
"""mm from the origin that a corner may lie."""


def diagram(segments: Array) -> tuple[Any, Any, Any]:
    """The bare segment Voronoi diagram: vertices (n, 2), edges (m, 5) of start, end, cell, twin's cell,
    linear (each pair once, finite and primary only), and cells (k, 2) of site and category (0 a segment, 1
    its start, 2 its end).

    ``segments``: ``(n, 4)`` start and end, mm; they meet in common points and do not cross.

    >>> square = np.array([(0, 0, 9, 0), (9, 0, 9, 9), (9, 9, 0, 9), (0, 9, 0, 0)], float)
    >>> vertices, edges, cells = diagram(square)
    >>> [v.tolist() for v in vertices if 1 < v[0] < 8], len(edges)
    ([[4.5, 4.5]], 4)
    """
    pv = pyvoronoi.Pyvoronoi(FACTOR)
    for x0, y0, x1, y1 in segments.tolist():
        pv.AddSegment([[x0, y0], [x1, y1]])
    pv.Construct()
    vertices = np.array([(v.X, v.Y) for v in pv.GetVertices()], dtype=float).reshape(-1, 2)
    raw = np.array(
        [(e.start, e.end, e.cell, e.twin, e.is_linear, e.is_primary) for e in pv.GetEdges()], dtype=np.int64
    ).reshape(-1, 6)
    cells = np.array(
        [(c.site, 0 if c.contains_segment else c.source_category) for c in pv.GetCells()], dtype=np.int64
    ).reshape(-1, 2)
    once = (np.arange(len(raw)) < raw[:, 3]) & (raw[:, 0] >= 0) & (raw[:, 1] >= 0) & (raw[:, 5] == 1)
    e = raw[once]
    return vertices, np.column_stack([e[:, 0], e[:, 1], e[:, 2], raw[e[:, 3], 2], e[:, 4]]), cells
