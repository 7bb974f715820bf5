"""How deep do two pieces overlap? Tables of signed distance to no-fit polygons, one per pair of shapes and
relative turn.

The box of a no-fit polygon is divided into cells. A cell far outside it holds nothing, a cell deep inside it
holds the distance to its boundary at the cell's centre with its slope, a cell near the boundary lists the
edges among which the nearest one is: there the distance is exact. Spacing is added to the distance, so gaps
are Euclidean (the offset by a disc is never drawn). Overlap depth as the measure that a search drives to
zero: Egeblad, Nielsen and Odgaard 2007; Umetani and Murakami 2022 (rasters of no-fit polygons); both from
memory.
"""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

from venzo.core.geometry.contour import Array
from venzo.core.nesting.nofit import no_fit

CELLS, FEWER = 48, 32
"""Cells along the longer side of a no-fit polygon's box; fewer where many tables are needed."""
MANY = 1500
BATCH = 256
"""Tables built between two looks at the stop."""
EDGE = 8
"""Numbers kept per edge: start x, y, direction x, y, length, side at the start and at the end when that
vertex is nearest, unused.
"""
NEAR_END = 1e-3
"""mm beyond an edge's end within which a point still belongs to the edge: rounding must not turn the side at
a corner that is hardly one.
"""
BLOCK = 8
"""Cells along a side of the blocks that share a choice of edges."""
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


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _reach(edge, x, y):  # pragma: no cover - compiled
    """From the nearest point of an edge to (x, y): dx, dy, on which side it lies (1 inside, -1 outside), and
    whether it is the edge's own side that says so.
    """
    px, py = x - edge[0], y - edge[1]
    t = px * edge[2] + py * edge[3]
    if t < -NEAR_END:
        return px, py, edge[5], False
    if t > edge[4] + NEAR_END:
        return px - edge[4] * edge[2], py - edge[4] * edge[3], edge[6], False
    c = edge[2] * py - edge[3] * px
    return -edge[3] * c, edge[2] * c, 1.0 if c > 0 else -1.0, True


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _cells(edges, x0, y0, cell, nx, ny, clearance, cells, lists, deep):  # pragma: no cover - compiled
    """Fill the cells; numbers used of ``lists`` and ``deep``. Offsets in the cells start at 1 (lists) and -1
    (deep).

    By blocks: edges too far from a block's middle to be the nearest of any cell in it are left out at once.
    """
    m = len(edges)
    used = deeps = 0
    half = cell * 0.7072
    dist, near = np.empty(m), np.empty(m, np.int64)
    for bx0 in range(0, nx, BLOCK):
        for by0 in range(0, ny, BLOCK):
            bx1, by1 = min(nx, bx0 + BLOCK), min(ny, by0 + BLOCK)
            x, y = x0 + (bx0 + bx1) / 2 * cell, y0 + (by0 + by1) / 2 * cell
            wide = math.hypot(bx1 - bx0 - 1.0, by1 - by0 - 1.0) / 2 * cell
            best = 1e300
            for e in range(m):
                qx, qy, _s, _own = _reach(edges[e], x, y)
                dist[e] = math.sqrt(qx * qx + qy * qy)
                best = min(best, dist[e])
            count = 0
            for e in range(m):
                if dist[e] <= best + 2.0 * (wide + half) + 1e-6:
                    near[count] = e
                    count += 1
            for ix in range(bx0, bx1):
                for iy in range(by0, by1):
                    x, y = x0 + (ix + 0.5) * cell, y0 + (iy + 0.5) * cell
                    best, side, bx, by = 1e300, -1.0, 0.0, 0.0
                    for k in range(count):
                        qx, qy, s, own = _reach(edges[near[k]], x, y)
                        d = math.sqrt(qx * qx + qy * qy)
                        dist[k] = d
                        if d < best - 1e-9 or (d < best + 1e-9 and s > side and own):
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
                    for k in range(count):
                        if dist[k] <= best + 2.0 * half:
                            lists[used] = near[k]
                            used += 1
                    lists[start] = used - start - 1
    return used, deeps


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _corners(loop):  # pragma: no cover - compiled
    """The loop without points on a straight line; also whether it turns left everywhere."""
    n = len(loop)
    keep = np.ones(n, np.bool_)
    convex = True
    count = 0
    for i in range(n):
        h, j = (i - 1) % n, (i + 1) % n
        ax, ay, bx, by = (
            loop[i, 0] - loop[h, 0],
            loop[i, 1] - loop[h, 1],
            loop[j, 0] - loop[i, 0],
            loop[j, 1] - loop[i, 1],
        )
        turn = ax * by - ay * bx
        keep[i] = abs(turn) > 1e-6 * math.sqrt((ax * ax + ay * ay) * (bx * bx + by * by))
        count += keep[i]
        convex = convex and turn >= 0.0
    return (loop[keep] if count > 2 else loop), convex


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _batch(
    points, loop_at, table_at, clearance, count, heads, edges, cells, lists, deep, sizes
):  # pragma: no cover - compiled
    """Tables of a batch: heads, edge rows, cells (``count * count`` set aside for each), lists and deep
    values; numbers used of both in ``sizes``.
    """
    used = deeps = 0
    for t in range(len(table_at) - 1):
        e0 = loop_at[table_at[t]]
        e1 = loop_at[table_at[t + 1]]
        x0 = y0 = 1e300
        x1 = y1 = -1e300
        for i in range(e0, e1):
            x0, y0, x1, y1 = (
                min(x0, points[i, 0]),
                min(y0, points[i, 1]),
                max(x1, points[i, 0]),
                max(y1, points[i, 1]),
            )
        for k in range(table_at[t], table_at[t + 1]):
            _edge_rows(points[loop_at[k] : loop_at[k + 1]], edges[loop_at[k] : loop_at[k + 1]])
        c = clearance[t]
        x0, y0, x1, y1 = x0 - c, y0 - c, x1 + c, y1 + c
        cell = max(x1 - x0, y1 - y0) / count
        nx, ny = max(1, math.ceil((x1 - x0) / cell - 1e-9)), max(1, math.ceil((y1 - y0) / cell - 1e-9))
        a, b = _cells(
            edges[e0:e1], x0, y0, cell, nx, ny, c, cells[t * count * count :], lists[used:], deep[3 * deeps :]
        )
        heads[t, 0], heads[t, 1], heads[t, 2], heads[t, 3], heads[t, 4], heads[t, 6] = (
            x0,
            y0,
            1.0 / cell,
            nx,
            ny,
            c,
        )
        sizes[t, 0], sizes[t, 1] = a, b
        used += a
        deeps += b
    return used, deeps


