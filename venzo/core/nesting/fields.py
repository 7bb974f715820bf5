"""How deep do two pieces overlap? Tables of signed distance to no-fit polygons, one per pair of shapes and relative turn.

The box of a no-fit polygon is divided into cells. A cell far outside it holds nothing, a cell deep inside it holds the distance to its boundary at
the cell's centre with its slope, a cell near the boundary lists the edges among which the nearest one is: there the distance is exact. Spacing is added
to the distance, so gaps are Euclidean (the offset by a disc is never drawn). Overlap depth as the measure that a search drives to zero:
Egeblad, Nielsen and Odgaard 2007; Umetani and Murakami 2022 (rasters of no-fit polygons); both from memory.
"""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from venzo.core.geometry.contour import Array
from venzo.core.nesting.nofit import no_fit

CELLS = 48
"""Cells along the longer side of a no-fit polygon's box."""
EDGE = 8
"""Numbers kept per edge: start x, y, direction x, y, length, side at the start and at the end when that vertex is nearest, unused."""
NEAR_END = 1e-3
"""mm beyond an edge's end within which a point still belongs to the edge: rounding must not turn the side at a corner that is hardly one."""
HEAD = 8
"""Numbers kept per table: x0, y0, 1 / cell, columns, rows, offset of the cells, clearance, unused."""


@numba.njit(cache=True, nogil=True)
def _edge_rows(loop, out):  # pragma: no cover - compiled
    """Edge rows of a loop with material on its left."""
    n = len(loop)
    for i in range(n):
        h, j, k = (i - 1) % n, (i + 1) % n, (i + 2) % n
        ax, ay = loop[i, 0], loop[i, 1]
        ux, uy = loop[j, 0] - ax, loop[j, 1] - ay
        length = math.hypot(ux, uy)
        turn_a = (ax - loop[h, 0]) * uy - (ay - loop[h, 1]) * ux
        turn_b = ux * (loop[k, 1] - loop[j, 1]) - uy * (loop[k, 0] - loop[j, 0])
        out[i, 0], out[i, 1], out[i, 2], out[i, 3], out[i, 4] = ax, ay, ux / length, uy / length, length
        # nearest point is a corner: outside at a convex one, inside at a reflex one
        out[i, 5] = -1.0 if turn_a > 0 else 1.0
        out[i, 6] = -1.0 if turn_b > 0 else 1.0
        out[i, 7] = 0.0


@numba.njit(cache=True, nogil=True)
def _cells(edges, x0, y0, cell, nx, ny, clearance, cells, lists, deep):  # pragma: no cover - compiled
    """Fill the cells; numbers used of ``lists`` and ``deep``. Offsets in the cells start at 1 (lists) and -1 (deep)."""
    m = len(edges)
    used = 0
    deeps = 0
    half = cell * 0.7072
    dist = np.empty(m)
    for ix in range(nx):
        for iy in range(ny):
            x, y = x0 + (ix + 0.5) * cell, y0 + (iy + 0.5) * cell
            best = 1e300
            side = -1.0
            bx = by = 0.0
            for e in range(m):
                px, py = x - edges[e, 0], y - edges[e, 1]
                t = px * edges[e, 2] + py * edges[e, 3]
                if t < -NEAR_END:
                    s = edges[e, 5]
                    qx, qy = px, py
                elif t > edges[e, 4] + NEAR_END:
                    s = edges[e, 6]
                    qx, qy = px - edges[e, 4] * edges[e, 2], py - edges[e, 4] * edges[e, 3]
                else:
                    c = edges[e, 2] * py - edges[e, 3] * px
                    s = 1.0 if c > 0 else -1.0
                    qx, qy = -edges[e, 3] * c, edges[e, 2] * c
                d = math.sqrt(qx * qx + qy * qy)
                dist[e] = d
                if d < best - 1e-9 or (d < best + 1e-9 and s > side and -NEAR_END < t < edges[e, 4] + NEAR_END):
                    best, side, bx, by = d, s, qx, qy
            if side < 0 and best - half >= clearance:
                continue
            if side > 0 and best > 2.5 * half:
                cells[ix * ny + iy] = -(deeps + 1)
                deep[deeps * 3] = best
                deep[deeps * 3 + 1] = bx / best
                deep[deeps * 3 + 2] = by / best
                deeps += 1
                continue
            cells[ix * ny + iy] = used + 1
            start = used
            used += 1
            for e in range(m):
                if dist[e] <= best + 2.0 * half:
                    lists[used] = e
                    used += 1
            lists[start] = used - start - 1
    return used, deeps


