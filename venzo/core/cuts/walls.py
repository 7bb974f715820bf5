"""Does a pocket leave a wall that is too thin? Between pockets, and between a pocket and the part's edge."""

from __future__ import annotations

from collections.abc import Sequence

from shapely import STRtree
from shapely.geometry.base import BaseGeometry
from shapely.ops import nearest_points

from venzo.core.cuts.areas import TOUCH, Area
from venzo.core.parts.measure import Narrow
from venzo.core.parts.shape import Shape

CHORD = 0.05


def thin_wall(
    shape: Shape, areas: Sequence[Area], thickness: float, least: float
) -> tuple[Area, Narrow, float] | None:
    """The narrowest wall that the pockets of a part leave, of which pocket, and how wide it should be, mm.

    A wall is to be ``least`` wide where it is half as high as the sheet or more, and less in proportion where
    it is lower. What touches leaves none: pockets in steps, sides that are open.
    """
    names = {f.name for f in shape.features if f.kind == "pocket"}
    pockets = [a for a in areas if a.name in names and not a.pointed and a.depth > 0]
    if not pockets:
        return None
    edge = shape.region.polygon(CHORD).boundary
    targets = [a.target for a in pockets]
    tree = STRtree(targets)
    worst: tuple[Area, Narrow, float] | None = None
    for area in pockets:
        beside: list[tuple[BaseGeometry, float]] = [] if area.open_sided else [(edge, area.depth)]
        near = tree.query(area.target, predicate="dwithin", distance=least)
        # as high as the shallower of the two is deep
        beside += [
            (targets[k], min(area.depth, pockets[k].depth)) for k in near.tolist() if pockets[k] is not area
        ]
        for other, high in beside:
            wanted = least * min(1.0, 2 * high / thickness)
            wide = area.target.distance(other)
            if not TOUCH < wide < wanted or (worst is not None and wide >= worst[1].width):
                continue
            a, b = nearest_points(area.target, other)
            place = round((a.x + b.x) / 2, 2), round((a.y + b.y) / 2, 2)
            worst = area, Narrow(round(wide, 2), *place), wanted
    return worst
