"""What is to be said of stock that is moved along the table: what no position reaches, what is cut in
lengths, pins that do not serve.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import shapely

from venzo.core.faces.dowel_places import Room, room_of
from venzo.core.faces.face_snags import bored
from venzo.core.faces.meeting import Meeting
from venzo.core.faces.registration import Dowel
from venzo.core.indexing.fewest_positions import WHOLE, best_positions, work_on
from venzo.core.indexing.pins import LEAST_ERROR, NEAREST, WrongHoles, misplaced, nearest_wrong, propose_pins
from venzo.core.indexing.positions import FenceMark, Indexing, IndexPins
from venzo.core.indexing.reach import TOUCH, first_span, spans
from venzo.core.indexing.seams import lengths_meet
from venzo.core.memo import memo
from venzo.core.model import Fields, Point, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.release.guides import BORES_FROM, guides_of
from venzo.core.snags import Remedy, Snag, Where, look, note, stop
from venzo.core.stock.sheet import Stock
from venzo.core.voice import counted

OVERHANG = 0.25
"""Share of the stock beyond the table from which it tips or bends without support (common practice: none)."""


@dataclass(frozen=True, eq=False)
class Indexed:
    """A setup whose stock is moved along the table, with the sheets as they are cut."""

    plan: Plan
    setup: Setup
    sheets: Sequence[SheetPlan]
    shapes: Mapping[str, Shape]

    @property
    def indexing(self) -> Indexing:
        """How it is moved."""
        assert self.setup.indexing is not None
        return self.setup.indexing

    @property
    def where(self) -> Where:
        """For snags."""
        return {"setup": self.setup.id}

    @cached_property
    def stock(self) -> Stock | None:
        """The longest sheet that something is cut on, or that there is."""
        used = {s.sheet for s in self.sheets}
        mine = [s for s in self.setup.stock if s.id in used] or [s for s in self.setup.stock if s.quantity]
        along = (lambda s: s.width) if self.indexing.axis == "x" else (lambda s: s.height)
        return max(mine, key=along, default=None)

    @cached_property
    def better(self) -> tuple[float, ...] | None:
        """Positions at which more is cut whole; None where there are none, or they are those."""
        if self.stock is None or not self.sheets:
            return None
        keys = [s.key for s in self.sheets]
        key = digest(
            "positions-1", keys, self.indexing, first_span(self.setup, self.stock, self.indexing.axis)
        )
        best = partial(best_positions, self.setup, self.stock, self.sheets, self.indexing.axis)
        found = memo("positions", key, lambda: (best(),))[0]
        if not found or found == self.indexing.moved:
            return None
        new = self.indexing.model_copy(update={"moved": found})
        lost = any(s.out_of_reach for s in self.sheets)
        return found if lost or self._parted(new) < self._parted(self.indexing) else None

    def _parted(self, indexing: Indexing) -> tuple[int, int]:
        """Stretches of work that no position holds whole, and how many positions there are."""
        assert self.stock is not None
        reached = spans(self.setup, self.stock, indexing)
        wide = reached[0][1] - reached[0][0] - WHOLE
        work = work_on(self.sheets, indexing.column, wide)
        whole = [any(s[0] <= w[0] + TOUCH and w[1] <= s[1] + TOUCH for s in reached) for w in work]
        return (whole.count(False), indexing.count)

    @cached_property
    def room(self) -> Room | None:
        """Where pins may stand."""
        return room_of(self.plan, self.setup, self.shapes)

    @cached_property
    def pins(self) -> IndexPins | None:
        """Pins that would do; None where there is no room."""
        if self.room is None:
            return None
        stock = self.room.stock
        sorts = [
            p
            for p in self.setup.rules.turning.dowels
            if bored(self.setup, Dowel(id="d", x=0, y=0, **p.model_dump()), stock)
        ]
        reach = first_span(self.setup, stock, self.indexing.axis)
        taken = shapely.to_wkb(self.room.taken, hex=True)
        key = digest(
            "pins-1", stock, taken, self.indexing.axis, self.indexing.moved, [list(p) for p in sorts], reach
        )
        room = self.room
        return memo("pins", key, lambda: (propose_pins(self.indexing, room, reach, sorts),))[0]

    @cached_property
    def wrong(self) -> WrongHoles | None:
        """The nearest pair of holes that is no position's own."""
        brought = self.indexing.brought
        return nearest_wrong(brought, self.indexing) if isinstance(brought, IndexPins) else None

    @cached_property
    def met(self) -> Meeting | None:
        """How well lengths meet at the worst seam; None where none are cut, or too few pins are there."""
        seams = [s for sheet in self.sheets for s in sheet.seams]
        if self.stock is None or not seams:
            return None
        high = self.stock.height if self.indexing.axis == "x" else self.stock.width
        found = []
        for s in {(s.before, round(s.at, 1)) for s in seams}:
            places: list[Point] = [(s[1], 0.0), (s[1], high)]
            if self.indexing.axis == "y":
                places = [(y, x) for x, y in places]
            key = digest("lengths-meet-1", self.indexing, s, high, self.setup.rules.turning.errors)
            meet = partial(lengths_meet, self.indexing, s[0], self.setup.rules.turning.errors, places)
            found.append(memo("lengths-meet", key, partial(_as_one, meet))[0])
        known = [m for m in found if m is not None]
        return max(known, key=lambda m: m.across) if len(known) == len(found) else None


