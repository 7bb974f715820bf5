"""Which pieces lie over what holds firmly: live vacuum zones, fixture boards, pods? And the problem of
laying all of them there.

A zone that is off holds nothing (common practice), so pieces lie over those that are on wherever that costs
no sheet, small ones first.
"""

from __future__ import annotations

from collections.abc import Mapping

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Contour
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.bound import taken
from venzo.core.nesting.problem import Keepout, NestProblem, Placement, SheetKind
from venzo.core.nesting.verify import usable
from venzo.core.nesting.worth import Worth

CHORD = 0.05
HAIR = 0.02
"""mm around a locked piece that is let be where it lies."""
FULLEST = 0.9
"""Share of the live areas that pieces can be expected to fill."""
ABOVE = 1000.0
"""What the user's priority weighs beside being small."""
LEAST = 25.0
"""mm2: a smaller area without hold keeps nothing away."""


def dead(sheet: SheetKind) -> BaseGeometry:
    """What of a sheet lies beside its firm areas (nothing where it has none)."""

    def make() -> BaseGeometry:
        if not sheet.firm:
            return Polygon()
        firm = shapely.union_all(
            [Polygon(Contour.of(f.shape).points(CHORD)) for f in sheet.firm if f.firmness]
        )
        return usable(sheet).difference(firm)

    return memo("dead area", digest(sheet), make)


def share_off(worth: Worth, pl: Placement) -> float:
    """The share of a piece that lies beside the firm areas of its sheet.

    >>> from venzo.core.nesting.problem import NestProblem
    >>> zone = {"shape": [[0, 0], [100, 0], [100, 100], [0, 100]]}
    >>> sheet = {"id": "s", "width": 200, "height": 100, "firm": [zone]}
    >>> square = {"id": "p", "outline": [[0, 0], [40, 0], [40, 40], [0, 40]]}
    >>> problem = NestProblem.model_validate({"sheets": [sheet], "parts": [square]})
    >>> round(share_off(Worth(problem), Placement(part="p", sheet="s", x=70, y=0)), 3)
    0.25
    """
    off = dead(worth.sheets[pl.sheet])
    if off.is_empty:
        return 0.0
    body = Polygon(worth.regions[pl.part].outline.placed(pl.x, pl.y, pl.rotation, pl.mirrored).points(CHORD))
    return float(body.intersection(off).area / body.area)


def on_live_only(problem: NestProblem, worth: Worth, used: Mapping[str, int]) -> NestProblem | None:
    """The same problem with all that does not hold kept clear, on so many sheets of each kind; None where
    there is no such area.

    Pieces locked there stay. Where the pieces are more than the live areas hold the small ones come first.
    """
    if problem.repeat or problem.guillotine or not any(s.firm for s in problem.sheets):
        return None
    parts = {p.id: p for p in problem.parts}
    sheets = []
    found = False
    for s in problem.sheets:
        off = dead(s)
        still = [
            parts[pl.part].region().outline.placed(pl.x, pl.y, pl.rotation, pl.mirrored).points(CHORD)
            for pl in problem.locked
            if pl.sheet == s.id
        ]
        if still:
            off = off.difference(shapely.union_all([Polygon(r) for r in still]).buffer(HAIR))
        away = [
            Keepout(shape=[list(c) for c in g.exterior.coords[:-1]], clearance=0.0)
            for whole in shapely.get_parts(off)
            for g in _without_holes(whole)
            if g.area > LEAST
        ]
        found = found or bool(away)
        away = [*s.keepouts, *away]
        sheets.append(s.model_copy(update={"firm": [], "keepouts": away, "quantity": used.get(s.id, 0)}))
    if not found:
        return None
    room = sum(used.get(s.id, 0) * (usable(s).area - dead(s).area) for s in problem.sheets)
    need = sum(p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts)
    order = problem.parts
    if need > FULLEST * room:
        first = max(problem.sheets, key=lambda s: s.width * s.height).id
        order = [
            p.model_copy(update={"priority": p.priority * ABOVE + worth.small(p.id, first)})
            for p in problem.parts
        ]
    return problem.model_copy(update={"sheets": sheets, "parts": order})


def _without_holes(shape: BaseGeometry) -> list[Polygon]:
    """A polygon as ones without holes: live areas within dead ones are cut open."""
    if shape.geom_type != "Polygon" or shape.is_empty:
        return []
    if not shape.interiors:
        return [shape]
    x0, y0, x1, y1 = shape.bounds
    middle = shape.interiors[0].centroid.x
    halves = (shapely.box(x0, y0, middle, y1), shapely.box(middle, y0, x1, y1))
    return [
        p for half in halves for g in shapely.get_parts(shape.intersection(half)) for p in _without_holes(g)
    ]
