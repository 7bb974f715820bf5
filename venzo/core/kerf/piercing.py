"""Where the head goes in: pierced in the waste, with a lead that fits the place."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import shapely
from shapely.geometry import Point, Polygon

from venzo.core.geometry.contour import Contour, Segment
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_lines import FINE, Body, KerfLine
from venzo.core.snags import Snag, look, stop
from venzo.core.tolerances import BUDGET

SHARES = (1.0, 0.85, 0.7, 0.6, 0.5, 0.4, 0.32, 0.25, 0.2, 0.15, 0.1)
"""Lengths that are tried, of the lead that was asked for; never less than one kerf."""
IN_KERFS = (1, 1.25, 1.5, 2, 3, 5)
"""Lengths that are tried in kerfs, down to one."""
ANGLES = (90.0, 60.0, 120.0, 45.0, 135.0, 30.0)
"""Angles that are tried where the one asked for finds no room."""
STARTS = 24
"""Places along a line that are tried."""
ROOM = 0.1
"""Of a kerf: what is kept between a pierce and what it must not mark, at least."""


@dataclass(frozen=True)
class LeadIn:
    """From the pierce to the kerf's middle line. ``s``: distance along that at which it arrives; ``length``
    and ``angle``: as they came out; ``way``: the segments.
    """

    s: float
    kind: str
    length: float
    angle: float
    way: tuple[Segment, ...]

    @property
    def pierce(self) -> tuple[float, float]:
        """Where the sheet is pierced."""
        return self.way[0].x0, self.way[0].y0

    def differs(self, how: KerfHow) -> bool:
        """Is it another than was asked for: of other length, kind or angle?"""
        other = self.kind != how.lead_kind or abs(self.angle - how.lead_angle) > 1e-6
        return other or abs(self.length - how.lead) > 1e-6

    @cached_property
    def line(self) -> shapely.LineString:
        """The lead as a line."""
        first = self.way[0]
        rows = [(first.x0, first.y0, first.bulge), *((g.x1, g.y1, 0.0) for g in self.way)]
        return shapely.LineString(Contour.of(rows, False).points(FINE))


def lead_in(path: Contour, s: float, waste_left: bool, kind: str, length: float, angle: float) -> LeadIn:
    """A lead that arrives at distance ``s`` of a line.

    Straight: ``length`` long, ``angle`` degrees between it and the way it runs into. Arc: turns through
    ``angle`` into the line's direction, from a pierce ``length`` aside of the line.

    >>> square = Contour.of([(0, 0), (10, 0), (10, 10), (0, 10)])
    >>> [round(float(v), 6) for v in lead_in(square, 5.0, True, "straight", 2.0, 90).pierce]
    [5.0, 2.0]
    >>> [round(float(v), 6) for v in lead_in(square, 5.0, True, "arc", 2.0, 90).pierce]
    [3.0, 2.0]
    """
    x, y, tx, ty = path.at(s)
    nx, ny = (-ty, tx) if waste_left else (ty, -tx)
    w = math.radians(angle)
    if kind == "straight":
        px = x + length * (math.sin(w) * nx - math.cos(w) * tx)
        py = y + length * (math.sin(w) * ny - math.cos(w) * ty)
        return LeadIn(s, kind, length, angle, (Segment(px, py, x, y, 0.0, length),))
    r = length / (1 - math.cos(w))
    px = x + r * (1 - math.cos(w)) * nx - r * math.sin(w) * tx
    py = y + r * (1 - math.cos(w)) * ny - r * math.sin(w) * ty
    bulge = math.tan(w / 4) * (1 if waste_left else -1)
    return LeadIn(s, kind, length, angle, (Segment(px, py, x, y, bulge, r * w),))


class Ground:
    """The sheet as pierces and leads find it: its metal, the parts, and the kerfs.

    ``plate``: the metal that is there (a remnant has holes); None: taken as everywhere. ``avoid``: clamps and
    the like, kept clear by half a kerf; ``trails``: common lines. A lead that is given out keeps others off.
    """

    def __init__(
        self,
        bodies: Sequence[Body],
        lines: Sequence[KerfLine],
        how: KerfHow,
        plate: Polygon | None = None,
        avoid: Sequence[Polygon] = (),
        trails: Sequence[shapely.LineString] = (),
    ):
        self.how = how
        self.plate = plate
        self.inner = None
        if plate is not None:
            self.inner = plate.buffer(-(how.kerf / 2 + ROOM * how.kerf))
            shapely.prepare(self.inner)
        self.parts = [b.polygon for b in bodies]
        self.tree = shapely.STRtree([*self.parts, *avoid])
        ways = [k.boundary for k in lines]
        self.number = {id(k): n for n, k in enumerate(lines)}
        self.kerfs = shapely.STRtree([*ways, *trails])
        self.first_trail = len(ways)
        self.taken: dict[tuple[int, int], list[shapely.LineString]] = {}

    def trail(self, k: int) -> int:
        """The number among the kerfs of common line ``k``."""
        return self.first_trail + k

    def clear(self, line: KerfLine, lead: LeadIn) -> bool:
        """May this lead be cut: its way clear, its pierce a little further off the parts?"""
        room, at = ROOM * self.how.kerf, Point(lead.pierce)
        if line.inside and line.boundary.distance(at) < room:
            return False
        if len(self.tree.query(at, "dwithin", self.how.kerf / 2 + room)):
            return False
        return self.way_clear(line, lead.line)

    def way_clear(self, line: KerfLine, way: shapely.LineString, own: LeadIn | None = None) -> bool:
        """May the head go this way into or out of a line: in its own waste, half a kerf off every part, off
        other kerfs and leads (but for its ``own``), on metal all along?
        """
        half = self.how.kerf / 2
        if line.inside:
            if not line.room.covers(way):
                return False
        elif shapely.intersection(way, line.area).length > 1e-3:
            return False
        if len(self.tree.query(way, "dwithin", half - BUDGET)):
            return False
        number = self.number.get(id(line), -1)
        if any(int(k) != number for k in self.kerfs.query(way, "dwithin", 2 * half - BUDGET)):
            return False
        return self.free(way, own) and (self.inner is None or bool(self.inner.covers(way)))

    def free(self, way: shapely.LineString, own: LeadIn | None = None) -> bool:
        """Does it keep a kerf off every lead that was given out, but for its ``own``?"""
        near = {id(o): o for cell in self._cells(way) for o in self.taken.get(cell, ())}
        if own is not None:
            near.pop(id(own.line), None)
        return all(o.distance(way) >= self.how.kerf - BUDGET for o in near.values())

    def take(self, lead: LeadIn) -> None:
        """Keeps others off a lead."""
        for cell in self._cells(lead.line):
            self.taken.setdefault(cell, []).append(lead.line)

    def give_back(self, leads: Iterable[LeadIn]) -> None:
        """Lets others come where leads were given out that are not cut after all."""
        for lead in leads:
            for cell in self._cells(lead.line):
                self.taken[cell].remove(lead.line)

    def _cells(self, way: shapely.LineString) -> Iterator[tuple[int, int]]:
        size = 4 * self.how.lead + 4 * self.how.kerf
        x0, y0, x1, y1 = way.bounds
        k = self.how.kerf
        for i in range(math.floor((x0 - k) / size), math.floor((x1 + k) / size) + 1):
            for j in range(math.floor((y0 - k) / size), math.floor((y1 + k) / size) + 1):
                yield i, j

    def over_metal(self, x: float, y: float) -> bool:
        """Is there metal under the whole of a pierce here?"""
        return self.inner is None or bool(self.inner.covers(Point(x, y)))


def starts_along(path: Contour, wanted: float | None) -> list[float]:
    """Distances along a line at which a lead is tried: where wanted, the middles of its longest runs, then
    evenly round; none of them in a corner.
    """
    segs = path.segments()
    longest = sorted(range(len(segs)), key=lambda k: (segs[k].bulge != 0, -segs[k].length))[:8]
    out = [] if wanted is None else [wanted]
    out += [float(path.starts[k]) + segs[k].length / 2 for k in longest]
    return out + [path.length * (k + 0.5) / STARTS for k in range(STARTS)]


def _tries(how: KerfHow) -> Iterator[tuple[str, float, float]]:
    """Kinds, lengths and angles of leads, the one asked for first, then turned, then shorter."""
    angles = [how.lead_angle, *(a for a in ANGLES if abs(a - how.lead_angle) > 1)]
    wanted = {max(how.kerf, how.lead * k) for k in SHARES}
    lengths = sorted(wanted | {n * how.kerf for n in IN_KERFS if n * how.kerf < how.lead}, reverse=True)
    for length in lengths:
        for angle in angles:
            if how.lead_kind == "arc" or angle <= 160:
                yield how.lead_kind, length, angle
    for length in lengths if how.lead_kind == "arc" else []:
        yield "straight", length, 90.0


def _with_room(line: KerfLine, ground: Ground, starts: Sequence[float]) -> list[float]:
    """The starts at which a lead of one kerf finds room, of whatever kind and angle is tried."""
    least = [t for t in _tries(ground.how) if t[1] <= ground.how.kerf + 1e-9]
    return [
        at
        for at in starts
        if any(ground.clear(line, lead_in(line.path, at, line.waste_left, *short)) for short in least)
    ]


def fit_lead(
    line: KerfLine,
    ground: Ground,
    name: str,
    wanted: tuple[float, float] | None = None,
    among: Sequence[float] = (),
) -> tuple[LeadIn | None, list[Snag]]:
    """The lead that a line gets: as asked for, else turned, moved or shorter (a *look*); none of at least one
    kerf: a *stop* with its numbers.

    Args:
        line: what it leads into.
        ground: what is around.
        name: what the contour is called in words.
        wanted: where a person wants it to enter.
        among: distances along the line that it must keep to (a tab's end); empty: anywhere.
    """
    how, path = ground.how, line.path
    s = None if wanted is None else path.nearest(*wanted)[0]
    starts = list(among) or starts_along(path, s)
    for n, (kind, length, angle) in enumerate(_tries(how)):
        if n == 1:  # where not even a lead of one kerf fits, no longer one does
            starts = _with_room(line, ground, starts)
        for at in starts:
            lead = lead_in(path, at, line.waste_left, kind, length, angle)
            if ground.clear(line, lead):
                ground.take(lead)
                moved = s is not None and abs(at - s) > 1e-9
                return lead, _changed(how, lead, line, name, moved)
    return None, [_none_fits(line, how, name)]


def _changed(
    how: KerfHow,
    lead: LeadIn,
    line: KerfLine,
    name: str,
    moved: bool,
) -> list[Snag]:
    """What became of the lead that was asked for, in words."""
    became = []
    if lead.length < how.lead - 1e-6:
        became.append(f"shortened from {how.lead:g} to {lead.length:.2f} mm")
    elif lead.length > how.lead + 1e-6:
        became.append(f"lengthened from {how.lead:g} to one kerf, {lead.length:g} mm")
    if lead.kind != how.lead_kind:
        became.append("straight instead of an arc")
    elif abs(lead.angle - how.lead_angle) > 1e-6:
        became.append(f"turned from {how.lead_angle:g} to {lead.angle:g} degrees")
    if moved:
        became.append("moved from where it was wanted")
    if not became:
        return []
    x, y = lead.pierce
    return [
        look(
            "kerf.lead",
            f"{name}: the lead-in is {' and '.join(became)}, so that it stays in the waste",
            {"contour": line.contour, "x": round(x, 3), "y": round(y, 3)},
        )
    ]


def _none_fits(line: KerfLine, how: KerfHow, name: str) -> Snag:
    x0, y0, x1, y1 = line.path.bbox
    if line.inside:
        circle = shapely.maximum_inscribed_circle(line.area, tolerance=0.005)
        room = 2 * float(circle.length)
        why = f"inside the kerf {room:.2f} mm are left"
        mend = "drill it, or cut it with a narrower kerf"
    else:
        why = "the parts around it, their kerfs or the sheet's edge leave no such place"
        mend = "lay the parts further apart, or cut common lines"
    return stop(
        "kerf.no-lead",
        f"{name} ({x1 - x0:.2f} x {y1 - y0:.2f} mm along the kerf's middle) has no place for a lead-in of at"
        f" least one kerf, {how.kerf:.2f} mm: {why}; it is left out: {mend}",
        {"contour": line.contour, "x": round((x0 + x1) / 2, 3), "y": round((y0 + y1) / 2, 3)},
    )


def edge_lead(line: KerfLine, ground: Ground, wanted: tuple[float, float] | None = None) -> LeadIn | None:
    """A straight lead that begins off the sheet, for one that is too thick to pierce; None where none is
    clear.
    """
    if ground.plate is None or line.inside:
        return None
    rim = shapely.LineString(ground.plate.exterior.coords)
    path, best = line.path, None
    s = None if wanted is None else path.nearest(*wanted)[0]
    for at in starts_along(path, s):
        x, y = path.at(at)[:2]
        near = rim.interpolate(rim.project(Point(x, y)))
        gap = math.dist((x, y), (near.x, near.y))
        if gap < 1e-6:
            continue
        k = (gap + 2 * ground.how.kerf) / gap
        begin = (x + (near.x - x) * k, y + (near.y - y) * k)
        lead = LeadIn(at, "straight", gap * k, 90.0, (Segment(*begin, x, y, 0.0, gap * k),))
        way = lead.line
        crosses = shapely.intersection(way, line.area).length > 1e-3
        if crosses or len(ground.tree.query(way, "dwithin", ground.how.kerf / 2 - BUDGET)):
            continue
        own = ground.number.get(id(line), -1)
        if any(int(n) != own for n in ground.kerfs.query(way, "dwithin", ground.how.kerf - BUDGET)):
            continue
        if (best is None or lead.length < best.length) and ground.free(way):
            best = lead
    if best is not None:
        ground.take(best)
    return best
