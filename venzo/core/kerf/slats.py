"""What does a piece do once it is free: lie on the slats, tip, or fall between them?"""

from __future__ import annotations

from typing import Literal

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.stock.kerf_table import Slats

State = Literal["held", "lies", "tips", "falls"]


def rests(piece: Polygon, slats: Slats | None) -> State:
    """How a free piece rests, in table coordinates: its middle of mass within what the bars carry of it, it
    lies; carried, but not there, it tips; carried nowhere, it falls. Without slats it lies on a whole bed.

    >>> bars = Slats(pitch=100, first=50, width=3)
    >>> [rests(shapely.box(x, 0, x + w, 40), bars) for x, w in ((20, 180), (40, 60), (60, 30))]
    ['lies', 'tips', 'falls']
    """
    if slats is None:
        return "lies"
    x0, y0, x1, y1 = piece.bounds
    half = slats.width / 2
    low, high = (x0, x1) if slats.along == "y" else (y0, y1)
    carried: list[BaseGeometry] = []
    for at in slats.places(low - half, high + half):
        bar = (
            shapely.box(at - half, y0 - 1, at + half, y1 + 1)
            if slats.along == "y"
            else shapely.box(x0 - 1, at - half, x1 + 1, at + half)
        )
        on = piece.intersection(bar)
        if on.area > 0:
            carried.append(on)
    if not carried:
        return "falls"
    return "lies" if shapely.union_all(carried).convex_hull.covers(piece.centroid) else "tips"