class Fields:
    """The tables of a problem, built as shapes come into play, in four flat pools that the search kernel
    reads.

    Args:
        shapes: loops of each shape in its own frame, origin in its middle; holes clockwise.
        angles: degrees, every turn a piece may have.
        spacing: mm kept between pieces.
        clearances: shape index -> mm, for shapes that are obstacles (never turned); others take the spacing.
    """

    def __init__(
        self,
        shapes: list[list[Array]],
        angles: list[float],
        spacing: float,
        clearances: dict[int, float] | None = None,
    ):
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
        self._same = [_symmetry(s, self.turns) for s in shapes]
        self._boxes = [np.array([[*r.min(0), *r.max(0)] for r in s]) for s in shapes]
        self._convex = [len(s) == 1 and bool(_corners(s[0])[1]) for s in shapes]
        self.forget()

    def forget(self) -> None:
        """Give up all tables. Who holds the old ones, index included, can go on with them."""
        self.index = np.full((len(self.shapes), len(self.shapes), self.k), -1, np.int32)
        self.head = np.zeros((0, HEAD))
        self.edges = np.zeros((0, EDGE), np.float32)
        self.cells = np.zeros(0, np.int32)
        self.lists = np.zeros(0, np.int32)
        self.deep = np.zeros(0, np.float32)
        self._new: list[list[Any]] = [[], [], [], [], []]
        self._at, self._count = [0, 0, 0, 0], 0

    def missing(self, wanted: list[tuple[int, int, int]]) -> set[tuple[int, int, int]]:
        """The tables among those wanted that would have to be built (each figure once)."""
        return {
            (a, b, self._same[b][r])
            for a, b, r in wanted
            if self.index[a, b, r] < 0 and self.index[a, b, self._same[b][r]] < 0
        }

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
        keys = list(todo)
        count = CELLS if len(keys) + len(self.head) <= MANY else FEWER
        done = 0
        with ThreadPoolExecutor(2) as pool:
            waiting: Any = None
            for i in range(0, len(keys), BATCH):
                if stop():
                    break
                part = keys[i : i + BATCH]
                # one thread traces the next polygons while the other fills the cells of the last ones
                batch = [self._loops(key) for key in part]
                if waiting is not None:
                    self._add(*waiting.result())
                waiting = pool.submit(
                    _tables, part, batch, [self._clearance(a, b) for a, b, _r in part], count
                )
                done += len(part)
            if waiting is not None:
                self._add(*waiting.result())
        self._gather()
        for key in keys[:done]:
            for own in todo[key]:
                self.index[own] = self.index[key]
        return done == len(keys)

    def _clearance(self, a: int, b: int) -> float:
        return self.clearances.get(a, self.clearances.get(b, self.spacing))

    def _loops(self, key: tuple[int, int, int]) -> list[Array]:
        """The no-fit polygon of a table."""
        a, b, r = key
        c, s = math.cos(math.radians(self.turns[r])), math.sin(math.radians(self.turns[r]))
        la, lb = self.shapes[a], [loop @ np.array([[c, s], [-s, c]]) for loop in self.shapes[b]]
        if len(la) > 1 or len(lb) > 1:
            clearance = self._clearance(a, b)
            size_a, size_b = np.ptp(la[0], axis=0), np.ptp(lb[0], axis=0)
            la = [la[0], *(h for h in la[1:] if (np.ptp(h, axis=0) > size_b + 2 * clearance).all())]
            lb = [lb[0], *(h for h in lb[1:] if (np.ptp(h, axis=0) > size_a + 2 * clearance).all())]
        return [_corners(loop)[0] for loop in no_fit(la, lb, self._convex[a] and self._convex[b])]

    def _add(
        self,
        keys: list[tuple[int, int, int]],
        heads: Array,
        edges: Array,
        cells: NDArray[np.int32],
        lists: NDArray[np.int32],
        deep: Array,
    ) -> None:
        """Take a finished batch in; its offsets become those of the pools."""
        base, (at_e, at_c, at_l, at_d) = self._count, self._at
        heads[:, 5] += at_c
        up, down = cells > 0, cells < 0
        # a list holds its count, then edge numbers
        where = np.ones(len(lists), bool)
        where[cells[up] - 1] = False
        lists[where] += at_e
        cells[up] += at_l
        cells[down] -= at_d // 3
        for pool, new in zip(self._new, (heads, edges, cells, lists, deep), strict=True):
            pool.append(new)
        self._at = [at_e + len(edges), at_c + len(cells), at_l + len(lists), at_d + len(deep)]
        for n, key in enumerate(keys):
            self.index[key] = base + n
        self._count += len(keys)

    def _gather(self) -> None:
        if self._new[0]:
            self.head, self.edges, self.cells, self.lists, self.deep = (
                np.concatenate([old, *new])
                for old, new in zip(
                    (self.head, self.edges, self.cells, self.lists, self.deep), self._new, strict=True
                )
            )
            self._new = [[], [], [], [], []]

    def same(self, shape: int, turn: int) -> int:
        """The first turn (index) at which the shape is the same figure as at ``turn``."""
        return self._same[shape][int(self.relative[0, turn])]

    @property
    def bytes(self) -> int:
        """Memory of all tables."""
        return self.head.nbytes + self.edges.nbytes + self.cells.nbytes + self.lists.nbytes + self.deep.nbytes


