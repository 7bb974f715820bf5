"""A spindle out of square: what ridges it leaves, and what ridges tell of it.

Exact geometry, derived: a flat cutter of diameter D tilted by t cuts along its rows the shadow of a tilted
disc. Tilted across the rows, the floor of a row is a straight line of slope tan t over the width s that the
next row leaves of it, so neighbours meet in a step of s tan t. Tilted along the travel, the front edge (a
half ellipse of height D/2 sin t) is what stays: between rows it is higher than in their middle by (D/2 -
sqrt(D^2/4 - s^2/4)) sin t.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from venzo.core.snags import BadInput

Side = Literal["left", "right", "front", "back"]


def step_across(tilt: float, spacing: float) -> float:
    """Height (mm) of the step between rows ``spacing`` mm apart, tilt across them in degrees.

    >>> round(step_across(0.1, 20), 4)
    0.0349
    """
    return spacing * math.tan(math.radians(abs(tilt)))


def dish_along(tilt: float, spacing: float, cutter: float) -> float:
    """Height (mm) of the ridge between rows, tilt along the travel in degrees.

    >>> round(dish_along(0.1, 20, 50), 5)
    0.00364
    """
    r = cutter / 2
    return (r - math.sqrt(max(0.0, r * r - spacing * spacing / 4))) * math.sin(math.radians(abs(tilt)))


def ridge(across: float, along: float, spacing: float, cutter: float) -> float:
    """Ridge to expect, mm, from both tilts (degrees): they add at the worst place."""
    return step_across(across, spacing) + dish_along(along, spacing, cutter)


@dataclass(frozen=True)
class Tram:
    """What a ridge tells. ``tilt``: degrees; ``per_100``: mm out of square over 100 mm; ``shim``: mm at one
    pair of the mount's screws; ``says``: which way.
    """

    tilt: float
    per_100: float
    shim: float
    says: str


_FACING: dict[str, tuple[str, str]] = {
    "left": ("left", "right"),
    "right": ("right", "left"),
    "front": ("front", "back"),
    "back": ("back", "front"),
}


def find_tram(
    height: float, spacing: float, high: Side, along: Literal["x", "y"], span: float = 100.0
) -> Tram:
    """The spindle's tilt across the rows from the step between them.

    Args:
        height: of the step, mm, felt with a feeler or a dial gauge.
        spacing: of the rows, mm.
        high: the side of every row on which it is higher, as seen from where the operator stands.
        along: direction of the rows.
        span: between the upper and lower screws of the spindle's mount, mm.

    Raises:
        BadInput: the high side lies along the rows, where a step says nothing; or measures that cannot be.

    >>> find_tram(0.05, 20, "back", "x").per_100
    0.25
    """
    if not 0 <= height < spacing <= 500:
        raise BadInput(
            f"a ridge of {height:g} mm at rows {spacing:g} mm apart: give a ridge less than the spacing, and"
            " a spacing up to 500 mm"
        )
    if (along == "x") != (high in ("front", "back")):
        raise BadInput(
            f"rows along {along} show tilt to the {'front or back' if along == 'x' else 'left or right'}; run"
            f" rows along {'y' if along == 'x' else 'x'} to see the other"
        )
    tilt = math.degrees(math.atan2(height, spacing))
    top = _FACING[high][1]
    shim = span * height / spacing
    if height == 0:
        return Tram(0.0, 0.0, 0.0, "no step: the spindle is square across these rows")
    return Tram(
        tilt,
        100 * height / spacing,
        shim,
        f"the cutter runs high at its {high} edge: the spindle's top leans to the {top}. Bring its top"
        f" {shim:.2f} mm to the {high} over the {span:g} mm between its screws, or its lower end as much to"
        f" the {top}; then surface a strip again and feel",
    )
