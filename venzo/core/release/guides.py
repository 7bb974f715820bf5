"""Programs of the holes that dowels stand in: in the spoilboard, zeroed on it, and in the stock, zeroed on
the stock.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from venzo.core.cuts.moves import PLANE
from venzo.core.cuts.rounds import bore_moves, drill_moves
from venzo.core.cuts.track import Track
from venzo.core.faces.registration import Dowel, Dowels
from venzo.core.faces.turn import turn_of
from venzo.core.geometry.contour import Array
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
class Guides:
    """Holes for dowels to be made before all else: the dowels, how they are registered, and the setup of the
    first face.
    """

    setup: Setup
    registration: Dowels
    axis: Literal["x", "y"]

    def places(self, guide: Guide, stock: Stock) -> list[tuple[Dowel, Point]]:
        """Where holes go, mm on the sheet as the first face is up."""
        turn = turn_of(self.axis, stock)
        turned = guide == "spoilboard" and self.registration.sets == "second"
        return [(d, turn.point(d.at) if turned else d.at) for d in self.registration.dowels]

    def depth(self, guide: Guide, stock: Stock) -> float:
        """How deep holes go below the face that they are made in, mm. Dowels that hold the stock on both
        faces stand in holes all through it.
        """
        if guide == "spoilboard":
            return self.registration.below
        s = self.setup
        through = stock.thickness + s.rules.overshoot.get(s.material.family, 0.5)
        into = self.registration.into
        return min(into, through) if into and self.registration.sets == "second" else through

    def cutters(self, stock: Stock) -> dict[str, Cutter]:
        """The cutter for every dowel's hole, by the dowel's id: one for all where one can, else a drill of
        its size, or the largest that bores it; none for a hole that no cutter of the setup can make.
        """
        dowels = self.registration.dowels
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
        deep = max(self.depth("stock", stock), self.registration.below)
        if self.setup.material.family not in c.feeds or c.reach < deep:
            return False
        if c.kind == "drill":
            return -1e-6 <= d.hole - c.diameter <= DRILLS_TO
        mill = c.kind in FLAT and c.kind not in ("surfacing", "roughing") and c.centre_cutting
        return mill and c.diameter <= BORES_FROM * d.hole

    def runs(self, guide: Guide, stock: Stock) -> list[ToolRun]:
        """What the program does, cutter by cutter, in program X and Y, Z 0 at the face that it bores into."""
        s = self.setup
        datum = datum_on_sheet(s, stock)
        chosen = self.cutters(stock)
        runs: dict[str, ToolRun] = {}
        for d, at in self.places(guide, stock):
            c = chosen.get(d.id)
            if c is None:
                continue
            feeds = c.feeds[s.material.family]
            if c.id not in runs:
                runs[c.id] = ToolRun(
                    c.number, c.name, min(max(feeds.rpm, s.machine.rpm_min), s.machine.rpm_max), []
                )
            moves = self._moves(c, d, at, self.depth(guide, stock))
            runs[c.id].cuts.append((f"dowel {d.id}", s.lying.moves_from(moves, datum, PLANE)))
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
        return [d for d in self.registration.dowels if d.id not in found]

    def seconds(self, runs: Sequence[ToolRun]) -> float:
        """How long the program runs, travel between its holes left out."""
        m = self.setup.machine
        spent = sum(path_time(moves, m.axes)[0] for r in runs for _w, moves in r.cuts)
        return spent + len(runs) * m.change_seconds


def guides_of(plan: Plan, setup: Setup) -> Guides | None:
    """The dowel holes that are made in a setup: those of its other face; None where there are none."""
    back = plan.other_face_of(setup.id)
    if back is None or back.other_face is None or not isinstance(back.other_face.registration, Dowels):
        return None
    register = back.other_face.registration
    return Guides(setup, register, back.other_face.axis) if register.dowels else None


def names(dowels: Sequence[Dowel]) -> str:
    """Dowels in words."""
    return ", ".join(d.id for d in dowels)
