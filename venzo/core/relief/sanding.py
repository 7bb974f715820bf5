"""Finish by machine or by hand: how long ridges take to be sanded off."""

from __future__ import annotations

TENTH = 0.1
"""mm: the height of ridges that the house rule is said for."""
SEEN = 0.005
"""mm: ridges that are no higher are not felt; nobody sands for them."""


def sanding_minutes(cusp: float, area: float, minutes_dm2: float) -> float:
    """Minutes of sanding that ridges ``cusp`` mm high take over ``area`` mm2, by a house rule of minutes a
    dm2 for every tenth of a millimetre. That the time goes with what is to be taken off is common practice;
    how fast, every shop times for itself.

    >>> round(sanding_minutes(0.05, 40_000, 3.0), 6), sanding_minutes(0.003, 40_000, 3.0)
    (6.0, 0.0)
    """
    return minutes_dm2 * cusp / TENTH * area / 1e4 if cusp > SEEN else 0.0
