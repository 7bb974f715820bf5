"""What becomes of the material, by area and mass, and the usual definitions of how well it is used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from venzo.core.model import Value
from venzo.core.stock.amounts import BOARD_FOOT
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.yields.parted import KINDS, SheetParted

DEFINED: dict[str, str] = {
    "parts_of_sheet": "area of the parts, less their holes, over the area of the sheets",
    "parts_of_used": "area of the parts over the sheets less the remnants that are kept",
    "outlines_of_sheet": "area within the outlines of the parts, holes and all, over the sheets",
    "parts_of_length": "area of the parts over the sheets up to the last piece, edge to edge across",
    "parts_by_mass": "mass of the finished parts, their pockets gone, over the mass of the sheets",
}
"""Definitions of utilisation, by name: shops mean one or the other, so each is said with its figure."""


class Amounts(Value):
    """Areas in mm2 that add up to ``sheet``, masses in kg that add up to ``sheet``, and what the shares of
    utilisation are made of.

    Masses: ``parts`` as they come off the machine; ``pockets``: chips of pockets, grooves and carvings in
    parts; ``kerf``: chips of the kerf; ``tabs``: what tabs and skins leave standing in the kerf.
    ``chips``: volume of all chips, mm3; ``gross``: mm2 within outlines; ``length``: mm2 of the sheets up to
    the last piece; ``volume``: mm3 of the sheets.
    """

    area_mm2: dict[str, float]
    mass_kg: dict[str, float]
    gross: float
    length: float
    volume: float
    chips: float

    @property
    def utilisation(self) -> dict[str, float]:
        """Shares by the definitions of ``DEFINED``."""
        a, m = self.area_mm2, self.mass_kg

        def share(part: float, whole: float) -> float:
            return part / whole if whole > 0 else 0.0

        return {
            "parts_of_sheet": share(a["parts"], a["sheet"]),
            "parts_of_used": share(a["parts"], a["sheet"] - a["remnant"]),
            "outlines_of_sheet": share(self.gross, a["sheet"]),
            "parts_of_length": share(a["parts"], self.length),
            "parts_by_mass": share(m["parts"], m["sheet"]),
        }

    @property
    def board_feet(self) -> float:
        """Board feet of the sheets, by their measured thickness."""
        return self.volume / BOARD_FOOT


@dataclass(frozen=True)
class Removed:
    """What the programs take off a sheet, mm3; None: a cutter is not known. ``pockets``: are there cuts that
    do not go through?
    """

    volume: float | None
    pockets: bool


def amounts(parted: SheetParted, stock: Stock, material: Material, right: float, removed: Removed) -> Amounts:
    """Areas and masses of one sheet.

    Args:
        right: largest x that a piece reaches, mm.
        removed: of it the kerf is reckoned from its area, what is more was taken out of parts.
    """
    t, density = stock.thickness, material.density / 1e9
    areas = parted.areas()
    tabs = min(parted.thin, areas["kerf"]) * parted.left
    kerf = areas["kerf"] * t - tabs
    pockets = 0.0
    if removed.pockets and removed.volume is not None:
        pockets = min(max(0.0, removed.volume - kerf), areas["parts"] * t)
    mass = {k: areas[k] * t * density for k in ("sheet", *KINDS)}
    mass["parts"] -= pockets * density
    mass |= {"kerf": kerf * density, "pockets": pockets * density, "tabs": tabs * density}
    x0, y0, _x1, y1 = parted.sheet.bounds
    from shapely.geometry import box

    length = parted.sheet.intersection(box(x0, y0, max(right, x0), y1)).area
    return Amounts(
        area_mm2=areas,
        mass_kg=mass,
        gross=parted.gross,
        length=float(length),
        volume=areas["sheet"] * t,
        chips=kerf + pockets,
    )


def together(each: Sequence[Amounts]) -> Amounts:
    """The sums over sheets.

    >>> together([]).area_mm2["sheet"]
    0.0
    """
    return Amounts(
        area_mm2={k: sum((a.area_mm2[k] for a in each), 0.0) for k in ("sheet", *KINDS)},
        mass_kg={k: sum((a.mass_kg[k] for a in each), 0.0) for k in ("sheet", *KINDS, "pockets", "tabs")},
        gross=sum(a.gross for a in each),
        length=sum(a.length for a in each),
        volume=sum(a.volume for a in each),
        chips=sum(a.chips for a in each),
    )
