"""With what does the shop reckon its costs, and which remnant is worth keeping?"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from venzo.core.model import Family, NotNegative, Value

Share = Annotated[float, Field(ge=0, le=1)]
Minutes = Annotated[float, Field(ge=0, le=10_000)]


class CostRules(Value):
    """What work costs beside material and machine, and when a remnant goes into the rack. Every default is
    common practice on the careful side and can be changed; money is in the shop's currency.
    """

    keep_side: Annotated[float, Field(ge=20, le=5_000)] = 200.0
    """mm; a remnant with a shorter side is not kept: nobody looks for it."""
    keep_area: NotNegative = 0.08
    """m2 that a remnant must have to be kept."""
    remnant_share: Share = 0.5
    """What a remnant is worth over the same area of a new sheet: it has to be found, measured and fitted."""
    remnant_handling: NotNegative = 0.0
    """What it costs to label a remnant, carry it to the rack and find it again."""
    labour_per_hour: NotNegative = 0.0
    """What an hour of hand work costs; 0: nobody has said."""
    setup_minutes: Minutes = 15.0
    """To set a job up: fetch, load cutters, zero, first cut."""
    sheet_minutes: Minutes = 6.0
    """To lay a sheet, fix it, and take its pieces and skeleton off."""
    turn_minutes: Minutes = 4.0
    """To turn a sheet over, or back, and bring it to its place again: unfix, lift, pins, fix, touch off."""
    edge_seconds_m: dict[Family, NotNegative] = {"wood": 15.0, "plastic": 12.0, "aluminium": 20.0}
    """Deburring or sanding of edges, s a metre."""
    face_minutes_m2: dict[Family, NotNegative] = {}
    """Sanding or cleaning of faces, min a square metre of part."""
    ridge_minutes_dm2: NotNegative = 3.0
    """Sanding ridges off a relief, min a dm2 for every tenth of a millimetre that they are high: a careful
    guess; time a panel and set your own.
    """
    spoilt_share: Annotated[float, Field(ge=0, le=0.5)] = 0.0
    """Share of pieces that are reckoned to be spoilt and cut again."""
    added_share: Annotated[float, Field(ge=0, le=10)] = 0.0
    """What a quotation adds to the costs, as a share of them."""

    def worth_keeping(self, short: float, area: float) -> bool:
        """Is a remnant of this short side (mm) and area (mm2) kept?

        >>> CostRules().worth_keeping(250, 100_000), CostRules().worth_keeping(150, 1e6)
        (True, False)
        """
        return short >= self.keep_side - 1e-6 and area >= self.keep_area * 1e6 - 1e-3

    def remnant_value(self, area: float, price_mm2: float) -> float:
        """What a remnant of an area (mm2) is worth where a new sheet costs ``price_mm2`` a mm2; never below
        nothing: one that only costs its handling is thrown away.

        >>> round(CostRules(remnant_handling=2.0).remnant_value(1e6, 20e-6), 2)
        8.0
        """
        return max(0.0, self.remnant_share * area * price_mm2 - self.remnant_handling)

    def kept(self, short: float, area: float, price_mm2: float) -> bool:
        """Is it large enough to be kept and, where the material has a price, worth its handling?"""
        return self.worth_keeping(short, area) and (
            price_mm2 <= 0 or self.remnant_share * area * price_mm2 > self.remnant_handling
        )
