"""Pieces that are turned one by one into the corner of a jig: what lies there, and how.

Each piece is stock of its own, with the outline that it was cut to on the first face.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from venzo.core.faces.registration import JigCorner, OtherFace
from venzo.core.faces.turn import Axis
from venzo.core.geometry.contour import Contour, rotation_matrix
from venzo.core.model import Point, digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Part, Piece, Plan, Setup
from venzo.core.stock.sheet import Stock

CHORD, MOST_CORNERS = 0.05, 500
"""mm by which a piece's outline may be off as stock, and how many corners stock may have."""
LONGEST = 80
"""Characters of an id."""


@dataclass(frozen=True)
class Singly:
    """The pieces of a first face as they lie in the jig: a kind of stock for every part (and thickness), a
    sheet of it for every piece.
    """

    stock: tuple[Stock, ...]
    pieces: tuple[Piece, ...]


def singly(plan: Plan, first: Setup, turn: OtherFace, shapes: Mapping[str, Shape]) -> Singly:
    """The pieces of ``first`` with something on their back, each turned over by itself."""
    register = turn.registration
    assert isinstance(register, JigCorner)
    stock: list[Stock] = []
    pieces: list[Piece] = []
    laid = first.nest.pieces if first.nest else ()
    for part in plan.parts_of(first.id):
        shape = shapes.get(part.shape)
        if shape is None or not any(f.face == "back" for f in shape.features):
            continue
        outline = shape.region.outline
        for of in first.stock:
            for mirrored in (False, True):
                mine = [q for q in laid if (q.part, q.sheet, q.mirrored) == (part.id, of.id, mirrored)]
                if mine:
                    lying = _lying(outline, not mirrored, turn.axis, register)
                    own = _as_stock(part, of, lying, mirrored, len(mine))
                    stock.append(own)
                    pieces += [lying.piece(q, own.id, k) for k, q in enumerate(mine)]
    return Singly(tuple(stock), tuple(pieces))


@dataclass(frozen=True)
class _Lying:
    """How a piece lies with its box's lower left corner in the jig's: its outline, turn and place."""

    outline: Contour
    rotation: float
    mirrored: bool
    x: float
    y: float

    def piece(self, q: Piece, stock: str, copy_no: int) -> Piece:
        lies = {"x": self.x, "y": self.y, "rotation": self.rotation, "mirrored": self.mirrored}
        return q.model_copy(update={"sheet": stock, "sheet_copy": copy_no, "locked": False, **lies})


def _lying(outline: Contour, mirrored: bool, axis: Axis, register: JigCorner) -> _Lying:
    """A part as drawn, turned over about an axis; a quarter further where its long side lies wrong."""
    rotation = 180.0 if axis == "x" else 0.0
    x0, y0, x1, y1 = outline.placed(0, 0, rotation, mirrored).bbox
    long = "x" if x1 - x0 >= y1 - y0 else "y"
    if long != register.long:
        rotation = (rotation + 90.0) % 360.0
    x0, y0, _x1, _y1 = outline.placed(0, 0, rotation, mirrored).bbox
    return _Lying(outline.placed(-x0, -y0, rotation, mirrored), rotation, mirrored, -x0, -y0)


def _as_stock(part: Part, of: Stock, lying: _Lying, mirrored: bool, count: int) -> Stock:
    """A part that was cut out as stock, as thick as what it was cut from."""
    _x0, _y0, width, height = lying.outline.bbox
    name = f"{part.name[:180]}{', mirrored' if mirrored else ''}"
    return Stock(
        id=_named(part, of, mirrored),
        name=name,
        width=width,
        height=height,
        quantity=count,
        nominal=of.nominal,
        readings=of.readings,
        measured=of.measured,
        margin=0.0,
        outline=_corners(lying.outline),
    )


def _named(part: Part, of: Stock, mirrored: bool) -> str:
    """An id that tells parts, stock lines and mirrored pieces apart, however long theirs are."""
    plain = f"{part.id}-{of.id}{'-m' if mirrored else ''}"
    return plain if len(plain) <= LONGEST else f"{part.id[:40]}-{digest(part.id, of.id, mirrored)[:20]}"


def _corners(outline: Contour) -> tuple[tuple[float, float], ...]:
    """The outline as stock has it; empty for a plain box."""
    chord = CHORD
    points = outline.points(chord)
    while len(points) > MOST_CORNERS:
        chord *= 2
        points = outline.points(chord)
    x0, y0, x1, y1 = outline.bbox
    box = (x1 - x0) * (y1 - y0)
    if abs(shapely.Polygon(points).area - box) < 1e-6 * box:
        return ()
    return tuple((float(x), float(y)) for x, y in points)


@dataclass(frozen=True)
class InTheCorner:
    """Which corner of a piece comes into the jig's, as it lies on its sheet of the first face: a corner
    of the part's box as it is drawn, mm on the sheet.
    """

    piece: str
    sheet: str
    sheet_copy: int
    at: Point


def in_the_corner(
    plan: Plan, first: Setup, turn: OtherFace, shapes: Mapping[str, Shape]
) -> list[InTheCorner]:
    """Of every piece that is turned by itself the corner that is marked before it is cut out."""
    by_id = {q.id: q for q in first.nest.pieces} if first.nest else {}
    out = []
    for lies in singly(plan, first, turn, shapes).pieces:
        q = by_id[lies.id]
        # back from the jig's corner into the part's frame, and from there onto the sheet
        p = rotation_matrix(-lies.rotation) @ np.array([-lies.x, -lies.y])
        p = p * (-1, 1) if lies.mirrored != q.mirrored else p
        x, y = rotation_matrix(q.rotation) @ p + (q.x, q.y)
        out.append(InTheCorner(q.id, q.sheet, q.sheet_copy, (float(x), float(y))))
    return out


def came_from(first: Setup, piece: str) -> tuple[str, int] | None:
    """On which sheet (stock line, copy) of the first face a piece lay."""
    laid = first.nest.pieces if first.nest else ()
    return next(((q.sheet, q.sheet_copy) for q in laid if q.id == piece), None)