@dataclass
class _Table:
    head: Array
    edges: Array
    cells: NDArray[np.int32]
    lists: NDArray[np.int32]
    deep: Array


def _corners(loop: Array) -> Array:
    """The loop without points on a straight line."""
    before, after = loop - np.roll(loop, 1, axis=0), np.roll(loop, -1, axis=0) - loop
    turn = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    keep = np.abs(turn) > 1e-6 * np.hypot(*before.T) * np.hypot(*after.T)
    return loop[keep] if keep.sum() > 2 else loop


def _table(a: list[Array], b: list[Array], clearance: float, count: int) -> _Table:
    loops = [_corners(loop) for loop in no_fit(a, b)]
    edges = np.empty((sum(map(len, loops)), EDGE))
    at = 0
    for loop in loops:
        _edge_rows(loop, edges[at : at + len(loop)])
        at += len(loop)
    points = np.concatenate(loops)
    lo, hi = points.min(0) - clearance, points.max(0) + clearance
    size = hi - lo
    cell = float(max(size)) / count
    nx, ny = (max(1, math.ceil(v / cell - 1e-9)) for v in size)
    cells = np.zeros(nx * ny, np.int32)
    lists, deep = np.empty(nx * ny * (len(edges) + 1), np.int32), np.empty(nx * ny * 3)
    used, deeps = _cells(edges, lo[0], lo[1], cell, nx, ny, clearance, cells, lists, deep)
    head = np.array([lo[0], lo[1], 1 / cell, nx, ny, 0, clearance, 0])
    return _Table(head, edges, cells, lists[:used].copy(), deep[: deeps * 3].copy())


