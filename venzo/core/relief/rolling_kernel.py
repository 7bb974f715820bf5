"""Compiled loops over ways that follow a surface. Lengths in mm."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def thin(s, z, off, keep):
    """Mark in ``keep`` the points of a way (``s`` along, ``z`` up) without which every other lies within
    ``off`` above or below the straight line between those kept: a fan from the last kept point that narrows.
    """
    n = len(s)
    keep[0] = True
    last = 0
    low, high = -np.inf, np.inf
    for k in range(1, n):
        d = s[k] - s[last]
        if d <= 1e-12:  # straight up or down
            keep[k - 1] = True
            keep[k] = True
            last = k
            low, high = -np.inf, np.inf
            continue
        slope = (z[k] - z[last]) / d
        if slope < low or slope > high:
            keep[k - 1] = True
            last = k - 1
            low, high = -np.inf, np.inf
            d = s[k] - s[last]
            if d <= 1e-12:
                keep[k] = True
                last = k
                continue
        low = max(low, (z[k] - off - z[last]) / d)
        high = min(high, (z[k] + off - z[last]) / d)
    keep[n - 1] = True
