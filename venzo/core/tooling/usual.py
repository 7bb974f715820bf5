"""Cutters that most router shops own, in nominal sizes: a rack to begin with, each to be measured and
renumbered.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from venzo.core.model import Family
from venzo.core.tooling.cutter import Cutter, Kind
from venzo.core.units import as_fraction

NOMINAL = "nominal size: measure it, and give it the number it has in your rack"
_FOR_WOOD: tuple[tuple[Kind, float, float, int, float], ...] = (
    # kind, diameter mm, diameter in, flutes, cutting lengths a diameter; sizes are common practice
    ("compression", 6.0, 0.25, 2, 3.5),
    ("down-cut", 6.0, 0.25, 2, 3.5),
    ("up-cut", 6.0, 0.25, 2, 3.5),
    ("up-cut", 3.0, 0.125, 2, 4.0),
)
_FOR_REST: tuple[tuple[Kind, float, float, int, float], ...] = (
    ("single-flute", 6.0, 0.25, 1, 3.0),
    ("single-flute", 3.0, 0.125, 1, 3.0),
)
_FOR_ALL: tuple[tuple[Kind, float, float, int, float], ...] = (
    ("v-bit", 12.0, 0.5, 2, 0.8),
    ("drill", 5.0, 0.1875, 2, 8.0),
    ("surfacing", 25.0, 1.0, 2, 0.3),
)
_ANGLES: dict[str, float] = {"v-bit": 60.0, "drill": 118.0}


def usual_cutters(families: Iterable[Family], unit: Literal["mm", "in"]) -> tuple[Cutter, ...]:
    """A rack to begin with for what a shop cuts, without feeds: numbered from 1 in the order a changer is
    filled. Lengths mm.

    >>> [c.name for c in usual_cutters(["plastic"], "in")][:2]
    ['1/4 in single-flute', '1/8 in single-flute']
    """
    asked = set(families)
    rows = [*(_FOR_WOOD if "wood" in asked else ()), *(_FOR_REST if asked - {"wood"} else ()), *_FOR_ALL]
    out = []
    for number, (kind, metric, inch, flutes, edge) in enumerate(rows, 1):
        across = metric if unit == "mm" else inch * 25.4
        size = f"{metric:g} mm" if unit == "mm" else as_fraction(across)
        angle = _ANGLES.get(kind)
        name = f"{size} {f'{angle:g} degree V bit' if kind == 'v-bit' else kind}"
        out.append(
            Cutter(
                id=f"usual-{number}",
                number=number,
                name=name,
                kind=kind,
                diameter=across,
                flutes=flutes,
                cutting_length=round(across * edge, 4),
                shank=across if kind != "surfacing" else across / 2,
                centre_cutting=kind != "surfacing",
                note=NOMINAL,
                angle=angle,
            )
        )
    return tuple(out)
