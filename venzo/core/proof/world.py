"""What a program meets in the world: the stock it cuts, the fixings in the way, the table, the spindle. Asks
nothing of any plan.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.body.field import Box, Mask, StockBody
from venzo.core.cuts.moves import KIND, PLANE, RAPID, X, Y, Z, chords, lengths, polyline
from venzo.core.geometry.contour import Array
from venzo.core.holding.in_the_way import ABOVE, Meeting, Obstacle, meets_between
from venzo.core.memo import give_way
from venzo.core.motion.time import Axes, path_time
from venzo.core.proof.program import Block, Event, Reading
from venzo.core.snags import Snag, Where, look, stop
from venzo.core.stock.lying import Lying
from venzo.core.tooling.assembly import Assembly

SPOILED, RUINED = 3.0, 12.0
"""mm below the sheet from which a depth is looked at, and stops."""
SCRATCH = 0.05
"""mm that a fast move may stand in material by rounding."""
MOST_CELLS = 16_000_000
"""Cells in which a sheet is followed."""
CHORD = 0.2


@dataclass(frozen=True)
class World:
    """Everything that is not the program. Sheet coordinates, mm, Z 0 at the stock's top; ``reach`` and
    ``dead`` in those of the table, on which the sheet lies as ``lies`` says.

    ``reach``: where the tip can go (x0, y0, x1, y1), ``z_span``: highest less lowest; None: not known.
    ``safe``: fast travel across stays this high. ``strict``: a missing speed or end stops (a plan says what
    they should be).
    """

    width: float
    height: float
    thickness: float
    tools: Mapping[int, Assembly]
    any_tool: Assembly | None = None
    reach: tuple[float, float, float, float] | None = None
    z_span: float | None = None
    obstacles: Sequence[Obstacle] = ()
    keep: float = 0.0
    safe: float | None = None
    strict: bool = False
    dead: Sequence[tuple[float, float, float, float]] = ()
    """Areas (x0, y0, x1, y1) of the table that nothing may enter below the safe height."""
    outline: Sequence[tuple[float, float]] = ()
    """Of the sheet, where it is not its box."""
    axes: Axes = field(default_factory=Axes)
    lies: Lying = field(default_factory=Lying)

    def on_table(self, moves: Array, moved: tuple[float, float] = (0.0, 0.0)) -> Array:
        """Moves on the sheet in table coordinates, the sheet ``moved`` back by so much, mm."""
        x, y = self.lies.point_on_sheet((0.0, 0.0))
        return self.lies.moves_from(moves, (x + moved[0], y + moved[1]), PLANE)

    def tool(self, number: int) -> Assembly | None:
        """The cutter with a number."""
        return self.tools.get(number, self.any_tool)


@dataclass(frozen=True)
class Given:
    """A program as it is run: its reading, the cutter in the collet when it starts, where its X0 Y0 lies on
    the sheet and the height of the stock's top in its Z, mm.
    """

    name: str
    reading: Reading
    loaded: int = 0
    dx: float = 0.0
    dy: float = 0.0
    top: float = 0.0
    bare: bool = False
    """It is run before screws and clamps are set: it drills the marks for them."""
    stops: int = 0
    """How often it is to stop for the operator."""
    turn: float = 0.0
    """How far the sheet is turned against the machine's axes, radians counter-clockwise."""
    moved: tuple[float, float] = (0.0, 0.0)
    """How far the sheet has been moved back along the table when it is run, mm."""

    def on_sheet(self, block: Block) -> Array:
        """A block's moves in sheet coordinates."""
        m = Lying((0.0, 0.0), self.turn).moves_back(block.moves, (self.dx, self.dy), PLANE)
        m[:, Z] -= self.top
        return m


@dataclass
class Figures:
    """Sums over programs. ``lowest``, ``highest``: of the tip, program coordinates, mm; lengths mm,
    ``seconds`` without changes and dwells.
    """

    moves: int = 0
    lowest: Array = field(default_factory=lambda: np.full(3, np.inf))
    highest: Array = field(default_factory=lambda: np.full(3, -np.inf))
    deepest: float = math.inf
    """The tip's lowest over the stock's top, mm, whichever zero each program has."""
    cut_length: float = 0.0
    rapid_length: float = 0.0
    seconds: float = 0.0
    tools: list[int] = field(default_factory=list)


