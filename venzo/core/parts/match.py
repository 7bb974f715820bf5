"""A newer drawing of the same parts: which part is which, and which contour is which?"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely.affinity import translate
from shapely.geometry import Polygon

from venzo.core.geometry.regions import Region
from venzo.core.parts.shape import Feature, Shape

SAME_PART = 0.6
"""Share of common area (intersection over union) from which two outlines are versions of one part."""
SAME_HOLE = 0.3


def _overlap(a: Polygon, b: Polygon) -> float:
    common = a.intersection(b).area
    return common / (a.area + b.area - common) if common else 0.0


def _solid(region: Region) -> Polygon:
    return region.polygon(0.05).buffer(0)


def align(old: Shape, new: Region, old_origin: tuple[float, float]) -> tuple[float, float, float]:
    """Where the old part's frame lies in the new drawing, and how alike they then are.

    Tries the same place in the drawing, then lower left corners, centres, and each hole laid on each; the best overlap wins. Returns
    (x, y, share of common area).
    """
    a, b = _solid(old.region), _solid(new)
    ob, nb = old.region.outline.bbox, new.outline.bbox
    shifts = [old_origin, (nb[0] - ob[0], nb[1] - ob[1]), (nb[2] - ob[2], nb[3] - ob[3]), ((nb[0] + nb[2] - ob[0] - ob[2]) / 2, (nb[1] + nb[3] - ob[1] - ob[3]) / 2)]
    for h in old.region.holes[:6]:
        for g in new.holes[:6]:
            if abs(h.area - g.area) < 0.05 * abs(h.area):
                hb, gb = h.bbox, g.bbox
                shifts.append(((gb[0] + gb[2] - hb[0] - hb[2]) / 2, (gb[1] + gb[3] - hb[1] - hb[3]) / 2))
    scored = [(round(_overlap(translate(a, *s), b), 6), -k) for k, s in enumerate(shifts)]
    best = max(scored)  # at a tie the earlier, more conservative shift
    return (*shifts[-best[1]], best[0])


def rename(old: Shape, new: Region, features: Sequence[Feature], origin: tuple[float, float]) -> Shape:
    """The new region in the old part's frame, its contours named after those they overlap or lie nearest to.

    A hole that matches none gets a number not used before, so that a choice made for a lost hole can never slip to another.
    """
    own = Region(new.outline.moved(-origin[0], -origin[1]), tuple(h.moved(-origin[0], -origin[1]) for h in new.holes))
    olds = [(n, Polygon(c.points(0.05)).buffer(0)) for n, c in old.contours][1:]
    news = [Polygon(h.points(0.05)).buffer(0) for h in own.holes]
    pairs = []
    for i, g in enumerate(news):
        for n, h in olds:
            share = _overlap(h, g)
            near = h.centroid.distance(g.centroid) <= 0.5 * np.sqrt(max(h.area, g.area)) + 2.0 and 0.4 < h.area / max(g.area, 1e-9) < 2.5
            if share >= SAME_HOLE or near:
                pairs.append((share, -h.centroid.distance(g.centroid), i, n))
    names: dict[int, str] = {}
    for _share, _d, i, n in sorted(pairs, reverse=True):
        if i not in names and n not in names.values():
            names[i] = n
    used = max([int(n.split()[-1]) for n, _c in olds if n.split()[-1].isdigit()] or [0])
    for i in range(len(news)):
        if i not in names:
            used += 1
            names[i] = f"hole {used}"
    moved = [f.changed(lambda c: c.moved(-origin[0], -origin[1])) for f in features]
    return Shape(own, (old.names[0], *(names[i] for i in range(len(news)))), _named_features(old.features, moved))


def _named_features(olds: Sequence[Feature], news: Sequence[Feature]) -> tuple[Feature, ...]:
    """New features named after the nearest old one of their kind, each name once."""

    def middle(f: Feature) -> np.ndarray:
        b = f.contour.bbox
        return np.array([b[0] + b[2], b[1] + b[3]]) / 2

    pairs = sorted((float(np.hypot(*(middle(o) - middle(f)))), i, o.name) for i, f in enumerate(news) for o in olds if o.kind == f.kind)
    names: dict[int, str] = {}
    for far, i, name in pairs:
        if i not in names and name not in names.values() and far <= 10 + 0.25 * news[i].contour.length:
            names[i] = name
    used = {o.name for o in olds}
    out = []
    for i, f in enumerate(news):
        if i not in names:
            n = 1
            while f"{f.kind} {n}" in used:
                n += 1
            names[i] = f"{f.kind} {n}"
            used.add(names[i])
        out.append(Feature(f.kind, names[i], f.contour, f.depth))
    return tuple(out)
