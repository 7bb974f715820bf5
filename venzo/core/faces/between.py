"""What stands of a part between what is cut into its one face and into the other.

Flat floors are judged by their outlines and depths, exactly; over a relief the surface is looked up place by
place, the thinnest once more in a finer grid. Of what a pointed bit carves the deepest counts everywhere.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.in_hand import mirrored_shape
from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.cuts.planned import PartCuts
from venzo.core.geometry.contour import Array
from venzo.core.parts.shape import Shape
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.relief.mesh import Mesh

LEAST_OVERLAP = 0.05
"""mm2; floors that share less only touch."""
COARSE, FINE = 1.0, 0.05
"""mm between places at which reliefs are looked up, and around the thinnest of them."""
MOST_PLACES = 250_000
MEET = 0.05
"""mm; drillings from both faces whose middles are no further apart are one hole."""
DepthAt = Callable[[Array], Array]


@dataclass(frozen=True)
class CutFace:
    """One face of a part: the part with what is cut into it, its cuts, whether they were planned in the
    mirror (as of turned pieces), and the models of its reliefs.
    """

    shape: Shape
    cuts: PartCuts
    mirrored: bool
    surfaces: Mapping[str, Mesh]


@dataclass(frozen=True)
class Between:
    """The thinnest place between a feature of the front and one of the back: ``left`` mm, below 0 where they
    break into each other, at (x, y) of the part's frame; ``spans``: how wide each of the two is, mm: across
    the largest circle in it.
    """

    front: str
    back: str
    left: float
    x: float
    y: float
    spans: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class _Taken:
    """Where something is taken off a face, in the part's frame, and how deep, mm."""

    name: str
    where: BaseGeometry
    deepest: float
    depth_at: DepthAt | None


def between(front: CutFace, back: CutFace, thickness: float) -> list[Between]:
    """What is left between every two features of the faces that lie over each other, the thinnest first. What
    goes through the part anyway is left out, and so are drillings that are to meet.
    """
    ours, theirs = _taken(front, thickness), _taken(back, thickness)
    out = []
    for a in ours:
        for b in theirs:
            over = shapely.intersection(a.where, b.where)
            if over.area < LEAST_OVERLAP or _meant_to_meet(a, b):
                continue
            found = _thinnest(a, b, over, thickness)
            out.append(replace(found, spans=(_across(a.where), _across(b.where))))
    return sorted(out, key=lambda w: w.left)


def _taken(face: CutFace, thickness: float) -> list[_Taken]:
    shape = mirrored_shape(face.shape) if face.mirrored else face.shape
    holes = shapely.union_all([shapely.Polygon(h.points(0.02)).buffer(0) for h in shape.region.holes])
    features = {f.name: f for f in shape.features}
    out = []
    for area in face.cuts.areas:
        if area.depth >= thickness - 1e-6 or area.depth <= 0:
            continue
        where = area.target.difference(holes).buffer(0)
        if where.is_empty:
            continue
        depth_at = None
        own = features.get(area.name)
        mesh = mesh_of(own, face.surfaces) if own is not None and own.kind == "relief" else None
        if own is not None and mesh is not None:
            depth_at = _depths(relief_of(own, mesh, round(thickness, 4), face.mirrored), face.mirrored)
        if face.mirrored:
            where = affine_transform(where, [-1, 0, 0, 1, 0, 0])
        out.append(_Taken(area.name, where, area.depth, depth_at))
    return out


def _depths(relief, mirrored: bool) -> DepthAt:  # type: ignore[no-untyped-def]
    def depth_at(points: Array) -> Array:
        own = points * (-1, 1) if mirrored else points
        return np.maximum(-relief.ground.heights(own), 0.0)

    return depth_at


def _across(where: BaseGeometry) -> float:
    """How wide an area is, mm."""
    return 2 * float(shapely.maximum_inscribed_circle(where, 0.5).length)


def _meant_to_meet(a: _Taken, b: _Taken) -> bool:
    """Is it one hole, drilled from both faces?"""
    both = a.name.startswith("drilling") and b.name.startswith("drilling")
    return both and a.where.centroid.distance(b.where.centroid) < MEET


def _thinnest(a: _Taken, b: _Taken, over: BaseGeometry, thickness: float) -> Between:
    if a.depth_at is None and b.depth_at is None:
        p = over.representative_point()
        return Between(a.name, b.name, thickness - a.deepest - b.deepest, p.x, p.y)

    def left(points: Array) -> Array:
        depths = [t.depth_at(points) if t.depth_at else np.full(len(points), t.deepest) for t in (a, b)]
        return thickness - depths[0] - depths[1]

    x0, y0, x1, y1 = over.bounds
    step = max(COARSE, ((x1 - x0) * (y1 - y0) / MOST_PLACES) ** 0.5)
    places = _grid(over, (x0, y0, x1, y1), step)
    stands = left(places)
    k = int(np.argmin(stands))
    x, y = places[k]
    fine = _grid(over, (x - step, y - step, x + step, y + step), max(FINE, step / 20))
    nearer = left(fine)
    j = int(np.argmin(nearer)) if len(nearer) else 0
    if len(nearer) and nearer[j] < stands[k]:
        return Between(a.name, b.name, float(nearer[j]), float(fine[j, 0]), float(fine[j, 1]))
    return Between(a.name, b.name, float(stands[k]), float(x), float(y))


def _grid(over: BaseGeometry, bounds: tuple[float, float, float, float], step: float) -> Array:
    """Places of a region in a grid, and one that surely lies in it."""
    x0, y0, x1, y1 = bounds
    xs, ys = np.arange(x0, x1 + step, step), np.arange(y0, y1 + step, step)
    xy = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    shapely.prepare(over)
    inside = xy[shapely.intersects_xy(over, xy[:, 0], xy[:, 1])]
    p = over.representative_point()
    return np.vstack([inside, [[p.x, p.y]]])
