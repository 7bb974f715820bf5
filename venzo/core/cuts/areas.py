"""What may a pocket cutter touch? The pocket less its islands, and the waste beyond its open sides."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from shapely import force_2d
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points, signed_area
from venzo.core.parts.shape import Feature, Shape
from venzo.core.tolerances import CHORD, REFIT

TOUCH = 0.05
"""mm; a pocket's side nearer than this to the part's edge is open."""


@dataclass(frozen=True, eq=False)
class Area:
    """A pocket to be cleared: ``target`` must go, ``allowed`` may go (target and the waste beyond open
    sides), both in the part's frame.
    """

    name: str
    depth: float
    target: BaseGeometry
    allowed: BaseGeometry
    loops: tuple[Contour, ...]
    """Boundary of ``allowed``, arcs kept where no side is open: outer loops counter-clockwise, islands
    clockwise.
    """
    open_sided: bool = False
    pointed: bool = False
    """Only a pointed bit may come into it: its walls slope."""
    follows: bool = False
    """Its depth is reckoned from the relief under it, where there is one."""

    @cached_property
    def loops_key(self) -> str:
        """Digest of the boundary."""
        return hashlib.sha256(b"|".join(c.vertices.tobytes() for c in self.loops)).hexdigest()

    @cached_property
    def points(self) -> list[Array]:
        """The boundary as point loops for offsets."""
        return [c.points(CHORD) for c in self.loops]

    def centres(self, distance: float) -> list[Array]:
        """Point loops at which a disc of radius ``distance`` touches the boundary from within; islands
        clockwise.
        """
        loops = offset_points(self.points, -distance)
        if not self.open_sided:
            return loops
        near = self.target.buffer(distance - 0.02)  # only centres from which the target is touched
        return polygon_loops(region_of(loops).intersection(near))


def open_sided(shape: Shape) -> bool:
    """Has a part a pocket or closed groove that reaches its edge or a hole?"""
    closed = [f for f in shape.features if f.contour.closed and f.kind in ("pocket", "groove")]
    if not closed:
        return False
    body = shape.polygon.buffer(-TOUCH)
    return not all(body.contains(Polygon(f.contour.points(CHORD)).buffer(0)) for f in closed)


def _joined(target: BaseGeometry, beyond: BaseGeometry) -> BaseGeometry:
    """A pocket and the waste beyond its open sides as one, closing a gap of up to TOUCH between them; sharp
    corners stay as they are.
    """
    for gap in (1e-4, TOUCH):
        both = unary_union([target, beyond]).buffer(gap, join_style="mitre").buffer(-gap, join_style="mitre")
        whole = [p for p in _polygons(both) if p.intersects(target)]
        if len(whole) <= len(_polygons(target)) and unary_union(whole).area > target.area + 1e-6:
            break
    return unary_union([*whole, target])


def region_of(loops: Sequence[Array]) -> BaseGeometry:
    """Point loops, outer ones counter-clockwise and holes clockwise, as one geometry."""
    outer = [Polygon(p) for p in loops if signed_area(p) > 0 and len(p) > 2]
    holes = [Polygon(p) for p in loops if signed_area(p) < 0 and len(p) > 2]
    if not outer:
        return MultiPolygon()
    whole = unary_union([p.buffer(0) for p in outer])
    return whole.difference(unary_union([h.buffer(0) for h in holes])) if holes else whole


def polygon_loops(geometry: BaseGeometry) -> list[Array]:
    """A geometry's boundary as point loops: outer counter-clockwise, holes clockwise."""
    out = []
    for p in _polygons(geometry):
        for k, ring in enumerate([p.exterior, *p.interiors]):
            xy = np.array(force_2d(ring).coords)[:-1]
            if len(xy) > 2:
                out.append(xy if (signed_area(xy) > 0) == (k == 0) else xy[::-1])
    return out


def _polygons(geometry: BaseGeometry) -> list[Polygon]:
    if geometry.is_empty:
        return []
    if isinstance(geometry, Polygon):
        return [geometry]
    return [p for g in getattr(geometry, "geoms", []) for p in _polygons(g)]


def polygons_in(geometry: BaseGeometry, least: float = 1e-6) -> list[Polygon]:
    """Polygons of a geometry larger than ``least`` mm2."""
    return [p for p in _polygons(geometry) if p.area > least]


def areas(
    shape: Shape, features: Sequence[Feature], depths: Mapping[str, float], waste: float
) -> dict[str, Area]:
    """The area of every closed feature.

    A closed line inside another of the same depth is an island of it; a shallower one keeps its own floor; a
    deeper one is cut again deeper.

    Args:
        shape: the part.
        features: closed ones, pockets in the wide sense.
        depths: by name, mm.
        waste: mm beyond the part's edge into which the cutter may run where a side is open; neighbours lie
        farther away.
    """
    solid = {f.name: Polygon(f.contour.points(CHORD)).buffer(0) for f in features}
    part = shape.region
    outline = Polygon(part.outline.points(CHORD)).buffer(0)
    holes = unary_union([Polygon(h.points(CHORD)).buffer(0) for h in part.holes]) if part.holes else None
    inside: dict[str, list[str]] = {f.name: [] for f in features}
    for f in features:
        around = [
            g.name
            for g in features
            if g.name != f.name
            and solid[g.name].area > solid[f.name].area
            and solid[g.name].buffer(TOUCH).contains(solid[f.name])
        ]
        if around:
            inside[min(around, key=lambda n: solid[n].area)].append(f.name)
    islands: set[str] = set()

    def mark(name: str, is_island: bool) -> None:
        if is_island:
            islands.add(name)
        for child in inside[name]:
            mark(child, not is_island and abs(depths[child] - depths[name]) < 1e-6)

    nested = {c for v in inside.values() for c in v}
    for f in features:
        if f.name not in nested:
            mark(f.name, False)
    out: dict[str, Area] = {}
    for f in features:
        if f.name in islands:
            continue
        keep = [c for c in inside[f.name] if c in islands or depths[c] < depths[f.name] - 1e-6]
        loops = [
            f.contour.oriented(True),
            *(next(g for g in features if g.name == c).contour.oriented(False) for c in keep),
        ]
        target: BaseGeometry = (
            solid[f.name].difference(unary_union([solid[c] for c in keep])) if keep else solid[f.name]
        )
        edge = outline.exterior
        over = not outline.buffer(-TOUCH).contains(solid[f.name]) and (
            edge.intersection(solid[f.name].buffer(TOUCH)).length > 4 * TOUCH
        )
        into = (
            holes is not None
            and holes.intersects(solid[f.name].buffer(TOUCH))
            and not holes.disjoint(solid[f.name].boundary.buffer(TOUCH))
        )
        if not over and not into:
            out[f.name] = Area(f.name, depths[f.name], target, target, tuple(loops))
            continue
        body = outline.difference(holes) if holes is not None else outline
        target = target.intersection(body)
        reach = target.buffer(waste)
        beyond = reach.difference(body)
        if beyond.area:
            allowed = _joined(target, beyond)
            outlines = [fit(p, True, REFIT / 2) for p in polygon_loops(allowed)]
            out[f.name] = Area(f.name, depths[f.name], target, allowed, tuple(outlines), True)
        else:
            out[f.name] = Area(f.name, depths[f.name], target, target, tuple(loops))
    return out
