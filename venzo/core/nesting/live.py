"""Which pieces lie over what holds: live vacuum zones? What of a sheet lies beside them.

A zone that is off holds nothing (common practice), so pieces lie over those that are on wherever that costs
no sheet, small ones first.
"""

from __future__ import annotations

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.problem import Placement, SheetKind
from venzo.core.nesting.verify import usable

CHORD = 0.05


def dead(sheet: SheetKind) -> BaseGeometry:
    """What of a sheet lies beside its live areas: those of firmness 1 (nothing where it has none)."""

    def make() -> BaseGeometry:
        if all(f.firmness < 1 for f in sheet.firm):
            return Polygon()
        firm = shapely.union_all(
            [Polygon(Contour.of(f.shape).points(CHORD)) for f in sheet.firm if f.firmness]
        )
        return usable(sheet).difference(firm)

    return memo("dead area", digest(sheet), make)


def share_off(sheet: SheetKind, region: Region, pl: Placement) -> float:
    """The share of a piece (its part's region in its own frame) that lies beside the live areas of its sheet.

    >>> from venzo.core.nesting.problem import NestPart
    >>> zone = {"shape": [[0, 0], [100, 0], [100, 100], [0, 100]]}
    >>> sheet = SheetKind.model_validate({"id": "s", "width": 200, "height": 100, "firm": [zone]})
    >>> square = NestPart.model_validate({"id": "p", "outline": [[0, 0], [40, 0], [40, 40], [0, 40]]})
    >>> round(share_off(sheet, square.region(), Placement(part="p", sheet="s", x=70, y=0)), 3)
    0.25
    """
    off = dead(sheet)
    if off.is_empty:
        return 0.0
    body = Polygon(region.outline.placed(pl.x, pl.y, pl.rotation, pl.mirrored).points(CHORD))
    return float(body.intersection(off).area / body.area)


def pieces_of(shape: BaseGeometry) -> list[Polygon]:
    """A polygon as ones without holes: around a hole it is cut open."""
    if shape.geom_type != "Polygon" or shape.is_empty:
        return []
    if not shape.interiors:
        return [shape]
    x0, y0, x1, y1 = shape.bounds
    middle = shape.interiors[0].centroid.x
    halves = (shapely.box(x0, y0, middle, y1), shapely.box(middle, y0, x1, y1))
    return [p for half in halves for g in shapely.get_parts(shape.intersection(half)) for p in pieces_of(g)]
