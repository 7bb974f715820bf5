"""Programs of the holes that dowels stand in: in the spoilboard, zeroed on it, and in the stock, zeroed on
the stock.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from venzo.core.cuts.moves import PLANE
from venzo.core.cuts.rounds import bore_moves, drill_moves
from venzo.core.cuts.track import Track
from venzo.core.faces.registration import Dowel, Dowels
from venzo.core.faces.turn import turn_of
from venzo.core.geometry.contour import Array
from venzo.core.indexing.positions import Indexing, IndexPins
from venzo.core.model import Point
from venzo.core.motion.time import path_time
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.program import ToolRun
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import FLAT, Cutter

Guide = Literal["spoilboard", "stock"]
DRILLS_TO = 0.06
"""mm by which a drill may be smaller than a hole that it drills alone."""
BORES_FROM = 0.8
"""A hole is bored by a cutter of at most this share of its diameter."""
PITCH = 0.25
"""mm down a turn over the hole's diameter."""


@dataclass(frozen=True)
class Guides(ABC):
    """Holes for dowels to be made: the setup in which they are, the dowels and how deep they stand in the
    spoilboard, mm.
    """

    setup: Setup
    dowels: tuple[Dowel, ...]
    below: float

    @abstractmethod
    def places(self, guide: Guide, stock: Stock, position: int = 0) -> list[tuple[Dowel, Point]]:
        """Where holes go, mm on the sheet, that are made at a position of it."""

    @abstractmethod
    def depth(self, guide: Guide, stock: Stock) -> float:
        """How deep holes go below the face that they are made in, mm."""

    @property
    @abstractmethod
    def noun(self) -> str:
        """What they are called."""

    @abstractmethod
    def says(self, guide: Guide) -> str:
        """What the file is for, in its header's words."""

    def _through(self, stock: Stock) -> float:
        return stock.thickness + self.setup.rules.overshoot.get(self.setup.material.family, 0.5)

    def cutters(self, stock: Stock) -> dict[str, Cutter]:
        """The cutter for every dowel's hole, by the dowel's id: one for all where one can, else a drill of
        its size, or the largest that bores it; none for a hole that no cutter of the setup can make.
        """
        dowels = self.dowels
        every = [c for c in self.setup.cutters if all(self._can(c, d, stock) for d in dowels)]
        if every and dowels:
            one = min(every, key=lambda c: (c.kind != "drill", -c.diameter))
            return {d.id: one for d in dowels}
        out = {}
        for d in dowels:
            fit = [c for c in self.setup.cutters if self._can(c, d, stock)]
            if fit:
                out[d.id] = min(fit, key=lambda c: (c.kind != "drill", -c.diameter))
        return out

    def _can(self, c: Cutter, d: Dowel, stock: Stock) -> bool:
        deep = max(self.depth("stock", stock), self.below)
        if self.setup.material.family not in c.feeds or c.reach < deep:
            return False
        if c.kind == "drill":
            return -1e-6 <= d.hole - c.diameter <= DRILLS_TO
        mill = c.kind in FLAT and c.kind not in ("surfacing", "roughing") and c.centre_cutting
        return mill and c.diameter <= BORES_FROM * d.hole

    def runs(self, guide: Guide, stock: Stock, position: int = 0) -> list[ToolRun]:
        """What the program does, cutter by cutter, in program X and Y, Z 0 at the face that it bores into."""
        s = self.setup
        datum = datum_on_sheet(s, stock, position)
        chosen = self.cutters(stock)
        runs: dict[str, ToolRun] = {}
        for d, at in self.places(guide, stock, position):
            c = chosen.get(d.id)
            if c is None:
                continue
            feeds = c.feeds[s.material.family]
            if c.id not in runs:
                runs[c.id] = ToolRun(
                    c.number, c.name, min(max(feeds.rpm, s.machine.rpm_min), s.machine.rpm_max), []
                )
            moves = self._moves(c, d, at, self.depth(guide, stock))
            runs[c.id].cuts.append((f"{self.noun} {d.id}", s.lying.moves_from(moves, datum, PLANE)))
        return list(runs.values())

    def _moves(self, c: Cutter, d: Dowel, at: Point, depth: float) -> Array:
        s = self.setup
        feeds = c.feeds[s.material.family]
        feed, plunge = min(feeds.feed, s.machine.fastest_feed), min(feeds.plunge, s.machine.fastest_feed)
        track = Track(s.machine.retract, feed, plunge)
        if c.kind == "drill":
            return drill_moves(*at, depth, s.rules.peck[s.material.family] * c.diameter, track)
        step = min(PITCH * d.hole, s.rules.largest_step(s.material.family, c.diameter, c.kind))
        return bore_moves(*at, d.hole / 2, c.radius, (-depth,), step, True, track)

    def missing(self, stock: Stock) -> list[Dowel]:
        """Dowels whose holes no cutter of the setup can make."""
        found = self.cutters(stock)
        return [d for d in self.dowels if d.id not in found]

    def seconds(self, runs: Sequence[ToolRun]) -> float:
        """How long the program runs, travel between its holes left out."""
        m = self.setup.machine
        spent = sum(path_time(moves, m.axes)[0] for r in runs for _w, moves in r.cuts)
        return spent + len(runs) * m.change_seconds


