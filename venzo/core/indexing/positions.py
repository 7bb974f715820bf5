"""At which positions does long stock lie on the table, and how is it brought to each?"""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.faces.registration import Dowel
from venzo.core.model import NotNegative, Point, Value
from venzo.core.stock.zeros import Show

Axis = Literal["x", "y"]
MOST_POSITIONS = 24
Moved = Annotated[float, Field(gt=0, le=100_000)]
OVERLAP = 10.0
"""mm that both neighbours of a seam cut, unless said otherwise."""


class IndexPins(Value):
    """Pins in the spoilboard, and for every position after the first a row of holes in the stock.

    ``pins``: where they stand, mm from the stock's lower left corner as it lies first; ``below``: how deep in
    the spoilboard, mm.
    """

    kind: Literal["pins"] = "pins"
    pins: Annotated[tuple[Dowel, ...], Field(max_length=2)] = ()
    below: Annotated[float, Field(gt=0, le=200)] = 10.0


class FenceMark(Value):
    """The stock runs along a fence; lines drawn on its edge come one after the other to a mark on the fence.

    ``at``: where the mark lies, mm along the stock as it lies first.
    """

    kind: Literal["mark"] = "mark"
    at: Annotated[float, Field(ge=0, le=100_000)] = 0.0


Brought = Annotated[IndexPins | FenceMark, Field(discriminator="kind")]


class Indexing(Value):
    """Stock is moved along the table in positions.

    ``axis``: of the table, along which it is moved, towards its lower end; ``moved``: how far from where it
    lies first, at every position after the first, mm; ``overlap``: mm along the axis that are cut at both
    positions where a cut is made in lengths; ``seconds``: what moving it once takes.
    """

    axis: Axis = "x"
    moved: Annotated[tuple[Moved, ...], Field(min_length=1, max_length=MOST_POSITIONS - 1)]
    overlap: Annotated[float, Field(ge=0, le=500)] = OVERLAP
    brought: Brought = FenceMark()
    seconds: NotNegative = 180.0

    @model_validator(mode="after")
    def _onwards(self) -> Indexing:
        for a, b in pairwise(self.moved):
            if b <= a:
                raise ValueError(
                    f"positions go on along the table: {b:g} mm after {a:g} mm goes back; give them in order"
                )
        return self

    @property
    def count(self) -> int:
        """Positions in all."""
        return 1 + len(self.moved)

    @property
    def column(self) -> int:
        """0: it is moved along X, 1: along Y."""
        return 0 if self.axis == "x" else 1

    def offset(self, position: int) -> float:
        """mm by which the stock has been moved at a position (from 0).

        Raises:
            IndexError: there is no such position.
        """
        return (0.0, *self.moved)[position]

    def shift(self, position: int) -> Point:
        """The same, as what is added to a place of the table to find it on the stock.

        >>> Indexing(axis="y", moved=(800.0,)).shift(1)
        (0.0, 800.0)
        """
        d = self.offset(position)
        return (d, 0.0) if self.axis == "x" else (0.0, d)


def brought_says(indexing: Indexing, position: int, show: Show) -> str:
    """How the stock comes to lie at a position, in a sentence.

    >>> brought_says(Indexing(moved=(1200.0,), brought=FenceMark(at=300.0)), 1, str)
    'move the stock 1200.0 to the left along the fence: its line at 1500.0 comes to the mark'
    """
    if position == 0:
        return "lay the stock as the zero has it"
    step = show(indexing.offset(position) - indexing.offset(position - 1))
    way = "to the left" if indexing.axis == "x" else "towards you"
    if isinstance(indexing.brought, FenceMark):
        line = show(indexing.brought.at + indexing.offset(position))
        return f"move the stock {step} {way} along the fence: its line at {line} comes to the mark"
    n = len(indexing.brought.pins)
    return (
        f"lift the stock off, move it {step} {way}, drop its holes of position {position + 1} on the {n} pins"
    )
