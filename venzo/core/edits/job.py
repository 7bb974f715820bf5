"""Commands on the job, its orders, its drawings."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.cuts.operations import Operation
from venzo.core.edits.base import setup_of, swapped, with_fields
from venzo.core.model import Id, Name, Value
from venzo.core.plan import ContourChoice, Drawing, Mate, Order, Part, Plan, Setup
from venzo.core.snags import BadInput


class RenameJob(Value):
    """Give the job another name; a job that surfaces a board is called as the board."""

    kind: Literal["rename-job"] = "rename-job"
    name: Name

    def touches(self) -> set[str]:
        return {"job/name"}

    def says(self, plan: Plan) -> str:
        return f"job renamed to {self.name}"

    def apply(self, plan: Plan) -> Plan:
        if plan.surface is None:
            return with_fields(plan, name=self.name)
        board = plan.surface.board.model_copy(update={"name": self.name})
        return with_fields(plan, name=self.name, surface=plan.surface.model_copy(update={"board": board}))


class AddOrder(Value):
    """Add an order (or rename the one with this id)."""

    kind: Literal["add-order"] = "add-order"
    order: Order

    def touches(self) -> set[str]:
        return {f"order/{self.order.id}"}

    def says(self, plan: Plan) -> str:
        return f"order {self.order.name}"

    def apply(self, plan: Plan) -> Plan:
        return with_fields(plan, orders=swapped(plan.orders, self.order))


class AddSetup(Value):
    """Add a setup."""

    kind: Literal["add-setup"] = "add-setup"
    setup: Setup

    def touches(self) -> set[str]:
        return {f"setup/{self.setup.id}"}

    def says(self, plan: Plan) -> str:
        return f"setup {self.setup.name} added"

    def apply(self, plan: Plan) -> Plan:
        if plan.setup(self.setup.id):
            raise BadInput(f"the plan already has a setup {self.setup.id!r}")
        return with_fields(plan, setups=(*plan.setups, self.setup))


class RemoveSetup(Value):
    """Take a setup out that no part is cut in; what follows from it goes with it."""

    kind: Literal["remove-setup"] = "remove-setup"
    setup: Id

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"{setup_of(plan, self.setup).name} taken out"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        mine = plan.parts_of(s.id)
        if mine:
            raise BadInput(f"{mine[0].name} is cut from {s.name}; move its parts elsewhere first")
        if len(plan.setups) == 1:
            raise BadInput(
                f"{s.name} is all that the job is cut from; change its machine or material instead"
            )
        back = plan.turned_back_after(s.id)
        gone = {s.id, *([back.id] if back else [])}
        return with_fields(plan, setups=tuple(x for x in plan.setups if x.id not in gone))


class ChangeMates(Value):
    """Sheets that slots are made for and that are not cut here, more or fewer."""

    kind: Literal["change-mates"] = "change-mates"
    add: Annotated[tuple[Mate, ...], Field(max_length=40)] = ()
    drop: Annotated[tuple[Id, ...], Field(max_length=40)] = ()

    def touches(self) -> set[str]:
        return {f"mate/{i}" for i in (*self.drop, *(m.id for m in self.add))}

    def says(self, plan: Plan) -> str:
        if self.add:
            return f"slots may be for {self.add[0].name}, {self.add[0].thickness:g} mm"
        return f"{len(self.drop)} mating sheet{'s' * (len(self.drop) != 1)} taken out"

    def apply(self, plan: Plan) -> Plan:
        gone = set(self.drop) - {m.id for m in plan.mates}
        if gone:
            raise BadInput(f"there is no mating sheet {sorted(gone)[0]!r} any more")
        kept = [m for m in plan.mates if m.id not in self.drop]
        twice = next((m for m in self.add if any(k.id == m.id for k in kept)), None)
        if twice is not None:
            raise BadInput(f"{twice.name} is a mating sheet already")
        return with_fields(plan, mates=(*kept, *self.add))


class AddDrawing(Value):
    """Take the parts of a drawing into the plan."""

    kind: Literal["add-drawing"] = "add-drawing"
    drawing: Drawing
    parts: tuple[Part, ...]
    operations: tuple[Operation, ...] | None = None
    """A proposal that suits its parts, for a setup whose operations nobody has chosen yet."""

    def touches(self) -> set[str]:
        return {f"drawing/{self.drawing.id}", *(f"part/{p.id}" for p in self.parts)}

    def says(self, plan: Plan) -> str:
        return f"{self.drawing.filename}: {len(self.parts)} part{'s' * (len(self.parts) != 1)} taken in"

    def apply(self, plan: Plan) -> Plan:
        if any(d.id == self.drawing.id for d in plan.drawings):
            raise BadInput(f"{self.drawing.filename}: this drawing is in the plan already")
        for p in self.parts:
            setup_of(plan, p.setup)
            if plan.part(p.id):
                raise BadInput(f"the plan already has a part {p.id!r}")
        plan = with_fields(plan, drawings=(*plan.drawings, self.drawing), parts=(*plan.parts, *self.parts))
        setup = plan.setup(self.parts[0].setup) if self.parts else None
        if self.operations is not None and setup is not None and setup.as_proposed:
            plan = with_fields(plan, setups=swapped(plan.setups, setup.with_proposal(self.operations)))
        return plan


class ReviseDrawing(Value):
    """A newer version of a drawing: matched parts get their new shape, new parts come in, vanished ones are
    marked missing.
    """

    kind: Literal["revise-drawing"] = "revise-drawing"
    drawing: Drawing
    parts: tuple[Part, ...]

    choices: tuple[ContourChoice, ...] = ()
    """Hand choices whose places moved with their contours."""
    gone: tuple[Id, ...] = ()
    """Parts that were never worked on and that this reading no longer has: removed. With hand choices, pieces
    or alterations they stay as missing.
    """
    why: Annotated[str, Field(max_length=200)] = "newer version adopted"

    def touches(self) -> set[str]:
        return {
            f"drawing/{self.drawing.id}",
            *(f"part/{p.id}" for p in self.parts),
            *(f"part/{p}" for p in self.gone),
            *(f"choice/{c.part}/{c.contour}" for c in self.choices),
        }

    def says(self, plan: Plan) -> str:
        return f"{self.drawing.filename}: {self.why}"

    def apply(self, plan: Plan) -> Plan:
        if not any(d.id == self.drawing.id for d in plan.drawings):
            raise BadInput(f"the plan has no drawing {self.drawing.id!r} to revise")
        parts = plan.parts
        for p in self.parts:
            old = plan.part(p.id)
            # quantities and rules a person set meanwhile stay
            new = (
                old.model_copy(
                    update={
                        "shape": p.shape,
                        "drawn": p.drawn,
                        "origin": p.origin,
                        "drawing": p.drawing,
                        "missing": p.missing,
                        "versions": p.versions,
                        "note": p.note,
                    }
                )
                if old
                else p
            )
            parts = swapped(parts, new)
        worked = (
            {c.part for c in plan.choices}
            | {c.part for c in plan.steps}
            | {p.id for p in parts if p.alterations or p.note}
        )
        worked |= {q.part for s in plan.setups if s.nest for q in s.nest.pieces}
        parts = tuple(
            p.model_copy(update={"missing": True}) if p.id in self.gone else p
            for p in parts
            if p.id not in self.gone or p.id in worked
        )
        moved = {(c.part, c.contour): c for c in self.choices}
        choices = tuple(moved.get((c.part, c.contour), c) for c in plan.choices)
        return with_fields(plan, drawings=swapped(plan.drawings, self.drawing), parts=parts, choices=choices)
