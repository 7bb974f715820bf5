"""Which loops are outlines, which are holes? Containment, even-odd or by winding."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from shapely import STRtree, is_valid, make_valid, point_on_surface
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.many import polygons as polygons_of
from venzo.core.tolerances import CHORD


@dataclass(frozen=True)
class Region:
    """An outline (counter-clockwise) and the holes (clockwise) directly inside it."""

    outline: Contour
    holes: tuple[Contour, ...]

    @cached_property
    def area(self) -> float:
        """Net area, mm2."""
        return self.outline.area + sum(h.area for h in self.holes)

    @cached_property
    def perimeter(self) -> float:
        """Length of all boundaries, mm."""
        return self.outline.length + sum(h.length for h in self.holes)

    @property
    def loops(self) -> list[Contour]:
        """Outline first, then holes."""
        return [self.outline, *self.holes]

    def placed(self, x: float, y: float, rotation: float = 0.0, mirrored: bool = False) -> Region:
        """Placed as ``Contour.placed`` does; a mirrored region keeps its direction convention."""
        outline = self.outline.placed(x, y, rotation, mirrored).oriented(True)
        return Region(outline, tuple(h.placed(x, y, rotation, mirrored).oriented(False) for h in self.holes))

    def polygon(self, chord: float = CHORD, circumscribed: bool = False) -> Polygon:
        """The region as a shapely polygon; circumscribed: it contains the true region."""
        side = 1 if circumscribed else 0
        return Polygon(self.outline.points(chord, side), [h.points(chord, side) for h in self.holes])


def regions(loops: list[Contour]) -> list[Region]:
    """Nest closed loops even-odd: depth 0, 2, ... are outlines, depth 1, 3, ... are holes in them.

    Loops that touch or cross are nested by an inner point of the smaller one.
    """
    loops = [c for c in loops if abs(c.area) > 1e-9]
    if not loops:
        return []
    order = np.argsort([-abs(c.area) for c in loops], kind="stable")
    loops = [loops[i] for i in order]
    solids = polygons_of(loops, 0.02)
    fine = is_valid(solids)
    polygons = [p if ok else make_valid(p).buffer(0) for p, ok in zip(solids, fine, strict=True)]
    area = [p.area for p in polygons]
    tree = STRtree(polygons)
    inner = point_on_surface(np.array(polygons, dtype=object))
    hits: dict[int, list[int]] = {}
    for child, parent in tree.query(inner, predicate="intersects").T:
        if parent < child:
            hits.setdefault(int(child), []).append(int(parent))
    depth: list[int] = []
    parent_of: list[int | None] = []
    for i in range(len(loops)):
        around = [j for j in hits.get(i, ()) if area[j] > area[i]]
        depth.append(len(around))
        parent_of.append(max(around) if around else None)
    holes: dict[int, list[Contour]] = {}
    for i, c in enumerate(loops):
        p = parent_of[i]
        if depth[i] % 2 and p is not None:
            holes.setdefault(p, []).append(c.oriented(False))
    return [
        Region(c.oriented(True), tuple(holes.get(i, ()))) for i, c in enumerate(loops) if depth[i] % 2 == 0
    ]
