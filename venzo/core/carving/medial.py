"""Where is the middle of a letter, and how far is the edge from there? The medial axis of closed regions,
from a segment Voronoi diagram.

The axis is the set of middles of the largest discs that fit (Blum 1967); it is a subset of the Voronoi
diagram of the boundary's segments and end points (Lee 1982). Branches that chords of a curve cause, and that
no drawing has, are cut where all their discs lie within a tolerance of one that stays; true corners keep
theirs right into the corner.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.geometry.voronoi import WIDEST, diagram
from venzo.core.memo import memo
from venzo.core.snags import BadInput

GRID = 1e-3
"""mm; corners of regions are taken to this grid, so that touching edges meet in common points."""
CHORD = 0.004
"""mm; chords under arcs of the boundary."""
PRUNE = 0.006
"""mm by which a disc of a cut branch may reach beyond those that stay."""
STEP = 0.002
"""mm; a curved stretch of the axis is followed within this."""
THIN = 0.003
"""mm; points left out of a branch lie within this of it, in plan and clearance together."""
MOST_SEGMENTS = 2_000_000


@dataclass(frozen=True, eq=False)
class Axis:
    """The medial axis as a graph. ``branches``: points (n, 3) of x, y and clearance (mm), between ends or
    forks; ``ends``: node numbers of their two ends.

    ``spots``: single points (k, 3) that stand alone, the middles of discs.
    """

    branches: list[Array]
    ends: list[tuple[int, int]]
    spots: Array

    @property
    def length(self) -> float:
        """Of all branches in plan, mm."""
        return float(sum(np.hypot(*np.diff(b[:, :2], axis=0).T).sum() for b in self.branches))

    @property
    def widest(self) -> float:
        """Largest clearance, mm."""
        return float(max([0.0, *(b[:, 2].max() for b in self.branches), *self.spots[:, 2]]))


def clean(area: BaseGeometry | Sequence[BaseGeometry]) -> list[Polygon]:
    """Polygons that do not overlap, slivers and dust below 0.0001 mm2 gone."""
    found = shapely.union_all(list(area)) if isinstance(area, Sequence) else shapely.make_valid(area)
    parts = found.geoms if hasattr(found, "geoms") else [found]
    return [
        p
        for part in parts
        for p in (part.geoms if hasattr(part, "geoms") else [part])
        if isinstance(p, Polygon) and p.area > 1e-4
    ]


def _on_grid(p: Polygon) -> list[Polygon]:
    """A polygon on the grid; its edges then touch in common points only."""
    found = shapely.set_precision(p, GRID)
    parts = found.geoms if hasattr(found, "geoms") else [found]
    return [shapely.orient_polygons(q) for q in parts if isinstance(q, Polygon) and q.area > 1e-4]


def boundary(polygons: Sequence[Polygon]) -> Array:
    """Segments (n, 4) of the boundary, the region to their left."""
    rows = []
    for p in polygons:
        for ring in (p.exterior, *p.interiors):
            c = shapely.get_coordinates(ring)
            rows.append(np.hstack([c[:-1], c[1:]]))
    s = np.concatenate(rows) if rows else np.empty((0, 4))
    return s[(s[:, :2] != s[:, 2:]).any(axis=1)]


def medial_axis(polygons: Sequence[Polygon], tolerance: float = 1.0) -> Axis:
    """The medial axis of polygons that do not overlap (see ``clean``).

    Args:
        polygons: outer rings counter-clockwise, holes clockwise.
        tolerance: share of the tolerances above; less for acute bits, for which a hair of width is much
        depth.

    Raises:
        BadInput: the drawing is larger than WIDEST, or has more than MOST_SEGMENTS corners.

    >>> from shapely.geometry import box
    >>> a = medial_axis([shapely.orient_polygons(box(0, 0, 30, 10))])
    >>> len(a.branches), a.widest, round(a.length - 20 - 4 * 5 * 2**0.5, 6)
    (5, 5.0, 0.0)
    """
    branches: list[Array] = []
    ends: list[tuple[int, int]] = []
    spots: list[Array] = []
    nodes = 0
    for p in polygons:
        x, y = p.bounds[:2]
        # reckoned from its own corner: like letters are one shape wherever they stand
        own = shapely.transform(p, lambda c, x=x, y=y: c - (x, y))
        rounded = np.round(shapely.get_coordinates(own), 6) + 0.0
        rings = [len(p.exterior.coords), *(len(i.coords) for i in p.interiors)]
        key = hashlib.sha256(rounded.tobytes()).hexdigest()[:32] + f"|{tolerance:g}|{rings}"
        a = memo("medial", key, partial(_axis, own, tolerance))
        shift = np.array([x, y, 0.0])
        branches += [b + shift for b in a.branches]
        ends += [(i + nodes, j + nodes) for i, j in a.ends]
        spots.append(a.spots + shift)
        nodes += max([0, *(max(e) + 1 for e in a.ends)])
    return Axis(branches, ends, np.concatenate(spots) if spots else np.empty((0, 3)))


def _axis(polygon: Polygon, tolerance: float) -> Axis:
    """The axis of one polygon near the origin."""
    segments = boundary(_on_grid(polygon))
    if not len(segments):
        return Axis([], [], np.empty((0, 3)))
    if len(segments) > MOST_SEGMENTS:
        raise BadInput(
            f"{len(segments)} corners are over the limit of {MOST_SEGMENTS} for one carved shape; carve it in"
            " parts, or flatten its curves more coarsely"
        )
    if np.abs(segments).max() > WIDEST:
        raise BadInput(f"the drawing is wider than {WIDEST / 1000:g} m; check its unit")
    xy, r, a, b = _inside(segments, tolerance)
    keep, gone = _pruned(xy, r, a, b, PRUNE * tolerance)
    alone = np.zeros(len(r), dtype=bool)
    alone[a] = alone[b] = True
    alone[a[keep]] = alone[b[keep]] = False  # no branch left: what spokes of a disc ran to, or was cut itself
    return _branches(xy, r, a[keep], b[keep], np.flatnonzero(alone & ~gone), THIN * tolerance)


def _inside(segments: Array, tolerance: float) -> tuple[Any, Any, Any, Any]:
    """Nodes (x, y), their clearance, and edges (a, b) of the diagram inside the region, curved stretches as
    chords.
    """
    vertices, edges, cells = diagram(segments)
    kinds = cells[edges[:, 2:4]][:, :, 1]
    sites = cells[edges[:, 2:4]][:, :, 0]
    # of each edge: a segment it is nearest to if there is one, and a point if there is one
    left = np.where(kinds[:, 0] == 0, 0, 1)
    rows = np.arange(len(edges))
    line = segments[sites[rows, left]]
    is_line = kinds[rows, left] == 0
    point_at = np.where(kinds[:, 0] != 0, 0, 1)
    which = kinds[rows, point_at]
    of = segments[sites[rows, point_at]]
    point = np.where((which == 2)[:, None], of[:, 2:], of[:, :2])
    p, q = vertices[edges[:, 0]], vertices[edges[:, 1]]
    mixed = is_line & (which != 0)  # a point on one side, a segment on the other: a parabola
    twin_points = ~is_line  # a point on either side: clearance is no straight line along it
    u = line[:, 2:] - line[:, :2]
    u /= np.maximum(np.hypot(*u.T), 1e-300)[:, None]
    x0, x1 = (np.einsum("ij,ij->i", v - line[:, :2], u) for v in (p, q))
    px = np.einsum("ij,ij->i", point - line[:, :2], u)
    n = np.column_stack([-u[:, 1], u[:, 0]])
    py = np.einsum("ij,ij->i", point - line[:, :2], n)
    height = np.where(mixed, np.abs(py), 1.0)
    flat = np.abs(py) < 1e-9  # a point on the segment's own line: its bisector is straight
    step = np.sqrt(8 * np.maximum(height, 1e-6) * STEP * tolerance)
    count = np.ones(len(edges), dtype=np.int64)
    curved = mixed & ~flat
    count[curved] = np.clip(np.ceil(np.abs(x1 - x0)[curved] / step[curved]), 1, 10_000).astype(np.int64)
    chord = np.hypot(*(q - p).T)
    d = np.hypot(*(p - point).T)
    e = np.hypot(*(q - point).T)
    apart = np.minimum(
        d, e
    )  # least distance is no less than that of the foot; the foot's own distance bounds the curvature
    with np.errstate(divide="ignore", invalid="ignore"):
        foot = np.abs((q - p)[:, 0] * (point - p)[:, 1] - (q - p)[:, 1] * (point - p)[:, 0]) / np.maximum(
            chord, 1e-300
        )
    bend = np.sqrt(8 * np.maximum(np.minimum(foot, apart), 1e-6) * STEP * tolerance)
    count[twin_points] = np.clip(np.ceil(chord[twin_points] / bend[twin_points]), 1, 10_000).astype(np.int64)

    # a point of each edge tells whether it lies inside: left of the segment it is nearest to
    mid_x = (x0 + x1) / 2
    side = np.where(py >= 0, 1.0, -1.0)
    mid_curve = (
        line[:, :2] + u * mid_x[:, None] + n * (side * ((mid_x - px) ** 2 + py**2) / (2 * height))[:, None]
    )
    mid = np.where(curved[:, None], mid_curve, (p + q) / 2)
    inside = np.einsum("ij,ij->i", mid - line[:, :2], n) > 0
    if twin_points.any():
        inside[twin_points] = shapely.contains_xy(_prepared(segments), mid[twin_points])
    # clearance at the vertices: to the segment or the point of any edge there
    r = np.zeros(len(vertices))
    for node, v in ((edges[:, 0], p), (edges[:, 1], q)):
        to_line = np.abs(np.einsum("ij,ij->i", v - line[:, :2], n))
        r[node] = np.where(is_line, to_line, np.hypot(*(v - point).T))
    r[r < 1e-4] = 0.0

    keep = np.flatnonzero(inside & (chord > 0))
    simple = keep[count[keep] == 1]
    more = keep[count[keep] > 1]
    starts, ends = [edges[simple, 0]], [edges[simple, 1]]
    extra_xy, extra_r = [], []
    if len(more):
        c = count[more]
        who = np.repeat(more, c - 1)
        k = np.arange(len(who)) - np.repeat(np.cumsum(c - 1) - (c - 1), c - 1) + 1
        t = k / count[who]
        x = x0[who] + (x1 - x0)[who] * t
        y = ((x - px[who]) ** 2 + py[who] ** 2) / (2 * height[who])
        on_curve = line[who, :2] + u[who] * x[:, None] + n[who] * (side[who] * y)[:, None]
        on_line = p[who] + (q - p)[who] * t[:, None]
        here = np.where(curved[who][:, None], on_curve, on_line)
        extra_xy.append(here)
        extra_r.append(np.where(curved[who], y, np.hypot(*(here - point[who]).T)))
        number = len(vertices) + np.arange(len(who))
        before = number - 1
        before[k == 1] = edges[who[k == 1], 0]
        starts.append(before)
        ends.append(number)
        last = k == count[who] - 1
        starts.append(number[last])
        ends.append(edges[who[last], 1])
    xy = np.concatenate([vertices, *extra_xy])
    return xy, np.concatenate([r, *extra_r]), np.concatenate(starts), np.concatenate(ends)


def _prepared(segments: Array) -> BaseGeometry:
    area = shapely.build_area(shapely.multilinestrings(shapely.linestrings(segments.reshape(-1, 2, 2))))
    shapely.prepare(area)
    return area


def _pruned(xy: Array, r: Array, a: Any, b: Any, tolerance: float) -> tuple[Any, Any]:
    n, m = len(r), len(a)
    who = np.concatenate([a, b])
    order = np.argsort(who, kind="stable")
    other = np.concatenate([b, a])[order]
    edge = np.concatenate([np.arange(m), np.arange(m)])[order]
    first = np.concatenate([[0], np.cumsum(np.bincount(who, minlength=n))])
    from venzo.core.carving.medial_kernel import prune  # here, since its compiler is dear to load

    return prune(np.ascontiguousarray(xy), r, first, other, edge, a, b, tolerance)


def _branches(xy: Array, r: Array, a: Any, b: Any, alone: Any, tolerance: float) -> Axis:
    """Chains of edges between nodes where one ends or several meet."""
    from venzo.core.carving.medial_kernel import thin  # here, since its compiler is dear to load

    n = len(r)
    degree = np.bincount(np.concatenate([a, b]), minlength=n)
    near: dict[int, list[tuple[int, int]]] = {}
    for e, (i, j) in enumerate(zip(a.tolist(), b.tolist(), strict=True)):
        near.setdefault(i, []).append((j, e))
        near.setdefault(j, []).append((i, e))
    used = np.zeros(len(a), dtype=bool)
    rows = np.column_stack([xy, r])
    branches: list[Array] = []
    ends: list[tuple[int, int]] = []

    def follow(start: int, to: int, e: int) -> None:
        chain = [start, to]
        used[e] = True
        while degree[to] == 2 and to != start:
            step = next(((j, k) for j, k in near[to] if not used[k]), None)
            if step is None:
                break
            to, e = step
            used[e] = True
            chain.append(to)
        points = rows[chain]
        branches.append(points[thin(points, tolerance)])
        ends.append((start, to))

    forks = [i for i in near if degree[i] != 2]
    for i in [*forks, *(j for j in near if degree[j] == 2)]:  # rings without a fork are started anywhere
        for j, e in near[i]:
            if not used[e]:
                follow(i, j, e)
    return Axis(branches, ends, rows[alone])
