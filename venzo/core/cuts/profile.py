"""Profiles: a cutter follows a contour on its waste side, down in passes, over its tabs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from shapely.geometry import Polygon
from shapely.ops import unary_union

from venzo.core.cuts.moves import LINE, RAPID, along, row
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.offset import offset
from venzo.core.snags import Snag, look, note, stop
from venzo.core.tolerances import SAME


@dataclass(frozen=True)
class ProfileSettings:
    """Numbers of one profile, all decided: mm and mm/min. ``levels`` are the pass depths, negative, last one deepest."""

    radius: float
    inside: bool
    climb: bool
    levels: tuple[float, ...]
    tab_top: float
    tab_width: float
    ramp_length: float
    feed: float
    plunge: float
    retract: float


@dataclass(frozen=True)
class Cut:
    """A planned cut in the part's frame: one ring of one contour by one cutter."""

    contour: str
    cutter: str
    operation: str
    inside: bool
    moves: Array
    path: Contour
    levels: tuple[float, ...]
    tabs: tuple[tuple[float, float], ...]
    """Tab middles on the part's contour (x, y)."""


def pass_levels(depth: float, passes: int) -> tuple[float, ...]:
    """Depths of equal passes, negative: ``pass_levels(18, 2) == (-9.0, -18.0)``."""
    return tuple(-depth * (k + 1) / passes for k in range(passes))


def cutter_rings(contour: Contour, radius: float, inside: bool) -> list[tuple[Contour, bool]]:
    """Paths of the cutter's middle along a contour, each with whether the kept material lies outside the path.

    Inside: the contour is a hole and the cutter stays in it. Outside: the contour is an outline; a bay with a mouth narrower
    than the cutter gives a further path within the bay.
    """
    solid = contour.oriented(True)
    if inside:
        return [(r.contour.oriented(True), True) for r in offset([solid], -radius) if not r.hole]
    return [(r.contour.oriented(True), r.hole) for r in offset([solid], radius)]


def unreached(contour: Contour, rings: list[tuple[Contour, bool]], radius: float, inside: bool) -> list[tuple[float, float, float]]:
    """Waste the cutter cannot reach: (x, y, mm2) of every patch larger than a square corner leaves, largest first."""
    region = Polygon(contour.points(0.01)).buffer(0)
    swept = unary_union([Polygon(c.points(0.01)).buffer(0).exterior.buffer(radius, quad_segs=32) for c, _o in rings])
    if inside:
        cores = unary_union([Polygon(c.points(0.01)).buffer(0) for c, _o in rings])
        rest = region.difference(swept.union(cores).buffer(0.02))
    else:
        shell = unary_union([Polygon(c.points(0.01)).buffer(0) for c, hole in rings if not hole])
        cores = unary_union([Polygon(c.points(0.01)).buffer(0) for c, hole in rings if hole])
        rest = shell.difference(unary_union([region, swept, cores]).buffer(0.02))
    patches = [rest] if rest.geom_type == "Polygon" else list(getattr(rest, "geoms", []))
    found = [(p.representative_point(), p.area) for p in patches if p.area > max(0.6 * radius**2, 0.5)]
    return sorted(((round(p.x, 3), round(p.y, 3), a) for p, a in found), key=lambda f: -f[2])


def start_of(ring: Contour, tabs: list[float], clear: float) -> float:
    """Distance along the ring at which to enter: the middle of the longest straight run, stepped aside from tabs."""
    segs = ring.segments()
    straight = [i for i, s in enumerate(segs) if s.bulge == 0] or list(range(len(segs)))
    i = max(straight, key=lambda k: segs[k].length)
    s = float(ring.starts[i]) + segs[i].length / 2
    total = ring.length
    for _ in range(len(tabs)):
        near = [t for t in tabs if abs((s - t + total / 2) % total - total / 2) < clear]
        if not near:
            break
        s = near[0] + clear
    return s % total


