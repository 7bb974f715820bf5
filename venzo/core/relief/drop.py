"""Where a cutter that is let down on a surface comes to rest."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from types import ModuleType

import numpy as np
import numpy.typing as npt

from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.relief.mesh import alike
from venzo.core.relief.tip import Tip

A_CELL = 3.0
"""Triangles that a cell of the grid over them is to hold, about."""
MOST_CELLS = 4_000_000
AT_ONCE = 100_000
"""Points between two looks at whether somebody still waits."""
TIPS = 4
"""Tips of which it is remembered how they lean on the triangles."""
THREADS = 2
WORTH_THREADS = 2000
"""Points from which a second thread pays."""
FLUSH = 1e-9
"""mm by which a corner may lie over the plane of the face beside and the edge still counts as level."""


class Ground:
    """A surface of triangles (n, 3, 3) in mm that cutters are let down on.

    ``lowest``: where a cutter rests that touches none of them.

    >>> ridge = np.array([[[0, -9, 0], [20, -9, 0], [10, 0, 5]], [[0, 9, 0], [20, 9, 0], [10, 0, 5]]], float)
    >>> Ground(ridge).rest(np.array([[10.0, 0.0], [10.0, 3.0]]), Tip.ball(8)).round(3).tolist()
    [5.0, 3.909]
    """

    def __init__(self, triangles: Array, lowest: float | None = None):
        self.triangles = np.ascontiguousarray(triangles, dtype=float)
        flat = self.triangles.reshape(-1, 3)
        self.low, self.high = flat.min(axis=0), flat.max(axis=0)
        self.lowest = float(self.low[2]) if lowest is None else lowest
        size = np.maximum(self.high[:2] - self.low[:2], 1e-6)
        cell = math.sqrt(size[0] * size[1] * A_CELL / max(1, len(self.triangles)))
        self.cell = max(cell, math.sqrt(size[0] * size[1] / MOST_CELLS), float(max(size)) / 20_000, 1e-6)
        self.columns, self.rows = (int(v) for v in np.floor(size / self.cell).astype(int) + 1)
        k = _kernel()
        counts = np.zeros(self.rows * self.columns, dtype=np.int64)
        self.tops = np.full((self.rows, self.columns), -np.inf)
        x0, y0 = (float(v) for v in self.low[:2])
        k.spread(self.triangles, x0, y0, self.cell, self.rows, self.columns, counts, self.tops)
        self.starts = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
        self.members = np.empty(int(self.starts[-1]), dtype=np.int32)
        k.put_in(
            self.triangles,
            x0,
            y0,
            self.cell,
            self.rows,
            self.columns,
            self.starts[:-1].copy(),
            self.members,
        )

        self.sharp = _sharp_edges(self.triangles)
        self._leaning: dict[tuple[float, ...], Array] = {}
        t = self.triangles
        self.boxes = np.column_stack(
            [t[:, :, :2].min(axis=1), t[:, :, :2].max(axis=1), t[:, :, 2].max(axis=1)]
        )

    def rest(self, points: Array, tip: Tip, allowance: float = 0.0, low: float | None = None) -> Array:
        """Height of the lowest point of a cutter that rests over each place (n, 2), ``allowance`` mm off the
        surface, measured normal to it; ``low``: where it rests that touches nothing, if not at ``lowest``.
        """
        bottom = self.lowest if low is None else low
        shape = tip.wider(allowance).shape
        at = np.ascontiguousarray(points, dtype=float).reshape(-1, 2)
        out = np.empty(len(at))
        kernel = _kernel()
        lean = self._lean(shape)

        def part(begin: int, end: int) -> None:
            for a in range(begin, end, AT_ONCE):
                give_way()
                z = min(end, a + AT_ONCE)
                kernel.drop(
                    at[a:z],
                    self.triangles,
                    self.sharp,
                    lean,
                    self.boxes,
                    self.starts,
                    self.members,
                    self.tops,
                    float(self.low[0]),
                    float(self.low[1]),
                    self.cell,
                    shape,
                    bottom,
                    out[a:z],
                    np.zeros(len(self.triangles), dtype=np.int32),
                )

        if len(at) < WORTH_THREADS:
            part(0, len(at))
        else:
            half = len(at) // 2
            with ThreadPoolExecutor(THREADS) as pool:
                list(pool.map(part, (0, half), (half, len(at))))
        return out + max(0.0, allowance)

    def _lean(self, shape: tuple[float, float, float, float, float]) -> Array:
        """Where a tip touches the plane of every triangle, remembered for the last few tips: short ways are
        asked for one by one.
        """
        found = self._leaning.get(shape)
        if found is None:
            found = np.zeros((len(self.triangles), 3))
            _kernel().lean_on(self.triangles, shape, found)
            while len(self._leaning) >= TIPS:
                self._leaning.pop(next(iter(self._leaning)), None)
            self._leaning[shape] = found
        return found

    def heights(self, points: Array) -> Array:
        """Height of the surface itself at each place (n, 2): its highest face there."""
        return self.rest(points, Tip(1e-9, flat=1e-9))

    def layers(self, points: Array, apart: float = 0.05) -> npt.NDArray[np.int32]:
        """How many faces that look up lie over each place, ``apart`` mm from one another: more than one is
        an undercut.
        """
        at = np.ascontiguousarray(points, dtype=float).reshape(-1, 2)
        out = np.zeros(len(at), dtype=np.int32)
        _kernel().layers(
            at,
            self.triangles,
            self.starts,
            self.members,
            float(self.low[0]),
            float(self.low[1]),
            self.cell,
            self.rows,
            self.columns,
            apart,
            out,
        )
        return out


def _sharp_edges(triangles: Array) -> npt.NDArray[np.uint8]:
    """For every triangle a bit for each of its edges (from corner 0, 1 and 2) that a cutter may rest on.

    It never rests on an edge along which two faces meet in a valley or lie level: there it rests on one of
    the faces. An edge that two triangles share is asked of one of them. What is no plain edge between two
    faces that lie beside one another in plan stays.
    """
    n = len(triangles)
    of = alike(triangles.reshape(-1, 3))[1].reshape(n, 3)
    ends = np.stack([of, np.roll(of, -1, axis=1)], axis=2).reshape(-1, 2)
    edge = np.sort(ends, axis=1)
    order = np.lexsort((edge[:, 1], edge[:, 0]))
    e = edge[order]
    new = np.ones(len(e), dtype=bool)
    new[1:] = (e[1:] != e[:-1]).any(axis=1)
    begins = np.flatnonzero(new)
    many = np.diff(np.concatenate([begins, [len(e)]]))
    stays = np.ones(3 * n, dtype=bool)
    two = begins[many == 2]
    a, b = order[two], order[two + 1]
    stays[b] = False  # the first of the two is asked
    t = triangles.reshape(-1, 9).reshape(n, 3, 3)
    fa, fb = a // 3, b // 3
    p, q = t[fa, a % 3], t[fa, (a + 1) % 3]
    ra, rb = t[fa, (a + 2) % 3], t[fb, (b + 2) % 3]
    d = q - p
    side_a = d[:, 0] * (ra[:, 1] - p[:, 1]) - d[:, 1] * (ra[:, 0] - p[:, 0])
    side_b = d[:, 0] * (rb[:, 1] - p[:, 1]) - d[:, 1] * (rb[:, 0] - p[:, 0])
    beside = side_a * side_b < -1e-18
    # height of the other face's far corner over this face's plane
    u, v, w = d, ra - p, rb - p
    turn = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        gx = (u[:, 2] * v[:, 1] - v[:, 2] * u[:, 1]) / turn
        gy = (v[:, 2] * u[:, 0] - u[:, 2] * v[:, 0]) / turn
        over = w[:, 2] - gx * w[:, 0] - gy * w[:, 1]
    stays[a[beside & (over >= -FLUSH)]] = False
    bits = stays.reshape(n, 3).astype(np.uint8)
    return np.ascontiguousarray(bits[:, 0] | (bits[:, 1] << 1) | (bits[:, 2] << 2))


def _kernel() -> ModuleType:
    """The compiled loops, loaded when they are first needed."""
    from venzo.core.relief import drop_kernel

    return drop_kernel
