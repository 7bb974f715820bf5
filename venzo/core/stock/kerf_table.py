"""What makes a machine a kerf table: a head in place of a spindle, slats under the sheet, water or a draught
below.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import NotNegative, Positive, Value


class Slats(Value):
    """What a sheet lies on: upright bars along one direction of the table, mm."""

    along: Literal["x", "y"] = "y"
    pitch: Annotated[float, Field(ge=5, le=2000)] = 100.0
    first: NotNegative = 50.0
    """Of the first bar's middle from the table's edge."""
    width: Annotated[float, Field(gt=0, le=50)] = 3.0

    def places(self, low: float, high: float) -> list[float]:
        """Middles of the bars between two coordinates across them.

        >>> Slats(pitch=100, first=50).places(120, 360)
        [150.0, 250.0, 350.0]
        """
        k = int((low - self.first) // self.pitch)
        out = []
        while (at := self.first + k * self.pitch) <= high:
            if at >= low and k >= 0:
                out.append(at)
            k += 1
        return out


class KerfTable(Value):
    """The head's side of a machine: how it cuts, what it lies on, and what an hour and a pierce cost."""

    process: Literal["plasma", "fluid jet"] = "plasma"
    slats: Slats | None = Slats()
    under: Literal["water", "draught", "nothing"] = "draught"
    """Below the sheet: a water bath, an extraction, or nothing."""
    lift: NotNegative = 1.5
    """Seconds that lifting, lowering and sensing the height take."""
    gas_per_hour: NotNegative = 0.0
    """Gas or power, in the shop's currency, for an hour with the head on."""
    abrasive: NotNegative = 0.0
    """kg a minute with the head on; a jet's."""
    abrasive_price: NotNegative = 0.0
    """Of a kilogram, in the shop's currency."""
    water: NotNegative = 0.0
    """Litres a minute."""
    set_up: Positive | None = None
    """Minutes that setting up takes before a job; None: nobody has said."""
