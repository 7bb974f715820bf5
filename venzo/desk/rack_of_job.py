"""What the rack has to do with a job: lots it is planned on, what is reserved for it, and what its runs
take and leave.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from venzo.core.derive import DerivedSetup
from venzo.core.edits.setup import SetStock
from venzo.core.model import Document
from venzo.core.plan import Plan, Setup
from venzo.core.rack.lots import Lot, Moved, Origin, Received, Reserved, Returned, Scrapped, SetFree, Taken
from venzo.core.rack.on_hand import Shelf, left_by, shelves, taken_by
from venzo.core.runs.records import SheetRun
from venzo.core.runs.sums import standing as standing_records
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Flaw
from venzo.core.yields.remnants import Remnant
from venzo.desk.rack import ShelfLine, lines_of, new_lot, standing
from venzo.store.store import NotFound, Revision, Store

NEAR = 0.2
"""Share of a sheet's thickness by which a lot may differ and still be offered."""


class LotInJob(Document):
    """A lot that a setup is planned on: how many sheets the layout takes, how many the job has reserved,
    and how many it is short of.
    """

    setup: str
    lot: str
    label: str
    place: str
    on_hand: int
    needed: int
    reserved: int
    short: int


class RackOfJob(Document):
    """What the rack has to do with a job: lots its setups are planned on, and lots it could have."""

    planned: list[LotInJob]
    offered: dict[str, list[ShelfLine]]
    """By setup: of its material and about its thickness, with sheets that are free; remnants first."""


def needed(d: DerivedSetup, cut: Collection[tuple[str, str, int]]) -> dict[str, int]:
    """How many sheets of each lot a setup's layout takes that are not ``cut`` yet."""
    out: dict[str, int] = {}
    for s in d.sheets if d.first is None else ():
        stock = d.setup.stock_of(s.sheet)
        if stock is not None and stock.lot is not None and (d.setup.id, s.sheet, s.copy_no) not in cut:
            out[stock.lot] = out.get(stock.lot, 0) + 1
    return out


def of_job(store: Store, plan: Plan) -> RackOfJob:
    """What the rack has to do with a job."""
    from venzo.desk import jobs

    found = standing(store)
    planned, offered = [], {}
    cut = _cut(store, plan.id)
    for d in jobs.derive(store, plan, False).values():
        if d.first is not None:  # its sheets are those of the first face
            continue
        takes = needed(d, cut)
        for stock in d.setup.stock:
            if stock.lot is None:
                continue
            shelf = found.get(stock.lot)
            need = takes.get(stock.lot, 0)
            planned.append(
                LotInJob(
                    setup=d.setup.id,
                    lot=stock.lot,
                    label=shelf.lot.label if shelf else stock.name,
                    place=shelf.lot.place if shelf else "",
                    on_hand=shelf.on_hand if shelf else 0,
                    needed=need,
                    reserved=shelf.reserved.get(plan.id, 0) if shelf else 0,
                    short=max(0, need - (shelf.for_job(plan.id) if shelf else 0)),
                )
            )
        here = {s.lot for s in d.setup.stock}
        good = [
            s
            for s in found.values()
            if s.lot.id not in here and s.for_job(plan.id) > 0 and suits(d.setup, s.lot)
        ]
        lines = lines_of(store, good)
        offered[d.setup.id] = sorted(lines, key=lambda x: (not x.lot.remnant, x.area))
    return RackOfJob(planned=planned, offered=offered)


def suits(setup: Setup, lot: Lot) -> bool:
    """Is a lot of the setup's material and about as thick as what it has?"""
    if lot.material != setup.material.id:
        return False
    thick = [s.thickness for s in setup.stock]
    return not thick or any(abs(lot.thickness - t) <= NEAR * t for t in thick)


def _cut(store: Store, job: str) -> set[tuple[str, str, int]]:
    """(setup, stock line, copy) of the sheets of a job that were cut whole, however often."""
    kept = standing_records([(k.number, k.record) for k in store.runs(job)])
    return {
        (r.setup, r.sheet, r.sheet_copy)
        for _n, r in kept
        if isinstance(r, SheetRun) and r.job == job and r.complete
    }


def take_into(store: Store, job: str, base: int, setup: str, lot: str) -> Revision:
    """Put a lot of the rack into a setup as stock: as many sheets as the job may use.

    Raises:
        NotFound: no such lot. BadInput: no such setup, or none of it is free.
    """
    shelf = standing(store).get(lot)
    if shelf is None:
        raise NotFound(f"the rack has no lot {lot!r}")
    own = store.get(job).plan.setup(setup)
    if own is not None and own.material.id != shelf.lot.material:
        raise BadInput(
            f"{shelf.lot.label} is {shelf.lot.name}, {own.name} cuts {own.material.name}; put it into a"
            " setup of its own material"
        )
    count = shelf.for_job(job)
    if not count:
        raise BadInput(f"{shelf.lot.label}: none of it is free; count the lot, or take another")
    return store.apply(job, base, SetStock(setup=setup, stock=shelf.lot.as_stock(count)))


