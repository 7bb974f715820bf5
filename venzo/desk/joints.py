"""How the joints of a job go together as they are cut, with a picture of a corner."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.model import Document, Point
from venzo.core.parts.made import BoxSet, MortiseTenon
from venzo.core.plan import Plan
from venzo.core.proof.assembled import Board, Corner, boards_of, corner_of, fit_of
from venzo.desk.jobs import derive
from venzo.store.store import Store

BEYOND = 15.0
"""mm of the boards that are shown about a corner."""


class JointDocument(Document):
    """A joint as cut. Lengths mm: ``overlap`` mm3 of wood that two boards want, ``wide`` at its worst;
    ``pare`` mm3 left for the chisel on ``walls``. ``first``, ``second``, ``common``: rings of the picture, of
    one board, the other and what both want.
    """

    drawing: str
    name: str
    overlap: float
    wide: float
    least_gap: float
    most_gap: float
    wanted: float
    pare: float
    walls: int
    first: list[list[Point]]
    second: list[list[Point]]
    common: list[list[Point]]
    size: Point


def joints(store: Store, plan: Plan) -> list[JointDocument]:
    """Every joint of a job whose boards are planned."""
    derived = derive(store, plan, hold=False)
    out = []
    for drawing in plan.drawings:
        if not isinstance(drawing.made, BoxSet | MortiseTenon):
            continue
        boards = boards_of(plan, drawing, {i: d.cuts for i, d in derived.items()}, store.shapes)
        fit = fit_of(drawing.made, boards) if boards else None
        if fit is None:
            continue
        first, second, common, size = _picture(drawing.made, boards)
        out.append(
            JointDocument(
                drawing=drawing.id,
                name=drawing.filename,
                overlap=fit.overlap,
                wide=fit.wide,
                least_gap=fit.gaps[0],
                most_gap=fit.gaps[1],
                wanted=fit.wanted,
                pare=fit.pare,
                walls=fit.walls,
                first=first,
                second=second,
                common=common,
                size=size,
            )
        )
    return out


Rings = list[list[Point]]


def _picture(recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> tuple[Rings, Rings, Rings, Point]:
    """A corner laid flat: one board from the left, the other from the right into it."""
    corner: Corner = corner_of(recipe, boards)
    x0, y0, x1, y1 = corner.window
    frame = box(x0 - BEYOND, y0, x1 + BEYOND, y1)
    first, second = corner.first.intersection(frame), corner.second.intersection(frame)
    move = np.array([x0 - BEYOND, y0])
    return (
        _rings(first, move),
        _rings(second, move),
        _rings(first.intersection(second), move),
        (x1 - x0 + 2 * BEYOND, y1 - y0),
    )


def _rings(area: BaseGeometry, move: np.ndarray) -> Rings:
    out: Rings = []
    for p in shapely.get_parts(area):
        if p.geom_type != "Polygon" or p.area < 1e-3:
            continue
        for ring in (p.exterior, *p.interiors):
            points = shapely.get_coordinates(ring.simplify(0.01))[:-1] - move
            out.append([(float(x), float(y)) for x, y in points.round(3).tolist()])
    return out
