"""Typed commands on the plan. Each is small, checked, and says which things it touches.

``touches`` decides whether a command made on an older revision may still be applied: it may, unless a later
revision touched the same thing. Commands are pure: ``apply(plan)`` returns a new plan or raises ``BadInput``.

A command a class: on the job, parts, setup, steps, hold, nest, the board to surface; ``fields``: those that
change named fields of what is there; ``base``: what all stand on.

>>> read_command({"kind": "rename-job", "name": "Hide 3"}).touches()
{'job/name'}
"""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field, TypeAdapter, ValidationError

from venzo.core.edits.chosen_parts import ChangeParts
from venzo.core.edits.chosen_steps import ChangeChosenSteps, ChangeContours
from venzo.core.edits.fields import (
    ChangeFixings,
    ChangeQuantity,
    ChangeScrews,
    ChangeSetup,
    ChangeSteps,
    ChangeStock,
)
from venzo.core.edits.hold import CalibrateHold, ChangeStops, SetFixings, SetHold, SetOrder, SetScrews
from venzo.core.edits.indexing import ChangeIndexing, IndexStock, StopIndexing
from venzo.core.edits.job import (
    AddDrawing,
    AddOrder,
    AddSetup,
    ChangeMates,
    RemoveSetup,
    RenameJob,
    ReviseDrawing,
)
from venzo.core.edits.kerf import AdoptHead, ChangeKerf
from venzo.core.edits.nest import (
    AcceptNest,
    ChangePieces,
    ForgetLayout,
    KeepLayout,
    LockPieces,
    MovePiece,
    SwapPieces,
    TakeOffPiece,
    UseLayout,
)
from venzo.core.edits.parts import (
    ApplyCutList,
    CutListLine,
    KeepVersion,
    MoveParts,
    NotePart,
    RemovePart,
    SetAlterations,
    SetPart,
    SetQuantity,
    TakeVersion,
)
from venzo.core.edits.setup import RemoveStock, SetSetup, SetStock
from venzo.core.edits.steps import SetContour, SetOperation, SetSteps
from venzo.core.edits.surface import ChangeSurface, SetSurface
from venzo.core.edits.table_run import ChangeRun
from venzo.core.edits.turning import ChangeDowels, ChangeTurn, OrderFaces, TurnOver
from venzo.core.snags import BadInput, plain_error

__all__ = [
    "AcceptNest",
    "AddDrawing",
    "AddOrder",
    "AddSetup",
    "AdoptHead",
    "ApplyCutList",
    "CalibrateHold",
    "ChangeChosenSteps",
    "ChangeContours",
    "ChangeDowels",
    "ChangeFixings",
    "ChangeIndexing",
    "ChangeKerf",
    "ChangeMates",
    "ChangeParts",
    "ChangePieces",
    "ChangeQuantity",
    "ChangeRun",
    "ChangeScrews",
    "ChangeSetup",
    "ChangeSteps",
    "ChangeStock",
    "ChangeStops",
    "ChangeSurface",
    "ChangeTurn",
    "Command",
    "CutListLine",
    "ForgetLayout",
    "IndexStock",
    "KeepLayout",
    "KeepVersion",
    "LockPieces",
    "MoveParts",
    "MovePiece",
    "NotePart",
    "OrderFaces",
    "RemovePart",
    "RemoveSetup",
    "RemoveStock",
    "RenameJob",
    "ReviseDrawing",
    "SetAlterations",
    "SetContour",
    "SetFixings",
    "SetHold",
    "SetOperation",
    "SetOrder",
    "SetPart",
    "SetQuantity",
    "SetScrews",
    "SetSetup",
    "SetSteps",
    "SetStock",
    "SetSurface",
    "StopIndexing",
    "SwapPieces",
    "TakeOffPiece",
    "TakeVersion",
    "TurnOver",
    "UseLayout",
    "read_command",
    "reads",
]

Command = Annotated[
    RenameJob
    | AddOrder
    | AddSetup
    | AddDrawing
    | ReviseDrawing
    | RemovePart
    | RemoveSetup
    | SetQuantity
    | SetPart
    | MoveParts
    | SetStock
    | RemoveStock
    | SetSetup
    | SetOperation
    | SetSteps
    | SetContour
    | ChangeSteps
    | ChangeChosenSteps
    | ChangeContours
    | ChangeStops
    | ChangeQuantity
    | ChangeScrews
    | ChangeFixings
    | ChangeMates
    | ChangeStock
    | ChangeSetup
    | ChangeKerf
    | AdoptHead
    | AcceptNest
    | MovePiece
    | ChangeParts
    | ChangePieces
    | TakeOffPiece
    | LockPieces
    | SwapPieces
    | KeepLayout
    | UseLayout
    | ForgetLayout
    | SetScrews
    | SetFixings
    | SetOrder
    | SetHold
    | CalibrateHold
    | SetAlterations
    | NotePart
    | KeepVersion
    | TakeVersion
    | ApplyCutList
    | SetSurface
    | ChangeRun
    | ChangeSurface
    | TurnOver
    | IndexStock
    | ChangeIndexing
    | StopIndexing
    | ChangeTurn
    | OrderFaces
    | ChangeDowels,
    Field(discriminator="kind"),
]
_adapter: TypeAdapter[Command] = TypeAdapter(Command)


def reads(command: Command) -> set[str]:
    """What a command relies on beyond what it touches: a later change there is a conflict too."""
    own = getattr(command, "reads", None)
    return own() if own else set()


def read_command(data: Any) -> Command:
    """A command from JSON data; BadInput with one clear line where it is not one."""
    try:
        return _adapter.validate_python(data)
    except ValidationError as e:
        raise BadInput(plain_error(e)) from e