@dataclass(frozen=True)
class TurnGuides(Guides):
    """Dowels by which stock is turned over; ``setup`` is that of the first face."""

    registration: Dowels
    axis: Literal["x", "y"]

    @property
    def noun(self) -> str:
        """As a carpenter says."""
        return "dowel"

    def places(self, guide: Guide, stock: Stock, position: int = 0) -> list[tuple[Dowel, Point]]:
        """As the first face is up."""
        turn = turn_of(self.axis, stock)
        turned = guide == "spoilboard" and self.registration.sets == "second"
        return [(d, turn.point(d.at) if turned else d.at) for d in self.dowels]

    def depth(self, guide: Guide, stock: Stock) -> float:
        """Dowels that hold the stock on both faces stand in holes all through it."""
        if guide == "spoilboard":
            return self.below
        into = self.registration.into
        through = self._through(stock)
        return min(into, through) if into and self.registration.sets == "second" else through

    def says(self, guide: Guide) -> str:
        """For a header."""
        if guide == "spoilboard":
            return "holes for dowels in the spoilboard, no stock on it; once for all sheets"
        return "holes for dowels in the stock; for every sheet before it is turned"


@dataclass(frozen=True)
class IndexGuides(Guides):
    """Pins on which stock is moved along: at every position the holes are made that it is dropped on them by
    at the next.
    """

    indexing: Indexing

    @property
    def noun(self) -> str:
        """They are pulled out and set again."""
        return "pin"

    def places(self, guide: Guide, stock: Stock, position: int = 0) -> list[tuple[Dowel, Point]]:
        """In the spoilboard once; in the stock those of the position after."""
        if guide == "spoilboard":
            return [(d, d.at) for d in self.dowels] if position == 0 else []
        if position + 1 >= self.indexing.count:
            return []
        dx, dy = self.indexing.shift(position + 1)
        return [(d, (d.x + dx, d.y + dy)) for d in self.dowels]

    def depth(self, guide: Guide, stock: Stock) -> float:
        """All through the stock."""
        return self.below if guide == "spoilboard" else self._through(stock)

    def says(self, guide: Guide) -> str:
        """For a header."""
        if guide == "spoilboard":
            return "holes for pins in the spoilboard, no stock on it; once for all sheets"
        return "holes for pins in the stock, by which it lies at the next position"


def guides_of(plan: Plan, setup: Setup) -> Guides | None:
    """The dowel holes that are made in a setup: those of its other face, or of the positions of long stock;
    None where there are none.
    """
    if setup.indexing is not None:
        brought = setup.indexing.brought
        if not isinstance(brought, IndexPins) or not brought.pins:
            return None
        return IndexGuides(setup, brought.pins, brought.below, setup.indexing)
    back = plan.other_face_of(setup.id)
    if back is None or back.other_face is None or not isinstance(back.other_face.registration, Dowels):
        return None
    register = back.other_face.registration
    if not register.dowels:
        return None
    return TurnGuides(setup, register.dowels, register.below, register, back.other_face.axis)


def names(dowels: Sequence[Dowel]) -> str:
    """Dowels in words."""
    return ", ".join(d.id for d in dowels)
