"""Does a pocket leave a wall that is too thin? Between pockets, and between a pocket and the part's edge."""

from __future__ import annotations

from collections.abc import Sequence

from shapely.geometry import MultiPolygon, Polygon
from shapely.ops import unary_union

from venzo.core.cuts.areas import TOUCH, Area
from venzo.core.parts.measure import Narrow, narrowest
from venzo.core.parts.shape import Shape

CHORD = 0.05
SAME = 0.02
"""mm; a web as narrow as the drawing's own is the drawing's, and said with the part."""


def thin_wall(
    shape: Shape, areas: Sequence[Area], thickness: float, least: float
) -> tuple[Area, Narrow, float] | None:
    """The narrowest wall that the areas of a part leave, of which area, and how wide it should be, mm.

    A wall is to be ``least`` wide where it is half as high as the sheet or more, and less in proportion where
    it is lower. What is not upright (carved with a pointed bit) is not asked, nor what is thin in the drawing
    already.
    """
    upright = [a for a in areas if not a.pointed and a.depth > 0]
    worst: tuple[Area, Narrow, float] | None = None
    solid = shape.region.polygon(CHORD).buffer(0) if upright else Polygon()
    own: Narrow | None = narrowest(solid, least) if upright else None
    for area in upright:
        wanted = least * min(1.0, 2 * area.depth / thickness)
        gone = unary_union([a.target for a in upright if a.depth >= area.depth - 1e-6])
        # slivers beside open sides are none: opened away, corners kept sharp
        stands = (
            solid.difference(gone)
            .buffer(-TOUCH / 2, join_style="mitre")
            .buffer(TOUCH / 2, join_style="mitre")
        )
        if stands.is_empty or not isinstance(stands, Polygon | MultiPolygon):
            continue
        found = narrowest(stands, wanted)
        if found is None or (own is not None and abs(own.width - found.width) < SAME):
            continue
        if worst is None or found.width < worst[1].width:
            worst = (area, found, wanted)
    return worst
