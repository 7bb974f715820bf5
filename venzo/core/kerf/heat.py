"""How much heat is still about where the next cut begins?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Array

REACH = 40.0
"""mm over which a cut warms its neighbourhood."""
LASTS = 60.0
"""s after which it has cooled to 1/e."""


@dataclass(frozen=True)
class Heat:
    """Warmth at the beginnings of cuts, in seconds of arc: the most that one finds, and the mean."""

    most: float
    mean: float


def warmth(places: Array, seconds: Array, times: Array) -> Array:
    """What each cut finds of the warmth of those before it, in seconds of arc.

    H_j = sum over earlier i of q_i exp(-d_ij^2 / 2 r^2) exp(-(t_j - t_i) / T), with q_i the seconds for which
    cut i had the head on, d_ij the distance between the two cuts' middles, t their times, r = REACH and T =
    LASTS: the two-dimensional spread and the decay of a heat source in a sheet, with constants of our own
    (common practice says only *spread them*).

    Args:
        places: (n, 2) mm, in running order.
        seconds: (n) with the head on.
        times: (n) s at which each begins.

    >>> places, seconds = np.array([[0.0, 0], [0, 0], [500, 0]]), np.array([10.0, 10, 10])
    >>> warmth(places, seconds, np.zeros(3)).round(9).tolist()
    [0.0, 10.0, 0.0]
    """
    out = np.zeros(len(places))
    for j in range(1, len(places)):
        d2 = ((places[:j] - places[j]) ** 2).sum(axis=1)
        out[j] = (seconds[:j] * np.exp(-d2 / (2 * REACH**2) - (times[j] - times[:j]) / LASTS)).sum()
    return out


def heat_of(places: Array, seconds: Array, times: Array) -> Heat:
    """The most and the mean of ``warmth``."""
    if not len(places):
        return Heat(0.0, 0.0)
    h = warmth(places, seconds, times)
    return Heat(float(h.max()), float(h.mean()))


def spread(
    places: Array,
    ends: Array,
    seconds: Array,
    after: list[frozenset[int]],
    block: list[int],
    speed: float,
    worth: float = 1.0,
) -> list[int]:
    """An order that goes where it is cool: of the cuts that may come next, in the earliest block, the one of
    least warmth and way together.

    Args:
        places: (n, 2) where each begins, mm; ``ends``: where it ends.
        seconds: with the head on, of each.
        after: what comes before each.
        block: earlier blocks first.
        speed: mm/s of the ways between.
        worth: seconds of way that a second of arc's warmth is worth.
    """
    n = len(places)
    waits = np.array([len(a) for a in after])
    followers: list[list[int]] = [[] for _ in range(n)]
    for i, before in enumerate(after):
        for a in before:
            followers[a].append(i)
    rank = np.array(block)
    left = np.ones(n, dtype=bool)
    felt = np.zeros(n)
    at, out = np.zeros(2), []
    for _ in range(n):
        may = np.flatnonzero(left & (waits == 0))
        may = may[rank[may] == rank[may].min()]
        way = np.hypot(*(places[may] - at).T) / speed
        k = int(may[np.argmin(way + worth * felt[may])])
        took = seconds[k] + float(np.hypot(*(places[k] - at))) / speed
        felt *= np.exp(-took / LASTS)
        d2 = ((places - places[k]) ** 2).sum(axis=1)
        felt += seconds[k] * np.exp(-d2 / (2 * REACH**2))
        left[k] = False
        for f in followers[k]:
            waits[f] -= 1
        at = ends[k]
        out.append(k)
    return out
