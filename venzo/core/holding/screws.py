"""Screws and nails that hold a sheet down, and the room that cutters must leave them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Id, Positive, Value


class Screw(Value):
    """A screw or nail through the sheet: middle (x, y) in sheet coordinates, head diameter and height, mm."""

    id: Id
    x: Annotated[float, Field(ge=-20_000, le=20_000)]
    y: Annotated[float, Field(ge=-20_000, le=20_000)]
    head: Positive = 10.0
    proud: Annotated[float, Field(ge=0, le=100)] = 3.0
    """Height of the head over the top of the stock."""
    kind: Literal["screw", "nail"] = "screw"
    """A plastic nail holds less, but a cutter that meets it lives."""
    sheet: Id | None = None
    """Only on this kind of sheet and this copy of it, where the layout leaves waste for it; None: on every
    sheet.
    """
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    marked: bool = False
    """Its place is drilled shallow by a program of its own, before anything is screwed down."""

    def on(self, sheet: str, copy_no: int) -> bool:
        """Is it on this sheet?"""
        return self.sheet is None or (self.sheet, self.sheet_copy) == (sheet, copy_no)

    def clearance(self, cutter_diameter: float) -> float:
        """Distance that a part keeps from the head, mm: the cutter passes between them with 3 mm to spare."""
        return cutter_diameter + 3.0
