"""Screws and nails that hold a sheet down, and the room that cutters must leave them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from venzo.core.model import Id, Positive, Value


class Screw(Value):
    """A screw through the sheet: middle (x, y) in sheet coordinates of every sheet, head diameter and height, mm."""

    id: Id
    x: Annotated[float, Field(ge=-20_000, le=20_000)]
    y: Annotated[float, Field(ge=-20_000, le=20_000)]
    head: Positive = 10.0
    proud: Annotated[float, Field(ge=0, le=100)] = 3.0
    """Height of the head over the top of the stock."""

    def clearance(self, cutter_diameter: float) -> float:
        """Distance that a part keeps from the head, mm: the cutter passes between them with 3 mm to spare."""
        return cutter_diameter + 3.0