def _as_one(ask: Callable[[], Meeting | None]) -> tuple[Meeting | None]:
    """An answer that may be none, as something to remember."""
    return (ask(),)


def index_snags(x: Indexed) -> list[Snag]:
    """Judge how long stock is moved along; nothing of stock that stays."""
    if x.setup.indexing is None:
        return []
    out = [*_out_of_reach(x), *_overlap(x), *_in_lengths(x)]
    out += _pins(x) if isinstance(x.indexing.brought, IndexPins) else _fence(x)
    return [*out, *_support(x)]


def _change(x: Indexed, label: str, fields: Fields) -> Remedy:
    return Remedy(label=label, command={"kind": "change-indexing", "setup": x.setup.id, "fields": fields})


def _positions(x: Indexed) -> list[Remedy]:
    """Positions that reach more, or part less."""
    if x.better is None:
        return []
    n = counted(len(x.better) + 1, "position")
    return [_change(x, f"Lay it in {n} instead", {"moved": {"=": list(x.better)}})]


def _out_of_reach(x: Indexed) -> list[Snag]:
    lost = [(s, n) for s in x.sheets for n in s.out_of_reach]
    if not lost:
        return []
    sheet, name = lost[0]
    piece = name.split("/", 1)[0]
    words = (
        f"{x.setup.name}: {counted(len(lost), 'cut')}, {name.split('/', 2)[1]} of piece {piece} first,"
        f" lie where the table reaches at no position, clear of its dead areas"
    )
    where: Where = {**x.where, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no, "piece": piece}
    return [
        stop("index.reach", f"{words}; add a position, or lay the stock further along", where, *_positions(x))
    ]


def _overlap(x: Indexed) -> list[Snag]:
    """Neighbouring positions that share too little for a cut in lengths are said where one is lost by it."""
    if x.stock is None or not any(s.out_of_reach for s in x.sheets):
        return []
    reached = spans(x.setup, x.stock, x.indexing)
    for k in range(len(reached) - 1):
        shared = reached[k][1] - reached[k + 1][0]
        if shared < x.indexing.overlap:
            words = (
                f"{x.setup.name}: positions {k + 1} and {k + 2} share {max(shared, 0.0):.0f} mm, lengths of a"
                f" cut overlap by {x.indexing.overlap:g} mm: move the stock less at once"
            )
            return [look("index.overlap", words, x.where, *_positions(x))]
    return []


def _in_lengths(x: Indexed) -> list[Snag]:
    """Finished edges that are cut in lengths, and how well these meet."""
    out = []
    names = {p.id: p.name for p in x.plan.parts}
    for sheet in x.sheets:
        parted = [c for c in sheet.cuts if c.cut.portion == 1]
        if not parted or not sheet.seams:
            continue
        parts = list(dict.fromkeys(names.get(c.piece.part, c.piece.part) for c in parted))
        at = ", ".join(f"{s.at:.0f}" for s in sheet.seams)
        few = ", ".join(parts[:3]) + (f" and {len(parts) - 3} more" if len(parts) > 3 else "")
        meets = f"; they meet within {x.met.across:.2f} mm" if x.met else ""
        words = (
            f"{counted(len(parted), 'cut')} of {few} {'is' if len(parted) == 1 else 'are'} made in"
            f" lengths, parted at {x.indexing.axis.upper()}"
            f" {at} mm of the sheet{meets}: an edge may show it; sand it over, or lay pieces within"
            " one position"
        )
        where: Where = {
            **x.where,
            "sheet": sheet.sheet,
            "sheet_copy": sheet.copy_no,
            "piece": parted[0].piece.id,
        }
        out.append(look("index.lengths", words, where, *_positions(x)))
    return out


