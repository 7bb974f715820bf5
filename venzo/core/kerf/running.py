"""In which order a sheet's kerfs are cut, which way the head goes between them, and how long it takes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.kerf.heat import Heat, heat_of, spread
from venzo.core.kerf.how import KerfHow, KerfOrder
from venzo.core.kerf.kerf_cuts import KerfCut
from venzo.core.kerf.kerf_lines import Body
from venzo.core.motion.time import Axes, move_time, path_time
from venzo.core.order.sequence import Task, blocks, sequence

GRID = 1e-5
"""mm; places nearer than this are one where areas are looked for."""


@dataclass(frozen=True)
class Way:
    """From one cut to the next: ``down``: the head stays down, off, at its own feed; else it lifts."""

    a: tuple[float, float]
    b: tuple[float, float]
    down: bool
    sensed: tuple[float, float] | None = None
    """Where the height is sensed before it comes to ``b``, where no metal is any more."""

    @property
    def to(self) -> tuple[float, float]:
        """Where it goes at once, lifted or down."""
        return self.sensed or self.b

    @property
    def length(self) -> float:
        """mm of it that are gone lifted, or as far down."""
        return math.dist(self.a, self.to)

    @property
    def aside(self) -> float:
        """mm, head down and off, from where the height was sensed."""
        return math.dist(self.sensed, self.b) if self.sensed else 0.0


@dataclass(frozen=True, eq=False)
class KerfRun:
    """A sheet's cuts in running order, with the ways between them (the first leads to the first cut).

    ``freed``: for every cut the indices of parts that are loose once it is done; ``seconds``: of every cut,
    ``ways_take``: of every way.
    """

    cuts: tuple[KerfCut, ...]
    ways: tuple[Way, ...]
    freed: tuple[tuple[int, ...], ...]
    seconds: tuple[float, ...]
    ways_take: tuple[float, ...]
    heat: Heat = field(default_factory=lambda: Heat(0.0, 0.0))

    @property
    def pierces(self) -> int:
        """How often the sheet is pierced."""
        return sum(not c.pierced for c in self.cuts)

    @cached_property
    def cut_length(self) -> float:
        """mm with the head on, leads included."""
        return sum(c.length for c in self.cuts)

    @cached_property
    def hop_length(self) -> float:
        """mm of ways with the head down and off."""
        return sum((w.length if w.down else 0.0) + w.aside for w in self.ways)

    @cached_property
    def lift_length(self) -> float:
        """mm of ways with the head lifted."""
        return sum(w.length for w in self.ways if not w.down)

    @cached_property
    def time(self) -> float:
        """Seconds of all of it."""
        return sum(self.seconds) + sum(self.ways_take)

    @cached_property
    def begins(self) -> tuple[float, ...]:
        """The second at which each cut's pierce begins."""
        t, out = 0.0, []
        for way, own in zip(self.ways_take, self.seconds, strict=True):
            t += way
            out.append(t)
            t += own
        return tuple(out)

    @property
    def head_on(self) -> float:
        """Seconds with the head on."""
        return sum(self.seconds)


def run(
    cuts: Sequence[KerfCut],
    bodies: Sequence[Body],
    how: KerfHow,
    axes: Axes = Axes(),
    by: KerfOrder = "insides first",
    lift: float = 0.0,
) -> KerfRun:
    """Cuts in a good order that keeps every ``after``, and how the head goes between them.

    Args:
        cuts: from ``kerf_cuts``.
        bodies: the parts they belong to.
        how: what was decided.
        axes: of the machine.
        by: what comes first; ``heat spread`` weighs the warmth of a place against the way to it (``heat``).
        lift: seconds that lifting, lowering and sensing the height take, where the head lifts.

    Raises:
        BadInput: cuts wait for one another.
    """
    seconds = [path_time(c.moves, axes)[0] for c in cuts]
    order = _order(cuts, bodies, how, axes, by, seconds)
    ordered = [cuts[k] for k in order]
    freed = _freed(ordered)
    ways = _ways(ordered, how)
    takes = [_takes(w, how, axes, lift) for w in ways]
    own = [seconds[k] for k in order]
    begins = np.cumsum([w + s for w, s in zip(takes, own, strict=True)]) - np.array(own)
    middles = np.array([_middle(c) for c in ordered]).reshape(-1, 2)
    heat = heat_of(middles, np.array(own), begins)
    return KerfRun(tuple(ordered), tuple(ways), tuple(freed), tuple(own), tuple(takes), heat)


def _middle(cut: KerfCut) -> tuple[float, float]:
    x0, y0, x1, y1 = cut.line.bounds
    return (x0 + x1) / 2, (y0 + y1) / 2