def figures(programs: Sequence[Given], axes: Axes) -> Figures:
    """Moves, extents (arcs with their bulges), lengths and time of programs run one after the other. Cut
    length: G1 to G3 as far as the tip is below the stock's top.
    """
    out = Figures()
    for p in programs:
        for b in p.reading.blocks:
            give_way()
            m = b.moves
            out.moves += len(m)
            points = polyline(m, 0.001) if len(m) > 1 else m[:, [X, Y, Z]]
            out.lowest, out.highest = (
                np.minimum(out.lowest, points.min(axis=0)),
                np.maximum(out.highest, points.max(axis=0)),
            )
            out.deepest = min(out.deepest, float(points[:, 2].min()) - p.top)
            d = lengths(m)
            fast = m[:, KIND] == RAPID
            out.rapid_length += float(d[fast].sum())
            out.cut_length += float((d * _below(m[:, Z] - p.top))[~fast].sum())
            out.seconds += path_time(m, axes)[0]
            number = b.tool or p.loaded
            if number not in out.tools:
                out.tools.append(number)
    return out


def _below(z: Array) -> Array:
    """Share of every move that runs below height 0."""
    a, b = np.concatenate([z[:1], z[:-1]]), z
    low, high = np.minimum(a, b), np.maximum(a, b)
    span = np.maximum(high - low, 1e-12)
    return np.where(high <= 1e-9, np.where(low < -1e-9, 1.0, 0.0), np.clip(-low / span, 0.0, 1.0))


_CALLED = {"cutter": "the cutter", "shank": "the shank", "holder": "the nut", "shoe": "the dust shoe"}
_RULES = {"holder": "nut", "shoe": "shoe"}
CORE = 0.3
"""Share of the radius of a cutter without centre edges that does not cut (common practice)."""


def _plunges(m: Array) -> Mask:
    """Which steps go straight down at feed, below the top?"""
    straight = np.hypot(np.diff(m[:, X]), np.diff(m[:, Y])) < 1e-6
    down = (m[1:, Z] < m[:-1, Z] - 1e-6) & (m[1:, Z] < -1e-6)
    return straight & down & (m[1:, KIND] != RAPID)


def _first_nearer(m: Array, asked: Mask, shape: BaseGeometry, than: float) -> int | None:
    """The first of the ``asked`` moves (one for every move after the first) whose way in plan comes nearer
    to a shape than some mm, arcs along themselves.
    """
    points, of = chords(m, CHORD)
    kept = np.flatnonzero(asked[of - 1])
    ways = shapely.linestrings(np.stack([points[kept, :2], points[kept + 1, :2] + 1e-9], axis=1))
    near = shapely.distance(ways, shape) < than
    return int(of[kept[int(np.argmax(near))]]) if near.any() else None


def _first_beyond(m: Array, reach: tuple[float, float, float, float]) -> int:
    """The first move that leaves an area, at its end or, an arc, by its bulge."""
    points, of = chords(m, CHORD)
    low, high = np.array(reach[:2]) - 1e-3, np.array(reach[2:]) + 1e-3
    beyond = ((points[:, :2] < low) | (points[:, :2] > high)).any(axis=1)
    return int(np.concatenate([[0], of])[np.argmax(beyond)]) if beyond.any() else len(m) - 1


def world_snags(world: World, programs: Sequence[Given], before: Sequence[Given] = ()) -> list[Snag]:
    """Judge programs, run in order on one stock, against the world; every finding names the line. ``before``:
    programs that the stock has been through, which are not judged.
    """
    return _Walk(world).walk(programs, before)


