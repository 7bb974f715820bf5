"""The nesting problem and its result, as CONTRACT.md fixes them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.snags import BadInput

MOST_PIECES = 20_000
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Length = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e6)]
Ring = Annotated[list[Annotated[list[Finite], Field(min_length=2, max_length=3)]], Field(min_length=2)]


VERSION = "separate-3"
"""Of the search, kept with what came of it."""


class _Model(BaseModel):
    model_config = ConfigDict(extra="ignore")


class Keepout(_Model):
    """A shape on the sheet that pieces keep ``clearance`` mm away from (None: the problem's spacing)."""

    shape: Ring
    clearance: Length | None = None


class Firm(_Model):
    """An area of the sheet where a piece lies more firmly than elsewhere: on a fixture board, between clamps.
    1 is live vacuum, beside which nothing holds: all pieces lie there where it costs no sheet.
    """

    shape: Ring
    firmness: Annotated[float, Field(ge=0, le=1)] = 1.0


class SheetKind(_Model):
    """A kind of sheet: box, optional irregular outline inside it, margin, cost per sheet, copies in stock;
    ``firm``: where small pieces lie firmest.
    """

    id: str
    width: Annotated[float, Field(gt=0, le=1e6)]
    height: Annotated[float, Field(gt=0, le=1e6)]
    quantity: Annotated[int, Field(ge=0, le=100_000)] = 1
    margin: Length = 0.0
    cost: Length | None = None
    grain: float | None = None
    outline: Ring | None = None
    keepouts: list[Keepout] = []
    firm: list[Firm] = []

    @field_validator("keepouts", mode="before")
    @classmethod
    def _bare_rings(cls, v: Any) -> Any:
        return [k if isinstance(k, dict | Keepout) else {"shape": k} for k in v or []]

    @property
    def price(self) -> float:
        """Cost of one sheet; its box area where none is given."""
        return self.width * self.height if self.cost is None else self.cost


class NestPart(_Model):
    """A part to place: outline and holes as [x, y(, bulge)] rings, and how it may lie."""

    id: str
    outline: Ring
    holes: list[Ring] = []
    quantity: Annotated[int, Field(ge=0, le=MOST_PIECES)] = 1
    rotations: Literal["free"] | list[Finite] = [0.0]
    grain: float | None = None
    mirror: bool = False
    priority: float = 0
    group: str | None = None
    fill: bool = False

    def region(self) -> Region:
        """The part's region in its own frame, loops oriented."""
        outline = Contour.of(self.outline).oriented(True)
        return Region(outline, tuple(Contour.of(h).oriented(False) for h in self.holes if len(h) > 1))


class Placement(_Model):
    """Mirror (x -> -x) if ``mirrored``, rotate counter-clockwise about the part's origin, move by (x, y)."""

    part: str
    copy_: int = Field(default=0, alias="copy")
    sheet: str
    sheet_copy: int = 0
    x: Finite
    y: Finite
    rotation: Finite = 0.0
    mirrored: bool = False
    model_config = ConfigDict(extra="ignore", populate_by_name=True, frozen=True)


class NestProblem(_Model):
    """One nesting problem; see CONTRACT.md for the meaning of every field."""

    sheets: list[SheetKind] = Field(min_length=1)
    parts: list[NestPart] = Field(min_length=1)
    locked: list[Placement] = []
    spacing: Length = 0.0
    part_in_hole: bool = True
    objective: str = "sheets-then-remnant"
    steps: Annotated[int, Field(ge=1)] | None = None
    guillotine: bool = False
    """Rectangles only: every cut goes from edge to edge of what is left, as a panel saw needs it."""
    repeat: bool = False
    """Prefer one layout on several sheets (one program) where that costs no sheet more."""

    def check(self) -> None:
        """Raise BadInput for ids used twice, empty shapes, too many pieces or locked pieces that name
        nothing.
        """
        for kind, ids in (("sheet", [s.id for s in self.sheets]), ("part", [p.id for p in self.parts])):
            twice = {i for i in ids if ids.count(i) > 1}
            if twice:
                raise BadInput(f"{kind} id {sorted(twice)[0]!r} is used twice; give every {kind} its own id")
        total = sum(p.quantity for p in self.parts)
        if total > MOST_PIECES:
            raise BadInput(f"{total} pieces are more than the limit of {MOST_PIECES}; nest the order in lots")
        for p in self.parts:
            if abs(p.region().outline.area) < 1e-9:
                raise BadInput(f"part {p.id!r}: its outline encloses no area; check its points")
        parts, sheets = {p.id for p in self.parts}, {s.id: s for s in self.sheets}
        for lock in self.locked:
            if lock.part not in parts or lock.sheet not in sheets:
                raise BadInput(f"locked piece of {lock.part!r} on {lock.sheet!r}: no such part or sheet")
            if lock.sheet_copy >= sheets[lock.sheet].quantity:
                raise BadInput(
                    f"locked piece of {lock.part!r}: sheet {lock.sheet!r} has no copy {lock.sheet_copy}"
                )


class Unplaced(_Model):
    """Copies of a part that found no place, and why."""

    part: str
    quantity: int
    reason: str


class SheetUse(_Model):
    """How far one sheet is used: largest x reached, net placed area over sheet area."""

    sheet: str
    sheet_copy: int
    used_length: float
    utilisation: float


class SameSheets(_Model):
    """Sheets of one kind that carry the same layout: one program serves them all."""

    sheet: str
    copies: list[int]


class NestResult(_Model):
    """A layout and its figures."""

    placements: list[Placement]
    unplaced: list[Unplaced]
    sheets: list[SheetUse]
    bound: dict[str, int]
    layouts: list[SameSheets] = []
    seconds: float = 0.0
    seed: int = 0
    steps: int = 0

    def to_json(self) -> dict[str, Any]:
        """The document of CONTRACT.md."""
        return self.model_dump(by_alias=True)
