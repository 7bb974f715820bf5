"""Commands on parts: how many, how they may lie, alterations, notes, a cut list."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from venzo.core.edits.base import part_of, setup_of, swapped, with_fields
from venzo.core.model import Id, Name, Value
from venzo.core.parts.alter import Alteration, says
from venzo.core.plan import MOST_VERSIONS, PartLine, PartVersion, Plan, Quantity
from venzo.core.snags import BadInput


class RemovePart(Value):
    """Remove a part with its pieces and hand choices."""

    kind: Literal["remove-part"] = "remove-part"
    part: Id

    def touches(self) -> set[str]:
        return {f"part/{self.part}", f"quantity/{self.part}"}

    def says(self, plan: Plan) -> str:
        p = plan.part(self.part)
        return f"{p.name if p else self.part} removed"

    def apply(self, plan: Plan) -> Plan:
        part_of(plan, self.part)
        setups = tuple(
            (
                s.model_copy(
                    update={
                        "nest": s.nest.model_copy(
                            update={"pieces": tuple(q for q in s.nest.pieces if q.part != self.part)}
                        )
                    }
                )
                if s.nest
                else s
            )
            for s in plan.setups
        )
        setups = tuple(
            s.model_copy(
                update={
                    "trial": tuple(t for t in s.trial if not t.startswith(f"{self.part}#")),
                    "moved_cuts": tuple(m for m in s.moved_cuts if not m.cut.startswith(f"{self.part}#")),
                }
            )
            for s in setups
        )
        parts = tuple(p for p in plan.parts if p.id != self.part)
        used = {p.drawing for p in parts}
        return with_fields(
            plan,
            parts=parts,
            setups=setups,
            choices=tuple(c for c in plan.choices if c.part != self.part),
            steps=tuple(c for c in plan.steps if c.part != self.part),
            drawings=tuple(d for d in plan.drawings if d.id in used),
        )


class SetQuantity(Value):
    """How many pieces of a part an order wants."""

    kind: Literal["set-quantity"] = "set-quantity"
    part: Id
    order: Id
    quantity: Quantity

    def touches(self) -> set[str]:
        return {f"quantity/{self.part}"}

    def says(self, plan: Plan) -> str:
        return f"{part_of(plan, self.part).name}: {self.quantity} wanted"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        if not any(o.id == self.order for o in plan.orders):
            raise BadInput(f"the plan has no order {self.order!r}")
        line = PartLine(order=self.order, quantity=self.quantity)
        p = p.model_copy(update={"lines": swapped(p.lines, line, lambda v: v.order)})
        # pieces beyond the quantity go, the last copies first
        setups = tuple(
            (
                s.model_copy(
                    update={
                        "nest": s.nest.model_copy(
                            update={
                                "pieces": tuple(
                                    q for q in s.nest.pieces if q.part != p.id or q.copy_no < p.quantity
                                )
                            }
                        )
                    }
                )
                if s.nest
                else s
            )
            for s in plan.setups
        )
        return with_fields(plan, parts=swapped(plan.parts, p), setups=setups)


class SetPart(Value):
    """Name, allowed rotations, grain and mirroring of a part; only the fields given change."""

    kind: Literal["set-part"] = "set-part"
    part: Id
    name: Name | None = None
    rotations: Literal["free"] | tuple[float, ...] | None = None
    grain: Literal[0, 90, "none"] | None = None
    mirror: bool | None = None
    group: Annotated[str, Field(max_length=80)] | None = None
    priority: Annotated[int, Field(ge=0, le=9)] | None = None
    fill: bool | None = None

    def touches(self) -> set[str]:
        return {f"part/{self.part}/rules"}

    def says(self, plan: Plan) -> str:
        return (
            f"{part_of(plan, self.part).name}: how it may lie changed"
            if self.name is None
            else f"part named {self.name}"
        )

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        new: dict[str, Any] = {
            k: v
            for k in ("name", "rotations", "mirror", "group", "priority", "fill")
            if (v := getattr(self, k)) is not None
        }
        if self.grain is not None:
            new["grain"] = None if self.grain == "none" else self.grain
        if new.get("rotations") == ():
            raise BadInput(f"{p.name}: at least one rotation must be allowed")
        return with_fields(plan, parts=swapped(plan.parts, p.model_copy(update=new)))


class MoveParts(Value):
    """Cut parts of a setup in another one: from another material or on another machine. Their pieces leave
    its layout.
    """

    kind: Literal["move-parts"] = "move-parts"
    setup: Id
    parts: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    to: Id

    def touches(self) -> set[str]:
        return {f"nest/{self.setup}", *(f"part/{p}/setup" for p in self.parts)}

    def reads(self) -> set[str]:
        return {f"setup/{self.to}"}

    def says(self, plan: Plan) -> str:
        names = ", ".join(part_of(plan, p).name for p in self.parts[:3])
        more = f" and {len(self.parts) - 3} more" if len(self.parts) > 3 else ""
        return f"{names}{more}: cut from {setup_of(plan, self.to).name}"

    def apply(self, plan: Plan) -> Plan:
        old, to = setup_of(plan, self.setup), setup_of(plan, self.to)
        for p in (part_of(plan, p) for p in self.parts):
            if p.setup != old.id or old.id == to.id:
                raise BadInput(f"{p.name} is cut from {setup_of(plan, p.setup).name}; choose another for it")
        gone = set(self.parts)
        if old.nest is not None:
            kept = tuple(q for q in old.nest.pieces if q.part not in gone)
            old = old.model_copy(update={"nest": old.nest.model_copy(update={"pieces": kept})})
        parts = tuple(p.model_copy(update={"setup": to.id}) if p.id in gone else p for p in plan.parts)
        return with_fields(plan, parts=parts, setups=swapped(plan.setups, old))


class SetAlterations(Value):
    """What is changed about a part after it was drawn; ``shape`` is the result, made from the shape
    ``drawn``.
    """

    kind: Literal["set-alterations"] = "set-alterations"
    part: Id
    alterations: Annotated[tuple[Alteration, ...], Field(max_length=200)]
    shape: str
    drawn: str

    def touches(self) -> set[str]:
        return {f"part/{self.part}"}

    def says(self, plan: Plan) -> str:
        p = part_of(plan, self.part)
        gone = len(self.alterations) < len(p.alterations)
        if gone:
            return f"{p.name}: an alteration taken back"
        return f"{p.name}: {says(self.alterations[-1]) if self.alterations else 'as drawn again'}"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        if self.drawn != (p.drawn or p.shape):
            raise BadInput(f"{p.name}: its drawing has changed meanwhile; make the alteration again")
        return with_fields(
            plan,
            parts=swapped(
                plan.parts,
                p.model_copy(
                    update={"alterations": self.alterations, "shape": self.shape, "drawn": self.drawn}
                ),
            ),
        )


class NotePart(Value):
    """What was learned about a part (or an earlier version of it, counted from the oldest)."""

    kind: Literal["note-part"] = "note-part"
    part: Id
    note: Annotated[str, Field(max_length=2000)]
    version: Annotated[int, Field(ge=0)] | None = None

    def touches(self) -> set[str]:
        return {f"part/{self.part}/note"}

    def says(self, plan: Plan) -> str:
        return f"{part_of(plan, self.part).name}: note kept"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        if self.version is None:
            return with_fields(plan, parts=swapped(plan.parts, p.model_copy(update={"note": self.note})))
        if self.version >= len(p.versions):
            raise BadInput(f"{p.name} has no version {self.version + 1}")
        versions = tuple(
            v.model_copy(update={"note": self.note}) if k == self.version else v
            for k, v in enumerate(p.versions)
        )
        return with_fields(plan, parts=swapped(plan.parts, p.model_copy(update={"versions": versions})))


class KeepVersion(Value):
    """Keep a part as it is now, with what was learned of it, to come back to."""

    kind: Literal["keep-version"] = "keep-version"
    part: Id

    def touches(self) -> set[str]:
        return {f"part/{self.part}/versions", f"part/{self.part}/note"}

    def says(self, plan: Plan) -> str:
        p = part_of(plan, self.part)
        return f"{p.name}: version {len(p.versions)} kept"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        revision = next((d.revision for d in plan.drawings if d.id == p.drawing), 1)
        kept = PartVersion(
            shape=p.shape,
            drawing_revision=revision,
            note=p.note,
            drawn=p.drawn or p.shape,
            alterations=p.alterations,
        )
        versions = (*p.versions, kept)[-MOST_VERSIONS:]
        return with_fields(
            plan, parts=swapped(plan.parts, p.model_copy(update={"versions": versions, "note": ""}))
        )


class TakeVersion(Value):
    """Make a part again what a kept version of it was (``version`` from 0, the oldest); the drawing must be
    the one it was kept with.
    """

    kind: Literal["take-version"] = "take-version"
    part: Id
    version: Annotated[int, Field(ge=0, le=1000)]

    def touches(self) -> set[str]:
        return {f"part/{self.part}/alterations", f"part/{self.part}/note"}

    def says(self, plan: Plan) -> str:
        return f"{part_of(plan, self.part).name}: version {self.version + 1} taken again"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        if self.version >= len(p.versions):
            raise BadInput(f"{p.name} has no version {self.version + 1}; look again")
        v = p.versions[self.version]
        if v.drawn != (p.drawn or p.shape):
            raise BadInput(
                f"{p.name}: version {self.version + 1} is of another drawing than the one there is now; take"
                " its drawing in again first"
            )
        own = {
            "shape": v.shape,
            "drawn": v.drawn if v.alterations else "",
            "alterations": v.alterations,
            "note": v.note,
        }
        return with_fields(plan, parts=swapped(plan.parts, p.model_copy(update=own)))


class CutListLine(Value):
    """What a cut list says about one part of the plan; None: it says nothing."""

    part: Id
    quantity: Quantity | None = None
    grain: Literal[0, 90, "none"] | None = None
    mirror: bool | None = None


class ApplyCutList(Value):
    """Quantities, grain and faces from a cut list, in one go."""

    kind: Literal["apply-cut-list"] = "apply-cut-list"
    name: Name
    order: Id
    lines: Annotated[tuple[CutListLine, ...], Field(min_length=1, max_length=5000)]

    def touches(self) -> set[str]:
        return {k for line in self.lines for k in (f"quantity/{line.part}", f"part/{line.part}/rules")}

    def says(self, plan: Plan) -> str:
        return f"{self.name}: {len(self.lines)} part{'s' * (len(self.lines) != 1)} from the cut list"

    def apply(self, plan: Plan) -> Plan:
        for line in self.lines:
            if line.quantity is not None:
                plan = SetQuantity(part=line.part, order=self.order, quantity=line.quantity).apply(plan)
            if line.grain is not None or line.mirror is not None:
                plan = SetPart(part=line.part, grain=line.grain, mirror=line.mirror).apply(plan)
        return plan