def profile_moves(ring: Contour, kept_outside: bool, tabs: list[tuple[float, float]], p: ProfileSettings) -> Array:
    """Moves for one ring: ramp in, full laps at every level, over tabs at ``tab_top``.

    Args:
        ring: path of the cutter's middle, counter-clockwise.
        kept_outside: the part lies outside the path (holes).
        tabs: (x, y) of tab middles on the part's contour.
        p: the settings.

    Clockwise around a part is climb cutting for a right-hand spindle; inside a hole counter-clockwise is.
    """
    path = ring if kept_outside == p.climb else ring.reversed()
    total = path.length
    lift = p.tab_width / 2 + p.radius  # the cutter's own radius eats into the tab from both sides
    middles = [path.nearest(x, y)[0] for x, y in tabs]
    s = start_of(path, middles, lift + 1.0) if not _blocked(middles, lift, total) else 0.0
    x, y = path.at(s)[:2]
    out = [row(RAPID, x, y, p.retract), row(LINE, x, y, 0.0, p.plunge)]
    before = 0.0
    for level in p.levels:
        drop = before - level
        ramp = min(p.ramp_length, max(3 * total, 5 * drop))
        end = s + ramp + total
        covered = [(a, b) for m in middles for lap in range(math.floor((s - m - lift) / total), math.ceil((end - m + lift) / total) + 1)
                   for a, b in [(m + lap * total - lift, m + lap * total + lift)] if b > s and a < end] if level < p.tab_top else []

        def height(at: float, s=s, before=before, drop=drop, ramp=ramp) -> float:
            return before - drop * min(1.0, max(0.0, (at - s) / ramp))

        cuts = {s, s + ramp, end}
        for a, b in covered:
            cuts.update(v for v in (a, b) if s < v < end)
        if drop > 0 and before > p.tab_top > level and covered:
            cuts.add(s + ramp * (before - p.tab_top) / drop)
        stops = sorted(cuts)
        for a, b in pairwise(stops):
            if b - a < 1e-4:
                continue
            middle = (a + b) / 2
            over = any(t0 < middle < t1 for t0, t1 in covered)
            z0, z1 = (max(height(v), p.tab_top) if over else height(v) for v in (a, b))
            px, py, pz = out[-1][1:4]
            if abs(pz - z0) > 1e-6:
                out.append(row(LINE, px, py, z0, p.plunge if z0 < pz else p.feed))
            sloped = abs(z1 - z0) > SAME
            feed = p.feed if not sloped else min(p.feed, max(p.plunge, p.plunge * math.hypot(b - a, z1 - z0) / abs(z1 - z0)))
            done = 0.0
            for seg in path.walk(a, b):
                done += seg.length
                out.append(along(seg, z0 + (z1 - z0) * min(1.0, done / (b - a)), feed))
        s, before = end, level
    return np.array(out)


def _blocked(middles: list[float], lift: float, total: float) -> bool:
    return bool(middles) and len(middles) * 2 * (lift + 1) > total


def plan_profile(name: str, contour: Contour, cutter: str, operation: str, p: ProfileSettings, tabs: list[tuple[float, float]],
                 where: dict, label: str) -> tuple[list[Cut], list[Snag]]:
    """All cuts along one contour and what is to be said about them.

    ``label`` names the contour for people (part and contour); ``where`` names it for the screen.
    """
    d = 2 * p.radius
    rings = cutter_rings(contour, p.radius, p.inside)
    snags: list[Snag] = []
    if not rings:
        b = contour.bbox
        size = f"{b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm"
        return [], [stop("cuts.too-small", f"{label}: {size} cannot be entered by the {d:g} mm cutter; choose a smaller cutter, or leave it out", where)]
    if p.inside and len(rings) > 1:
        snags.append(look("cuts.neck", f"{label}: a neck narrower than the {d:g} mm cutter splits it into {len(rings)} separate cuts", where))
    patches = unreached(contour, rings, p.radius, p.inside)
    if patches:
        x, y, _a = patches[0]
        area = sum(a for _x, _y, a in patches)
        snags.append(look("cuts.unreached", f"{label}: the {d:g} mm cutter leaves {area:.1f} mm2 uncut in {len(patches)} place{'s' * (len(patches) != 1)}, "
                          f"the largest at {x:.1f}, {y:.1f}", {**where, "x": x, "y": y}))
    cuts = []
    outer = max(range(len(rings)), key=lambda k: abs(rings[k][0].area))
    order = sorted(range(len(rings)), key=lambda k: (k == outer, k))  # bays first, the main path last
    for k in order:
        ring, kept_outside = rings[k]
        own = [t for t in tabs if _nearest_ring(t, rings) == k]
        moves = profile_moves(ring, kept_outside, own, p)
        cuts.append(Cut(name, cutter, operation, p.inside or kept_outside, moves, ring, p.levels, tuple(own)))
    if p.inside and not tabs:
        cores = [r for r, _o in rings]
        wide = max((min(_inradius_box(r, p.radius)) for r in cores), default=0.0)
        if wide > 25.0:
            snags.append(note("holding.drop", f"{label}: the drop comes free at its last pass; vacuum or two tabs keep it from tipping", where))
    return cuts, snags


def _inradius_box(ring: Contour, radius: float) -> tuple[float, float]:
    """Box of the drop left inside a path, mm."""
    b = ring.bbox
    return b[2] - b[0] - 2 * radius, b[3] - b[1] - 2 * radius


def _nearest_ring(point: tuple[float, float], rings: list[tuple[Contour, bool]]) -> int:
    return min(range(len(rings)), key=lambda k: rings[k][0].nearest(*point)[1])
