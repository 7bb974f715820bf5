"""Lots of like sheets, and the kinds of movement: received, reserved, set free, taken, returned, scrapped,
counted, changed.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter, model_validator
from shapely.geometry import Polygon

from venzo.core.model import Id, Name, NotNegative, Point, Value
from venzo.core.stock.sheet import Flaw, Reading, Stock

Words = Annotated[str, Field(max_length=200)]
Count = Annotated[int, Field(ge=1, le=10_000)]


class Origin(Value):
    """The sheet that a remnant was cut from: job, revision, stock line and copy. ``run``: the number of the
    record of its run (0: the number it gets with it).
    """

    job: Id
    revision: Annotated[int, Field(ge=1)]
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)]
    run: Annotated[int, Field(ge=0)] = 0


class Lot(Value):
    """Like sheets of one delivery, or one remnant. Lengths mm; width lies along the machine's X.

    ``label``: what is written on it; ``grade``, ``face``: in the words of its trade; ``batch``: the maker's
    lot or heat; ``price``: of one sheet, of a remnant what it is worth; ``place``: where it stands;
    ``outline``: corners of an irregular one within its box.
    """

    id: Id
    label: Annotated[str, Field(min_length=1, max_length=40)]
    name: Name
    material: Id
    width: Annotated[float, Field(gt=0, le=20_000)]
    height: Annotated[float, Field(gt=0, le=20_000)]
    nominal: Annotated[float, Field(gt=0, le=500)]
    readings: Annotated[tuple[Reading, ...], Field(max_length=200)] = ()
    grain: Literal[0, 90] | None = None
    grade: Words = ""
    face: Words = ""
    batch: Words = ""
    price: NotNegative | None = None
    place: Words = ""
    margin: NotNegative = 10.0
    outline: Annotated[tuple[Point, ...], Field(max_length=500)] = ()
    flaws: Annotated[tuple[Flaw, ...], Field(max_length=100)] = ()
    remnant: bool = False
    origin: Origin | None = None
    note: Annotated[str, Field(max_length=500)] = ""

    @model_validator(mode="after")
    def _sound(self) -> Lot:
        if self.outline:
            ring = Polygon(self.outline) if len(self.outline) > 2 else None
            if ring is None or not ring.is_valid or ring.area < 1:
                raise ValueError(
                    f"{self.label}: the outline needs at least three corners and must not cross itself"
                )
            x0, y0, x1, y1 = ring.bounds
            if min(x0, y0, self.width - x1, self.height - y1) < -0.01:
                raise ValueError(
                    f"{self.label}: the outline reaches outside its {self.width:g} x {self.height:g} mm box"
                )
        return self

    @property
    def thickness(self) -> float:
        """Mean of the readings, else the nominal thickness, mm."""
        return sum(self.readings) / len(self.readings) if self.readings else self.nominal

    @property
    def area(self) -> float:
        """mm2, of its outline where it has one."""
        return float(Polygon(self.outline).area) if self.outline else self.width * self.height

    def as_stock(self, quantity: int) -> Stock:
        """As a line of stock of a setup, which remembers the lot it is."""
        return Stock(
            id=self.id,
            name=f"{self.name} {self.label}" if self.label not in self.name else self.name,
            width=self.width,
            height=self.height,
            quantity=quantity,
            nominal=self.nominal,
            readings=self.readings,
            margin=self.margin,
            grain=self.grain,
            price=self.price,
            outline=self.outline,
            flaws=self.flaws,
            lot=self.id,
        )


class Received(Value):
    """Sheets that came in: a lot, with how many of it."""

    kind: Literal["received"] = "received"
    lot: Lot
    count: Count
    says: Words = ""

    @property
    def of(self) -> str:
        """The lot."""
        return self.lot.id


class _OfLot(Value):
    lot: Id
    says: Words = ""

    @property
    def of(self) -> str:
        """The lot."""
        return self.lot


class Reserved(_OfLot):
    """Sheets kept for a job; they are on hand until its run takes them."""

    kind: Literal["reserved"] = "reserved"
    job: Id
    count: Count


class SetFree(_OfLot):
    """Sheets that a job had reserved and does not need."""

    kind: Literal["set free"] = "set free"
    job: Id
    count: Count


class Taken(_OfLot):
    """Sheets that a run used up. ``run``: the number of its record; ``from_reserved``: how many of them the
    job had reserved.
    """

    kind: Literal["taken"] = "taken"
    count: Count
    job: Id | None = None
    run: Annotated[int, Field(ge=0)] = 0
    from_reserved: Annotated[int, Field(ge=0, le=10_000)] = 0


class Returned(_OfLot):
    """Sheets that were taken and came back unused, or whose run was taken back."""

    kind: Literal["returned"] = "returned"
    count: Count
    run: Annotated[int, Field(ge=0)] = 0


class Scrapped(_OfLot):
    """Sheets that are no good any more."""

    kind: Literal["scrapped"] = "scrapped"
    count: Count


class Counted(_OfLot):
    """Somebody counted: so many are there. ``was``: what the records said."""

    kind: Literal["counted"] = "counted"
    found: Annotated[int, Field(ge=0, le=10_000)]
    was: Annotated[int, Field(ge=0, le=10_000)]


class Changed(_OfLot):
    """Something about the lot is known better: place, price, note, grade, readings."""

    kind: Literal["changed"] = "changed"
    place: Words | None = None
    price: NotNegative | None = None
    grade: Words | None = None
    face: Words | None = None
    note: Annotated[str | None, Field(max_length=500)] = None
    readings: Annotated[tuple[Reading, ...] | None, Field(max_length=200)] = None

    def fields(self) -> dict[str, object]:
        """What it changes."""
        return {k: v for k, v in self if k not in ("kind", "lot", "says") and v is not None}


Moved = Received | Reserved | SetFree | Taken | Returned | Scrapped | Counted | Changed
Movement = Annotated[Moved, Field(discriminator="kind")]
READ: TypeAdapter[Moved] = TypeAdapter(Movement)
"""Reads a movement from its fields."""