def _tables(
    keys: list[tuple[int, int, int]], loops: list[list[Array]], clearances: list[float], count: int
) -> tuple[Any, ...]:
    """A batch of tables from their no-fit polygons; list and deep offsets of each count on within the
    batch.
    """
    flat = [loop for own in loops for loop in own]
    loop_at = np.concatenate([[0], np.cumsum([len(v) for v in flat])]).astype(np.int64)
    table_at = np.concatenate([[0], np.cumsum([len(own) for own in loops])]).astype(np.int64)
    points = np.concatenate(flat)
    n, area = len(keys), count * count
    most = np.diff(loop_at[table_at])
    heads, edges, sizes = np.zeros((n, HEAD)), np.zeros((len(points), EDGE)), np.zeros((n, 2), np.int64)
    cells, lists, deep = (
        np.zeros(n * area, np.int32),
        np.empty(int(area * (most + 1).sum()), np.int32),
        np.empty(3 * n * area),
    )
    used, deeps = _batch(
        points, loop_at, table_at, np.array(clearances), count, heads, edges, cells, lists, deep, sizes
    )
    out_cells = []
    at, at_l, at_d = 0, 0, 0
    for t in range(n):
        own = cells[t * area : t * area + int(heads[t, 3] * heads[t, 4])]
        own[own > 0] += at_l
        own[own < 0] -= at_d
        lists_of = lists[at_l : at_l + sizes[t, 0]]
        first = np.ones(len(lists_of), bool)
        first[own[own > 0] - at_l - 1] = False
        lists_of[first] += loop_at[table_at[t]]
        heads[t, 5] = at
        at, at_l, at_d = at + len(own), at_l + int(sizes[t, 0]), at_d + int(sizes[t, 1])
        out_cells.append(own)
    return (
        keys,
        heads,
        edges.astype(np.float32),
        np.concatenate(out_cells),
        lists[:used].copy(),
        deep[: 3 * deeps].astype(np.float32),
    )


def _symmetry(loops: list[Array], turns: list[float]) -> list[int]:
    """For each turn the first one that gives the same figure about the origin (a disc: nearly all the
    first).
    """
    fold = _fold(loops)
    first: dict[float, int] = {}
    return [
        first.setdefault(round(round(t % (360 / fold), 5) % (360 / fold), 4), i) for i, t in enumerate(turns)
    ]


def _fold(loops: list[Array]) -> int:
    """Into how many turns the figure comes upon itself in going round once; it divides the corners of the
    outline.

    >>> _fold([np.array([[1, 0], [0, 1], [-1, 0], [0, -1.0]])]), _fold([np.array([[0, 0], [2, 0], [0, 1.0]])])
    (4, 1)
    """
    n = len(loops[0])
    points = np.concatenate(loops)
    size = float(np.abs(points).max())
    for fold in (d for d in range(n, 1, -1) if n % d == 0):
        a = 2 * math.pi / fold
        turned = points @ np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
        if (
            np.abs(np.concatenate([turned.min(0) - points.min(0), turned.max(0) - points.max(0)])).max()
            > 2e-5 * size + 2e-3
        ):
            continue
        if (
            len(points) <= 1000
            and np.abs(turned[:, None, :] - points[None, :, :]).max(2).min(1).max() <= 2e-5 * size + 2e-3
        ):
            return fold
    return 1
