"""The kinds of record: a sheet that was run, a proof that somebody looked at, a finish that was seen, wear
that is booked by hand, a cutter renewed, a record taken back.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from venzo.core.model import Id, NotNegative, Value

Words = Annotated[str, Field(max_length=500)]
Seconds = Annotated[float, Field(ge=0, le=2_000_000)]


class SheetRun(Value):
    """A sheet that went through the machine, with the figures of the plan as it was then.

    ``done`` of ``planned_cuts`` cuts were run, in the order of the tape; ``planned``: seconds that the plan
    reckoned for those, ``seconds``: what they took; ``sound``: pieces that came off, by part; ``spoilt``: ids
    of pieces that did not come off sound; ``metres``: cut with each cutter; ``through``: metres that went
    through into the spoilboard ``board``, ``score`` mm deep.
    """

    kind: Literal["sheet"] = "sheet"
    job: Id
    revision: Annotated[int, Field(ge=1)]
    setup: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)]
    machine: Id
    material: Id
    done: Annotated[int, Field(ge=1)]
    planned_cuts: Annotated[int, Field(ge=1)]
    planned: Seconds
    seconds: Seconds | None = None
    sound: dict[Id, int] = {}
    spoilt: tuple[str, ...] = ()
    metres: dict[Id, NotNegative] = {}
    board: Id | None = None
    through: NotNegative = 0.0
    score: NotNegative = 0.0
    area_mm2: dict[str, float] = {}
    """Of a whole sheet what became of it, as ``venzo yield`` tells it; empty of one that stopped, and of
    records made before this was kept.
    """
    mass_kg: dict[str, float] = {}
    material_cost: float | None = None
    """What the sheet cost; None: it had no price."""
    note: Words = ""

    @property
    def complete(self) -> bool:
        """Were all cuts of the sheet run?"""
        return self.done == self.planned_cuts


class SheetProven(Value):
    """A person looked at a sheet's proof and let it go, with what was found then.

    ``follows``: digests of all that the sheet's programs follow from, by name in words; while they are the
    same the record stands. ``stops`` is 0: nothing that stops is let go.
    """

    kind: Literal["proven"] = "proven"
    job: Id
    revision: Annotated[int, Field(ge=1)]
    setup: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)]
    follows: Annotated[dict[str, str], Field(max_length=2000)]
    looks: Annotated[int, Field(ge=0)]
    notes: Annotated[int, Field(ge=0)]
    said: Annotated[tuple[str, ...], Field(max_length=400)] = ()
    """Rules that spoke."""
    note: Words = ""


Finish = Literal["clean", "fuzzy", "torn", "burnt", "chatter", "steps"]
"""What an edge looks like: clean, fuzz left, grain torn, burnt, chatter marks, steps between passes."""


class FinishSeen(Value):
    """What an edge looked like that was cut with these numbers: mm, rpm, mm/min, mm a tooth. To be held
    against others of the same part, and found from the cutter.
    """

    kind: Literal["finish"] = "finish"
    job: Id
    revision: Annotated[int, Field(ge=1)]
    setup: Id
    part: Id
    part_name: Annotated[str, Field(max_length=120)]
    contour: Annotated[str, Field(max_length=200)]
    machine: Id
    material: Id
    cutter: Id
    cutter_name: Annotated[str, Field(max_length=120)]
    rpm: NotNegative
    feed: NotNegative
    chip: NotNegative
    passes: Annotated[int, Field(ge=1)]
    depth: NotNegative
    """Of the whole cut."""
    finish: Finish
    note: Words = ""


class Worn(Value):
    """Metres that a cutter has cut beside the runs kept here."""

    kind: Literal["worn"] = "worn"
    cutter: Id
    metres: Annotated[float, Field(ge=0, le=1_000_000)]
    says: Words = ""


class Renewed(Value):
    """A cutter was sharpened or replaced: its wear begins anew."""

    kind: Literal["renewed"] = "renewed"
    cutter: Id
    says: Words = ""


class TakenBack(Value):
    """A record that was a mistake; it counts no more."""

    kind: Literal["taken back"] = "taken back"
    number: Annotated[int, Field(ge=1)]
    job: Id | None = None
    says: Words = ""


Kept = SheetRun | SheetProven | FinishSeen | Worn | Renewed | TakenBack
Record = Annotated[Kept, Field(discriminator="kind")]
READ: TypeAdapter[Kept] = TypeAdapter(Record)
"""Reads a record from its fields."""
