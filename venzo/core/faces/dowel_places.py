"""Where dowels may go: in the stock, clear of every piece and every cut, and where they fit only as meant."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.faces.dowel_pattern import judge_dowels
from venzo.core.faces.registration import SHOP_DOWELS, Dowel, DowelPin, Dowels
from venzo.core.faces.turn import Turn, turn_of
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.stock.sheet import Stock

RIM = 4.0
"""mm of stock between a hole and its edge."""
APART = 2.0
"""mm of stock between a hole and what is cut."""
STEP = 2.5
"""mm between places that are tried."""
MOST_TRIED = 400
EMPTY: BaseGeometry = Polygon()


@dataclass(frozen=True)
class Room:
    """A sheet and what dowels keep clear of on it: ``taken``, mm, as the first face is up; ``pieces``: of it
    the pieces with their cuts.
    """

    stock: Stock
    taken: BaseGeometry
    pieces: BaseGeometry = EMPTY

    @property
    def outline(self) -> Polygon:
        """The sheet."""
        s = self.stock
        return Polygon(s.outline) if s.outline else box(0, 0, s.width, s.height)

    def clear_of(self, hole: float) -> BaseGeometry:
        """Where the middle of a hole (diameter, mm) may lie."""
        inner = self.outline.buffer(-(hole / 2 + RIM))
        return inner.difference(self.taken.buffer(hole / 2 + APART))


def room_of(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> Room | None:
    """The sheet that pins or dowels stand in, and where pieces and their cuts lie on any of its copies."""
    if not setup.nest or not setup.nest.pieces:
        return None
    used = {q.sheet for q in setup.nest.pieces}
    stock = next((s for s in setup.stock if s.id in used), None)
    if stock is None:
        return None
    kerf = plan.kerf(setup)
    by_id = {p.id: p for p in plan.parts}
    outlines = []
    for q in setup.nest.pieces:
        if q.sheet == stock.id and q.part in by_id:
            region = shapes[by_id[q.part].shape].region
            outline = region.outline.placed(q.x, q.y, q.rotation, q.mirrored)
            outlines.append(shapely.Polygon(outline.points(0.1)).buffer(kerf))
    pieces = shapely.union_all(outlines)
    standing = [shapely.Point(s.x, s.y).buffer(s.head / 2) for s in setup.screws]
    standing += [shapely.box(*f.box) for f in setup.fixings if f.kind in ("clamp", "pin", "cam")]
    return Room(stock, shapely.union_all([pieces, *standing]), pieces)


def in_the_way(dowels: Sequence[Dowel], room: Room) -> list[tuple[Dowel, str]]:
    """Dowels that cannot go where they are, each with the reason."""
    out = []
    for d in dowels:
        hole = Point(d.at).buffer(d.hole / 2)
        if not room.outline.buffer(-RIM / 2).contains(hole):
            out.append((d, "its hole does not lie within the stock"))
        elif hole.distance(room.taken) < APART / 2:
            out.append((d, "its hole runs into what is cut"))
    return out


def propose_dowels(room: Room, axis: str, pins: Sequence[DowelPin] = SHOP_DOWELS) -> Dowels | None:
    """Dowels for both faces where there is room for them, as far apart as they go: two of different diameters
    on the axis of the turn, else one there and a pair across it, else two pairs. None: there is no room.

    >>> from venzo.core.stock.sheet import Stock
    >>> sheet = Stock(id="s", name="sheet", width=600, height=400, nominal=18)
    >>> found = propose_dowels(Room(sheet, box(50, 50, 550, 350)), "x")
    >>> [(d.x, d.y, d.diameter) for d in found.dowels]
    [(7.5, 200.0, 6.0), (591.5, 200.0, 8.0)]
    """
    turn = turn_of("x" if axis == "x" else "y", room.stock)
    for k, found in enumerate(_patterns(room, turn, pins)):
        if k >= MOST_TRIED:
            break
        register = Dowels(dowels=found)
        if judge_dowels(register, turn).fits_only_as_meant:
            return register
    return None


def _patterns(room: Room, turn: Turn, pins: Sequence[DowelPin]) -> Iterator[tuple[Dowel, ...]]:
    """Patterns that may do, the best first."""
    ordered = sorted(pins, key=lambda p: p.diameter)
    clear = {p: room.clear_of(p.diameter + p.fit) for p in ordered}
    on_axis = {p: _on_axis(clear[p], turn) for p in ordered}
    for small, large in ((a, b) for a in ordered for b in ordered if b.diameter > a.diameter + 1.0):
        if on_axis[small] and on_axis[large]:
            yield _named([(on_axis[small][0], 0.0, small), (on_axis[large][-1], 0.0, large)], turn)
    for pin in ordered:
        single, pairs = on_axis[pin], _pairs(clear[pin], turn)
        if single and pairs:
            for (along, off), end in product((pairs[-1], pairs[0]), (single[0], single[-1])):
                yield _named([(end, 0.0, pin), (along, off, pin), (along, -off, pin)], turn)
        for (a, off), (b, other) in product(pairs[:6], pairs[-6:]):
            if abs(a - b) > 20.0 and abs(off - other) > 3.0:
                yield _named([(a, off, pin), (a, -off, pin), (b, other, pin), (b, -other, pin)], turn)


def _spread(turn: Turn) -> np.ndarray:
    """Places along the axis of a turn, mm."""
    long = turn.width if turn.axis == "x" else turn.height
    return np.arange(RIM, long - RIM + 1e-9, STEP / 5)


def _at(turn: Turn, along: float, off: float) -> tuple[float, float]:
    if turn.axis == "x":
        return along, turn.height / 2 + off
    return turn.width / 2 + off, along


def _on_axis(clear: BaseGeometry, turn: Turn) -> list[float]:
    """Clear places on the axis, from end to end: halves of a millimetre, which are read and set out more
    easily.
    """
    along = np.unique(np.round(_spread(turn) * 2) / 2)
    where = np.array([_at(turn, float(a), 0.0) for a in along])
    fits = shapely.intersects_xy(clear, where[:, 0], where[:, 1])
    return [float(a) for a in along[fits]]


def _pairs(clear: BaseGeometry, turn: Turn) -> list[tuple[float, float]]:
    """Clear pairs across the axis, each with its distance from it, the widest of every place; from end to
    end.
    """
    across = (turn.height if turn.axis == "x" else turn.width) / 2
    offs = np.arange(10.0, across, STEP * 2)
    out = []
    for along in _spread(turn)[:: int(STEP * 2)]:
        near = np.array([_at(turn, float(along), float(o)) for o in offs])
        far = np.array([_at(turn, float(along), -float(o)) for o in offs])
        if not len(near):
            continue
        both = shapely.intersects_xy(clear, near[:, 0], near[:, 1]) & shapely.intersects_xy(
            clear, far[:, 0], far[:, 1]
        )
        if both.any():
            out.append((float(along), float(offs[both][-1])))
    return out


def _named(places: Sequence[tuple[float, float, DowelPin]], turn: Turn) -> tuple[Dowel, ...]:
    out = []
    for k, (along, off, pin) in enumerate(places, 1):
        x, y = _at(turn, along, off)
        out.append(Dowel(id=f"d{k}", x=x, y=y, diameter=pin.diameter, fit=pin.fit, length=pin.length))
    return tuple(out)
