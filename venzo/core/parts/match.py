"""A newer drawing of the same parts: which part is which, and which contour is which?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely.affinity import translate
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
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

    Tries the same place in the drawing, then lower left corners, centres, and each hole laid on each; the
    best overlap wins. Returns (x, y, share of common area).
    """
    a, b = _solid(old.region), _solid(new)
    ob, nb = old.region.outline.bbox, new.outline.bbox
    shifts = [
        old_origin,
        (nb[0] - ob[0], nb[1] - ob[1]),
        (nb[2] - ob[2], nb[3] - ob[3]),
        ((nb[0] + nb[2] - ob[0] - ob[2]) / 2, (nb[1] + nb[3] - ob[1] - ob[3]) / 2),
    ]
    for h in old.region.holes[:6]:
        for g in new.holes[:6]:
            if abs(h.area - g.area) < 0.05 * abs(h.area):
                hb, gb = h.bbox, g.bbox
                shifts.append(((gb[0] + gb[2] - hb[0] - hb[2]) / 2, (gb[1] + gb[3] - hb[1] - hb[3]) / 2))
    scored = [(round(_overlap(translate(a, *s), b), 6), -k) for k, s in enumerate(shifts)]
    best = max(scored)  # at a tie the earlier, more conservative shift
    return (*shifts[-best[1]], best[0])


SAME_IN_MIRROR, BETTER = 0.985, 0.003
"""Share of common area from which a part is the old one in a mirror, and by how much it must fit better so
than as it was.
"""
MOVED = 2.0
"""mm; features that lie this far off where they were, and fit in the mirror, tell a mirrored part whose
outline looks the same both ways.
"""


def mirrored_in_place(shape: Shape) -> Shape:
    """A part in a mirror that stands across X in its middle: its box stays where it is, names are kept."""
    box = shape.region.outline.bbox
    shift = box[0] + box[2]

    def turned(c: Contour) -> Contour:
        return c.placed(0, 0, 0, True).moved(shift, 0)

    region = Region(
        turned(shape.region.outline).oriented(True),
        tuple(turned(h).oriented(False) for h in shape.region.holes),
    )
    return Shape(
        region,
        shape.names,
        tuple(
            f.changed(lambda c: turned(c).oriented(True) if c.closed else turned(c)) for f in shape.features
        ),
    )


def _middles(contours: Sequence[Contour]) -> np.ndarray:
    return np.array([[(c.bbox[0] + c.bbox[2]) / 2, (c.bbox[1] + c.bbox[3]) / 2] for c in contours]).reshape(
        -1, 2
    )


def _furthest(olds: Sequence[Contour], news: Sequence[Contour], shift: tuple[float, float]) -> float:
    """How far the worst of the new contours lies from the nearest old one, by their middles, mm; infinity
    where their numbers differ.
    """
    if len(olds) != len(news):
        return float("inf")
    if not olds:
        return 0.0
    far = np.linalg.norm(_middles(news)[:, None] - (_middles(olds) + shift)[None], axis=2)
    return float(far.min(axis=1).max())


def seen_in_mirror(
    old: Shape,
    new: Region,
    features: Sequence[Feature],
    straight: tuple[float, float, float],
    old_origin: tuple[float, float],
) -> tuple[float, float, float] | None:
    """Where the old part's frame lies if the new one is the old one in a mirror, as ``align`` gives it; None
    where it is not, or might as well not be.

    ``straight``: what ``align`` says of it as it was.
    """
    turned = mirrored_in_place(old)
    x, y, share = align(turned, new, old_origin)
    if share < SAME_IN_MIRROR:
        return None
    if share > straight[2] + BETTER:
        return x, y, share
    inner = [*new.holes, *(f.contour for f in features)]
    as_it_was = _furthest([*old.region.holes, *(f.contour for f in old.features)], inner, straight[:2])
    in_mirror = _furthest([*turned.region.holes, *(f.contour for f in turned.features)], inner, (x, y))
    return (x, y, share) if in_mirror < MOVED < as_it_was else None


ON_IT, SAME_SIZE, FOUND = 0.05, 0.05, 1.0
"""mm; a point this near a contour is on it, boxes that differ by no more are of one size, and a place found
again by its box lies this near the contour.
"""


