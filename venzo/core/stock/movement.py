"""How much does stock grow and shrink: sheets with heat, boards with moisture."""

from __future__ import annotations

from typing import Literal

Grain = Literal["across flat-sawn", "across quarter-sawn"]

EXPANSION: dict[str, float] = {
    "acrylic": 70e-6,
    "polycarbonate": 65e-6,
    "HDPE": 160e-6,
    "aluminium": 23e-6,
    "steel": 12e-6,
}
"""Linear expansion per kelvin (supplier data sheets, from memory; HDPE 120 to 200e-6 by grade)."""

SHRINKAGE: dict[str, tuple[float, float]] = {
    "northern red oak": (0.00158, 0.00369),
    "white oak": (0.00180, 0.00365),
    "black cherry": (0.00126, 0.00248),
    "black walnut": (0.00190, 0.00274),
    "sugar maple": (0.00165, 0.00353),
    "yellow-poplar": (0.00158, 0.00289),
    "eastern white pine": (0.00071, 0.00212),
}
"""Dimensional-change coefficients, share of the width a percent of moisture, radial and tangential, from 6 to
14 % moisture (Wood Handbook FPL-GTR-282, dimensional change table, from memory).
"""


def heat_growth(length: float, warmer: float, expansion: float) -> float:
    """mm by which a length grows: L a dT.

    >>> round(heat_growth(2440, 15, EXPANSION["acrylic"]), 3)
    2.562
    """
    return length * expansion * warmer


def seasonal_movement(width: float, percent: float, coefficient: float) -> float:
    """mm by which a board's width moves for a change of moisture in percentage points: W C (M2 - M1) (Wood
    Handbook, from memory); negative: it shrinks.

    >>> round(seasonal_movement(300, -4, SHRINKAGE["northern red oak"][1]), 3)
    -4.428
    """
    return width * percent * coefficient


def shrinkage(species: str, grain: Grain) -> float:
    """The coefficient of a species across flat-sawn (tangential) or quarter-sawn (radial) boards."""
    radial, tangential = SHRINKAGE[species]
    return tangential if grain == "across flat-sawn" else radial