def reserve_for(store: Store, plan: Plan) -> RackOfJob:
    """Reserve for a job what its layouts take from the rack and no run has taken yet, and set free what it
    has beyond that.

    Raises:
        BadInput: a lot has not enough; nothing is reserved then.
    """
    from venzo.desk import jobs

    want: dict[str, int] = {}
    cut = _cut(store, plan.id)
    for d in jobs.derive(store, plan, False).values():
        for lot, n in needed(d, cut).items():
            want[lot] = want.get(lot, 0) + n

    def movements(found: dict[str, Shelf]) -> list[Moved]:
        out: list[Moved] = []
        for lot in dict.fromkeys([*want, *(i for i, s in found.items() if plan.id in s.reserved)]):
            has = found[lot].reserved.get(plan.id, 0) if lot in found else 0
            more = want.get(lot, 0) - has
            if more > 0:
                out.append(Reserved(lot=lot, job=plan.id, count=more))
            elif more < 0:
                out.append(SetFree(lot=lot, job=plan.id, count=-more))
        return out

    store.move(movements)
    return of_job(store, plan)


@dataclass(frozen=True)
class SheetOff:
    """A sheet that was cut whole and is off the machine: by which revision of the plan, its stock line and
    copy, the remnants that are kept of it with what each is worth (None: no price), and where they go.
    """

    plan: Plan
    revision: int
    setup: Setup
    sheet: str
    sheet_copy: int
    kept: tuple[tuple[Remnant, float | None], ...] = ()
    place: str = ""


def moved_by_run(off: SheetOff, run: int, so_far: Sequence[Moved]) -> list[Moved]:
    """What the run of a whole sheet moves: the sheet is taken from its lot, if the records have one there,
    and each remnant that is kept goes into the rack. ``run``: the number of its record.
    """
    plan, setup = off.plan, off.setup
    stock = setup.stock_of(off.sheet)
    assert stock is not None
    found = shelves(so_far)
    out: list[Moved] = []
    shelf = found.get(stock.lot) if stock.lot else None
    if shelf is not None and shelf.on_hand:
        mine = 1 if shelf.reserved.get(plan.id, 0) else 0
        out.append(Taken(lot=shelf.lot.id, count=1, job=plan.id, run=run, from_reserved=mine))
    known = dict(found)
    for remnant, worth in off.kept:
        x0, y0, x1, y1 = remnant.box
        corners = tuple((round(x - x0, 3), round(y - y0, 3)) for x, y in remnant.corners)
        lot = new_lot(
            known,
            True,
            name=shelf.lot.name if shelf else setup.material.name,
            material=setup.material.id,
            width=round(x1 - x0, 3),
            height=round(y1 - y0, 3),
            nominal=stock.nominal,
            readings=stock.readings,
            grain=stock.grain,
            grade=shelf.lot.grade if shelf else "",
            face=shelf.lot.face if shelf else "",
            batch=shelf.lot.batch if shelf else "",
            price=None if worth is None else round(worth, 2),
            place=off.place,
            # a remnant is smaller than its sheet: its margin must leave something of it
            margin=min(stock.margin, min(remnant.size) / 4),
            outline=() if remnant.rectangular else corners,
            flaws=_flaws(stock.flaws, remnant.box),
            origin=Origin(
                job=plan.id, revision=off.revision, sheet=off.sheet, sheet_copy=off.sheet_copy, run=run
            ),
        )
        known[lot.id] = Shelf(lot, 1)
        out.append(Received(lot=lot, count=1))
    return out


def _flaws(flaws: Sequence[Flaw], box: tuple[float, float, float, float]) -> tuple[Flaw, ...]:
    """Flaws of a sheet that lie in a remnant, where they lie there."""
    x0, y0, x1, y1 = box
    out = []
    for f in flaws:
        a0, b0 = max(f.x, x0), max(f.y, y0)
        a1, b1 = min(f.x + f.width, x1), min(f.y + f.height, y1)
        if a1 > a0 and b1 > b0:
            out.append(f.model_copy(update={"x": a0 - x0, "y": b0 - y0, "width": a1 - a0, "height": b1 - b0}))
    return tuple(out)


def moved_back(run: int, every: Sequence[Moved]) -> list[Moved]:
    """What taking a run back moves: what it took comes back, the remnants it left are not there.

    Raises:
        BadInput: a remnant of it is reserved or used already.
    """
    found = shelves(every)
    out: list[Moved] = [
        Returned(lot=m.lot, count=m.count, run=run, says=f"run {run} taken back")
        for m in taken_by(every, run)
    ]
    for lot in left_by(every, run):
        shelf = found[lot.id]
        if shelf.free < 1:
            raise BadInput(
                f"{lot.label}, a remnant that this run left, is reserved or used already; put that"
                " right first"
            )
        out.append(Scrapped(lot=lot.id, count=1, says=f"run {run} taken back"))
    return out
