"""Profiles: a cutter follows a contour on its waste side, down in passes, over its tabs."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

from shapely.geometry import Polygon
from shapely.ops import unary_union

from venzo.core.cuts.depths import Stretch
from venzo.core.cuts.leads import Lead, fitting_lead
from venzo.core.cuts.track import Track, run
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.offset import offset
from venzo.core.tolerances import SAME

SHARP = math.cos(math.radians(40))
"""A path that turns by more than 40 degrees at a vertex has a corner there."""
ZIGZAG = 20.0
"""mm; stroke of a zigzag entry at most."""


@dataclass(frozen=True)
class ProfileSettings:
    """Numbers of one profile, all decided: mm and mm/min. ``levels`` are the pass depths, negative, last one
    deepest.
    """

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
    begins: float = 0.0
    entry: str = "ramp"
    lead: str = "none"
    lead_length: float = 0.0
    corner_feed: float = 1.0
    sloped: bool = False
    """Tab tops rise and fall along the cut."""
    stretches: tuple[Stretch, ...] = ()
    """Runs of the ring that are cut in passes of their own first: nothing opened them."""
    only: bool = False
    """Nothing but the stretches is cut."""


def cutter_rings(contour: Contour, radius: float, inside: bool) -> list[tuple[Contour, bool]]:
    """Paths of the cutter's middle along a contour, each with whether the kept material lies outside the
    path.

    Inside: the contour is a hole and the cutter stays in it. Outside: the contour is an outline; a bay with a
    mouth narrower than the cutter gives a further path within the bay.
    """
    solid = contour.oriented(True)
    if radius <= SAME:
        return [(solid, inside)]
    if inside:
        return [(r.contour.oriented(True), True) for r in offset([solid], -radius) if not r.hole]
    return [(r.contour.oriented(True), r.hole) for r in offset([solid], radius)]


def rounded(rings: list[tuple[Contour, bool]], by: float) -> list[tuple[Contour, bool]]:
    """Rings whose corners towards the kept material are rounded to a radius ``by``, so that the cutter sweeps
    through them without dwelling.

    The path only moves away from the part; what it leaves there is for a later pass.
    """
    out = []
    for ring, outside in rings:
        way = -by if outside else by
        moved = [r.contour.oriented(True) for r in offset([ring], way) if not r.hole]
        back = [r.contour.oriented(True) for m in moved for r in offset([m], -way) if not r.hole]
        out += [(b, outside) for b in back] or [(ring, outside)]
    return out


def unreached(
    contour: Contour, rings: list[tuple[Contour, bool]], radius: float, inside: bool
) -> list[tuple[float, float, float]]:
    """Waste the cutter cannot reach: (x, y, mm2) of every patch larger than a square corner leaves, largest
    first.
    """
    region = Polygon(contour.points(0.01)).buffer(0)
    if not inside and region.area >= region.convex_hull.area * (1 - 1e-9):
        return []
    swept = unary_union(
        [Polygon(c.points(0.01)).buffer(0).exterior.buffer(radius, quad_segs=32) for c, _o in rings]
    )
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


def start_of(
    ring: Contour, tabs: list[float], clear: float, wanted: tuple[float, float] | None = None
) -> float:
    """Distance along the ring at which to enter: where wanted, else the middle of the longest straight run;
    stepped aside from tabs.
    """
    if wanted is not None:
        s = ring.nearest(*wanted)[0]
    else:
        segs = ring.segments()
        straight = [i for i, g in enumerate(segs) if g.bulge == 0] or list(range(len(segs)))
        i = max(straight, key=lambda k: segs[k].length)
        s = float(ring.starts[i]) + segs[i].length / 2
    total = ring.length
    for _ in range(len(tabs)):
        near = [t for t in tabs if abs((s - t + total / 2) % total - total / 2) < clear]
        if not near:
            break
        s = near[0] + clear
    return s % total


def other_starts(ring: Contour) -> list[float]:
    """Middles of the six longest runs, where a lead may find room."""
    segs = ring.segments()
    order = sorted(range(len(segs)), key=lambda k: -segs[k].length)[:6]
    return [float(ring.starts[k]) + segs[k].length / 2 for k in order]


def sharp_corners(path: Contour) -> list[float]:
    """Distances along a closed path at which it turns by more than 40 degrees."""
    segs = path.segments()
    out = []
    for k, (a, b) in enumerate(zip([*segs[-1:], *segs[:-1]], segs, strict=True)):
        _x, _y, ax, ay = a.at(1.0)
        _x, _y, bx, by = b.at(0.0)
        if ax * bx + ay * by < SHARP:
            out.append(float(path.starts[k]))
    return out


def profile_moves(
    ring: Contour,
    kept_outside: bool,
    tabs: list[tuple[float, float]],
    p: ProfileSettings,
    start: tuple[float, float] | None = None,
    clear: Callable[[list[tuple[float, float]]], bool] | None = None,
) -> tuple[Array, Lead | None]:
    """Moves for one ring: entry, full laps at every level, over tabs at ``tab_top``; and the lead that was
    used.

    Args:
        ring: path of the cutter's middle, counter-clockwise.
        kept_outside: the part lies outside the path (holes).
        tabs: (x, y) of tab middles on the part's contour.
        p: the settings.
        start: where to enter, if a person said so.
        clear: may the cutter's middle be at these points? Asked of leads.

    Clockwise around a part is climb cutting for a right-hand spindle; inside a hole counter-clockwise is.
    """
    path = ring if kept_outside == p.climb else ring.reversed()
    total = path.length
    lift = p.tab_width / 2 + p.radius  # the cutter's own radius eats into the tab from both sides
    middles = [path.nearest(x, y)[0] for x, y in tabs]
    blocked = bool(middles) and len(middles) * 2 * (lift + 1) > total
    s = 0.0 if blocked else start_of(path, middles, lift + 1.0, start)
    lead = None
    if p.lead != "none" and clear is not None and not p.only:
        waste_left = kept_outside == (path is ring)
        aside = [
            o
            for o in other_starts(path)
            if all(abs((o - m + total / 2) % total - total / 2) > lift + 1 for m in middles)
        ]
        lead = fitting_lead(path, s, waste_left, p.lead, p.lead_length, [] if start else aside, clear)
        s = lead.s if lead else s
    tabs_ = _Tabs(tuple(middles), lift)
    corners = sharp_corners(path) if p.corner_feed < 1 else []
    track = Track(p.retract, p.feed, p.plunge)
    first = lead.into[0].at(0.0)[:2] if lead else path.at(s)[:2]
    if not p.only:
        track.over(*first)
    before = p.begins
    for stretch in p.stretches:
        a = stretch.start if path is ring else ring.reversed_at(stretch.end)
        _cut_apart(track, path, a, a + stretch.end - stretch.start, stretch, tabs_, p)
    if p.only:
        return track.array(), None
    if p.stretches:
        track.over(*first)
    if not lead:
        track.down(min(0.0, before))
    for level in p.levels:
        if lead:
            track.over(*first)
            track.down(level)
            track.follow(lead.into, level, level, sum(g.length for g in lead.into))
            ramp = 0.0
        else:
            ramp = _descend(track, path, s, before, level, p, bool(middles) and level < p.tab_top)
        _run(track, path, s, s + ramp + total, ramp, before, level, tabs=tabs_, corners=corners, p=p)
        if lead:
            track.follow(lead.out, track.at[2], track.at[2], sum(g.length for g in lead.out))
        else:
            s += ramp
        before = level
    return track.array(), lead


def _descend(
    track: Track, path: Contour, s: float, before: float, level: float, p: ProfileSettings, over_tabs: bool
) -> float:
    """Enter a level; returns the length of ramp that the lap itself still has to descend over (0: at depth
    already).
    """
    drop = before - level
    if drop <= SAME:
        return 0.0
    total = path.length
    if p.entry == "plunge":
        track.down(level)
        return 0.0
    if p.entry == "zigzag" and not over_tabs:
        stroke = min(ZIGZAG, p.ramp_length / 2, total / 3)
        strokes = 2 * max(1, round(p.ramp_length / (2 * stroke)))
        for k in range(strokes):
            a, b = before - drop * k / strokes, before - drop * (k + 1) / strokes
            track.follow(run(path, s, s + stroke) if k % 2 == 0 else run(path, s + stroke, s), a, b, stroke)
        return 0.0
    if p.entry == "helix":
        return max(total, min(p.ramp_length, 3 * total))
    return min(p.ramp_length, max(3 * total, 5 * drop))


@dataclass(frozen=True)
class _Tabs:
    """Where tabs stand along a path (distances of their middles), and from how far off a cutter rises over
    them, mm.
    """

    middles: tuple[float, ...]
    lift: float

    def reversed(self, path: Contour) -> _Tabs:
        """Where they stand along the path travelled the other way."""
        return _Tabs(tuple(path.reversed_at(m) for m in self.middles), self.lift)


def _cut_apart(
    track: Track, path: Contour, start: float, end: float, stretch: Stretch, tabs: _Tabs, p: ProfileSettings
) -> None:
    """A run of the path in passes of its own: down a ramp from its start, back over the ramp's floor, then
    along to its end in the path's direction.
    """
    before = stretch.begins
    long = min(p.ramp_length, end - start)
    for level in stretch.depths:
        track.over(*path.at(start)[:2])
        track.down(before)
        if p.entry != "plunge":
            _run(track, path, start, start + long, long, before, level, tabs=tabs, corners=[], p=p)
            back = path.reversed_at(start + long)
            there = tabs.reversed(path)
            _run(track, path.reversed(), back, back + long, 0.0, level, level, tabs=there, corners=[], p=p)
        _run(track, path, start, end, 0.0, level, level, tabs=tabs, corners=[], p=p)
        before = level


def _run(
    track: Track,
    path: Contour,
    s: float,
    end: float,
    ramp: float,
    before: float,
    level: float,
    *,
    tabs: _Tabs,
    corners: list[float],
    p: ProfileSettings,
) -> None:
    """From ``s`` to ``end`` along the path: down a ramp first, if any, then at the level; over tabs at their
    height.
    """
    total, middles, lift = path.length, tabs.middles, tabs.lift
    drop = before - level

    def windows(at: list[float], reach: float) -> list[tuple[float, float]]:
        return [
            (a, b)
            for m in at
            for lap in range(math.floor((s - m - reach) / total), math.ceil((end - m + reach) / total) + 1)
            for a, b in [(m + lap * total - reach, m + lap * total + reach)]
            if b > s and a < end
        ]

    covered = windows(list(middles), lift) if level < p.tab_top else []
    slow = windows(corners, max(p.radius / 2, 1.0)) if corners else []

    tips = [m for m in middles if p.sloped]

    def top(at: float) -> float:
        """Z of the tabs' tops: level over the cutter's radius, then falling to the floor of the cut where
        they slope.
        """
        if not tips:
            return p.tab_top
        away = min(abs((at - m + total / 2) % total - total / 2) for m in tips)
        return p.tab_top - (p.tab_top - level) * min(
            1.0, max(0.0, (away - p.radius) / max(lift - p.radius, SAME))
        )

    def height(at: float) -> float:
        return before - drop * min(1.0, max(0.0, (at - s) / ramp)) if ramp > 0 else level

    cuts = {s, s + ramp, end}
    for a, b in (*covered, *slow):
        cuts.update(v for v in (a, b) if s < v < end)
    if tips and covered:
        for a, b in covered:
            cuts.update(v for v in ((a + b) / 2 - p.radius, (a + b) / 2 + p.radius) if s < v < end)
    if drop > 0 and ramp > 0 and before > p.tab_top > level and covered:
        cuts.add(s + ramp * (before - p.tab_top) / drop)
    for a, b in pairwise(sorted(cuts)):
        if b - a < 1e-4:
            continue
        middle = (a + b) / 2
        over = any(t0 < middle < t1 for t0, t1 in covered)
        z0, z1 = (max(height(v), top(v)) if over else height(v) for v in (a, b))
        track.down(z0)
        feed = p.feed * p.corner_feed if any(t0 < middle < t1 for t0, t1 in slow) else p.feed
        track.follow(path.walk(a, b), z0, z1, b - a, feed)


def nearest_ring(point: tuple[float, float], rings: list[tuple[Contour, bool]]) -> int:
    """Index of the ring that lies nearest to a point."""
    return min(range(len(rings)), key=lambda k: rings[k][0].nearest(*point)[1])
