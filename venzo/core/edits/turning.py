"""Commands on stock that is turned over: its other face, how it is registered, its dowels."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.cuts.operations import On, Operation
from venzo.core.edits.base import setup_of, swapped, with_fields
from venzo.core.edits.fields import Changed, Fields, ThingId, changed_list, with_changes
from venzo.core.faces.registration import MOST_DOWELS, Dowel, Dowels, OtherFace, Registration, TurnedBack
from venzo.core.faces.turn import Axis, turn_of
from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.model import Id, Value
from venzo.core.plan import Plan, Setup
from venzo.core.rules.propose import propose_for
from venzo.core.snags import BadInput
from venzo.core.voice import counted


class TurnOver(Value):
    """Cut a setup's sheets from their other face too: a setup of its own, with the steps of the first."""

    kind: Literal["turn-over"] = "turn-over"
    setup: Id
    axis: Literal["x", "y"] = "x"
    registration: Registration = Dowels()

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/other_face"}

    def says(self, plan: Plan) -> str:
        return f"{setup_of(plan, self.setup).name}: turned over about {self.axis.upper()}"

    def apply(self, plan: Plan) -> Plan:
        first = setup_of(plan, self.setup)
        if first.follows:
            raise BadInput(f"{first.name} is turned already; stock has two faces")
        if first.machine.head is not None:
            raise BadInput(
                f"{first.machine.name} cuts right through; nothing is cut from the other face there"
            )
        if plan.other_face_of(first.id) is not None:
            raise BadInput(f"{first.name} has its other face already")
        taken = {s.id for s in plan.setups}
        named = next(
            n for k in range(1, 1000) if (n := f"{first.id[:70]}-back{k if k > 1 else ''}") not in taken
        )
        other = first.model_copy(
            update={
                "id": named,
                "name": f"{first.name[:180]}, other face",
                "nest": None,
                "stock": (),
                "kept": (),
                "screws": _turned_screws(first, self.axis),
                "fixings": _turned_fixings(first, self.axis),
                "moved_cuts": (),
                "trial": (),
                "stops": (),
                "proposed": "",
                "z_zero": "bed",
                "operations": _steps(first),
                "other_face": OtherFace(of=first.id, axis=self.axis, registration=self.registration),
            }
        )
        at = next(k for k, s in enumerate(plan.setups) if s.id == first.id) + 1
        return with_fields(plan, setups=(*plan.setups[:at], other, *plan.setups[at:]))


INTO: tuple[On, ...] = ("pockets", "grooves", "engravings", "drillings", "reliefs")
"""Kinds of feature that may be on the back alone."""


def _steps(first: Setup) -> tuple[Operation, ...]:
    """The steps of the first face, and those by house rule on kinds of feature that it had none for."""
    steps = [o.model_copy(update={"z_zero": None}) for o in first.operations]
    stock = next(iter(first.stock), None)
    for on in INTO:
        if stock is not None and not any(o.on == on for o in steps):
            about = (first.cutters, first.material, stock.thickness, first.rules, first.machine)
            steps += propose_for(on, *about)
    return tuple(steps)


def _turned_screws(first: Setup, axis: Axis) -> tuple[Screw, ...]:
    """Screws in the same holes of the sheet, driven from the other face."""
    out = []
    for s in first.screws:
        stock = first.stock_of(s.sheet) if s.sheet else next(iter(first.stock), None)
        if stock is not None:
            x, y = turn_of(axis, stock).point((s.x, s.y))
            out.append(s.model_copy(update={"x": x, "y": y}))
    return tuple(out)


def _turned_fixings(first: Setup, axis: Axis) -> tuple[Fixing, ...]:
    """What stands on the table, at the same places of the turned sheet."""
    stock = next(iter(first.stock), None)
    if stock is None:
        return ()
    turn = turn_of(axis, stock)
    out = []
    for f in first.fixings:
        x, y = turn.point((f.x, f.y))
        out.append(f.model_copy(update={"x": x, "y": y}))
    return tuple(out)


def _turned(plan: Plan, setup_id: str) -> tuple[Setup, OtherFace]:
    s = setup_of(plan, setup_id)
    if s.other_face is None:
        raise BadInput(f"{s.name} is not turned over; turn it over first")
    return s, s.other_face


class ChangeTurn(Value):
    """Change how a setup's sheets are turned: axis, registration, what is cut from which face, the mark."""

    kind: Literal["change-turn"] = "change-turn"
    setup: Id
    fields: Fields

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/other_face/{k}" for k in self.fields}

    def says(self, plan: Plan) -> str:
        named = ", ".join(k.replace("_", " ") for k in self.fields)
        return f"{setup_of(plan, self.setup).name}: {named} of the turn changed"

    def apply(self, plan: Plan) -> Plan:
        s, turn = _turned(plan, self.setup)
        new = with_changes(turn, self.fields, s.name, ("of",))
        return with_fields(plan, setups=swapped(plan.setups, s.model_copy(update={"other_face": new})))


