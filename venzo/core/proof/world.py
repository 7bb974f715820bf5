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

from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z, lengths, polyline
from venzo.core.geometry.contour import Array
from venzo.core.holding.in_the_way import Obstacle, meets_between
from venzo.core.memo import give_way
from venzo.core.motion.time import Axes, path_time
from venzo.core.proof.program import Block, Reading
from venzo.core.snags import Snag, Where, look, stop
from venzo.core.tooling.cutter import Cutter

SPOILED, RUINED = 3.0, 12.0
"""mm below the sheet from which a depth is looked at, and stops."""
SCRATCH = 0.05
"""mm that a fast move may stand in material by rounding."""
MOST_CELLS = 16_000_000
"""Cells in which a sheet is followed."""
CHORD = 0.2


@dataclass(frozen=True)
class Tool:
    """A cutter as the proof knows it. mm; ``edge``: length of its cutting edge, ``out``: from the nut to the
    tip, ``nut``: the nut's diameter; None: not known.
    """

    cutter: Cutter
    edge: float | None = None
    out: float | None = None
    nut: float | None = None


@dataclass(frozen=True)
class World:
    """Everything that is not the program. Sheet coordinates, mm, Z 0 at the stock's top.

    ``reach``: where the tip can go (x0, y0, x1, y1), ``z_span``: highest less lowest; None: not known.
    ``safe``: fast travel across stays this high. ``strict``: a missing speed or end stops (a plan says what
    they should be).
    """

    width: float
    height: float
    thickness: float
    tools: Mapping[int, Tool]
    any_tool: Tool | None = None
    reach: tuple[float, float, float, float] | None = None
    z_span: float | None = None
    obstacles: Sequence[Obstacle] = ()
    keep: float = 0.0
    safe: float | None = None
    strict: bool = False
    axes: Axes = field(default_factory=Axes)

    def tool(self, number: int) -> Tool | None:
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

    def on_sheet(self, block: Block) -> Array:
        """A block's moves in sheet coordinates."""
        m = block.moves.copy()
        m[:, [X, 4]] += self.dx
        m[:, [Y, 5]] += self.dy
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


def world_snags(world: World, programs: Sequence[Given]) -> list[Snag]:
    """Judge programs, run in order on one stock, against the world; every finding names the line."""
    return _Walk(world).walk(programs)


