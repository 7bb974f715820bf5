"""A model as triangles: what is wrong with it, and its outline in plan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput, Snag, look, note
from venzo.core.voice import counted

MOST_TRIANGLES = 3_000_000
"""Of one model; what has more is refused."""
SMALL, LARGE = 5.0, 5000.0
"""mm: a model that is smaller or larger in plan was most likely drawn in another unit."""
SPECK = 1e-3
"""mm2: open edges about less are no hole that matters."""

Ints = npt.NDArray[np.int64]


SAME = 1e-7
"""mm; corners nearer than this are one."""


def alike(points: Array) -> tuple[Ints, Ints]:
    """Which of some points (n, 3) are the same: the first of each, and for every point its number.

    >>> first, which = alike(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1e-9]], float))
    >>> first.tolist(), which.tolist()
    ([0, 1], [0, 1, 0])
    """
    grid = np.round(points / SAME).astype(np.int64)
    order = np.lexsort(grid.T[::-1])
    g = grid[order]
    new = np.ones(len(g), dtype=bool)
    new[1:] = (g[1:] != g[:-1]).any(axis=1)
    which = np.empty(len(g), dtype=np.int64)
    which[order] = np.cumsum(new) - 1
    return order[new], which


@dataclass(frozen=True, eq=False)
class Mesh:
    """A model: ``points`` (n, 3) in mm, and ``faces`` (m, 3), the numbers of their corners."""

    name: str
    points: Array
    faces: Ints

    @classmethod
    def of(cls, name: str, points: Array, faces: Ints) -> Mesh:
        """A sound mesh: like corners made one, faces without area left out.

        Raises:
            BadInput: no faces, too many, or a corner that is no number.
        """
        if not len(faces):
            raise BadInput(f"{name}: there are no faces in it; export the model as triangles")
        if len(faces) > MOST_TRIANGLES:
            raise BadInput(
                f"{name}: {len(faces):,} triangles; at most {MOST_TRIANGLES:,} are taken: export it coarser"
            )
        if not np.isfinite(points).all():
            bad = int(np.flatnonzero(~np.isfinite(points).all(axis=1))[0])
            raise BadInput(f"{name}: corner {bad + 1} is no number; export the model again")
        if faces.min() < 0 or faces.max() >= len(points):
            raise BadInput(f"{name}: a face names a corner that is not there; export the model again")
        first, which = alike(points)
        faces = which[faces]
        distinct = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
        faces = faces[distinct]
        used, faces = np.unique(faces, return_inverse=True)
        out = cls(name, np.asarray(points[first][used], dtype=float), faces.reshape(-1, 3))
        if not len(out.faces) or not (np.ptp(out.points[:, :2], axis=0) > 1e-9).all():
            raise BadInput(f"{name}: its faces cover no area in plan; there is nothing to carve")
        return out

    @property
    def triangles(self) -> Array:
        """Corners of every face (m, 3, 3)."""
        return self.points[self.faces]

    @property
    def box(self) -> tuple[Array, Array]:
        """Lowest and highest x, y, z."""
        return self.points.min(axis=0), self.points.max(axis=0)

    @cached_property
    def in_plan(self) -> Array:
        """Twice the area of every face in plan: above 0 where it looks up."""
        t = self.triangles[:, :, :2]
        u, v = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
        return u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]

    @cached_property
    def edges(self) -> tuple[Ints, Ints, Ints]:
        """Every edge as its two corners, ascending; how many faces have it; in how many of them it runs from
        the first to the second.
        """
        ends = np.stack([self.faces, np.roll(self.faces, -1, axis=1)], axis=2).reshape(-1, 2)
        low, high = ends.min(axis=1), ends.max(axis=1)
        key, which, many = np.unique(low * len(self.points) + high, return_inverse=True, return_counts=True)
        along = np.bincount(which.reshape(-1), weights=(ends[:, 0] < ends[:, 1]), minlength=len(key))
        edge = np.column_stack([key // len(self.points), key % len(self.points)])
        return edge, many.astype(np.int64), along.astype(np.int64)

    @property
    def closed(self) -> bool:
        """Is every edge shared by two faces that look the same way round?"""
        _edge, many, along = self.edges
        return bool((many == 2).all() and (along == 1).all())

    @cached_property
    def _up(self) -> Array:
        """Above 0 where a face looks up, of a closed model that may be turned inside out."""
        t = self.triangles
        volume = float(np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum())
        return self.in_plan if volume >= 0 else -self.in_plan

    @property
    def faces_down(self) -> npt.NDArray[np.bool_]:
        """Of a closed model: which faces look down?"""
        return self._up < -1e-12

    @cached_property
    def seen(self) -> Mesh:
        """What can be seen from above: of a closed model only the faces that look up or stand upright."""
        if not self.closed:
            return self
        return Mesh(self.name, self.points, self.faces[~self.faces_down])

    @cached_property
    def outline(self) -> BaseGeometry:
        """What the model covers in plan, mm."""
        up = self.seen
        area = np.abs(up.in_plan) / 2
        faces = up.faces[area > 1e-12]
        rim = _rims(up.points[:, :2], faces)
        # where faces lie over one another the rims enclose less than the faces have
        if rim is not None and abs(rim.area - float(area.sum())) < 1e-6 * max(1.0, float(area.sum())):
            return _filled(rim)
        flat = up.points[faces][:, :, :2]
        return _filled(shapely.union_all(shapely.set_precision(shapely.polygons(flat), 1e-6)))

    def placed(self, scale: tuple[float, float, float], shift: tuple[float, float, float]) -> Mesh:
        """The mesh scaled about the origin, then shifted."""
        return Mesh(self.name, self.points * scale + shift, self.faces)

    def faults(self) -> list[Snag]:
        """What is wrong with it: holes, faces turned over, edges of many faces, a likely other unit."""
        edge, many, along = self.edges
        out: list[Snag] = []
        open_edges = edge[many == 1]
        low, high = self.box
        if len(open_edges) and len(open_edges) < len(self.faces) / 2:
            rims = shapely.get_parts(
                shapely.line_merge(shapely.multilinestrings([shapely.linestrings(self.points[open_edges])]))
            )
            holes = [g for g in rims.tolist() if not _is_rim(g, low, high)]
            if holes:
                longest = max(holes, key=lambda g: g.length)
                x, y = longest.centroid.x, longest.centroid.y
                out.append(
                    look(
                        "relief.holes",
                        f"{self.name}: {counted(len(holes), 'hole')} in its surface, the longest"
                        f" {longest.length:.1f} mm round, near {x:.1f}, {y:.1f} mm: the cutter"
                        " goes down into it as far as its shape lets it; close it in the modeller",
                        {"x": round(x, 3), "y": round(y, 3)},
                    )
                )
        flipped = int(((many == 2) & (along != 1)).sum())
        if flipped:
            out.append(
                note(
                    "relief.flipped",
                    f"{self.name}: faces beside one another look opposite ways along"
                    f" {counted(flipped, 'edge')}; the cutter rests on both sides alike",
                )
            )
        tangled = int((many > 2).sum())
        if tangled:
            out.append(
                note(
                    "relief.tangled",
                    f"{self.name}: {counted(tangled, 'edge')} of more than two faces; the highest counts",
                )
            )
        wide = float(max(high[:2] - low[:2]))
        if not SMALL <= wide <= LARGE:
            unit = "metres or inches" if wide < SMALL else "thousandths of an inch or micrometres"
            out.append(
                look(
                    "relief.unit",
                    f"{self.name} is {wide:.4g} mm across: was it drawn in {unit}? Give the size it is to"
                    " have",
                )
            )
        return out


def _rims(points: Array, faces: Ints) -> BaseGeometry | None:
    """What the edges that only one face has enclose, evenly (a hole in a hole is none)."""
    ends = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2)
    key = np.sort(ends, axis=1)
    order = np.lexsort((key[:, 1], key[:, 0]))
    k = key[order]
    first = np.ones(len(k), dtype=bool)
    first[1:] = (k[1:] != k[:-1]).any(axis=1)
    begins = np.flatnonzero(first)
    many = np.diff(np.concatenate([begins, [len(k)]]))
    rim = k[begins[many == 1]]
    if not len(rim):
        return None
    lines = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(points[rim])))
    closed = [shapely.Polygon(g.coords) for g in lines.tolist() if g.is_closed and len(g.coords) > 3]
    if len(closed) != len(lines):
        return None
    out: BaseGeometry = Polygon()
    for ring in sorted(closed, key=lambda g: -g.area):
        if not ring.is_valid:
            return None
        out = out.symmetric_difference(ring)
    return out


def _filled(found: BaseGeometry) -> BaseGeometry:
    """An area without slivers and pin holes between faces."""
    parts = [p for p in shapely.get_parts(found.buffer(0)).tolist() if p.area > SPECK]
    clean = [Polygon(p.exterior, [r for r in p.interiors if Polygon(r).area > SPECK]) for p in parts]
    return clean[0] if len(clean) == 1 else MultiPolygon(clean)


def _is_rim(rim: BaseGeometry, low: Array, high: Array) -> bool:
    """Does an open rim go round the whole model in plan, as that of a surface without an underside does?"""
    x0, y0, x1, y1 = rim.bounds
    span = high[:2] - low[:2]
    return bool(x1 - x0 > 0.98 * span[0] and y1 - y0 > 0.98 * span[1])