def _order(
    cuts: Sequence[KerfCut],
    bodies: Sequence[Body],
    how: KerfHow,
    axes: Axes,
    by: KerfOrder,
    seconds: Sequence[float],
) -> list[int]:
    if not cuts:
        return []
    early = [k for k, c in enumerate(cuts) if c.prepares]
    if early:
        first = _order(
            [replace(cuts[k], prepares=False) for k in early],
            bodies,
            how,
            axes,
            by,
            [seconds[k] for k in early],
        )
        late = [k for k, c in enumerate(cuts) if not c.prepares]
        place = {k: n for n, k in enumerate(late)}
        rest = [
            replace(cuts[k], after=frozenset(place[i] for i in cuts[k].after if i in place)) for k in late
        ]
        then = _order(rest, bodies, how, axes, by, [seconds[k] for k in late])
        return [*(early[k] for k in first), *(late[k] for k in then)]
    sizes = [b.region.outline.area for b in bodies]
    tasks = [
        Task(
            c.pierce,
            c.end,
            "head",
            not c.inside,
            c.after,
            size=max((sizes[b] for b in c.bodies), default=0.0),
        )
        for c in cuts
    ]
    if by == "heat spread":
        speed = min(axes.rapid, how.hop_at if how.hop else axes.rapid) / 60
        return spread(
            np.array([t.start for t in tasks]),
            np.array([t.end for t in tasks]),
            np.array(seconds),
            [t.after for t in tasks],
            blocks(tasks, "insides first"),
            speed,
        )
    return sequence(tasks, {"head": 1}, by=by)


def _freed(cuts: Sequence[KerfCut]) -> list[tuple[int, ...]]:
    """Which parts each cut lets go: the last of those that run round them, where no tab holds."""
    left: dict[int, int] = {}
    held = {b for c in cuts if c.tabbed for b in c.bodies}
    for c in cuts:
        if not c.inside:
            for b in c.bodies:
                left[b] = left.get(b, 0) + 1
    out = []
    for c in cuts:
        free = []
        if not c.inside:
            for b in c.bodies:
                left[b] -= 1
                if not left[b] and b not in held:
                    free.append(b)
        out.append(tuple(free))
    return out


def _ways(cuts: Sequence[KerfCut], how: KerfHow) -> list[Way]:
    """The way to every cut; down where it is short enough and over nothing that is loose."""
    loose: list[Polygon] = []
    known: list[BaseGeometry] = []
    out: list[Way] = []
    at = (0.0, 0.0)
    for k, c in enumerate(cuts):
        # what a cut-up skeleton leaves is loose in pieces that no single cut goes round
        short = 0 < math.dist(at, c.pierce) <= how.hop and how.cut_up != "skeleton"
        down = k > 0 and short and not _crosses(at, c.pierce, loose, how)
        out.append(Way(at, c.pierce, down, _beside(c, how) if c.pierced else None))
        at = c.end
        if how.hop:
            loose += _loosened(cuts, k, known)
    return out


CRATER = 2.0
"""Kerfs from the middle of a pierce at which there is sound metal again to sense the height on."""


def _beside(cut: KerfCut, how: KerfHow) -> tuple[float, float]:
    """Where the height is sensed for a cut whose place was pierced before: on along its way, off the hole."""
    line = cut.line
    if isinstance(line, shapely.Point):
        return cut.pierce
    at = line.interpolate(min(CRATER * how.kerf, line.length / 2))
    return float(at.x), float(at.y)


def _loosened(cuts: Sequence[KerfCut], k: int, known: list[BaseGeometry]) -> list[Polygon]:
    """What falls out once cut ``k`` is done: every area that its way, with the common lines before it, goes
    round: the part or slug, and what lies in a loop.
    """
    cut = cuts[k]
    if cut.length < 1e-6:
        return []
    common = cut.contour == "common line"
    way = shapely.set_precision(cut.line, GRID)  # it ends where it began, to the last digit
    ways = [*known, way] if common else [way]
    before = shapely.union_all(known) if common and known else None
    if common:
        known.append(way)
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all(ways)]))
    # common lines cut before had gone round theirs already
    old = shapely.get_parts(shapely.polygonize([before])) if before is not None else []
    seen = {tuple(np.round(f.representative_point().coords[0], 3)) for f in old}
    return [f for f in faces if tuple(np.round(f.representative_point().coords[0], 3)) not in seen]


def _crosses(a: tuple[float, float], b: tuple[float, float], loose: Sequence[Polygon], how: KerfHow) -> bool:
    """Does a hop pass over something loose, or over its open kerf? The kerf it comes from does not count
    where the way leads off at once.
    """
    if not loose:
        return False
    way = shapely.LineString([a, b])
    begin = shapely.Point(a).buffer(how.kerf * 0.75)
    beyond = way.difference(begin)
    areas = np.array(loose, dtype=object)
    x0, y0, x1, y1 = shapely.bounds(areas).T
    low, high, pad = np.minimum(a, b), np.maximum(a, b), how.kerf
    near = (x0 <= high[0] + pad) & (x1 >= low[0] - pad) & (y0 <= high[1] + pad) & (y1 >= low[1] - pad)
    areas = areas[near]
    if not len(areas):
        return False
    if (shapely.length(shapely.intersection(areas, way)) > 1e-3).any():
        return True
    return bool((shapely.distance(areas, beyond) < how.kerf / 2).any()) if not beyond.is_empty else False


def _takes(way: Way, how: KerfHow, axes: Axes, lift: float) -> float:
    """Seconds from rest to rest."""
    slow = min(how.hop_at, axes.rapid)
    aside = move_time(way.aside, slow, axes.acceleration) if way.aside else 0.0
    if way.down:
        return move_time(way.length, slow, axes.acceleration) + aside
    d = np.array([[way.to[0] - way.a[0], way.to[1] - way.a[1], 0.0]])
    return float(axes.travel_times(d)[0]) + lift + aside
