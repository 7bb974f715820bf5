"""How much stock is it? Board feet, mass, and the thickness that a gauge number stands for."""

from __future__ import annotations

from typing import Literal

from venzo.core.snags import BadInput

BOARD_FOOT = 144 * 25.4**3
"""mm3; a board foot is 144 cubic inches (exact)."""
Gauged = Literal["steel sheet", "aluminium sheet"]
STEEL_GAUGE: dict[int, float] = dict(
    zip(
        range(7, 31),
        (
            *(0.1793, 0.1644, 0.1495, 0.1345, 0.1196, 0.1046, 0.0897, 0.0747),
            *(0.0673, 0.0598, 0.0538, 0.0478, 0.0418, 0.0359, 0.0329, 0.0299),
            *(0.0269, 0.0239, 0.0209, 0.0179, 0.0164, 0.0149, 0.0135, 0.0120),
        ),
        strict=True,
    )
)
"""Manufacturers' Standard Gauge for sheet steel, in (Machinery's Handbook, from memory)."""


def board_feet(length: float, width: float, thickness: float, count: float = 1) -> float:
    """Board feet of boards of these measures, mm.

    >>> round(board_feet(12 * 25.4, 12 * 25.4, 25.4), 9)
    1.0
    """
    return length * width * thickness * count / BOARD_FOOT


def mass(length: float, width: float, thickness: float, density: float, count: float = 1) -> float:
    """kg of sheets of these measures (mm) and this density (kg/m3)."""
    return length * width * thickness * 1e-9 * density * count


def gauge_thickness(gauge: float, of: Gauged) -> float:
    """Thickness, mm, of a gauge number.

    Steel by the Manufacturers' Standard Gauge table; aluminium by the law of the Brown & Sharpe gauge, 0.005
    in x 92^((36 - n) / 39) (ASTM B258, from memory).

    Raises:
        BadInput: a number that is no gauge of it.

    >>> gauge_thickness(16, "steel sheet") / 25.4, round(gauge_thickness(16, "aluminium sheet") / 25.4, 4)
    (0.0598, 0.0508)
    """
    n = round(gauge)
    if abs(gauge - n) > 1e-9 or n not in STEEL_GAUGE:
        raise BadInput(f"there is no gauge {gauge:g}: give a whole number from 7 to 30")
    return 25.4 * (STEEL_GAUGE[n] if of == "steel sheet" else 0.005 * 92 ** ((36 - n) / 39))


def nearest_gauge(thickness: float, of: Gauged) -> int:
    """The gauge number whose thickness is nearest to one that was measured, mm.

    >>> nearest_gauge(1.5, "steel sheet"), nearest_gauge(1.0, "aluminium sheet")
    (16, 18)
    """
    return min(STEEL_GAUGE, key=lambda n: abs(gauge_thickness(n, of) - thickness))
