"""Which pieces of material are joined to what, after every cut? Connectivity of a sheet through the time of
its program.

The sheet is divided once into *atoms*: what remains solid to the end, and what every cut takes away or leaves
thin for the first time. Atoms that touch are neighbours. A moment of the program is then a question to a
graph: which atoms are still there, and which of them are solid. Run backwards in time the cuts only ever join
pieces, so one union-find pass (Tarjan 1975; decremental connectivity by reversal) answers for every moment.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.holding.swath import GRID, surface

NEVER = 1 << 30
TOUCH = 4e-3
"""mm; atoms nearer than this are neighbours: they were one before they were divided."""
CHIP = 1.0
"""mm2; what is smaller than this falls as a chip."""
HAIR = 0.02
"""mm2; slivers of rounding between two kerfs."""


@dataclass(frozen=True)
class Divided:
    """A sheet as atoms. Atom ``i`` is solid until cut ``thin_at[i]`` and there until cut ``gone_at[i]``
    (NEVER: to the end); between them it is ``left[i]`` mm thick.

    ``polygons``: their shapes; ``near``: neighbours of each; ``by_cut``: atoms that each cut changes, by its
    index.
    """

    polygons: Array
    thin_at: Array
    gone_at: Array
    left: Array
    near: tuple[tuple[int, ...], ...]
    by_cut: tuple[tuple[int, ...], ...]
    through: tuple[float, ...]
    """mm2 that each cut opens through the whole thickness."""

    def from_moment(self, n: int) -> Divided:
        """The same with the first ``n`` cuts made already: they and what they did have numbers below 0."""
        never = self.thin_at == NEVER, self.gone_at == NEVER
        thin_at = np.where(never[0], NEVER, self.thin_at - n)
        gone_at = np.where(never[1], NEVER, self.gone_at - n)
        return replace(
            self, thin_at=thin_at, gone_at=gone_at, by_cut=self.by_cut[n:], through=self.through[n:]
        )

    @property
    def solid(self) -> list[int]:
        """Atoms that remain solid to the end."""
        return np.flatnonzero(self.thin_at == NEVER).tolist()

    def atoms_at(self, points: Array) -> list[int | None]:
        """The solid atom that holds each of some shapely points, or the nearest within 5 mm."""
        solid = self.solid
        out: list[int | None] = [None] * len(points)
        if solid and len(points):
            tree = STRtree(self.polygons[solid])
            for k, atom in zip(
                *tree.query_nearest(points, max_distance=5.0, all_matches=False).tolist(), strict=True
            ):
                out[k] = solid[atom]
        return out

    def alive(self, cut: int, solid: bool) -> Any:
        """Which atoms are there (solid) after cut number ``cut``; -1: before the first."""
        return (self.thin_at if solid else self.gone_at) > cut

    def joined(self, cut: int, solid: bool) -> Array:
        """For every atom a number that it shares with all it is joined to after a cut; -1 where it is gone.
        ``solid``: tabs and skins do not count.
        """
        there = self.alive(cut, solid)
        root = np.full(len(there), -1)
        for i in np.flatnonzero(there):
            if root[i] >= 0:
                continue
            root[i] = i
            todo = [int(i)]
            while todo:
                for n in self.near[todo.pop()]:
                    if there[n] and root[n] < 0:
                        root[n] = i
                        todo.append(n)
        return root


def divide(  # noqa: C901
    sheet: Polygon,
    through: Sequence[BaseGeometry | None],
    thin: Sequence[BaseGeometry | None],
    swath: Sequence[BaseGeometry | None],
    left: Sequence[float],
) -> Divided:
    """Divide a sheet by its cuts in their order.

    Args:
        sheet: the sheet. through, thin, swath, left: of every cut, in sheet coordinates (``Kerf``); None
        where a cut takes nothing of the kind.
    """
    polygons: list[BaseGeometry] = []
    thin_at: list[int] = []
    gone_at: list[int] = []
    thick: list[float] = []
    opened = [0.0] * len(swath)
    cutting = [k for k, g in enumerate(swath) if g is not None]
    geoms = np.array([swath[k] for k in cutting], dtype=object)
    shapely.prepare(sheet)
    inside = shapely.covers(sheet, geoms) if len(geoms) else np.zeros(0, dtype=bool)
    tree = STRtree(geoms)
    earlier: list[list[int]] = [[] for _ in cutting]
    if len(geoms):
        a, b = tree.query(geoms, predicate="intersects")
        for i, j in zip(a.tolist(), b.tolist(), strict=True):
            if j < i:
                earlier[i].append(j)
    thin_of: list[list[int]] = [[] for _ in cutting]

    def add(shape: BaseGeometry, since: int, gone: int, mm: float, at: int, least: float = HAIR) -> None:
        for p in parts_of(shape):
            if p.area > least:
                if mm and gone == NEVER:
                    thin_of[at].append(len(polygons))
                polygons.append(p)
                thin_at.append(since)
                gone_at.append(gone)
                thick.append(mm)

    for i, k in enumerate(cutting):
        whole, open_part, thin_part = swath[k], through[k], thin[k]
        assert whole is not None
        before = shapely.union_all(geoms[earlier[i]]) if earlier[i] else None

        def fresh(
            shape: BaseGeometry, within: bool = bool(inside[i]), before: BaseGeometry | None = before
        ) -> BaseGeometry:
            """What of a shape is on the sheet and was not taken by an earlier cut."""
            if not within:
                shape = surface(shapely.intersection(shape, sheet, grid_size=GRID))
            return surface(shapely.difference(shape, before, grid_size=GRID)) if before is not None else shape

        if open_part is not None:
            gone = fresh(open_part)
            add(gone, k, k, 0.0, i)
            opened[k] += gone.area
        if thin_part is not None:
            add(fresh(thin_part), k, NEVER, left[k], i)
        for j in earlier[i]:
            for n in list(thin_of[j]):
                if gone_at[n] != NEVER or not polygons[n].intersects(whole):
                    continue
                if open_part is not None and polygons[n].intersects(open_part):
                    cut_off = shapely.intersection(polygons[n], open_part, grid_size=GRID)
                    if cut_off.area > HAIR:
                        rest = shapely.difference(polygons[n], open_part, grid_size=GRID)
                        since, mm = thin_at[n], thick[n]
                        first, *others = sorted(parts_of(cut_off), key=lambda p: -p.area)
                        polygons[n], gone_at[n] = first, k
                        opened[k] += cut_off.area
                        for p in others:
                            add(p, since, k, mm, j)
                        add(rest, since, NEVER, mm, j)
                if (
                    gone_at[n] == NEVER
                    and left[k]
                    and left[k] < thick[n] - 1e-6
                    and polygons[n].difference(whole).area < HAIR
                ):
                    thick[n] = left[k]
    remains = sheet.difference(shapely.disjoint_subset_union_all(geoms)) if len(geoms) else sheet
    for p in parts_of(remains):
        if p.area > CHIP:
            polygons.append(p)
            thin_at.append(NEVER)
            gone_at.append(NEVER)
            thick.append(0.0)
    shapes = np.array(polygons, dtype=object)
    near: list[set[int]] = [set() for _ in polygons]
    cut_away = [
        i for i, t in enumerate(thin_at) if t != NEVER
    ]  # what stays solid touches nothing else that does
    if cut_away:
        edges, owner = _edges(shapes)
        a, b = STRtree(edges).query(shapes[cut_away], predicate="dwithin", distance=TOUCH)
        for i, j in zip(np.array(cut_away)[a].tolist(), owner[b].tolist(), strict=True):
            if i != j:
                near[i].add(j)
                near[j].add(i)
    by_cut: list[list[int]] = [[] for _ in swath]
    for i, (since, gone) in enumerate(zip(thin_at, gone_at, strict=True)):
        if since != NEVER:
            by_cut[since].append(i)
        if gone not in (NEVER, since):
            by_cut[gone].append(i)
    return Divided(
        shapes,
        np.array(thin_at, dtype=np.int64),
        np.array(gone_at, dtype=np.int64),
        np.array(thick),
        tuple(tuple(sorted(n)) for n in near),
        tuple(tuple(c) for c in by_cut),
        tuple(opened),
    )


CHUNK = 80
"""Corners of an outline that are asked for neighbours at a time: a skeleton has tens of thousands."""


def _edges(shapes: Array) -> tuple[Array, Array]:
    """Outlines in short stretches, and whose each is. Atoms do not overlap, so neighbours are those whose
    outlines meet.
    """
    rings, owner = shapely.get_rings(shapes, return_index=True)
    lines: list[BaseGeometry] = []
    whose: list[int] = []
    for ring, i in zip(rings, owner.tolist(), strict=True):
        xy = shapely.get_coordinates(ring)
        if len(xy) <= CHUNK + 1:
            lines.append(ring)
            whose.append(i)
            continue
        for k in range(0, len(xy) - 1, CHUNK):
            lines.append(shapely.linestrings(xy[k : k + CHUNK + 1]))
            whose.append(i)
    return np.array(lines, dtype=object), np.array(whose)


def parts_of(shape: BaseGeometry) -> list[Polygon]:
    """The polygons of any shape."""
    if shape.geom_type == "Polygon":
        return [] if shape.is_empty else [shape]
    return [p for g in getattr(shape, "geoms", ()) for p in parts_of(g)]


def moments(shapes: Array) -> Array:
    """Area, first moments about X0 Y0 and polar second moment about X0 Y0 of polygons: ``(n, 4)`` as A, int
    x, int y, int (x2 + y2); holes count off.

    Green's theorem on the rings' edges (exact for polygons).

    >>> from shapely.geometry import box
    >>> moments(np.array([box(0, 0, 2, 1)], dtype=object)).round(6).tolist()
    [[2.0, 2.0, 1.0, 3.333333]]
    """
    out = np.zeros((len(shapes), 4))
    if not len(shapes):
        return out
    shapes = shapely.orient_polygons(shapes)
    parts, owner = shapely.get_parts(shapes, return_index=True)
    rings, of_part = shapely.get_rings(parts, return_index=True)
    xy, of_ring = shapely.get_coordinates(rings, return_index=True)
    if not len(xy):
        return out
    same = of_ring[1:] == of_ring[:-1]
    x0, y0, x1, y1 = xy[:-1, 0][same], xy[:-1, 1][same], xy[1:, 0][same], xy[1:, 1][same]
    who = owner[of_part[of_ring[:-1][same]]]
    cross = x0 * y1 - x1 * y0
    for column, value in enumerate(
        (
            cross / 2,
            (x0 + x1) * cross / 6,
            (y0 + y1) * cross / 6,
            (x0**2 + x0 * x1 + x1**2 + y0**2 + y0 * y1 + y1**2) * cross / 12,
        )
    ):
        out[:, column] = np.bincount(who, value, len(shapes))
    return out
