"""Turning stock over: where a point, a piece, a sheet lies when its other face is up.

The stock is turned about an axis of the table and laid back into the same box: about X the far edge comes
near, (x, y) -> (x, W - y); about Y the right edge comes left, (x, y) -> (L - x, y).

>>> turn = Turn("x", 600, 400)
>>> turn.point((10, 30))
(10, 370)
>>> turn.point(turn.point((10, 30)))
(10, 30)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, TypeVar

from venzo.core.geometry.contour import Array
from venzo.core.plan import Piece
from venzo.core.stock.machine import Corner
from venzo.core.stock.sheet import Flaw, Stock

Axis = Literal["x", "y"]
Number = TypeVar("Number")


@dataclass(frozen=True)
class Turn:
    """A turn about an axis of stock that is ``width`` along X and ``height`` along Y, mm.

    Its own inverse. Exact in whatever numbers it is given: fractions stay fractions.
    """

    axis: Axis
    width: float
    height: float

    def point(self, p: tuple[Number, Number]) -> tuple[Number, Number]:
        """Where a place of the stock lies when it is turned."""
        x, y = p
        if self.axis == "x":
            return (x, self.height - y)  # type: ignore[operator, return-value]
        return (self.width - x, y)  # type: ignore[operator, return-value]

    def points(self, xy: Array) -> Array:
        """Places (n, 2) of the stock when it is turned."""
        return xy * (1, -1) + (0, self.height) if self.axis == "x" else xy * (-1, 1) + (self.width, 0)

    @property
    def affine(self) -> list[float]:
        """As shapely's ``affine_transform`` takes it."""
        if self.axis == "x":
            return [1.0, 0.0, 0.0, -1.0, 0.0, self.height]
        return [-1.0, 0.0, 0.0, 1.0, self.width, 0.0]

    def piece(self, q: Piece) -> Piece:
        """The same piece seen from its other face.

        A piece lies mirrored (x -> -x), turned by r, moved. Seen from behind it lies mirrored once more;
        about Y turned by -r, about X by 180 - r, since a mirror in X is one in Y and half a turn.
        """
        x, y = self.point((q.x, q.y))
        rotation = -q.rotation if self.axis == "y" else 180.0 - q.rotation
        turned = {"x": x, "y": y, "rotation": rotation % 360.0, "mirrored": not q.mirrored}
        return q.model_copy(update=turned)

    def box(self, x: float, y: float, width: float, height: float) -> tuple[float, float]:
        """The lower left corner of a box of the stock when it is turned."""
        if self.axis == "x":
            return (x, self.height - y - height)
        return (self.width - x - width, y)

    def corner(self, corner: Corner) -> Corner:
        """Where a corner of the stock comes to lie.

        >>> Turn("x", 600, 400).corner("lower left"), Turn("y", 600, 400).corner("lower left")
        ('upper left', 'lower right')
        """
        level, side = corner.split(" ")
        if self.axis == "x":
            level = "upper" if level == "lower" else "lower"
        else:
            side = "right" if side == "left" else "left"
        return f"{level} {side}"  # type: ignore[return-value]


def turn_of(axis: Axis, stock: Stock) -> Turn:
    """The turn of a sheet."""
    return Turn(axis, stock.width, stock.height)


def turned_stock(stock: Stock, axis: Axis) -> Stock:
    """A sheet with its other face up: outline and flaws where they lie then."""
    turn = turn_of(axis, stock)
    outline = tuple(turn.point(p) for p in reversed(stock.outline))
    flaws = tuple(_turned_flaw(f, turn) for f in stock.flaws)
    return stock.model_copy(update={"outline": outline, "flaws": flaws})


def _turned_flaw(f: Flaw, turn: Turn) -> Flaw:
    x, y = turn.box(f.x, f.y, f.width, f.height)
    return f.model_copy(update={"x": x, "y": y})


def turned_pieces(pieces: Sequence[Piece], axis: Axis, stock: Sequence[Stock]) -> tuple[Piece, ...]:
    """The layout of turned sheets: the image of the first, its pieces the same pieces. Those whose sheet is
    not on hand any more are left out.
    """
    turns = {s.id: turn_of(axis, s) for s in stock}
    return tuple(turns[q.sheet].piece(q) for q in pieces if q.sheet in turns)