class Fields:
    """The tables of a problem, built as shapes come into play, in four flat pools that the search kernel reads.

    Args:
        shapes: loops of each shape in its own frame, origin in its middle; holes clockwise.
        angles: degrees, every turn a piece may have.
        spacing: mm kept between pieces.
        clearances: shape index -> mm, for shapes that are obstacles (never turned); others take the spacing.
    """

    def __init__(self, shapes: list[list[Array]], angles: list[float], spacing: float, clearances: dict[int, float] | None = None):
        self.shapes, self.angles, self.spacing = shapes, angles, spacing
        self.clearances = clearances or {}
        rel: dict[float, int] = {}
        n = len(angles)
        self.relative = np.zeros((n, n), np.int32)
        for i, a in enumerate(angles):
            for j, b in enumerate(angles):
                self.relative[i, j] = rel.setdefault(round((b - a) % 360, 6) % 360, len(rel))
        self.turns = list(rel)
        self.k = len(rel)
        self.index = np.full((len(shapes), len(shapes), self.k), -1, np.int32)
        self._same = [_symmetry(s, self.turns) for s in shapes]
        self._boxes = [np.array([[*r.min(0), *r.max(0)] for r in s]) for s in shapes]
        self.head = np.zeros((0, HEAD))
        self.edges = np.zeros((0, EDGE), np.float32)
        self.cells = np.zeros(0, np.int32)
        self.lists = np.zeros(0, np.int32)
        self.deep = np.zeros(0, np.float32)

    def ensure(self, wanted: list[tuple[int, int, int]], stop=lambda: False) -> bool:
        """Build missing tables of (shape a <= shape b, relative turn); False if ``stop`` ended it early."""
        todo: dict[tuple[int, int, int], list[tuple[int, int, int]]] = {}
        for a, b, r in wanted:
            if self.index[a, b, r] < 0:
                todo.setdefault((a, b, self._same[b][r]), []).append((a, b, r))
        for key, same in list(todo.items()):
            if self.index[key] >= 0:
                for own in same:
                    self.index[own] = self.index[key]
                del todo[key]
        made: list[_Table] = []
        keys = list(todo)
        with ThreadPoolExecutor(2) as pool:
            for i in range(0, len(keys), 64):
                if stop():
                    keys = keys[:i]
                    break
                made += pool.map(self._make, keys[i : i + 64])
        base = len(self.head)
        at_e, at_c, at_l, at_d = len(self.edges), len(self.cells), len(self.lists), len(self.deep)
        for n, (key, t) in enumerate(zip(keys, made, strict=True)):
            t.head[5] = at_c
            up, down = t.cells > 0, t.cells < 0
            t.cells[up] += at_l  # offset + 1 of the list
            t.cells[down] -= at_d // 3
            # a list holds its count, then absolute edge numbers
            where = np.ones(len(t.lists), bool)
            where[t.cells[up] - at_l - 1] = False
            t.lists[where] += at_e
            at_e, at_c, at_l, at_d = at_e + len(t.edges), at_c + len(t.cells), at_l + len(t.lists), at_d + len(t.deep)
            for own in (*todo[key], key):
                self.index[own] = base + n
        if made:
            self.head = np.concatenate([self.head, np.array([t.head for t in made])])
            self.edges = np.concatenate([self.edges, *(t.edges.astype(np.float32) for t in made)])
            self.cells = np.concatenate([self.cells, *(t.cells for t in made)])
            self.lists = np.concatenate([self.lists, *(t.lists for t in made)])
            self.deep = np.concatenate([self.deep, *(t.deep.astype(np.float32) for t in made)])
        return len(keys) == len(todo)

    def _make(self, key: tuple[int, int, int]) -> _Table:
        a, b, r = key
        c, s = math.cos(math.radians(self.turns[r])), math.sin(math.radians(self.turns[r]))
        turn = np.array([[c, s], [-s, c]])
        la, lb = self.shapes[a], self.shapes[b]
        clearance = self.clearances.get(a, self.clearances.get(b, self.spacing))
        lb = [loop @ turn for loop in lb]
        size_a, size_b = np.ptp(la[0], axis=0), np.ptp(lb[0], axis=0)
        la = [la[0], *(h for h in la[1:] if (np.ptp(h, axis=0) > size_b + 2 * clearance).all())]
        lb = [lb[0], *(h for h in lb[1:] if (np.ptp(h, axis=0) > size_a + 2 * clearance).all())]
        return _table(la, lb, clearance, CELLS)

    def same(self, shape: int, turn: int) -> int:
        """The first turn (index) at which the shape is the same figure as at ``turn``."""
        return self._same[shape][int(self.relative[0, turn])]

    @property
    def bytes(self) -> int:
        """Memory of all tables."""
        return self.head.nbytes + self.edges.nbytes + self.cells.nbytes + self.lists.nbytes + self.deep.nbytes


def _symmetry(loops: list[Array], turns: list[float]) -> list[int]:
    """For each turn the first one that gives the same figure about the origin (a disc: all the first)."""
    out: list[int] = []
    points = np.concatenate(loops)
    size = float(np.abs(points).max())
    seen: list[tuple[int, Array]] = []
    for i, t in enumerate(turns):
        c, s = math.cos(math.radians(t)), math.sin(math.radians(t))
        turned = points @ np.array([[c, s], [-s, c]])
        for k, other in seen:
            gap = np.abs(turned[:, None, :] - other[None, :, :]).max(2).min(1).max() if len(points) <= 400 else math.inf
            if gap <= 2e-5 * size + 2e-3:
                out.append(k)
                break
        else:
            seen.append((i, turned))
            out.append(i)
    return out
