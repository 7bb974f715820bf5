"""Which stretches of a piece's outline face another piece's cut, or the sheet's edge? A tab there would hold
nothing.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import partial

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry import Polygon, box

from venzo.core.geometry.contour import Array, Contour
from venzo.core.holding.tabs import Stretch, stretches
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.stock.sheet import Stock

STEP = 6.0
"""mm between the points of an outline that are asked."""


def facing(
    plan: Plan, setup: Setup, pieces: Sequence[Piece], stock: Stock, shapes: Mapping[str, Shape]
) -> dict[str, tuple[Stretch, ...]]:
    """Of each piece the stretches of its outline (along it, in the part's own frame, mm) from which less than
    two kerfs and the web lie to the next piece or to the sheet's edge.

    Pieces without any are left out.
    """
    kerf = plan.kerf(setup)
    reach = 2 * kerf + min(setup.rules.web, setup.rules.least_web)
    if plan.spacing(setup) >= reach and stock.margin >= reach - kerf:
        return {}
    digests = {p.id: p.shape for p in plan.parts}
    laid = "|".join(f"{q.id},{digests[q.part]},{q.x!r},{q.y!r},{q.rotation!r},{q.mirrored}" for q in pieces)
    key = digest("facing-2", laid, stock.width, stock.height, stock.outline, kerf, reach)
    return memo("facing sheet", key, partial(_all_facing, pieces, stock, shapes, digests, (kerf, reach)))


def _all_facing(
    pieces: Sequence[Piece],
    stock: Stock,
    shapes: Mapping[str, Shape],
    digests: Mapping[str, str],
    near_by: tuple[float, float],
) -> dict[str, tuple[Stretch, ...]]:
    """``facing`` of all pieces of a sheet; ``near_by``: kerf and reach, mm."""
    kerf, reach = near_by
    outline = Polygon(stock.outline) if stock.outline else box(0, 0, stock.width, stock.height)
    boxes: list[tuple[float, float, float, float]] = []
    for q in pieces:
        boxes.append(_box(shapes[digests[q.part]], q))
    bounds = np.array(boxes).reshape(-1, 4)
    out: dict[str, tuple[Stretch, ...]] = {}
    for i, q in enumerate(pieces):
        x0, y0, x1, y1 = bounds[i]
        near = np.flatnonzero(
            (bounds[:, 0] < x1 + reach)
            & (bounds[:, 2] > x0 - reach)
            & (bounds[:, 1] < y1 + reach)
            & (bounds[:, 3] > y0 - reach)
        )
        others = [pieces[k] for k in near.tolist() if k != i]
        edge = (
            x0 < reach
            or y0 < reach
            or x1 > stock.width - reach
            or y1 > stock.height - reach
            or bool(stock.outline)
        )
        if not others and not edge:
            continue
        rel = [
            (digests[o.part], round(o.x - q.x, 3), round(o.y - q.y, 3), o.rotation, o.mirrored)
            for o in others
        ]
        place = (round(q.x, 3), round(q.y, 3), stock.width, stock.height, stock.outline) if edge else ()
        key = digest("facing-1", digests[q.part], q.rotation, q.mirrored, rel, place, kerf, reach)

        def find(q: Piece = q, others: list[Piece] = others, edge: bool = edge) -> tuple[Stretch, ...]:
            return _facing(
                shapes[digests[q.part]],
                q,
                [(shapes[digests[o.part]], o) for o in others],
                outline if edge else None,
                kerf,
                reach,
            )

        found = memo("facing", key, find)
        if found:
            out[q.id] = found
    return out


def _box(shape: Shape, q: Piece) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = shape.region.outline.bbox
    c, s = math.cos(math.radians(q.rotation)), math.sin(math.radians(q.rotation))
    xs, ys = (x0, x1) if not q.mirrored else (-x1, -x0), (y0, y1)
    corners = [(c * x - s * y + q.x, s * x + c * y + q.y) for x in xs for y in ys]
    return (
        min(p[0] for p in corners),
        min(p[1] for p in corners),
        max(p[0] for p in corners),
        max(p[1] for p in corners),
    )


def _placed(shape: Shape, q: Piece) -> Polygon:
    c, s = math.cos(math.radians(q.rotation)), math.sin(math.radians(q.rotation))
    flip = -1.0 if q.mirrored else 1.0
    coarse = memo("coarse", shape.digest, lambda: shape.region.polygon(0.3).buffer(0))
    return affine_transform(coarse, [c * flip, -s, s * flip, c, q.x, q.y])


def samples(contour: Contour) -> tuple[Array, Array]:
    """Distances along a contour about STEP mm apart, and the points there ``(n, 2)``."""
    n = max(12, math.ceil(contour.length / STEP))
    at = (np.arange(n) + 0.5) * contour.length / n
    return at, np.array([contour.at(float(s))[:2] for s in at])


def _facing(
    shape: Shape,
    q: Piece,
    others: Sequence[tuple[Shape, Piece]],
    outline: Polygon | None,
    kerf: float,
    reach: float,
) -> tuple[Stretch, ...]:
    contour = shape.region.outline
    at, own = memo("outline-samples", shape.digest, lambda: samples(contour))
    c, s = math.cos(math.radians(q.rotation)), math.sin(math.radians(q.rotation))
    flipped = own * ([-1.0, 1.0] if q.mirrored else [1.0, 1.0])
    xy = flipped @ np.array([[c, s], [-s, c]]) + (q.x, q.y)
    points = shapely.points(xy)
    blocked = np.zeros(len(at), dtype=bool)
    for other, o in others:
        near = _placed(other, o)
        blocked |= shapely.dwithin(points, near, reach)
    if outline is not None:
        # at the edge the strip beyond the kerf must be wide enough to lead somewhere
        blocked |= shapely.distance(points, outline.exterior) < kerf + (reach - 2 * kerf)
    return stretches(blocked, contour.length)
