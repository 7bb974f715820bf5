"""Stock longer than the table, as it is told: its positions, what lies in them, how well lengths meet."""

from __future__ import annotations

from collections.abc import Mapping

from venzo.core.derive import DerivedSetup
from venzo.core.edits.asks import PlaceAlong
from venzo.core.edits.base import setup_of
from venzo.core.edits.fields import Fields
from venzo.core.edits.indexing import ChangeIndexing, IndexStock
from venzo.core.indexing.fewest_positions import best_positions, even_positions, long_axis
from venzo.core.indexing.index_snags import Indexed
from venzo.core.indexing.pins import holes_of
from venzo.core.indexing.positions import FenceMark, Indexing, IndexPins, brought_says
from venzo.core.indexing.reach import Span, spans
from venzo.core.model import Document
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Stock
from venzo.core.units import show_length
from venzo.desk.jobs import derive
from venzo.desk.turning import Share
from venzo.store.store import Revision, Store


class PositionSeen(Document):
    """A position: how far the stock has been moved, what the cutter reaches of it along the axis (mm of the
    stock), how it is brought there, how many cuts are made there and how long they take, s.
    """

    number: int
    moved: float
    reach: Span
    says: str
    cuts: int
    seconds: float


class SeamSeen(Document):
    """Where cuts are made in lengths: mm along the stock, how many, and from where to where both positions
    cut.
    """

    sheet: str
    sheet_copy: int
    at: float
    cuts: int
    twice: Span


class HoleSeen(Document):
    """A hole in the stock for a pin, and for which position, mm."""

    pin: str
    position: int
    x: float
    y: float
    diameter: float


class AlongSeen(Document):
    """How a setup's stock is moved along the table. ``across``: how far lengths are off each other at worst,
    mm, and its ``shares``; ``nearest``: the wrong pair of holes that is nearest to fitting, and by how much
    it does not, mm; ``placeable``: there is room for other pins.
    """

    indexing: Indexing
    positions: list[PositionSeen]
    seams: list[SeamSeen]
    holes: list[HoleSeen]
    across: float | None
    shares: list[Share]
    nearest: str
    nearest_error: float | None
    placeable: bool
    better: tuple[float, ...] | None
    """Positions that split less."""


class LongSeen(Document):
    """Stock of a setup along the table: ``along``: as it is moved; ``longer``: the stock that is longer
    than the table reaches, while it is not.
    """

    along: AlongSeen | None
    longer: str


def long_seen(
    plan: Plan, derived: Mapping[str, DerivedSetup], setup_id: str, shapes: Mapping[str, Shape]
) -> LongSeen | None:
    """Whether and how a setup's stock is moved along; None where that is no question: kerf tables, stock that
    is turned over.
    """
    d = derived.get(setup_id)
    if d is None or d.underived or d.setup.role is not None or d.setup.machine.head is not None:
        return None
    if d.setup.indexing is None:
        long = next((s for s in d.setup.stock if s.quantity and long_axis(d.setup, s)), None)
        return LongSeen(along=None, longer=long.name if long else "")
    return LongSeen(along=_along(Indexed(plan, d.setup, d.sheets, shapes)), longer="")


def _along(x: Indexed) -> AlongSeen:
    i, met, wrong = x.indexing, x.met, x.wrong
    half = i.overlap / 2
    pins = i.brought if isinstance(i.brought, IndexPins) else None
    return AlongSeen(
        indexing=i,
        positions=_positions(x),
        seams=[
            SeamSeen(
                sheet=s.sheet, sheet_copy=s.copy_no, at=m.at, cuts=m.cuts, twice=(m.at - half, m.at + half)
            )
            for s in x.sheets
            for m in s.seams
        ],
        holes=[
            HoleSeen(pin=h.pin, position=h.position + 1, x=h.at[0], y=h.at[1], diameter=h.diameter)
            for h in (holes_of(pins, i) if pins else ())
        ],
        across=round(met.across, 3) if met else None,
        shares=[Share(what=w, mm=round(mm, 3)) for w, mm in (met.items if met else ())],
        nearest=wrong.says if wrong else "",
        nearest_error=round(wrong.error, 2) if wrong else None,
        placeable=x.pins is not None and x.pins != i.brought,
        better=x.better,
    )


def _positions(x: Indexed) -> list[PositionSeen]:
    if x.stock is None:
        return []
    out = []
    for k, reach in enumerate(spans(x.setup, x.stock, x.indexing)):
        here = [c for s in x.sheets for c in s.cuts if c.position == k]
        out.append(
            PositionSeen(
                number=k + 1,
                moved=x.indexing.offset(k),
                reach=(round(reach[0], 2), round(reach[1], 2)),
                says=brought_says(x.indexing, k, lambda v: show_length(v, "mm")),
                cuts=len(here),
                seconds=round(sum(c.takes for c in here), 1),
            )
        )
    return out


def place_along(store: Store, job: str, base: int, ask: PlaceAlong) -> Revision:
    """Move a setup's stock along the table in positions that split least, or lay those anew; ``by`` pins,
    with pins where there is room for them.

    Raises:
        BadInput: there is no such setup, no position helps, or the layout leaves no room for pins.
    """
    plan = store.get(job).plan
    setup = setup_of(plan, ask.setup)
    d = derive(store, plan, hold=False)[setup.id]
    if setup.indexing is None:
        begun = _begun(setup, d)
        return store.apply(job, base, IndexStock(setup=setup.id, indexing=begun))
    x = Indexed(plan, setup, d.sheets, store.shapes)
    fields: Fields = {}
    if ask.by == "pins":
        if x.pins is None:
            raise BadInput(
                f"{setup.name}: no pin of the shop can be bored for at every position: widen the"
                " margin of the"
                " sheet and nest again, bring in a cutter that goes through it, or go along a fence"
            )
        fields["brought"] = {"=": x.pins.model_dump(mode="json")}
    elif ask.by == "mark":
        fields["brought"] = {"=": FenceMark().model_dump(mode="json")}
    else:
        fields["moved"] = {"=": list(_found(x))}
    return store.apply(job, base, ChangeIndexing(setup=setup.id, fields=fields))


def _found(x: Indexed) -> tuple[float, ...]:
    if x.better is None:
        raise BadInput(f"{x.setup.name}: no other positions split less; lay its pieces otherwise")
    return x.better


def _begun(setup: Setup, d: DerivedSetup) -> Indexing:
    """Positions to begin with: for what lies on the stock, or evenly where nothing does yet."""
    stock = _longest(setup)
    axis = long_axis(setup, stock) if stock else None
    if stock is None or axis is None:
        raise BadInput(
            f"{setup.name}: no stock is longer than {setup.machine.name} reaches along one axis"
            " alone; nothing"
            " is gained by moving it"
        )
    moved = best_positions(setup, stock, d.sheets, axis) if d.sheets else None
    if moved:
        return Indexing(axis=axis, moved=moved)
    even = even_positions(setup, stock, axis)
    if even is None:
        raise BadInput(f"{setup.name}: {setup.machine.name} reaches too little of {stock.name} at a time")
    return even


def _longest(setup: Setup) -> Stock | None:
    mine = [s for s in setup.stock if s.quantity]
    return max(mine, key=lambda s: max(s.width, s.height), default=None)
