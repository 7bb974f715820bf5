"""Bridges of a stencil: what holds an island in the hole around it."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from venzo.core.geometry.fit import fit
from venzo.core.geometry.many import polygons
from venzo.core.geometry.regions import Region
from venzo.core.tolerances import FLATTEN, REFIT_DRAWN

DIRECTIONS = 72


def inside_of(found: list[Region]) -> list[tuple[int, int] | None]:
    """For each region the (region, hole) it lies in, or None."""
    holes = [(k, h, c) for k, r in enumerate(found) for h, c in enumerate(r.holes)]
    out: list[tuple[int, int] | None] = [None] * len(found)
    if not holes:
        return out
    solids = polygons([c for *_kh, c in holes], 0.05)
    tree = shapely.STRtree(solids)
    spots = shapely.points(np.array([r.outline.vertices[0, :2] for r in found]))
    area = shapely.area(solids)
    for i, j in tree.query(spots, predicate="within").T.tolist():
        k, h, _c = holes[j]
        if k == i or abs(found[i].outline.area) > area[j]:
            continue
        now = out[i]
        if now is None or area[j] < abs(found[now[0]].holes[now[1]].area):
            out[i] = (k, h)
    return out


def bridge(found: list[Region], width: float, per_island: int = 2) -> tuple[list[Region], int]:
    """Islands joined to what is around them by straight bridges where the gap is shortest, spread about the
    island.

    Returns the regions, islands now part of their surroundings, and how many were joined. The hole around a
    bridged island is refitted.
    """
    owners = inside_of(found)
    # innermost first, so that an island within an island is joined before its own surroundings are
    order = sorted(
        (i for i, o in enumerate(owners) if o is not None), key=lambda i: abs(found[i].outline.area)
    )
    now: dict[int, Region] = dict(enumerate(found))
    done = 0
    for i in order:
        owner = owners[i]
        assert owner is not None
        host, island = now[owner[0]], now[i]
        hole_index = next(
            (
                k
                for k, h in enumerate(host.holes)
                if Polygon(h.points(0.05)).contains(shapely.Point(*island.outline.vertices[0, :2]))
            ),
            None,
        )
        if hole_index is None:
            continue
        hole = Polygon(host.holes[hole_index].points(FLATTEN))
        solid = Polygon(island.outline.points(FLATTEN))
        rest = hole.difference(solid)
        for strip in _strips(hole, solid, width, per_island):
            rest = rest.difference(strip)
        pieces = [p for p in shapely.get_parts(rest).tolist() if isinstance(p, Polygon) and p.area > 1e-2]
        if not pieces or any(
            p.interiors and any(Polygon(q).contains(solid.representative_point()) for q in p.interiors)
            for p in pieces
        ):
            continue
        loops = [fit(np.array(p.exterior.coords)[:-1], True, REFIT_DRAWN / 2).oriented(False) for p in pieces]
        holes = [h for k, h in enumerate(host.holes) if k != hole_index]
        now[owner[0]] = Region(host.outline, (*holes, *loops, *island.holes))
        del now[i]
        done += 1
    return list(now.values()), done


def _strips(hole: Polygon, solid: Polygon, width: float, count: int) -> list[Polygon]:
    """Rectangles from the island across the gap, shortest first, well apart in direction."""
    c = solid.representative_point() if not solid.contains(solid.centroid) else solid.centroid
    b = hole.bounds
    far = math.hypot(b[2] - b[0], b[3] - b[1])
    found = []
    for k in range(DIRECTIONS):
        w = 2 * math.pi * k / DIRECTIONS
        d = np.array([math.cos(w), math.sin(w)])
        ray = LineString([(c.x, c.y), (c.x + far * d[0], c.y + far * d[1])])
        gap = ray.intersection(hole.difference(solid))
        parts = [g for g in shapely.get_parts(gap).tolist() if isinstance(g, LineString) and g.length > 1e-6]
        if not parts:
            continue
        out = max(c.distance(shapely.Point(p.coords[-1])) for p in parts)
        found.append((sum(p.length for p in parts), w, out, d))
    chosen: list[tuple[float, float, float, np.ndarray]] = []
    for f in sorted(found, key=lambda f: f[0]):
        if all(
            abs((f[1] - g[1] + math.pi) % (2 * math.pi) - math.pi) > math.pi * 1.3 / max(count, 1)
            for g in chosen
        ):
            chosen.append(f)
        if len(chosen) == count:
            break
    lines = [
        LineString([(c.x, c.y), (c.x + (out + width) * d[0], c.y + (out + width) * d[1])])
        for _g, _w, out, d in chosen
    ]
    return [line.buffer(width / 2, cap_style="flat").intersection(hole.buffer(width)) for line in lines]