def carried(point: tuple[float, float], old: Contour, new: Contour) -> tuple[float, float]:
    """A place chosen on a contour, on its newer version: moved with it, or where it still is one, else at the
    same place of its box if that is on it. A place that is found no more stays where it was, to be spoken of.
    mm in the part's frame.

    >>> hole = Contour.of([(10, 10), (20, 10), (20, 20), (10, 20)])
    >>> square = Contour.of([(0, 0), (40, 0), (40, 40), (0, 40)])
    >>> carried((10, 15), hole, hole.moved(50, 0)), carried((10, 15), hole, square)
    ((60.0, 15.0), (0.0, 20.0))
    """
    a, b = old.bbox, new.bbox
    wide, high = (b[2] - b[0]) - (a[2] - a[0]), (b[3] - b[1]) - (a[3] - a[1])
    if max(abs(wide), abs(high)) <= SAME_SIZE:
        return (float(point[0] + b[0] - a[0]), float(point[1] + b[1] - a[1]))
    if new.nearest(*point)[1] <= ON_IT:
        return point
    share = [(p - low) / max(top - low, 1e-9) for p, low, top in zip(point, a[:2], a[2:], strict=True)]
    there = (float(b[0] + share[0] * (b[2] - b[0])), float(b[1] + share[1] * (b[3] - b[1])))
    return there if new.nearest(*there)[1] <= FOUND else point


def rename(old: Shape, new: Region, features: Sequence[Feature], origin: tuple[float, float]) -> Shape:
    """The new region in the old part's frame, its contours named after those they overlap or lie nearest to.

    A hole that lies elsewhere is an old one moved where just one old and one new of that size and form are
    left. One that matches none gets a number not used before, so that a choice made for a lost hole can never
    slip to another.
    """
    own = Region(
        new.outline.moved(-origin[0], -origin[1]), tuple(h.moved(-origin[0], -origin[1]) for h in new.holes)
    )
    olds = [(n, Polygon(c.points(0.05)).buffer(0)) for n, c in old.contours][1:]
    news = [Polygon(h.points(0.05)).buffer(0) for h in own.holes]
    pairs = []
    for i, g in enumerate(news):
        for n, h in olds:
            share = _overlap(h, g)
            near = (
                h.centroid.distance(g.centroid) <= 0.5 * np.sqrt(max(h.area, g.area)) + 2.0
                and 0.4 < h.area / max(g.area, 1e-9) < 2.5
            )
            if share >= SAME_HOLE or near:
                pairs.append((share, -h.centroid.distance(g.centroid), i, n))
    names: dict[int, str] = {}
    for _share, _d, i, n in sorted(pairs, reverse=True):
        if i not in names and n not in names.values():
            names[i] = n
    names |= _moved_away(
        {i: g for i, g in enumerate(news) if i not in names},
        {n: h for n, h in olds if n not in names.values()},
    )
    used = max([int(n.split()[-1]) for n, _c in olds if n.split()[-1].isdigit()] or [0])
    for i in range(len(news)):
        if i not in names:
            used += 1
            names[i] = f"hole {used}"
    moved = [f.changed(lambda c: c.moved(-origin[0], -origin[1])) for f in features]
    return Shape(
        own, (old.names[0], *(names[i] for i in range(len(news)))), _named_features(old.features, moved)
    )


def _moved_away(news: dict[int, Polygon], olds: dict[str, Polygon]) -> dict[int, str]:
    """New holes that are old ones moved far: alike in area, way round and box, and with no other of the kind
    on either side.
    """

    def alike(a: Polygon, b: Polygon) -> bool:
        sizes = [
            (p.area**0.5, p.length, p.bounds[2] - p.bounds[0], p.bounds[3] - p.bounds[1]) for p in (a, b)
        ]
        return all(abs(s - t) <= SAME_SIZE + 0.002 * s for s, t in zip(*sizes, strict=True))

    out = {}
    for i, g in news.items():
        mine = [n for n, h in olds.items() if alike(h, g)]
        if len(mine) == 1 and sum(alike(olds[mine[0]], k) for k in news.values()) == 1:
            out[i] = mine[0]
    return out


def _named_features(olds: Sequence[Feature], news: Sequence[Feature]) -> tuple[Feature, ...]:
    """New features named after the nearest old one of their kind, each name once."""

    def middle(f: Feature) -> np.ndarray:
        b = f.contour.bbox
        return np.array([b[0] + b[2], b[1] + b[3]]) / 2

    pairs = sorted(
        (float(np.hypot(*(middle(o) - middle(f)))), i, o.name)
        for i, f in enumerate(news)
        for o in olds
        if o.kind == f.kind
    )
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
        out.append(replace(f, name=names[i]))
    return tuple(out)
