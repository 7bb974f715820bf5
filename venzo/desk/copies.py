"""A job once more: a copy to alter, its next version, or the same again on new stock."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.derive import check_derives
from venzo.core.model import Document, Id, Value
from venzo.core.naming import free_id, next_version
from venzo.core.plan import Plan, Setup
from venzo.core.release.file_names import slug
from venzo.core.snags import BadInput
from venzo.core.stock.zeros import touched_off
from venzo.desk.jobs import followed
from venzo.store.store import Revision, Store


class StockAgain(Value):
    """Thickness read on the new sheets of a stock line, mm."""

    setup: Id
    stock: Id
    readings: Annotated[tuple[Annotated[float, Field(gt=0, le=500)], ...], Field(min_length=1, max_length=40)]


class CutterAgain(Value):
    """A cutter as it is measured now, mm."""

    setup: Id
    cutter: Id
    diameter: Annotated[float, Field(gt=0.1, le=200)]


class OnceMore(Value):
    """What is made of a job: ``copy``, ``version`` or ``again``, which keeps the layout and takes what was
    measured of the new stock. ``name``: None: it follows from the old one.
    """

    how: Literal["copy", "version", "again"] = "copy"
    name: Annotated[str, Field(max_length=200)] | None = None
    stock: Annotated[tuple[StockAgain, ...], Field(max_length=200)] = ()
    cutters: Annotated[tuple[CutterAgain, ...], Field(max_length=400)] = ()


class StockAsked(Document):
    """A stock line in use, with the thickness of the last sheets, mm."""

    id: str
    name: str
    thickness: float


class CutterAsked(Document):
    """A cutter in use, with the diameter it was planned with, mm."""

    id: str
    name: str
    number: int
    diameter: float


class SetupAsked(Document):
    """A setup; ``touch_off``: how its zero was set, in a sentence."""

    id: str
    name: str
    touch_off: str
    stock: list[StockAsked]
    cutters: list[CutterAsked]


class AskedAgain(Document):
    """What must be said before the same runs again."""

    name: str
    setups: list[SetupAsked]


def asked_again(store: Store, job: str) -> AskedAgain:
    """Stock in use, how zero was set, and the cutters that cut something.

    Raises:
        NotFound: no such job.
    """
    revision = store.get(job)
    plan = revision.plan
    derived = followed(store, revision)
    setups = []
    for s in plan.setups:
        if s.turned_back is not None:  # it is cut with what the first face is cut with
            continue
        used = {p.sheet for p in s.nest.pieces} if s.nest else set()
        stock = [StockAsked(id=k.id, name=k.name, thickness=k.thickness) for k in s.stock if k.id in used]
        cutters = [
            CutterAsked(id=c.id, name=c.name, number=c.number, diameter=c.diameter)
            for c in s.cutters_named(derived[s.id].cutters_used)
        ]
        zero = touched_off(s.datum, s.machine, s.lying, lambda v: f"{v:g} mm")
        setups.append(SetupAsked(id=s.id, name=s.name, touch_off=zero, stock=stock, cutters=cutters))
    return AskedAgain(name=_name(plan.name, "again"), setups=setups)


def once_more(store: Store, job: str, asked: OnceMore) -> Revision:
    """Make it; the old job stays as it is.

    Raises:
        NotFound: no such job.
        BadInput: what was measured names no stock or cutter of the job, or stock that is used was not
            measured; nothing is stored then.
    """
    old = store.get(job).plan
    name = (asked.name or "").strip() or _name(old.name, asked.how)
    plan = _named(old, name, free_id(slug(name), store.used_ids()))
    if asked.how == "again":
        plan = _measured(plan, asked)
    elif asked.stock or asked.cutters:
        raise BadInput("only the same again takes what was measured; a copy keeps what the job had")
    plan = Plan.model_validate(plan.model_dump())
    check_derives(plan, store.shapes)
    return store.create(plan, f"{_WORDS[asked.how]} {old.name}")


_WORDS = {"copy": "copied from", "version": "next version of", "again": "the same again as"}


def _name(old: str, how: str) -> str:
    if how == "version":
        return next_version(old)[:200]
    return f"{old}, {'copy' if how == 'copy' else 'again'}"[:200]


def _named(plan: Plan, name: str, new: str) -> Plan:
    changed: dict[str, object] = {"id": new, "name": name}
    if plan.surface:
        board = plan.surface.board.model_copy(update={"id": new, "name": name})
        changed["surface"] = plan.surface.model_copy(update={"id": new, "board": board})
    if plan.run:
        changed["run"] = plan.run.model_copy(update={"id": new})
    return plan.model_copy(update=changed)


def _measured(plan: Plan, asked: OnceMore) -> Plan:
    if plan.kind != "parts":
        raise BadInput(f"{plan.name} cuts no parts; copy it instead")
    stock = {(s.setup, s.stock): s.readings for s in asked.stock}
    cutters = {(c.setup, c.cutter): c.diameter for c in asked.cutters}
    setups = [_setup(s, stock, cutters) for s in plan.setups]
    unknown = [*stock, *cutters]
    if unknown:
        raise BadInput(f"{plan.name}: there is no {unknown[0][1]!r} in setup {unknown[0][0]!r}")
    return plan.model_copy(update={"setups": tuple(setups)})


def _setup(
    setup: Setup,
    readings: dict[tuple[str, str], tuple[float, ...]],
    diameters: dict[tuple[str, str], float],
) -> Setup:
    """A setup on new stock: what calipers said of the old one says nothing of it."""
    used = {p.sheet for p in setup.nest.pieces} if setup.nest else set()
    lines = []
    for line in setup.stock:
        read = readings.pop((setup.id, line.id), ())
        if line.id in used and not read:
            raise BadInput(f"{setup.name}: measure {line.name}; its thickness is that of the last sheets")
        lines.append(line.model_copy(update={"readings": read, "measured": None}))
    cutters = [
        c.model_copy(update={"diameter": diameters.pop((setup.id, c.id), c.diameter)}) for c in setup.cutters
    ]
    return setup.model_copy(update={"stock": tuple(lines), "cutters": tuple(cutters)})
