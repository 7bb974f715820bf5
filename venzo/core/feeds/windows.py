"""Windows in which cutters are at ease, by family, for materials that have none of their own. Every number
keeps its source.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from venzo.core.model import Family
from venzo.core.stock.material import ChipWindow, Material
from venzo.core.tooling.cutter import Cutter, Kind

_SHAPED: tuple[Kind, ...] = ("v-bit", "roundover", "point roundover", "bowl", "tapered ball")
CHIPS: dict[Family, tuple[ChipWindow, ...]] = {
    "wood": (
        ChipWindow(
            kinds=("roughing",),
            rows=((6, 0.20, 0.60), (12, 0.40, 1.00), (20, 0.50, 1.20)),
            source="common practice: roughers run at up to twice the feed",
        ),
        ChipWindow(kinds=("surfacing",), rows=((25, 0.08, 0.50), (60, 0.10, 0.70)), source="common practice"),
        ChipWindow(kinds=("drill",), rows=((2, 0.03, 0.12), (10, 0.08, 0.35)), source="common practice"),
        ChipWindow(
            kinds=_SHAPED,
            rows=((3, 0.03, 0.15), (12, 0.08, 0.30), (30, 0.12, 0.50)),
            source="common practice: shaped cutters run gently, their tips turn slowly",
        ),
        ChipWindow(
            rows=(
                (1, 0.01, 0.04),
                (3, 0.05, 0.16),
                (6, 0.13, 0.40),
                (9.5, 0.25, 0.60),
                (12, 0.30, 0.75),
                (20, 0.35, 0.85),
            ),
            source="common practice: wood's window is wide",
        ),
    ),
    "plastic": (
        ChipWindow(kinds=("drill",), rows=((2, 0.02, 0.08), (10, 0.06, 0.20)), source="common practice"),
        ChipWindow(
            kinds=_SHAPED,
            rows=((3, 0.02, 0.10), (12, 0.06, 0.20), (30, 0.10, 0.30)),
            source="common practice: shaped cutters run gently",
        ),
        ChipWindow(
            rows=((1, 0.01, 0.04), (3, 0.04, 0.13), (6, 0.09, 0.28), (12, 0.15, 0.45)),
            source="common practice: chips, not dust, or it melts",
        ),
    ),
    "aluminium": (
        ChipWindow(kinds=("drill",), rows=((2, 0.02, 0.05), (10, 0.08, 0.20)), source="common practice"),
        ChipWindow(
            kinds=_SHAPED,
            rows=((3, 0.008, 0.04), (12, 0.03, 0.10)),
            source="common practice: shaped cutters run gently",
        ),
        ChipWindow(
            rows=((1, 0.004, 0.012), (3, 0.015, 0.050), (6, 0.030, 0.100), (12, 0.060, 0.150)),
            source="common practice: narrow; too slow rubs and welds, too fast breaks",
        ),
    ),
    "steel": (
        ChipWindow(
            rows=((1, 0.002, 0.008), (3, 0.006, 0.020), (6, 0.015, 0.045), (12, 0.030, 0.080)),
            source="common practice",
        ),
    ),
}
SPEEDS: dict[Family, tuple[float, float, str]] = {
    "wood": (100.0, 2400.0, "common practice: wood's window is wide; very fast burns"),
    "plastic": (60.0, 600.0, "common practice: faster melts the edge"),
    "aluminium": (
        90.0,
        600.0,
        "Machinery's Handbook, carbide in wrought aluminium, from memory; shops without flood stay low",
    ),
    "steel": (40.0, 150.0, "Machinery's Handbook, carbide in mild steel, from memory"),
}
"""Surface speed, m/min: least, most, source."""
ENERGY: dict[Family, tuple[float, str]] = {
    "wood": (
        0.06,
        (
            "estimate from published milling of wood and panels, 0.02 to 0.1 J/mm3; set it from the shop's"
            " own readings"
        ),
    ),
    "plastic": (0.10, "estimate; set it from the shop's own readings"),
    "aluminium": (0.80, "Machinery's Handbook unit power, 0.7 to 0.9 J/mm3, from memory"),
    "steel": (2.70, "Machinery's Handbook unit power for mild steel, about 2.7 J/mm3, from memory"),
}


@dataclass(frozen=True)
class Window:
    """Chip load (mm) and surface speed (m/min) between which a cutter is at ease in a material, with the
    sources.
    """

    chip: tuple[float, float]
    chip_source: str
    speed: tuple[float, float]
    speed_source: str


def chip_window(cutter: Cutter, material: Material) -> tuple[float, float, str]:
    """Least and most chip load (mm) for a cutter, and the source: the material's own window first, then the
    family's.
    """
    for own in (*material.windows, *CHIPS[material.family]):
        if own.kinds and cutter.kind not in own.kinds:
            continue
        rows, d = own.rows, cutter.diameter
        if d <= rows[0][0]:
            k = d / rows[0][0]  # thinner cutters take chips thinner in proportion
            return rows[0][1] * k, rows[0][2] * k, own.source
        for (d0, a0, b0), (d1, a1, b1) in itertools.pairwise(rows):
            if d <= d1:
                t = (d - d0) / (d1 - d0)
                return a0 + (a1 - a0) * t, b0 + (b1 - b0) * t, own.source
        return rows[-1][1], rows[-1][2], own.source
    raise AssertionError("every family ends with a window for all kinds")


def window(cutter: Cutter, material: Material) -> Window:
    """The window of a cutter in a material."""
    low, high, source = chip_window(cutter, material)
    slow, fast, why = SPEEDS[material.family]
    if material.surface_speed:
        slow, fast = material.surface_speed
        why = material.speed_source or "the material's entry"
    if cutter.kind == "diamond-tipped" and material.family in ("wood", "plastic"):
        fast, why = fast * 2, f"{why}; diamond tips take twice the speed (common practice)"
    return Window((low, high), source, (slow, fast), why)


def energy(material: Material) -> tuple[float, str]:
    """Specific cutting energy, J/mm3, and its source."""
    if material.specific_energy:
        return material.specific_energy, material.energy_source or "the material's entry"
    return ENERGY[material.family]
