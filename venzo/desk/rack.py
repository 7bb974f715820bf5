"""The rack: lots received, moved and looked up, and what a part or a size would fit in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from venzo.core.model import Document, Id, Moment, NotNegative, Value
from venzo.core.plan import Plan
from venzo.core.rack.fits import Fit, Wanted, fits
from venzo.core.rack.lots import (
    Changed,
    Counted,
    Lot,
    Moved,
    Received,
    Reserved,
    Returned,
    Scrapped,
    SetFree,
    Taken,
    Words,
)
from venzo.core.rack.on_hand import Shelf, shelves
from venzo.core.snags import BadInput, plain_error
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Flaw, Reading
from venzo.core.voice import counted
from venzo.store.store import NotFound, Store

SHOWN = 60
"""Movements that the rack shows."""


class NewLot(Value):
    """What came in: sheets or a remnant of a material of the library, and how many. Lengths mm; ``price`` of
    one (None: not known).
    """

    material: Id
    name: Annotated[str, Field(max_length=200)] = ""
    width: Annotated[float, Field(gt=0, le=20_000)]
    height: Annotated[float, Field(gt=0, le=20_000)]
    nominal: Annotated[float, Field(gt=0, le=500)]
    count: Annotated[int, Field(ge=1, le=10_000)] = 1
    readings: Annotated[tuple[Reading, ...], Field(max_length=200)] = ()
    grain: Literal[0, 90] | None = None
    grade: Words = ""
    face: Words = ""
    batch: Words = ""
    price: NotNegative | None = None
    place: Words = ""
    margin: NotNegative = 10.0
    outline: Annotated[tuple[tuple[float, float], ...], Field(max_length=500)] = ()
    flaws: Annotated[tuple[Flaw, ...], Field(max_length=100)] = ()
    remnant: bool = False
    note: Annotated[str, Field(max_length=500)] = ""


class MoreCame(Value):
    """More sheets of a lot came in."""

    kind: Literal["more came"] = "more came"
    count: Annotated[int, Field(ge=1, le=10_000)]
    says: Words = ""


class ReserveIt(Value):
    """Sheets kept for a job."""

    kind: Literal["reserve"] = "reserve"
    job: Id
    count: Annotated[int, Field(ge=1, le=10_000)]


class FreeIt(Value):
    """Sheets that a job does not need."""

    kind: Literal["set free"] = "set free"
    job: Id
    count: Annotated[int, Field(ge=1, le=10_000)]


class TakeIt(Value):
    """Sheets used for something that is no job here."""

    kind: Literal["take"] = "take"
    count: Annotated[int, Field(ge=1, le=10_000)]
    says: Words = ""


class BringIt(Value):
    """Sheets that were taken and came back."""

    kind: Literal["bring back"] = "bring back"
    count: Annotated[int, Field(ge=1, le=10_000)]
    says: Words = ""


class ScrapIt(Value):
    """Sheets that are no good any more."""

    kind: Literal["scrap"] = "scrap"
    count: Annotated[int, Field(ge=1, le=10_000)]
    says: Words = ""


class CountIt(Value):
    """Somebody counted."""

    kind: Literal["count"] = "count"
    found: Annotated[int, Field(ge=0, le=10_000)]
    says: Words = ""


class ChangeIt(Value):
    """Something about the lot is known better; only the fields given."""

    kind: Literal["change"] = "change"
    place: Words | None = None
    price: NotNegative | None = None
    grade: Words | None = None
    face: Words | None = None
    note: Annotated[str | None, Field(max_length=500)] = None
    readings: Annotated[tuple[Reading, ...] | None, Field(max_length=200)] = None


Done = Annotated[
    MoreCame | ReserveIt | FreeIt | TakeIt | BringIt | ScrapIt | CountIt | ChangeIt,
    Field(discriminator="kind"),
]
"""What a person does with a lot."""


class ReservedFor(Document):
    """How many sheets a job has reserved."""

    job: str
    name: str
    count: int


class ShelfLine(Document):
    """A lot as it stands. ``area`` and ``thickness`` of a sheet, mm2 and mm; ``value``: of all on hand
    (None: it has no price).
    """

    lot: Lot
    material: str
    family: str
    thickness: float
    area: float
    on_hand: int
    free: int
    reserved: list[ReservedFor]
    value: float | None


class MovementLine(Document):
    """A movement in words, with its number, when and by whom."""

    number: int
    made: Moment
    author: str
    lot: str
    label: str
    says: str


class RackDocument(Document):
    """Lots that are on hand or reserved, remnants last in each material, and the last movements, newest
    first.
    """

    lots: list[ShelfLine]
    movements: list[MovementLine]
    sheets: int
    remnants: int
    area: float
    value: float
    currency: str


class FitLine(Document):
    """A lot that holds what was asked for, where it lies there (mm, degrees), and the share of the lot it
    takes.
    """

    lot: str
    x: float
    y: float
    rotation: float
    mirrored: bool
    share: float


def standing(store: Store) -> dict[str, Shelf]:
    """Every lot that ever was, as it stands."""
    return shelves(k.movement for k in store.rack())


def rack(store: Store) -> RackDocument:
    """The whole rack."""
    found = standing(store)
    lines = lines_of(store, [s for s in found.values() if s.on_hand or s.reserved])
    labels = {i: s.lot.label for i, s in found.items()}
    newest = reversed(store.rack()[-SHOWN:])
    return RackDocument(
        lots=lines,
        movements=[
            MovementLine(
                number=k.number,
                made=k.made,
                author=k.author,
                lot=k.movement.of,
                label=labels.get(k.movement.of, k.movement.of),
                says=says(k.movement),
            )
            for k in newest
        ],
        sheets=sum(s.on_hand for s in lines if not s.lot.remnant),
        remnants=sum(s.on_hand for s in lines if s.lot.remnant),
        area=sum(s.area * s.on_hand for s in lines),
        value=sum(s.value or 0.0 for s in lines),
        currency=next((str(r.get("currency", "")) for r in store.library("rules")), ""),
    )


def lines_of(store: Store, found: Sequence[Shelf]) -> list[ShelfLine]:
    """Lots as they are shown, by material, sheets before remnants."""
    materials = {m["id"]: Material.model_validate(m) for m in store.library("material")}
    names = {j["id"]: j["name"] for j in store.jobs()} if any(s.reserved for s in found) else {}

    def line(s: Shelf) -> ShelfLine:
        m = materials.get(s.lot.material)
        price = s.lot.price if s.lot.price is not None else (m.price_m2 * s.lot.area / 1e6 if m else 0.0)
        return ShelfLine(
            lot=s.lot,
            material=m.name if m else s.lot.material,
            family=m.family if m else "wood",
            thickness=s.lot.thickness,
            area=s.lot.area,
            on_hand=s.on_hand,
            free=s.free,
            reserved=[ReservedFor(job=j, name=names.get(j, j), count=n) for j, n in s.reserved.items()],
            value=price * s.on_hand if price else None,
        )

    order = sorted(found, key=lambda s: (s.lot.material, s.lot.remnant, -s.lot.thickness, -s.lot.area))
    return [line(s) for s in order]


def says(m: Moved) -> str:
    """A movement in words."""
    tail = f": {m.says}" if m.says else ""
    match m:
        case Received():
            came = "left by a run" if m.lot.origin and m.lot.origin.run else "received"
            return f"{counted(m.count, 'sheet')} {came}{tail}"
        case Reserved():
            return f"{m.count} reserved for {m.job}{tail}"
        case SetFree():
            return f"{m.count} set free by {m.job}{tail}"
        case Taken():
            by = f"by run {m.run} of {m.job}" if m.run else "out"
            return f"{m.count} taken {by}{tail}"
        case Returned():
            return f"{m.count} returned{tail}"
        case Scrapped():
            return f"{m.count} scrapped{tail}"
        case Counted():
            return f"counted {m.found}, the records said {m.was}{tail}"
        case Changed():
            told = ", ".join(f"{k} {v}" for k, v in m.fields().items() if k != "readings")
            more = f"measured {len(m.readings)} times" if m.readings else ""
            return f"{'; '.join(x for x in (told, more) if x) or 'nothing changed'}{tail}"


def receive(store: Store, new: NewLot) -> str:
    """Put a lot into the rack; its id.

    Raises:
        BadInput: the library has no such material, or the sheet cannot be.
    """
    material = next((m for m in store.library("material") if m["id"] == new.material), None)
    if material is None:
        raise BadInput(f"the library has no material {new.material!r}; enter it there first")
    if 2 * new.margin >= min(new.width, new.height):
        raise BadInput(
            f"a margin of {new.margin:g} mm leaves nothing of a {new.width:g} x {new.height:g} mm sheet; give"
            " a smaller one"
        )
    made: list[Lot] = []

    def movements(found: dict[str, Shelf]) -> list[Moved]:
        lot = new_lot(found, new.remnant, **_fields_of(new, str(material["name"])))
        made.append(lot)
        return [Received(lot=lot, count=new.count)]

    store.move(movements)
    return made[-1].id


def _fields_of(new: NewLot, material: str) -> dict[str, object]:
    said = new.model_dump(exclude={"count", "remnant"})
    return said | {"name": new.name.strip() or material}


def new_lot(found: dict[str, Shelf], remnant: bool, **fields: object) -> Lot:
    """A lot with the next label: S and a number for sheets, R and a number for remnants."""
    taken = {s.lot.label for s in found.values()}
    n = len(found) + 1
    letter = "R" if remnant else "S"
    while f"{letter}-{n:04d}" in taken:
        n += 1
    label = f"{letter}-{n:04d}"
    try:
        return Lot.model_validate({**fields, "id": f"lot-{label}", "label": label, "remnant": remnant})
    except ValidationError as e:
        raise BadInput(plain_error(e)) from e


def do(store: Store, lot: str, done: Done) -> None:
    """What a person does with a lot.

    Raises:
        NotFound: the rack has no such lot, or there is no such job.
        BadInput: fewer are there than are asked for, or nothing is changed.
    """
    if isinstance(done, ReserveIt):
        store.head(done.job)

    def movements(found: dict[str, Shelf]) -> list[Moved]:
        if lot not in found:
            raise NotFound(f"the rack has no lot {lot!r}")
        return [_movement(found[lot], done)]

    store.move(movements)


def _movement(shelf: Shelf, done: Done) -> Moved:
    lot = shelf.lot.id
    match done:
        case MoreCame():
            return Received(lot=shelf.lot, count=done.count, says=done.says)
        case ReserveIt():
            return Reserved(lot=lot, job=done.job, count=done.count)
        case FreeIt():
            return SetFree(lot=lot, job=done.job, count=done.count)
        case TakeIt():
            if done.count > shelf.free:
                raise BadInput(
                    f"{shelf.lot.label}: {max(0, shelf.free)} of {shelf.on_hand} are free, not {done.count};"
                    " set others free first"
                )
            return Taken(lot=lot, count=done.count, says=done.says)
        case BringIt():
            return Returned(lot=lot, count=done.count, says=done.says)
        case ScrapIt():
            return Scrapped(lot=lot, count=done.count, says=done.says)
        case CountIt():
            return Counted(lot=lot, found=done.found, was=shelf.on_hand, says=done.says)
        case ChangeIt():
            new = Changed(lot=lot, **done.model_dump(exclude={"kind"}, exclude_none=True))
            if not new.fields():
                raise BadInput(f"{shelf.lot.label}: nothing is changed; say what")
            return new


def what_fits(store: Store, wanted: Wanted, material: str | None = None) -> list[FitLine]:
    """Every lot with a free sheet that holds a part or a size, remnants first."""
    found = fits(list(standing(store).values()), wanted, material)
    return [_fit_line(f) for f in found]


def _fit_line(f: Fit) -> FitLine:
    return FitLine(
        lot=f.lot.id,
        x=round(f.x, 3),
        y=round(f.y, 3),
        rotation=f.rotation,
        mirrored=f.mirrored,
        share=f.share,
    )


def wanted_part(store: Store, plan: Plan, part_id: str) -> tuple[Wanted, str]:
    """A part of a job as it is asked of the rack, and its material.

    Raises:
        NotFound: the plan has no such part.
    """
    part = plan.part(part_id)
    if part is None:
        raise NotFound(f"{plan.name} has no part {part_id!r}")
    setup = plan.setup(part.setup)
    outline = store.shapes[part.shape].region.outline
    corners = [[float(v) for v in row] for row in outline.vertices]
    return Wanted(corners, part.rotations, part.grain, part.mirror), setup.material.id if setup else ""
