"""Does a written kerf program cut what it should, and nothing else?

Two questions of one program that was read back: against the plan, cut by cut (``against_run``), and against
the world (``against_world``): what the kerf takes of the parts, what it leaves on them, where it is pierced,
and what the head goes over while it is down. The second knows nothing of how the plan was made.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import FEED, KIND, PLANE, RAPID, X, Y, dwells, lengths, polyline
from venzo.core.geometry.contour import Array
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_lines import FINE, Body
from venzo.core.kerf.running import KerfRun
from venzo.core.model import Point as XY
from venzo.core.proof.program import Reading
from venzo.core.snags import Snag, stop
from venzo.core.stock.lying import Lying
from venzo.core.tolerances import BUDGET
from venzo.core.voice import counted

FLAT = Lying()
CLOSE = 0.005
"""mm; a program's way may differ so much from the plan's: rounding, no more."""
SPECK = 0.05
"""mm2; what is left over beside a part and is smaller is no piece of metal that one would find."""


@dataclass(frozen=True, eq=False)
class Burn:
    """What a program does from one M3 to the next M5. ``moves``: from where the head goes on; ``line``: of
    the program; ``came``: the way there with the head off, a line each, with whether it was at a feed.
    """

    moves: Array
    line: int
    came: tuple[tuple[tuple[float, float], tuple[float, float], bool], ...]

    @cached_property
    def way(self) -> shapely.LineString | Point:
        """Its way as a line; a point where it only pierces."""
        points = polyline(self.moves, FINE)[:, :2]
        return shapely.LineString(points) if float(lengths(self.moves).sum()) > 1e-6 else Point(points[0])

    @property
    def pierce(self) -> Point:
        """Where the head goes on."""
        return Point(self.moves[0, X], self.moves[0, Y])


@dataclass(frozen=True)
class Told:
    """A program taken apart: its burns, faults in how the head is switched, and each time how long it
    stands.
    """

    burns: tuple[Burn, ...]
    snags: tuple[Snag, ...]
    stands: tuple[float, ...] = ()


def taken_apart(reading: Reading, lies: Lying = FLAT, zero: XY = (0.0, 0.0), offset: str = "G54") -> Told:
    """A program as burns, in the sheet's coordinates; ``lies``: how the sheet lies on the table, ``zero``:
    where the program's X0 Y0 lies on it, ``offset``: the work offset that it is set in.
    """
    snags = [stop(f.rule, f"line {f.line}: {f.message}", {"line": f.line}) for f in reading.faults]
    snags += _out_of_place(reading, offset)
    if not reading.ended:
        snags.append(stop("kerf.end", "the program does not end with M30 or M2"))
    moves = lies.moves_back(reading.moves, zero, PLANE) if reading.blocks else reading.moves
    on = np.concatenate([b.speed for b in reading.blocks]) if reading.blocks else np.zeros(0)
    lines = [n for b in reading.blocks for n in b.lines]
    pierced = _switches(reading)
    burns: list[Burn] = []
    rows: list[Array] = []
    came: list[tuple[tuple[float, float], tuple[float, float], bool]] = []
    begin = 0
    here: tuple[float, float] | None = None
    for k, m in enumerate(moves):
        to = (float(m[X]), float(m[Y]))
        if on[k]:
            if m[KIND] == RAPID:
                snags.append(
                    stop("kerf.fast-on", f"line {lines[k]}: a fast move with the head on", {"line": lines[k]})
                )
            if on[k] < 0:
                snags.append(
                    stop("kerf.sense", f"line {lines[k]}: M4; a head goes on by M3", {"line": lines[k]})
                )
            if not rows:
                rows, begin = [_start(moves, k, here)], lines[k]
            rows.append(m)
        else:
            if rows:
                burns.append(Burn(np.array(rows), begin, tuple(came)))
                rows, came = [], []
            if here is not None:
                came.append((here, to, m[KIND] != RAPID))
        here = to
        for spot in pierced.get(lines[k], ()):  # on and off again where it stands
            burns.append(Burn(np.array([_start(moves, k + 1, to)]), spot, tuple(came)))
            came = []
    if rows:
        burns.append(Burn(np.array(rows), begin, tuple(came)))
    return Told(tuple(burns), tuple(snags), tuple(e.value for e in reading.events if e.kind == "dwell"))


FOREIGN = {
    "change": "a cutter change",
    "stop": "a stop",
    "skip": "a block that may be skipped",
    "away": "a way to a place that is not known",
    "length": "a length offset",
}
"""Events that no kerf program has."""


def _out_of_place(reading: Reading, offset: str) -> list[Snag]:
    """What a controller would obey and no kerf program holds."""
    out = [
        stop("kerf.foreign", f"line {e.line}: {FOREIGN[e.kind]}; the plan has none", {"line": e.line})
        for e in reading.events
        if e.kind in FOREIGN
    ]
    for b in reading.blocks:
        if b.offset != offset:
            at = b.lines[0] if b.lines else 0
            out.append(stop("kerf.offset", f"line {at}: {b.offset}, where {offset} is set", {"line": at}))
            break
    return out[:20]


def _start(moves: Array, k: int, here: tuple[float, float] | None) -> Array:
    x, y = here if here is not None else (float(moves[k, X]), float(moves[k, Y]))
    out = np.zeros(7)
    out[X], out[Y] = x, y
    return out


def _switches(reading: Reading) -> dict[int, list[int]]:
    """Pierces that no move follows: by the line of the move before them, the lines they stand in."""
    lines = [n for b in reading.blocks for n in b.lines]
    out: dict[int, list[int]] = {}
    for e in reading.events:
        if e.kind == "spot" and lines:
            before = max((n for n in lines if n < e.line), default=lines[0])
            out.setdefault(before, []).append(e.line)
    return out


def against_run(told: Told, run: KerfRun) -> list[Snag]:
    """Does a program make exactly the cuts of a run, in its order, at its feeds?"""
    burns = told.burns
    if len(burns) != len(run.cuts):
        return [
            stop(
                "kerf.count",
                f"the program pierces {counted(len(burns), 'time')}, the plan"
                f" {counted(len(run.cuts), 'time')}",
            )
        ]
    for burn, cut, way in zip(burns, run.cuts, run.ways, strict=True):
        moved = cut.moves[dwells(cut.moves) == 0]
        if burn.pierce.distance(Point(cut.pierce)) > CLOSE:
            return [_differs(burn, cut.name, "is pierced elsewhere")]
        if isinstance(burn.way, Point) != isinstance(cut.line, Point) or (
            not isinstance(burn.way, Point) and burn.way.hausdorff_distance(cut.line) > CLOSE + 2 * FINE
        ):
            return [_differs(burn, cut.name, "goes another way")]
        planned, told_feeds = _by_feed(moved), _by_feed(burn.moves)
        if any(
            abs(planned.get(f, 0.0) - told_feeds.get(f, 0.0)) > 0.05 + 0.001 * planned.get(f, 0.0)
            for f in planned | told_feeds
        ):
            return [_differs(burn, cut.name, "has other feeds")]
        there = burn.came[:-1] if way.sensed is not None else burn.came  # the last: from where it was sensed
        if way.down != any(slow for _a, _b, slow in there):
            return [_differs(burn, cut.name, "is come to otherwise: lifted or down")]
    meant = [c.stands for c in run.cuts if c.stands > 0]
    if len(meant) != len(told.stands) or any(
        abs(a - b) > 0.01 for a, b in zip(meant, told.stands, strict=False)
    ):
        words = f"pierces stand {sum(told.stands):.1f} s in all, {sum(meant):.1f} s are planned"
        return [stop("kerf.stands", f"{words}: a dwell is lost, added or changed")]
    return []


def _by_feed(moves: Array) -> dict[int, float]:
    """mm by feed in whole mm/min."""
    out: dict[int, float] = {}
    for f, d in zip(np.round(moves[1:, FEED]), lengths(moves)[1:], strict=True):
        if d > 0:
            out[int(f)] = out.get(int(f), 0.0) + float(d)
    return out


def _differs(burn: Burn, name: str, how: str) -> Snag:
    return stop("kerf.differs", f"line {burn.line}: {name} {how} than planned", {"line": burn.line})


def against_world(
    told: Told,
    bodies: Sequence[Body],
    how: KerfHow,
    plate: Polygon | None = None,
    uncut: frozenset[tuple[int, str]] = frozenset(),
    joined: Mapping[int, Polygon] | None = None,
) -> list[Snag]:
    """What a program does to the parts and the sheet, by sweeping its kerf.

    Args:
        told: the program, in the sheet's coordinates.
        bodies: the parts as they are to come out.
        how: the kerf's width, and whether tabs were asked for.
        plate: the sheet's metal; None: a box well around all of it.
        uncut: contours (part's index, name) of which it is known that nothing cuts them.
        joined: by a part's index, the metal that it is to come off the sheet with, where bridges join it.
    """
    half = how.kerf / 2
    swept = [b.way.buffer(half, quad_segs=32) for b in told.burns]
    out: list[Snag] = []
    tree = shapely.STRtree(swept)
    for body in bodies:
        core = body.polygon.buffer(-BUDGET)
        near = tree.query(core, "intersects")
        if len(near):
            burn = told.burns[int(near[0])]
            spot = shapely.point_on_surface(core.intersection(swept[int(near[0])]))
            out.append(
                stop(
                    "kerf.into-part",
                    f"line {burn.line}: the kerf runs into {body.name} at {spot.x:.2f}, {spot.y:.2f} mm",
                    {"part": body.name, "line": burn.line, "x": round(spot.x, 3), "y": round(spot.y, 3)},
                )
            )
    out += _kept(swept, bodies, how, plate, uncut, joined or {})
    out += _pierces(told, swept, how, plate)
    return out + _over_loose(told, bodies, how)


def _metal(swept: Sequence[BaseGeometry], bodies: Sequence[Body], plate: Polygon | None) -> BaseGeometry:
    if plate is not None:
        return plate
    every = shapely.GeometryCollection([*swept, *(b.polygon for b in bodies)])
    x0, y0, x1, y1 = every.bounds
    return shapely.box(x0 - 50, y0 - 50, x1 + 50, y1 + 50)


def _kept(
    swept: Sequence[BaseGeometry],
    bodies: Sequence[Body],
    how: KerfHow,
    plate: Polygon | None,
    uncut: frozenset[tuple[int, str]],
    joined: Mapping[int, Polygon],
) -> list[Snag]:
    """Parts that do not come free, or keep metal that is not theirs."""
    rest = _metal(swept, bodies, plate).difference(shapely.union_all(swept))
    pieces = list(shapely.get_parts(rest))
    tree = shapely.STRtree(pieces)
    out = []
    for n, body in enumerate(bodies):
        missed = {c for b, c in uncut if b == n}
        if body.contour_name(0) in missed or body.contour_name(0) in body.omit:
            continue
        inner = body.polygon.representative_point()
        found = tree.query(inner, "intersects")
        if not len(found):
            continue  # swept away: said as cut into
        piece = pieces[int(found[0])]
        tabs = how.tabs.along(body.region.outline.length) or body.tabs.get(body.contour_name(0))
        if tabs:
            continue
        # the round end of a kerf leaves a fillet in every corner that is sharper than it
        waste = [
            Polygon(h.points(FINE))
            for k, h in enumerate(body.region.holes, 1)
            if body.contour_name(k) in missed | body.omit
        ]
        whole = shapely.union_all([joined.get(n, body.polygon), *waste])
        fair = whole.buffer(how.kerf / 2).buffer(-how.kerf / 2)
        extra = piece.difference(fair.buffer(BUDGET))
        if extra.area > SPECK:
            spot = shapely.point_on_surface(extra)
            out.append(
                stop(
                    "kerf.left-on",
                    f"{body.name} keeps metal that is not its own, {extra.area:.1f} mm2 at {spot.x:.2f},"
                    f" {spot.y:.2f} mm: something is not cut through",
                    {"part": body.name, "x": round(spot.x, 3), "y": round(spot.y, 3)},
                )
            )
    return out


def _pierces(told: Told, swept: Sequence[BaseGeometry], how: KerfHow, plate: Polygon | None) -> list[Snag]:
    """Pierces where no metal is."""
    out: list[Snag] = []
    tree = shapely.STRtree(swept)
    for k, b in enumerate(told.burns):
        over = [
            int(i)
            for i in tree.query(b.pierce, "intersects")
            if int(i) < k and not (how.pre_pierce and _same_place(told.burns[int(i)], b))
        ]
        off = plate is not None and not plate.covers(b.pierce) and not how.edge_start
        if over or off:
            what = f"over the kerf of line {told.burns[over[0]].line}" if over else "off the sheet's metal"
            out.append(
                stop(
                    "kerf.pierce",
                    f"line {b.line}: pierced {what}, at {b.pierce.x:.2f}, {b.pierce.y:.2f} mm",
                    {"line": b.line, "x": round(b.pierce.x, 3), "y": round(b.pierce.y, 3)},
                )
            )
    return out


def _same_place(first: Burn, then: Burn) -> bool:
    """Did one only pierce where the other goes on?"""
    return isinstance(first.way, Point) and first.pierce.distance(then.pierce) < CLOSE


def _over_loose(told: Told, bodies: Sequence[Body], how: KerfHow) -> list[Snag]:
    """Ways with the head down over what is loose by then: parts and slugs whose line is cut all round."""
    half = how.kerf / 2
    rings = [
        (f"{b.name}, {b.contour_name(k)}", Polygon(loop.points(FINE)).buffer(0), k == 0)
        for b in bodies
        for k, loop in enumerate(b.region.loops)
    ]
    areas = [r[1] for r in rings]
    # what falls out of a hole is a kerf smaller than it
    pieces = [a if outline else a.buffer(-how.kerf + BUDGET) for _n, a, outline in rings]
    tree = shapely.STRtree(areas)
    free: set[int] = set()
    done: list[BaseGeometry] = []
    out: list[Snag] = []
    for burn in told.burns:
        for a, b, slow in burn.came:
            if not slow:
                continue
            way = shapely.LineString([a, b])
            for i in tree.query(way, "intersects"):
                k = int(i)
                if shapely.intersection(pieces[k], way).length < 1e-3:
                    continue
                if k not in free and _all_round(areas[k], rings[k][2], done, half):
                    free.add(k)
                if k in free:
                    out.append(
                        stop(
                            "kerf.over-loose",
                            f"line {burn.line}: the head comes there down over {rings[k][0]}, which is loose"
                            " by then",
                            {"line": burn.line},
                        )
                    )
        done.append(burn.way.buffer(half + BUDGET, quad_segs=16))
    return out


def _all_round(area: Polygon, outline: bool, done: Sequence[BaseGeometry], half: float) -> bool:
    """Is a contour cut all round: its edge touched by kerfs everywhere?"""
    if not done:
        return False
    kerfs = shapely.union_all([d for d in done if d.intersects(area)])
    edge = area.exterior if outline else area.buffer(-half * 0.5).exterior
    return bool(edge.difference(kerfs.buffer(BUDGET)).length < half)
