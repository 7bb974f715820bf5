"""A cutter of the shop library."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Family, Id, Name, NotNegative, Positive, Value

Kind = Literal["straight", "up-cut", "down-cut", "compression", "single-flute"]


class Feeds(Value):
    """Spindle speed (rpm), feed and plunge (mm/min) for one family of material, and where the numbers come from."""

    rpm: Annotated[float, Field(gt=0, le=60_000)]
    feed: Annotated[float, Field(gt=0, le=60_000)]
    plunge: Annotated[float, Field(gt=0, le=60_000)]
    source: str = "common practice"


class Cutter(Value):
    """One cutter, one entry. Lengths in mm."""

    id: Id
    number: Annotated[int, Field(ge=1, le=999)]
    name: Name
    kind: Kind
    diameter: Annotated[float, Field(gt=0.1, le=100)]
    flutes: Annotated[int, Field(ge=1, le=12)] = 2
    cutting_length: Positive
    shank: Positive = 6.0
    feeds: dict[Family, Feeds] = {}

    @property
    def radius(self) -> float:
        """Half the diameter, mm."""
        return self.diameter / 2

    def chip_load(self, family: Family) -> NotNegative:
        """Feed per tooth, mm: feed / (rpm x flutes).

        >>> c = Cutter(id="a", number=1, name="a", kind="up-cut", diameter=9.525, cutting_length=25,
        ...            feeds={"wood": Feeds(rpm=16000, feed=600 * 25.4, plunge=1000)})
        >>> round(c.chip_load("wood") / 25.4, 5)
        0.01875
        """
        f = self.feeds[family]
        return f.feed / (f.rpm * self.flutes)
