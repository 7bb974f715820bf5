"""What is asked of a revision that needs the drawing or the geometry itself, not only the plan: the command
that is stored is made of its answer.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, JsonValue

from venzo.core.model import Value
from venzo.core.parts.alter import Alteration
from venzo.core.parts.shape import OUTLINE
from venzo.core.relief.surface_forms import MOST, FormKind


class ReadAgain(BaseModel):
    """Read a drawing again with other settings: any field of ``HowRead`` beside the drawing's id."""

    kind: Literal["read-again"] = "read-again"
    drawing: str
    model_config = ConfigDict(extra="allow", frozen=True)


class AlterPart(Value):
    """One alteration more (``add``), or several, or one fewer (``drop``: its number from 0), or the whole
    list.
    """

    kind: Literal["alter-part"] = "alter-part"
    part: str
    add: Alteration | tuple[Alteration, ...] | None = None
    alterations: tuple[Alteration, ...] | None = None
    drop: Annotated[int, Field(ge=0, le=200)] | None = None


class MakeSurface(Value):
    """Make a relief on a part without a modeller: over its outline or one of its closed lines (``on``), with
    a first form that fits.
    """

    kind: Literal["make-surface"] = "make-surface"
    part: str
    on: Annotated[str, Field(max_length=200)] = OUTLINE
    form: FormKind = "dome"


class ChangeForms(Value):
    """Change the forms of a relief made here; ``number``: of the part's alterations, from 0.

    ``add``: a form of this kind, over the field; ``drop``: the number of one, from 0; ``move``: its number
    and the place it goes to.
    """

    kind: Literal["change-forms"] = "change-forms"
    part: str
    number: Annotated[int, Field(ge=0, le=200)]
    add: FormKind | None = None
    drop: Annotated[int, Field(ge=0, le=MOST)] | None = None
    move: tuple[Annotated[int, Field(ge=0, le=MOST)], Annotated[int, Field(ge=0, le=MOST)]] | None = None


class ChangeModel(Value):
    """Change fields of a relief set or made on a part; ``number``: of the part's alterations, from 0."""

    kind: Literal["change-model"] = "change-model"
    part: str
    number: Annotated[int, Field(ge=0, le=200)]
    fields: Annotated[dict[str, JsonValue], Field(min_length=1, max_length=10)]


class FindPlace(Value):
    """Put a piece on a sheet where there is room for it."""

    kind: Literal["find-place"] = "find-place"
    setup: str
    part: str
    copy_no: Annotated[int, Field(ge=0)]
    sheet: str
    sheet_copy: Annotated[int, Field(ge=0)] = 0


class MoveCut(Value):
    """Put a cut of a sheet just before another, or at the end (``before`` empty); both by name."""

    kind: Literal["move-cut"] = "move-cut"
    setup: str
    sheet: str
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    cut: Annotated[str, Field(max_length=400)]
    before: Annotated[str, Field(max_length=400)] = ""


class Remake(Value):
    """Make the parts of a recipe anew with some of its dimensions changed."""

    kind: Literal["remake"] = "remake"
    drawing: str
    fields: Annotated[dict[str, JsonValue], Field(min_length=1, max_length=40)]


class PlaceDowels(Value):
    """Turn a setup's sheets over (``axis``) with dowels where they fit only as they are meant to, or place
    such dowels anew where they are turned already.
    """

    kind: Literal["place-dowels"] = "place-dowels"
    setup: str
    axis: Literal["x", "y"] | None = None


class PlaceAlong(Value):
    """Move a setup's stock along the table in positions that split least, or lay its positions anew; ``by``:
    instead bring it there by pins where there is room for them, or by lines along a fence.
    """

    kind: Literal["place-along"] = "place-along"
    setup: str
    by: Literal["pins", "mark"] | None = None


Ask = Annotated[
    ReadAgain
    | AlterPart
    | MakeSurface
    | ChangeForms
    | ChangeModel
    | FindPlace
    | MoveCut
    | Remake
    | PlaceDowels
    | PlaceAlong,
    Field(discriminator="kind"),
]
