"""The kinds of record: a sheet that was run, a release, its way to a machine, a proof that somebody looked
at, a finish that was seen, wear that is booked by hand, a cutter renewed, a record taken back.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from venzo.core.model import Id, NotNegative, Point, Value

Words = Annotated[str, Field(max_length=500)]
Seconds = Annotated[float, Field(ge=0, le=2_000_000)]


Finish = Literal["clean", "fuzzy", "torn", "burnt", "chatter", "steps"]
"""What an edge looks like: clean, fuzz left, grain torn, burnt, chatter marks, steps between passes."""


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
    release: Annotated[int, Field(ge=1)] | None = None
    """Which release of the job was run; None: the programs of the revision, whole."""
    rest: Annotated[int, Field(ge=0)] = 0
    """Cuts of the sheet that no run has made when this one is done, beside those it stopped before."""
    recut: bool = False
    """Pieces that were spoilt were cut again on a fresh sheet, which the rack is not asked for."""
    edge: Finish | None = None
    """What the edges looked like."""
    note: Words = ""

    @property
    def complete(self) -> bool:
        """Are all cuts of the sheet made, with this run?"""
        return self.done == self.planned_cuts and not self.rest and not self.recut


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


Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class ReleasedFile(Value):
    """A file of a release; a section is what a program for several sheets does on one. Of a program for one
    sheet, and of a section, also the sheet that it cuts with all ``copies`` of the same layout, the number of
    the cutter in the collet when it starts, where its Z 0 is, how long it runs, s.
    """

    name: Annotated[str, Field(min_length=1, max_length=200)]
    sha256: Sha256
    bytes: Annotated[int, Field(ge=0)]
    kind: Literal["program", "section", "paper"]
    setup: str = ""
    sheet: str = ""
    copies: tuple[int, ...] = ()
    loaded: int = 0
    z_zero: Literal["top", "bed"] = "top"
    seconds: Seconds = 0.0
    cuts: Annotated[int, Field(ge=0)] = 0
    moved: Point = (0.0, 0.0)
    """How far long stock has been moved along the table when it is run, mm."""


class LookedOver(Value):
    """Something to look at that stood when a sheet was released: who accepted it and why; empty: nobody
    did.
    """

    setup: Id
    sheet: str = ""
    sheet_copy: int = 0
    rule: str
    message: str
    who: str = ""
    why: Words = ""
    accepted: bool = False


class Released(Value):
    """Programs and papers went out, never changed after: ``digest`` of all files in order, ``archive`` the
    blob that holds them; ``says``: which part of the job, in words.
    """

    kind: Literal["released"] = "released"
    job: Id
    revision: Annotated[int, Field(ge=1)]
    release: Annotated[int, Field(ge=1)]
    digest: str
    archive: Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
    says: Words = "all"
    files: Annotated[tuple[ReleasedFile, ...], Field(max_length=5000)]
    cuts: Annotated[int, Field(ge=0)]
    left: Annotated[int, Field(ge=0)] = 0
    """Cuts of the job still to go out then."""
    looks: Annotated[tuple[LookedOver, ...], Field(max_length=500)] = ()
    note: Words = ""


class Delivered(Value):
    """Files of a release were put into a folder of a machine's."""

    kind: Literal["delivered"] = "delivered"
    job: Id
    release: Annotated[int, Field(ge=1)]
    machine: Id
    folder: Annotated[str, Field(max_length=200)]
    files: Annotated[tuple[str, ...], Field(max_length=5000)]


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


Kept = SheetRun | Released | Delivered | SheetProven | FinishSeen | Worn | Renewed | TakenBack
Record = Annotated[Kept, Field(discriminator="kind")]
READ: TypeAdapter[Kept] = TypeAdapter(Record)
"""Reads a record from its fields."""
