"""Hot loops of the medial axis."""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def prune(xy, r, first, other, edge, a, b, tolerance):  # pragma: no cover - compiled
    """Cut leaves whose discs lie within ``tolerance`` of a disc that stays. Returns (edges kept, nodes gone).

    ``first``, ``other``, ``edge``: neighbours of every node (compressed rows); ``a``, ``b``: ends of every
    edge. The overhang of everything cut is summed along the way, so the bound holds however long the branch
    was.
    """
    n, m = len(r), len(a)
    keep = np.ones(m, dtype=np.bool_)
    gone = np.zeros(n, dtype=np.bool_)
    over = np.zeros(n)
    degree = first[1:] - first[:-1]
    degree = degree.copy()
    queue = np.empty(n + m, dtype=np.int64)
    size = 0
    for v in range(n):
        if degree[v] == 1:
            queue[size] = v
            size += 1
    at = 0
    while at < size:
        v = queue[at]
        at += 1
        if degree[v] != 1 or gone[v]:
            continue
        p, e = -1, -1
        for k in range(first[v], first[v + 1]):
            if keep[edge[k]]:
                p, e = other[k], edge[k]
                break
        if p < 0:
            continue
        cost = over[v] + math.hypot(xy[v, 0] - xy[p, 0], xy[v, 1] - xy[p, 1]) + r[v] - r[p]
        if cost > tolerance:
            continue
        keep[e] = False
        gone[v] = True
        over[p] = max(over[p], cost)
        degree[v] = 0
        degree[p] -= 1
        if degree[p] == 1 and size < len(queue):
            queue[size] = p
            size += 1
    return keep, gone


@njit(cache=True, nogil=True)
def thin(p, tolerance):  # pragma: no cover - compiled
    """Which of the points (x, y, third) stand for the run within ``tolerance``, distances in plan and in the
    third added (after Douglas and Peucker, 1973).
    """
    n = len(p)
    keep = np.zeros(n, dtype=np.bool_)
    keep[0] = keep[n - 1] = True
    stack = [(0, n - 1)]
    while len(stack):
        i, j = stack.pop()
        if j - i < 2:
            continue
        dx, dy, dz = p[j, 0] - p[i, 0], p[j, 1] - p[i, 1], p[j, 2] - p[i, 2]
        long = dx * dx + dy * dy
        worst, at = -1.0, -1
        for k in range(i + 1, j):
            ex, ey, ez = p[k, 0] - p[i, 0], p[k, 1] - p[i, 1], p[k, 2] - p[i, 2]
            t = (ex * dx + ey * dy) / long if long > 0 else 0.0
            t = min(1.0, max(0.0, t))
            d = math.hypot(ex - t * dx, ey - t * dy) + abs(ez - t * dz)
            if d > worst:
                worst, at = d, k
        if worst > tolerance:
            keep[at] = True
            stack.append((i, at))
            stack.append((at, j))
    return keep


def warm() -> None:
    """Compile both."""
    one, rows = np.array([0.0, 1.0]), np.zeros((2, 2))
    none = np.array([0, 1], dtype=np.int64)
    prune(rows, one, np.array([0, 1, 2]), none, np.zeros(2, dtype=np.int64), none[:1], none[1:], 1.0)
    thin(np.zeros((3, 3)), 0.1)