def _pins(x: Indexed) -> list[Snag]:
    """Do two pins hold the stock, at its own holes alone, clear of what is cut, bored by a cutter at hand?"""
    brought = x.indexing.brought
    assert isinstance(brought, IndexPins)
    mend = []
    if x.pins is not None and x.pins != brought:
        mend = [_change(x, "Pins where there is room", {"brought": {"=": x.pins.model_dump(mode="json")}})]
    fence: Fields = {"brought": {"=": FenceMark().model_dump(mode="json")}}
    mend.append(_change(x, "Along a fence, by lines", fence))
    if len(brought.pins) < 2:
        words = f"{x.setup.name}: {counted(len(brought.pins), 'pin')}: stock still turns about one; place two"
        return [stop("index.pins", words, x.where, *mend)]
    if math.dist(*(p.at for p in brought.pins)) < NEAREST:
        words = f"{x.setup.name}: the pins stand nearer than {NEAREST:g} mm: they do not keep stock straight"
        return [stop("index.pins", f"{words}; set them further apart", x.where, *mend)]
    if x.wrong is not None and x.wrong.error < LEAST_ERROR:
        words = (
            f"{x.setup.name}: the stock goes on the pins {x.wrong.says} as well; set the pins further apart"
        )
        return [stop("index.pins", words, x.where, *mend)]
    if x.room is None:
        return []
    for p in brought.pins:
        wrong = p.wrong_length(brought.below, x.room.stock.thickness)
        if wrong:
            words = (
                f"{x.setup.name}: pin {p.id}, {p.length:g} mm long, {wrong}: set it deeper, or take another"
            )
            return [stop("index.pin-length", words, {**x.where, "x": p.x, "y": p.y}, *mend)]
    guides = guides_of(x.plan, x.setup)
    for p in guides.missing(x.room.stock) if guides else ():
        words = (
            f"{x.setup.name}: no cutter makes the holes of pin {p.id}, {p.hole:g} mm: bring in a"
            " drill of that"
            f" size or an end mill of at most {BORES_FROM * p.hole:.1f} mm"
        )
        return [stop("index.pin-cutter", words, {**x.where, "x": p.x, "y": p.y}, *mend)]
    reach = first_span(x.setup, x.room.stock, x.indexing.axis)
    for name, why in misplaced(brought, x.indexing, x.room, reach)[:1]:
        pin = next(p for p in brought.pins if p.id == name)
        words = f"{x.setup.name}: pin {name}: {why}; move it, or widen the sheet's margin and nest again"
        return [stop("index.pin-place", words, {**x.where, "x": pin.x, "y": pin.y}, *mend)]
    return []


def _fence(x: Indexed) -> list[Snag]:
    """A mark on the fence must lie where lines on the stock come to it."""
    mark = x.indexing.brought
    assert isinstance(mark, FenceMark)
    if x.stock is None:
        return []
    size = x.stock.width if x.indexing.axis == "x" else x.stock.height
    last = max((p for s in x.sheets for p in s.positions), default=0)
    line = mark.at + x.indexing.offset(last)
    if line <= size:
        return []
    most = max(0.0, size - x.indexing.offset(last))
    words = (
        f"{x.setup.name}: the line for position {last + 1} would be at {line:g} mm, the stock is {size:g} mm"
        f" long: put the fence's mark at {most:g} mm or less"
    )
    fields: Fields = {"brought": {"at": float(int(most))}}
    return [stop("index.mark", words, x.where, _change(x, f"The mark at {int(most)} mm", fields))]


def _support(x: Indexed) -> list[Snag]:
    """Stock that hangs over an end of the table."""
    if x.stock is None:
        return []
    m, k = x.setup.machine, x.indexing.column
    size, table = (x.stock.width, x.stock.height)[k], (m.width, m.height)[k]
    at = x.setup.sheet_at[k]
    last = max((p for s in x.sheets for p in s.positions), default=x.indexing.count - 1)
    beyond = max(at + size - table, x.indexing.offset(last) - at)
    if beyond <= OVERHANG * size:
        return []
    words = (
        f"{x.stock.name} hangs over an end of the table by up to {beyond:.0f} mm: carry it on stands at the"
        " height of the spoilboard, or it tips and lifts off"
    )
    return [note("index.support", words, x.where)]