class _Walk:
    """Goes through programs with the stock as it is by then."""

    def __init__(self, world: World):
        self.world = world
        self.out: list[Snag] = []
        self.said: set[tuple] = set()
        self.body: StockBody | None = None

    def walk(self, programs: Sequence[Given]) -> list[Snag]:
        low = any(self._deep_rapids(p.on_sheet(b)).any() for p in programs for b in p.reading.blocks)
        nuts = any(
            t.nut and t.out is not None
            for t in (*self.world.tools.values(), *([self.world.any_tool] if self.world.any_tool else []))
        )
        if low or nuts:
            w, h = self.world.width, self.world.height
            self.body = StockBody(Box(0, 0, w, h), max(0.1, math.sqrt(w * h / MOST_CELLS)))
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
        strict = self.world.strict
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
                if cutting or strict:
                    what = (
                        "stops in a cut: the cutter rubs there"
                        if cutting
                        else "stops where no stop is planned"
                    )
                    self.say(
                        ("stop", p.name),
                        stop("proof.pause", f"line {e.line}: the program {what}; remove the M0 or M1", where),
                    )
                else:
                    self.say(
                        ("stop", p.name),
                        look("proof.pause", f"line {e.line}: the program stops for the operator", where),
                    )
            elif e.kind == "change" and e.turning:
                self.say(
                    ("change", p.name),
                    stop(
                        "proof.change",
                        f"line {e.line}: the cutter is changed while the spindle turns; write M5 before it",
                        where,
                    ),
                )
            elif e.kind == "away":
                self.say(
                    ("away", p.name),
                    look(
                        "proof.away",
                        f"line {e.line}: it goes to a place of the machine that is not known here; X and Y"
                        " from there are not proven",
                        where,
                    ),
                )
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

    # -- moves

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

    def _fixings(self, p: Given, b: Block, m: Array, tool: Tool) -> None:
        if not self.world.obstacles or p.bare:
            return
        path = polyline(m, CHORD)
        a, c = path[:-1, :3], path[1:, :3]
        for t in self.world.obstacles:
            x0, y0, x1, y1 = t.shape.bounds
            reach = max(tool.cutter.radius, 25.0) + self.world.keep
            near = (np.minimum(a[:, 0], c[:, 0]) < x1 + reach) & (np.maximum(a[:, 0], c[:, 0]) > x0 - reach)
            near &= (np.minimum(a[:, 1], c[:, 1]) < y1 + reach) & (np.maximum(a[:, 1], c[:, 1]) > y0 - reach)
            how = meets_between(a[near], c[near], t, tool.cutter, self.world.keep) if near.any() else ""
            if how:
                line = b.lines[self._first_near(m, t, tool)]
                what = {
                    "cutter": "the cutter runs into",
                    "rapid": "a move passes too low over",
                    "holder": "the holder runs into",
                }[how]
                self.say(
                    ("fixing", t.key),
                    stop(
                        "proof.fixing",
                        f"line {line}: {what} {t.says}, {t.top:g} mm high",
                        self.where(p, line),
                    ),
                )

    def _first_near(self, m: Array, t: Obstacle, tool: Tool) -> int:
        lines = shapely.linestrings(np.stack([m[:-1, [X, Y]], m[1:, [X, Y]] + 1e-9], axis=1))
        near = (shapely.distance(lines, t.shape) < tool.cutter.radius) & (
            np.minimum(m[:-1, Z], m[1:, Z]) < t.top + self.world.keep
        )
        return int(np.argmax(near)) + 1 if near.any() else 0

    def _reach(self, p: Given, b: Block, m: Array, tool: Tool) -> None:
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

    def _material(self, p: Given, b: Block, m: Array, tool: Tool) -> None:
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
                self._fast(p, b, run, k, tool)
            else:
                self.body.cut(run, tool.cutter)
                self._nut(p, b, run, k, tool)
            k = j

    def _fast(self, p: Given, b: Block, run: Array, k: int, tool: Tool) -> None:
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

    def _nut(self, p: Given, b: Block, run: Array, k: int, tool: Tool) -> None:
        assert self.body is not None
        if tool.nut is None or tool.out is None:
            return
        path = polyline(run, CHORD)
        low = path[path[:, 2] + tool.out < -1e-6]
        if len(low) and (self.body.highest(low[:, :2], tool.nut / 2) > low[:, 2] + tool.out + SCRATCH).any():
            i = int(np.argmax(run[:, Z] + tool.out < -1e-6))
            line = b.lines[min(k - 1 + i, len(b.lines) - 1)]
            self.say(
                ("nut", b.tool),
                stop(
                    "proof.nut",
                    f"line {line}: the nut runs into the work: {tool.cutter.name} stands out {tool.out:g} mm,"
                    " the cut is deeper",
                    self.where(p, line),
                ),
            )

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
                points = polyline(m, CHORD) if len(m) > 1 else m[:, [X, Y, Z]]
                low, high = min(low, float(points[:, 2].min())), max(high, float(points[:, 2].max()))
                if reach is None:
                    continue
                inside = shapely.box(*reach).buffer(1e-3)
                if not box(*points[:, :2].min(axis=0), *points[:, :2].max(axis=0)).within(inside):
                    out = (
                        (m[:, X] < reach[0] - 1e-3)
                        | (m[:, Y] < reach[1] - 1e-3)
                        | (m[:, X] > reach[2] + 1e-3)
                        | (m[:, Y] > reach[3] + 1e-3)
                    )
                    line = b.lines[int(np.argmax(out))]
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