class OrderFaces(Value):
    """In which order both faces are cut: one and then the other, or both roughed before either is finished,
    which takes one turn more: the first face comes up once more, in a setup of its own. ``outlines``: from
    which face what parts the pieces is cut; None: as it is.
    """

    kind: Literal["order-faces"] = "order-faces"
    setup: Id
    rough_both_first: bool
    outlines: Literal["here", "before", "half"] | None = None

    def touches(self) -> set[str]:
        parts = ["rough_both_first", *(["outlines"] if self.outlines else [])]
        return {f"setup/{self.setup}/other_face/{k}" for k in parts}

    def reads(self) -> set[str]:
        return {"setup"}  # the first face comes up once more as it is held then

    def says(self, plan: Plan) -> str:
        name = setup_of(plan, self.setup).name
        how = "both faces are roughed first" if self.rough_both_first else "one face, then the other"
        return f"{name}: {how}"

    def apply(self, plan: Plan) -> Plan:
        s, turn = _turned(plan, self.setup)
        if self.outlines is not None:
            new = turn.model_copy(update={"outlines": self.outlines})
            plan = with_fields(plan, setups=swapped(plan.setups, s.model_copy(update={"other_face": new})))
        again = plan.turned_back_after(s.id)
        if self.rough_both_first == (again is not None):
            return plan
        if again is not None:
            return with_fields(plan, setups=tuple(x for x in plan.setups if x.id != again.id))
        at = next(k for k, x in enumerate(plan.setups) if x.id == s.id) + 1
        once_more = _once_more(plan, s, turn)
        return with_fields(plan, setups=(*plan.setups[:at], once_more, *plan.setups[at:]))


def _once_more(plan: Plan, other: Setup, turn: OtherFace) -> Setup:
    """The first face of stock once more: held as it was, its screws in the holes that they had; its steps are
    those of the first face and stand there.
    """
    first = setup_of(plan, turn.of)
    taken = {s.id for s in plan.setups}
    return first.model_copy(
        update={
            "id": next(
                n for k in range(1, 1000) if (n := f"{first.id[:70]}-again{k if k > 1 else ''}") not in taken
            ),
            "name": f"{first.name[:180]}, first face again",
            "nest": None,
            "stock": (),
            "kept": (),
            "moved_cuts": (),
            "trial": (),
            "stops": (),
            "operations": (),
            "recipes": (),
            "proposed": "",
            "z_zero": "bed",
            "screws": tuple(s.model_copy(update={"marked": False}) for s in first.screws),
            "turned_back": TurnedBack(after=other.id),
        }
    )


class ChangeDowels(Value):
    """Dowels that register turned sheets, more, fewer or moved."""

    kind: Literal["change-dowels"] = "change-dowels"
    setup: Id
    add: Annotated[tuple[Dowel, ...], Field(max_length=MOST_DOWELS)] = ()
    change: Annotated[tuple[Changed, ...], Field(max_length=MOST_DOWELS)] = ()
    drop: Annotated[tuple[ThingId, ...], Field(max_length=MOST_DOWELS)] = ()

    def touches(self) -> set[str]:
        at = f"setup/{self.setup}/other_face/registration"
        named = [*self.drop, *(c.id for c in self.change), *(d.id for d in self.add)]
        return {f"{at}/dowels/{n}" for n in named}

    def says(self, plan: Plan) -> str:
        name = setup_of(plan, self.setup).name
        if self.add:
            return f"{name}: {counted(len(self.add), 'dowel')} placed"
        if self.change:
            return f"{name}: {counted(len(self.change), 'dowel')} changed"
        return f"{name}: {counted(len(self.drop), 'dowel')} taken out"

    def apply(self, plan: Plan) -> Plan:
        s, turn = _turned(plan, self.setup)
        register = turn.registration
        if not isinstance(register, Dowels):
            raise BadInput(f"{s.name} is not registered by dowels; choose them first")
        dowels = changed_list(register.dowels, self.add, self.change, self.drop, "dowel")
        if len(dowels) > MOST_DOWELS:
            raise BadInput(f"{s.name}: {len(dowels)} dowels are more than {MOST_DOWELS}; take some out")
        new = turn.model_copy(update={"registration": register.model_copy(update={"dowels": tuple(dowels)})})
        return with_fields(plan, setups=swapped(plan.setups, s.model_copy(update={"other_face": new})))
