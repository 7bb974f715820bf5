"""The compiled walk of one way along another. Points in mm."""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def nearest_ahead(points, along, to, about, window, least):
    """The place of a way (n, 3) nearest to a point, between ``about`` - and + ``window`` mm along it and not
    before ``least``: how far along, and x, y, z.
    """
    low, high = max(least, about - window), min(along[-1], about + window)
    i = max(0, np.searchsorted(along, low, side="right") - 1)
    j = min(len(along) - 1, np.searchsorted(along, high, side="left"))
    best, where = math.inf, low
    start = min(i, len(points) - 1)
    x, y, z = points[start, 0], points[start, 1], points[start, 2]
    for k in range(i, max(j, i + 1)):
        if k + 1 >= len(points):
            break
        dx = points[k + 1, 0] - points[k, 0]
        dy = points[k + 1, 1] - points[k, 1]
        dz = points[k + 1, 2] - points[k, 2]
        size = along[k + 1] - along[k]
        t = 0.0
        if size > 0:
            t = ((to[0] - points[k, 0]) * dx + (to[1] - points[k, 1]) * dy + (to[2] - points[k, 2]) * dz) / (
                size * size
            )
            t = min(max(t, max(0.0, (low - along[k]) / size)), min(1.0, (high - along[k]) / size))
        qx, qy, qz = points[k, 0] + dx * t, points[k, 1] + dy * t, points[k, 2] + dz * t
        away = math.sqrt((qx - to[0]) ** 2 + (qy - to[1]) ** 2 + (qz - to[2]) ** 2)
        if away < best - 1e-12:
            best, where, x, y, z = away, along[k] + t * size, qx, qy, qz
    return where, x, y, z


@njit(cache=True, nogil=True)
def follow(points, along, way, reached, seek, budget, at, place):
    """Seek every corner of ``way`` (reached at ``reached`` mm along it) on another way, each a little further
    along than the one before. Fills ``at`` with how far along each was found; returns the first that is more
    than ``budget`` away, with the nearest place in ``place``, or -1.
    """
    for i in range(1, len(way)):
        step = reached[i] - reached[i - 1]
        s, x, y, z = nearest_ahead(points, along, way[i], at[i - 1] + step, seek + 0.02 * step, at[i - 1])
        away = math.sqrt((x - way[i, 0]) ** 2 + (y - way[i, 1]) ** 2 + (z - way[i, 2]) ** 2)
        if away > budget:
            place[0], place[1], place[2] = x, y, z
            return i
        at[i] = s
    return -1


def warm() -> None:
    """Compile the walk by a way of two corners."""
    way = np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]])
    follow(way, way[:, 0].copy(), way, way[:, 0].copy(), 0.1, 0.02, np.zeros(2), np.zeros(3))
