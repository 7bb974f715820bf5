"""Where may the one piece's origin not lie, seen from the other's? No-fit polygons, exact.

The no-fit polygon of A and B is the Minkowski sum A + (-B): B's origin strictly inside it (A's origin at
zero) means that the two overlap, on its boundary that they touch. It is traced as the full convolution of the
two outlines, whose winding number at a point is the number of pieces in which A and B meet there (Guibas,
Ramshaw and Stolfi 1983, from memory); the positive part of it is the no-fit polygon, holes and all.
"""

from __future__ import annotations

from itertools import pairwise

import numba
import numpy as np

from venzo.core.geometry.clip import union
from venzo.core.geometry.contour import Array


@numba.njit(cache=True, nogil=True)
def convolution(a, b):  # pragma: no cover - compiled
    """Signed edges of the convolution of two closed loops.

    Args:
        a, b: vertices ``(n, 2)``; counter-clockwise for material, clockwise for a hole.

    Returns:
        start and end nodes of each edge; node i * len(b) + j stands for a[i] + b[j].
    """
    n, m = len(a), len(b)
    tail = np.empty(2 * n * m + 4, np.int64)
    head = np.empty(2 * n * m + 4, np.int64)
    k = 0
    for i in range(n):
        h, o = (i - 1) % n, (i + 1) % n
        px, py = a[i, 0] - a[h, 0], a[i, 1] - a[h, 1]
        qx, qy = a[o, 0] - a[i, 0], a[o, 1] - a[i, 1]
        turn = px * qy - py * qx
        if turn == 0.0:
            continue
        for j in range(m):
            w = (j + 1) % m
            vx, vy = b[w, 0] - b[j, 0], b[w, 1] - b[j, 1]
            # of parallel edges, a's come first: both loops then agree on which is turned past which
            if turn > 0:
                if px * vy - py * vx >= 0 and vx * qy - vy * qx > 0:
                    tail[k], head[k] = i * m + j, i * m + w
                    k += 1
            elif qx * vy - qy * vx >= 0 and vx * py - vy * px > 0:
                tail[k], head[k] = i * m + w, i * m + j
                k += 1
    for j in range(m):
        h, o = (j - 1) % m, (j + 1) % m
        px, py = b[j, 0] - b[h, 0], b[j, 1] - b[h, 1]
        qx, qy = b[o, 0] - b[j, 0], b[o, 1] - b[j, 1]
        turn = px * qy - py * qx
        if turn == 0.0:
            continue
        for i in range(n):
            w = (i + 1) % n
            ux, uy = a[w, 0] - a[i, 0], a[w, 1] - a[i, 1]
            if turn > 0:
                if px * uy - py * ux > 0 and ux * qy - uy * qx >= 0:
                    tail[k], head[k] = i * m + j, w * m + j
                    k += 1
            elif qx * uy - qy * ux > 0 and ux * py - uy * px >= 0:
                tail[k], head[k] = w * m + j, i * m + j
                k += 1
    return tail[:k], head[:k]


@numba.njit(cache=True, nogil=True)
def walks(tail, head, nodes):  # pragma: no cover - compiled
    """Closed walks that use every edge once (as many arrive at a node as leave it): node order and where each
    walk starts.
    """
    k = len(tail)
    first = np.full(nodes, -1, np.int64)
    after = np.empty(k, np.int64)
    for e in range(k):
        after[e] = first[tail[e]]
        first[tail[e]] = e
    order = np.empty(k, np.int64)
    starts = np.empty(k + 1, np.int64)
    done = count = 0
    for e in range(k):
        node = tail[e]
        if first[node] < 0:
            continue
        starts[count] = done
        count += 1
        while first[node] >= 0:
            edge = first[node]
            first[node] = after[edge]
            order[done] = node
            done += 1
            node = head[edge]
    starts[count] = done
    return order[:done], starts[: count + 1]


def no_fit(a: list[Array], b: list[Array], convex: bool = False) -> list[Array]:
    """Boundary loops of A + (-B), material on the left of each.

    Args:
        a, b: loops of the two pieces, outline counter-clockwise first, holes clockwise. Of holes give only
        those that the other
            piece's box fits into: a piece around a whole hole would hide it.
        convex: both are known to be convex and without holes; their convolution is the polygon itself.

    >>> square = np.array([[0, 0], [2, 0], [2, 1], [0, 1.0]])
    >>> loop, = no_fit([square], [square])
    >>> loop.min(0).tolist(), loop.max(0).tolist()
    ([-2.0, -1.0], [2.0, 1.0])
    """
    paths = []
    for la in a:
        for lb in b:
            opposite = -lb
            tail, head = convolution(la, opposite)
            order, starts = walks(tail, head, len(la) * len(lb))
            points = la[order // len(lb)] + opposite[order % len(lb)]
            paths += [points[i:j] for i, j in pairwise(starts)]
    if convex and len(paths) == 1:
        return paths
    return union(paths, "positive")
