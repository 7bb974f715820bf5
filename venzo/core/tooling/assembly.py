"""What turns and travels above the tip: cutter, shank, nut or nose, and the dust shoe around them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from venzo.core.model import Positive, Value
from venzo.core.tooling.cutter import Cutter

NOSE = 40.0
"""mm; diameter of a collet nut or nose where the holder is not known (common practice: 30 to 50)."""


class DustShoe(Value):
    """The extraction's shoe where it travels up and down with the spindle; mm. Only what is rigid counts:
    bristles and curtains give way.

    ``lower``: how far its rigid edge reaches below the nut's end; negative: it stands above it.
    """

    diameter: Positive = 120.0
    lower: Annotated[float, Field(ge=-300, le=300)] = 0.0


@dataclass(frozen=True)
class Assembly:
    """A cutter as it is clamped. mm; ``edge``: length of its cutting edge, ``out``: from the nut's end to the
    tip, ``nut``: the nut's (or nose's) diameter; None: not known. ``estimated``: nobody measured ``out``; it
    serves to keep clear of what stands on the table, but says nothing of the work.

    >>> mill = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=20)
    >>> Assembly(mill, 20.0, 30.0, 40.0, DustShoe(diameter=120, lower=5)).above_tip
    ((20.0, 30.0), (60.0, 25.0))
    """

    cutter: Cutter
    edge: float | None = None
    out: float | None = None
    nut: float | None = None
    shoe: DustShoe | None = None
    estimated: bool = False

    @property
    def above_tip(self) -> tuple[tuple[float, float], ...]:
        """What is rigid above the cutter, as (radius, height of its lower end over the tip): nut, shoe."""
        if self.out is None:
            return ()
        nut = ((self.nut or 0.0) / 2, self.out)
        return (nut, (self.shoe.diameter / 2, self.out - self.shoe.lower)) if self.shoe else (nut,)