class _Walk:
    """Goes through programs with the stock as it is by then."""

    def __init__(self, world: World):
        self.world = world
        self.out: list[Snag] = []
        self.said: set[tuple] = set()
        self.body: StockBody | None = None

    def walk(self, programs: Sequence[Given], before: Sequence[Given]) -> list[Snag]:
        if any(self._asks_of_stock(p, b) for p in programs for b in p.reading.blocks):
            w, h = self.world.width, self.world.height
            cell = max(0.1, math.sqrt(w * h / MOST_CELLS))
            self.body = StockBody(Box(0, 0, w, h), cell).within(self.world.outline)
        for p in before:
            for b in p.reading.blocks:
                give_way()
                self._block(p, b)
        self.out.clear()
        self.said.clear()
        for p in programs:
            self._between(p)
            for b in p.reading.blocks:
                give_way()
                self._block(p, b)
        self._depth(programs)
        self._axes(programs)
        return self.out

    def say(self, key: tuple, snag: Snag) -> None:
        if key not in self.said:
            self.said.add(key)
            self.out.append(snag)

    def where(self, p: Given, line: int) -> Where:
        return {"file": p.name, "line": line}

    # -- words and events

    def _between(self, p: Given) -> None:
        strict, stopped = self.world.strict, 0
        for f in p.reading.faults:
            self.say(
                (f.rule, p.name, f.line), stop(f.rule, f"line {f.line}: {f.message}", self.where(p, f.line))
            )
        for e in p.reading.events:
            where = self.where(p, e.line)
            if e.kind == "skip":
                self.say(
                    ("skip", p.name),
                    stop(
                        "proof.skip",
                        f"line {e.line} may be skipped (block delete): what is cut depends on a switch;"
                        " remove the stroke",
                        where,
                    ),
                )
            elif e.kind == "stop":
                cutting = e.z is not None and e.z < p.top - 1e-6
                stopped += 1
                if cutting or (strict and stopped > p.stops):
                    what = (
                        "stops in a cut: the cutter rubs there"
                        if cutting
                        else "stops where no stop is planned"
                    )
                    self.say(
                        ("stop", p.name),
                        stop("proof.pause", f"line {e.line}: the program {what}; remove the M0 or M1", where),
                    )
                elif not strict:
                    self.say(
                        ("stop", p.name),
                        look("proof.pause", f"line {e.line}: the program stops for the operator", where),
                    )
            elif e.kind in ("change", "away"):
                self._way(p, e)
            elif e.kind == "no-speed":
                words = f"line {e.line}: the spindle is started without a speed (S)"
                self.say(
                    ("no-speed", p.name),
                    (
                        stop("proof.speed", words, where)
                        if strict
                        else look("proof.speed", f"{words}: set it by hand before it starts", where)
                    ),
                )
        if not p.reading.ended:
            last = p.reading.lines and max((b.lines[-1] for b in p.reading.blocks if b.lines), default=0)
            self.say(
                ("end", p.name),
                (stop if strict else look)(
                    "proof.end",
                    "the program has no end (M30 or M2): the spindle goes on turning",
                    self.where(p, last),
                ),
            )

    def _way(self, p: Given, e: Event) -> None:
        """The way to the changer, and to places of the machine."""
        where, over = self.where(p, e.line), math.inf if e.z is None else e.z - p.top
        if e.kind == "change" and e.turning:
            words = f"line {e.line}: the cutter is changed while the spindle turns; write M5 before it"
            self.say(("change", p.name), stop("proof.change", words, where))
        elif e.kind == "change" and over < (self.world.safe or 0.0) - 1e-3:
            words = (
                f"line {e.line}: the cutter is changed only {over:.2f} mm over the stock: what stands is"
                " in the way to the changer; lift before it"
            )
            self.say(("change low", p.name), stop("proof.change", words, where))
        elif e.kind == "away" and (tall := None if p.bare else self._taller_than(over)):
            words = (
                f"line {e.line}: it goes to a place of the machine only {over:.2f} mm over the stock;"
                f" {tall.says} stands {tall.top:g} mm high; lift before it"
            )
            self.say(("away low", p.name), stop("proof.away", words, where))
        elif e.kind == "away":
            words = (
                f"line {e.line}: it goes to a place of the machine that is not known here; X and Y from there"
                " are not proven"
            )
            self.say(("away", p.name), look("proof.away", words, where))

    def _taller_than(self, over: float) -> Obstacle | None:
        """What stands in the way of a travel so high over the stock, mm."""
        tall = [t for t in self.world.obstacles if t.top + self.world.keep > over]
        return max(tall, key=lambda t: t.top, default=None)

    # -- moves

    def _asks_of_stock(self, p: Given, b: Block) -> bool:
        """Must the stock be followed to judge a block? Fast moves in it, a nut or a shoe that comes down to
        it, plunges of a cutter that does not cut at its centre.
        """
        m, tool = p.on_sheet(b), self.world.tool(b.tool or p.loaded)
        if self._deep_rapids(m).any():
            return True
        if tool is None:
            return False
        lowest = float(m[:, Z].min())
        near = not tool.estimated and any(r and lowest + h < -SCRATCH for r, h in tool.above_tip)
        return near or bool(not tool.cutter.centre_cutting and _plunges(m).any())

    def _deep_rapids(self, m: Array) -> Array:
        """Fast moves below the top that are not straight up the way the cutter went down."""
        z0, z1 = m[:-1, Z], m[1:, Z]
        up = (z1 >= z0) & (np.hypot(np.diff(m[:, X]), np.diff(m[:, Y])) < 1e-6)
        return (m[1:, KIND] == RAPID) & (np.minimum(z0, z1) < -1e-6) & ~up

    def _block(self, p: Given, b: Block) -> None:
        number = b.tool or p.loaded
        tool = self.world.tool(number)
        if tool is None:
            self.say(
                ("tool", number),
                stop(
                    "proof.tool",
                    f"line {b.lines[0]}: T{number} is not named; say what it is",
                    self.where(p, b.lines[0]),
                ),
            )
            return
        m = p.on_sheet(b)
        cutting = m[:, KIND] != RAPID
        back = np.flatnonzero(cutting & (b.speed < 0))
        if len(back):
            line = b.lines[int(back[0])]
            self.say(
                ("sense", p.name),
                stop(
                    "proof.sense",
                    f"line {line}: the spindle turns backwards (M4); cutters are made for M3",
                    self.where(p, line),
                ),
            )
        if len(m) < 2:
            return
        self._travel(p, b, m)
        self._dead(p, b, m)
        self._fixings(p, b, m, tool)
        self._reach(p, b, m, tool)
        self._material(p, b, m, tool)

    def _travel(self, p: Given, b: Block, m: Array) -> None:
        """Fast moves across below the safe height."""
        safe = self.world.safe
        if safe is None:
            return
        across = np.hypot(np.diff(m[:, X]), np.diff(m[:, Y])) > 1e-6
        low = (m[1:, KIND] == RAPID) & across & (np.minimum(m[:-1, Z], m[1:, Z]) < safe - 1e-3)
        if low.any():
            k = int(np.argmax(low)) + 1
            z = float(min(m[k - 1, Z], m[k, Z]))
            words = (
                f"line {b.lines[k]}: a fast move across only {z:.2f} mm over the stock; {safe:g} mm is the"
                " safe height"
            )
            self.say(("travel", p.name), stop("proof.rapid", words, self.where(p, b.lines[k])))

    def _dead(self, p: Given, b: Block, m: Array) -> None:
        """Moves below the safe height within what must not be entered."""
        if not self.world.dead:
            return
        low = np.minimum(m[:-1, Z], m[1:, Z]) < (self.world.safe or math.inf)
        on_table = self.world.on_table(m, p.moved)
        for x0, y0, x1, y1 in self.world.dead:
            if min(x1 - x0, y1 - y0) <= 2e-3:
                continue
            # a move along its edge stays out
            entered = _first_nearer(on_table, low, box(x0 + 1e-3, y0 + 1e-3, x1 - 1e-3, y1 - 1e-3), 1e-9)
            if entered is not None:
                line = b.lines[entered]
                words = f"line {line}: the program enters a dead area of the table"
                self.say(("dead", x0, y0), stop("proof.table", words, self.where(p, line)))

    def _fixings(self, p: Given, b: Block, m: Array, tool: Assembly) -> None:
        if not self.world.obstacles or p.bare:
            return
        path = polyline(m, CHORD)
        a, c = path[:-1, :3], path[1:, :3]
        for t in self.world.obstacles:
            x0, y0, x1, y1 = t.shape.bounds
            reach = max(tool.cutter.radius, *(r for r, _h in tool.above_tip), 25.0) + self.world.keep
            near = (np.minimum(a[:, 0], c[:, 0]) < x1 + reach) & (np.maximum(a[:, 0], c[:, 0]) > x0 - reach)
            near &= (np.minimum(a[:, 1], c[:, 1]) < y1 + reach) & (np.maximum(a[:, 1], c[:, 1]) > y0 - reach)
            how = meets_between(a[near], c[near], t, tool, self.world.keep) if near.any() else ""
            if how:
                line = b.lines[self._first_near(m, t, tool, how)]
                what = "a move passes too low over" if how == "rapid" else f"{_CALLED[how]} runs into"
                self.say(
                    ("fixing", t.key),
                    stop(
                        "proof.fixing",
                        f"line {line}: {what} {t.says}, {t.top:g} mm high",
                        self.where(p, line),
                    ),
                )

    def _first_near(self, m: Array, t: Obstacle, tool: Assembly, how: Meeting) -> int:
        """The first move that comes as near and as low as that."""
        radius, height = tool.cutter.radius, 0.0
        if how in ABOVE:
            radius, height = tool.above_tip[ABOVE.index(how)]
        elif how == "shank":
            radius, height = tool.cutter.shank / 2, tool.edge or 0.0
        low = np.minimum(m[:-1, Z], m[1:, Z]) + height < t.top + self.world.keep
        return _first_nearer(m, low, t.shape, radius) or 0

    def _reach(self, p: Given, b: Block, m: Array, tool: Assembly) -> None:
        """Deeper than the cutting edge is long."""
        if tool.edge is None:
            return
        deep = (m[:, KIND] != RAPID) & (-m[:, Z] > tool.edge + 1e-6)
        if deep.any():
            k = int(np.argmax(deep))
            words = (
                f"line {b.lines[k]}: {-m[k, Z]:.2f} mm deep, the cutting edge of {tool.cutter.name} is"
                f" {tool.edge:g} mm: its shank rubs"
            )
            self.say(("edge", b.tool), stop("proof.edge", words, self.where(p, b.lines[k])))

    def _material(self, p: Given, b: Block, m: Array, tool: Assembly) -> None:
        """Fast moves in material, and the nut against what still stands; the stock is cut as it goes."""
        if self.body is None:
            return
        k = 1
        while k < len(m):
            j = k
            while j < len(m) and (m[j, KIND] == RAPID) == (m[k, KIND] == RAPID):
                j += 1
            run = m[k - 1 : j]
            if m[k, KIND] == RAPID:
                self._above(p, b, run, k, tool)
                self._fast(p, b, run, k, tool)
            elif not tool.estimated and any(r and run[:, Z].min() + h < -SCRATCH for r, h in tool.above_tip):
                # move by move: what is cut later in the run still stands by then
                for i in range(1, len(run)):
                    self._cut(p, b, run[i - 1 : i + 1], k + i - 1, tool)
                    self._above(p, b, run[i - 1 : i + 1], k + i - 1, tool)
            else:
                self._cut(p, b, run, k, tool)
            k = j

    def _fast(self, p: Given, b: Block, run: Array, k: int, tool: Assembly) -> None:
        assert self.body is not None
        for i in range(1, len(run)):
            a, c = run[i - 1, [X, Y, Z]], run[i, [X, Y, Z]]
            if min(a[2], c[2]) >= -1e-6:
                continue
            n = max(2, int(math.dist(a, c) / max(self.body.cell, 0.5)) + 1)
            places = a + (c - a) * np.linspace(0, 1, n)[:, None]
            places = places[places[:, 2] < -SCRATCH]
            if len(places) and float(self.body.clash(places, tool.cutter).max()) > 2 * SCRATCH:
                line = b.lines[k - 1 + i]
                self.say(
                    ("rapid", p.name),
                    stop(
                        "proof.rapid",
                        f"line {line}: a fast move goes into or through material, {-min(a[2], c[2]):.2f} mm"
                        " deep",
                        self.where(p, line),
                    ),
                )
                return

    def _cut(self, p: Given, b: Block, run: Array, k: int, tool: Assembly) -> None:
        """Cutting moves, with straight plunges of a cutter that does not cut at its centre judged against
        what stands by then.
        """
        assert self.body is not None
        done = 0
        for i in np.flatnonzero(_plunges(run)).tolist() if not tool.cutter.centre_cutting else ():
            self.body.cut(run[done : i + 1], tool.cutter)
            done, end = i, run[i + 1]
            core = float(self.body.highest(end[None, [X, Y]], CORE * tool.cutter.radius)[0])
            if core > end[Z] + SCRATCH:
                line = b.lines[k + i]
                words = (
                    f"line {line}: straight down into material with {tool.cutter.name}, which does not cut at"
                    " its centre; ramp in"
                )
                worst = stop if self.world.strict else look
                self.say(("plunge", b.tool), worst("proof.plunge", words, self.where(p, line)))
        self.body.cut(run[done:], tool.cutter)

    def _above(self, p: Given, b: Block, run: Array, k: int, tool: Assembly) -> None:
        """The nut and the dust shoe against what stands of the stock."""
        assert self.body is not None
        path: Array | None = None
        for what, (radius, height) in zip(ABOVE, () if tool.estimated else tool.above_tip, strict=False):
            if not radius or run[:, Z].min() + height > -SCRATCH:
                continue
            path = polyline(run, CHORD) if path is None else path
            low = path[path[:, 2] + height < -1e-6]
            if not len(low):
                continue
            stands = self.body.highest(low[:, :2], radius) > low[:, 2] + height + SCRATCH
            if stands.any():
                line = b.lines[k]
                words = (
                    f"line {line}: {_CALLED[what]} runs into the work: it is {height:g} mm over the tip of"
                    f" {tool.cutter.name}, the cut is deeper"
                )
                self.say((what, b.tool), stop(f"proof.{_RULES[what]}", words, self.where(p, line)))

    # -- sums

    def _depth(self, programs: Sequence[Given]) -> None:
        for p in programs:
            for b in p.reading.blocks:
                give_way()
                m = p.on_sheet(b)
                below = -m[:, Z] - self.world.thickness
                k = int(np.argmax(below))
                if below[k] > SPOILED:
                    words = f"line {b.lines[k]}: {below[k]:.2f} mm below the sheet, into the spoilboard"
                    self.say(
                        ("deep", p.name, bool(below[k] > RUINED)),
                        (stop if below[k] > RUINED else look)("proof.deep", words, self.where(p, b.lines[k])),
                    )

    def _axes(self, programs: Sequence[Given]) -> None:
        reach, span = self.world.reach, self.world.z_span
        low, high = math.inf, -math.inf
        for p in programs:
            for b in p.reading.blocks:
                give_way()
                m = p.on_sheet(b)
                m = self.world.on_table(m, p.moved)
                points = polyline(m, CHORD) if len(m) > 1 else m[:, [X, Y, Z]]
                low, high = min(low, float(points[:, 2].min())), max(high, float(points[:, 2].max()))
                if reach is None:
                    continue
                inside = shapely.box(*reach).buffer(1e-3)
                if not box(*points[:, :2].min(axis=0), *points[:, :2].max(axis=0)).within(inside):
                    line = b.lines[_first_beyond(m, reach)]
                    self.say(
                        ("reach", p.name),
                        stop(
                            "proof.table", f"line {line}: the program leaves the table", self.where(p, line)
                        ),
                    )
        if span is not None and high - low > span + 1e-6:
            self.say(
                ("span",),
                stop(
                    "proof.table",
                    f"the program goes {high - low:.1f} mm from its lowest to its highest; the machine's Z"
                    f" travels {span:g} mm",
                    {"file": programs[0].name},
                ),
            )
