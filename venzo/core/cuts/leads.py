"""Lateral entry and exit, from the waste onto the path and off again, never into the part or a neighbour."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from venzo.core.geometry.contour import Contour, Segment

SHORTEST = 0.5
"""mm; a shorter lead protects nothing."""


@dataclass(frozen=True)
class Lead:
    """Where on the path (distance along) it is entered, by which segments in and out, and how long the lead
    came out, mm.
    """

    s: float
    into: tuple[Segment, ...]
    out: tuple[Segment, ...]
    length: float


def lead_at(path: Contour, s: float, waste_left: bool, kind: str, length: float) -> Lead:
    """A lead at distance ``s``: a quarter arc of radius ``length`` that runs into the path's direction, or a
    straight at 45 degrees.

    ``waste_left``: the waste lies to the left of travel.
    """
    x, y, tx, ty = path.at(s)
    nx, ny = (-ty, tx) if waste_left else (ty, -tx)
    if kind == "straight":
        k = length / math.sqrt(2)
        a, b = (x + (nx - tx) * k, y + (ny - ty) * k), (x + (nx + tx) * k, y + (ny + ty) * k)
        return Lead(s, (Segment(*a, x, y, 0.0, length),), (Segment(x, y, *b, 0.0, length),), length)
    cx, cy = x + nx * length, y + ny * length
    bulge = math.tan(math.pi / 8) * (1 if waste_left else -1)
    a, b = (cx - tx * length, cy - ty * length), (cx + tx * length, cy + ty * length)
    quarter = length * math.pi / 2
    return Lead(s, (Segment(*a, x, y, bulge, quarter),), (Segment(x, y, *b, bulge, quarter),), length)


def fitting_lead(
    path: Contour,
    wanted: float,
    waste_left: bool,
    kind: str,
    length: float,
    starts: list[float],
    clear: Callable[[list[tuple[float, float]]], bool],
) -> Lead | None:
    """The longest lead up to ``length`` that is clear, at the wanted start or the nearest of other starts;
    None where there is no room.

    ``clear`` says whether the cutter's middle may be at all of some points.
    """
    size = length
    while size >= SHORTEST:
        for s in [wanted, *starts]:
            lead = lead_at(path, s, waste_left, kind, size)
            if clear(lead_points(lead)):
                return lead
        size /= 2
    return None


def lead_points(lead: Lead) -> list[tuple[float, float]]:
    """Points along a lead, close enough together to judge it."""
    out = []
    for s in (*lead.into, *lead.out):
        out += [s.at(t)[:2] for t in (0, 0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1)]
    return out
