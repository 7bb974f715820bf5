"""A material: family, density, grain, price, what it takes to cut it, and what it can do to people."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from venzo.core.model import Family, Id, Name, NotNegative, Positive, Value
from venzo.core.tooling.cutter import Kind


class ChipWindow(Value):
    """Chip load between which a cutter is at ease: rows of (cutter diameter, least, most) in mm, read in
    between on straight lines.

    ``kinds``: cutters that the window is for; empty: all. ``source``: where the numbers come from, shown with
    every use.
    """

    kinds: tuple[Kind, ...] = ()
    rows: Annotated[tuple[tuple[Positive, Positive, Positive], ...], Field(min_length=1, max_length=40)]
    source: Annotated[str, Field(min_length=1, max_length=200)] = "common practice"

    @model_validator(mode="after")
    def _order(self) -> ChipWindow:
        if any(low > high for _d, low, high in self.rows):
            raise ValueError("a chip-load window's least is above its most")
        if [r[0] for r in self.rows] != sorted({r[0] for r in self.rows}):
            raise ValueError("the rows of a chip-load window must rise in diameter")
        return self


class Material(Value):
    """A sheet or board material; density in kg/m3, price per m2 in the shop's currency.

    ``sort``: species, alloy or plastic. Where energy, speeds or windows are not given, the family's stand in
    for them.
    """

    id: Id
    name: Name
    family: Family
    sort: Annotated[str, Field(max_length=120)] = ""
    density: Positive
    density_source: Annotated[str, Field(max_length=200)] = ""
    grained: bool = False
    price_m2: NotNegative = 0.0
    scrap_price: NotNegative = 0.0
    """What a kilogram of clean scrap brings, by alloy or plastic; 0: nothing, or nobody has said."""
    recycled_as: Annotated[str, Field(max_length=80)] = ""
    """Where off-cuts go: the plastic's code, the alloy's bin."""
    caution: str = ""
    specific_energy: Positive | None = None
    """Energy to cut a volume, J/mm3 (the same number as N/mm2 / 1000)."""
    energy_source: Annotated[str, Field(max_length=200)] = ""
    surface_speed: tuple[Positive, Positive] | None = None
    """Least and most speed of the cutting edge, m/min."""
    speed_source: Annotated[str, Field(max_length=200)] = ""
    windows: Annotated[tuple[ChipWindow, ...], Field(max_length=40)] = ()
