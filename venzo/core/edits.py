"""Typed commands on the plan. Each is small, checked, and says which things it touches.

``touches`` decides whether a command made on an older revision may still be applied: it may, unless a later
revision touched the same thing. Commands are pure: ``apply(plan)`` returns a new plan or raises ``BadInput``.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from venzo.core.cuts.operations import On, Operation, RecipeSteps
from venzo.core.edits_base import followed, part_of, plain_error, setup_of, swapped, with_fields, with_setup
from venzo.core.edits_fields import (
    ChangeFixings,
    ChangeQuantity,
    ChangeScrews,
    ChangeSetup,
    ChangeSteps,
    ChangeStock,
)
from venzo.core.edits_hold import CalibrateHold, SetFixings, SetHold, SetOrder, SetScrews
from venzo.core.edits_nest import (
    AcceptNest,
    ForgetLayout,
    KeepLayout,
    LockPieces,
    MovePiece,
    SwapPieces,
    TakeOffPiece,
    UseLayout,
)
from venzo.core.model import Id, Name, Point, Value
from venzo.core.parts.alter import Alteration, says
from venzo.core.plan import ContourChoice, Drawing, Order, Part, PartLine, Plan, Quantity, Setup, StepsChoice
from venzo.core.rules.house import ClosedLine, HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter


class RenameJob(Value):
    """Give the job another name."""

    kind: Literal["rename-job"] = "rename-job"
    name: Name

    def touches(self) -> set[str]:
        return {"job/name"}

    def says(self, plan: Plan) -> str:
        return f"job renamed to {self.name}"

    def apply(self, plan: Plan) -> Plan:
        return with_fields(plan, name=self.name)


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


def _check_outline(stock: Stock) -> None:
    """Raise BadInput where a remnant's outline crosses itself or leaves its box."""
    from shapely.geometry import Polygon

    ring = Polygon(stock.outline) if len(stock.outline) > 2 else None
    if ring is None or not ring.is_valid or ring.area < 1.0:
        raise BadInput(
            f"{stock.name}: the outline needs at least three corners and must not cross itself; check the"
            " order of its corners"
        )
    x0, y0, x1, y1 = ring.bounds
    over = max(-x0, -y0, x1 - stock.width, y1 - stock.height)
    if over > 1e-6:
        raise BadInput(
            f"{stock.name}: the outline reaches {over:.1f} mm outside its {stock.width:g} x {stock.height:g}"
            " mm box; enlarge the box or correct the corner"
        )
    if ring.buffer(-stock.margin).is_empty:
        raise BadInput(f"{stock.name}: a margin of {stock.margin:g} mm leaves nothing inside the outline")


class SetStock(Value):
    """Add a line of stock to a setup or replace the one with the same id."""

    kind: Literal["set-stock"] = "set-stock"
    setup: Id
    stock: Stock

    def touches(self) -> set[str]:
        return {f"stock/{self.setup}/{self.stock.id}"}

    def says(self, plan: Plan) -> str:
        return f"{self.stock.name}: {self.stock.thickness:.2f} mm, {self.stock.quantity} on hand"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        if self.stock.outline:
            _check_outline(self.stock)
        if 2 * self.stock.margin >= min(self.stock.width, self.stock.height):
            raise BadInput(
                f"{self.stock.name}: a margin of {self.stock.margin:g} mm leaves nothing of a"
                f" {self.stock.width:g} x {self.stock.height:g} mm sheet"
            )
        return with_fields(
            plan,
            setups=swapped(
                plan.setups, followed(s, s.model_copy(update={"stock": swapped(s.stock, self.stock)}))
            ),
        )


class RemoveStock(Value):
    """Take a line of stock out of a setup, with the pieces on it."""

    kind: Literal["remove-stock"] = "remove-stock"
    setup: Id
    stock: Id

    def touches(self) -> set[str]:
        return {f"stock/{self.setup}/{self.stock}", f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"stock {self.stock} taken out"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        nest = (
            s.nest.model_copy(update={"pieces": tuple(q for q in s.nest.pieces if q.sheet != self.stock)})
            if s.nest
            else None
        )
        return with_setup(plan, s, stock=tuple(k for k in s.stock if k.id != self.stock), nest=nest)


class SetSetup(Value):
    """Change a setup: only the fields given. Machine, material, cutters and rules are snapshots adopted from
    the library.
    """

    kind: Literal["set-setup"] = "set-setup"
    setup: Id
    name: Name | None = None
    machine: Machine | None = None
    material: Material | None = None
    cutters: tuple[Cutter, ...] | None = None
    rules: HouseRules | None = None
    datum: Literal["lower left", "centre"] | None = None
    z_zero: Literal["top", "bed"] | None = None
    sheet_at: Point | None = None
    zones_on: tuple[Id, ...] | None = None
    allow_in_holes: bool | None = None
    guillotine: bool | None = None
    same_layouts: bool | None = None

    def _given(self) -> dict[str, Any]:
        return {
            k: v
            for k in type(self).model_fields
            if k not in ("kind", "setup") and (v := getattr(self, k)) is not None
        }

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/{k}" for k in self._given()}

    def says(self, plan: Plan) -> str:
        words = {
            "z_zero": "Z zero",
            "sheet_at": "place of the sheet",
            "zones_on": "vacuum zones",
            "allow_in_holes": "parts in holes",
            "guillotine": "cuts from edge to edge",
            "same_layouts": "one layout on several sheets",
        }
        return (
            f"{setup_of(plan, self.setup).name}: {', '.join(words.get(k, k) for k in self._given())} changed"
        )

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        given = self._given()
        if "sheet_at" in given and max(map(abs, given["sheet_at"])) > 100_000:
            raise BadInput("place of the sheet: more than 100 m from the table's corner")
        if "cutters" in given:
            ids = [c.id for c in given["cutters"]]
            used = {o.cutter for o in s.operations} | {
                o.cutter for c in plan.steps if (p := plan.part(c.part)) and p.setup == s.id for o in c.steps
            }
            used -= set(ids)
            if used:
                raise BadInput(
                    f"cutter {sorted(used)[0]!r} is used by an operation; choose another cutter there first"
                )
        if "zones_on" in given:
            machine = given.get("machine", s.machine)
            unknown = set(given["zones_on"]) - {z.id for z in machine.zones}
            if unknown:
                raise BadInput(f"{machine.name} has no vacuum zone {sorted(unknown)[0]!r}")
        elif "machine" in given:
            given["zones_on"] = tuple(z.id for z in given["machine"].zones)
        return with_setup(plan, s, **given)


class SetOperation(Value):
    """Replace the operation with the same id, or add one."""

    kind: Literal["set-operation"] = "set-operation"
    setup: Id
    operation: Operation

    def touches(self) -> set[str]:
        return {f"operation/{self.setup}/{self.operation.on}/{self.operation.id}"}

    def says(self, plan: Plan) -> str:
        return f"{self.operation.kind} of {self.operation.on} changed"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        if s.cutter(self.operation.cutter) is None:
            raise BadInput(
                f"the setup has no cutter {self.operation.cutter!r}; adopt it from the library first"
            )
        return with_setup(plan, s, operations=swapped(s.operations, self.operation))


class SetSteps(Value):
    """The steps on a kind of feature, in order: for the whole setup, for one part, or for one contour of it.
    None of a part's own: back to the setup's.

    ``recipe``: where they come from; its cutters come with it where the setup lacks them.
    """

    kind: Literal["set-steps"] = "set-steps"
    setup: Id | None = None
    part: Id | None = None
    contour: Annotated[str, Field(max_length=200)] = ""
    on: On
    steps: Annotated[tuple[Operation, ...], Field(max_length=12)] = ()
    recipe: RecipeSteps | None = None
    cutters: Annotated[tuple[Cutter, ...], Field(max_length=12)] = ()

    def touches(self) -> set[str]:
        own = {f"setup/{self.setup}/cutters"} if self.cutters else set()
        return own | (
            {f"choice/{self.part}/{self.contour or self.on}"}
            if self.part
            else {f"operation/{self.setup}/{self.on}"}
        )

    def says(self, plan: Plan) -> str:
        p = plan.part(self.part) if self.part else None
        who = f"{p.name}, {self.contour or self.on}" if p else self.on
        return (
            f"{who}: recipe {self.recipe.name}"
            if self.recipe
            else (
                f"{who}: {len(self.steps)} step{'s' * (len(self.steps) != 1)}"
                if self.steps
                else f"{who}: as the setup says"
            )
        )

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part) if self.part else None
        s = setup_of(plan, p.setup if p else self.setup or "")
        steps = self.recipe.steps if self.recipe else self.steps
        if len({o.id for o in steps}) < len(steps):
            raise BadInput(f"{self.on}: two steps have the same id")
        known = {c.id for c in s.cutters}
        coming = [c for c in self.cutters if c.id not in known and c.id in {o.cutter for o in steps}]
        taken = {c.number for c in s.cutters}
        for c in coming:
            if c.number in taken:
                raise BadInput(
                    f"{c.name} and another cutter of the setup are both T{c.number}; give one another number"
                    " in the library"
                )
        for o in steps:
            if o.on != self.on:
                raise BadInput(f"step {o.id} is on {o.on}, not on {self.on}")
            if o.cutter not in known | {c.id for c in coming}:
                raise BadInput(f"the setup has no cutter {o.cutter!r}; adopt it from the library first")
            bowl = getattr(o, "bowl", None)
            if bowl and bowl not in known:
                raise BadInput(f"the setup has no bowl cutter {bowl!r}; adopt it from the library first")
        if coming:
            plan = with_setup(plan, s, cutters=(*s.cutters, *coming))
            s = setup_of(plan, s.id)
        if p is not None:
            new = StepsChoice(part=p.id, on=self.on, contour=self.contour, steps=steps)
            rest = tuple(c for c in plan.steps if c.key != new.key)
            return with_fields(plan, steps=(*rest, new) if steps else rest)
        others = [o for o in s.operations if o.on != self.on]
        clash = {o.id for o in others} & {o.id for o in steps}
        own = tuple(o.model_copy(update={"id": f"{self.on} {o.id}"}) if o.id in clash else o for o in steps)
        recipes = tuple(r for r in s.recipes if r.on != self.on)
        recipe = self.recipe.model_copy(update={"steps": own}) if self.recipe else None
        return with_setup(
            plan,
            s,
            operations=(*others, *own),
            recipes=(*recipes, recipe) if recipe else (recipes if not steps else s.recipes),
        )


LINE_WORDS: dict[str, str] = {
    "on line": "run on the line",
    "inside": "run inside the line",
    "outside": "run outside the line",
    "clear": "cleared within the line",
}


class SetContour(Value):
    """A hand choice for one contour; only the fields given change. ``automatic``: names of fields that go
    back to automatic.
    """

    kind: Literal["set-contour"] = "set-contour"
    part: Id
    contour: Name
    cutter: Id | None = None
    tabs: tuple[Point, ...] | None = None
    tab_count: Annotated[int, Field(ge=0, le=40)] | None = None
    omit: bool | None = None
    start: Point | None = None
    line: ClosedLine | None = None
    automatic: tuple[Literal["cutter", "tabs", "tab_count", "start", "steps", "line"], ...] = ()

    def touches(self) -> set[str]:
        return {f"choice/{self.part}/{self.contour}"}

    def says(self, plan: Plan) -> str:
        p = plan.part(self.part)
        what = (
            "tabs placed by hand"
            if self.tabs is not None
            else (
                f"{self.tab_count} tabs"
                if self.tab_count is not None
                else (
                    "another cutter"
                    if self.cutter
                    else (
                        "start moved"
                        if self.start
                        else (
                            LINE_WORDS[self.line]
                            if self.line
                            else (
                                "left out"
                                if self.omit
                                else "cut again"
                                if self.omit is False
                                else "back to automatic"
                            )
                        )
                    )
                )
            )
        )
        return f"{p.name if p else self.part}, {self.contour}: {what}"

    def apply(self, plan: Plan) -> Plan:
        p = part_of(plan, self.part)
        old = plan.choice(self.part, self.contour) or ContourChoice(part=self.part, contour=self.contour)
        new: dict[str, Any] = {
            k: v
            for k in ("cutter", "tabs", "tab_count", "omit", "start", "line")
            if (v := getattr(self, k)) is not None
        }
        if self.tab_count is not None:
            new["tabs"] = None
        if self.cutter is not None and setup_of(plan, p.setup).cutter(self.cutter) is None:
            raise BadInput(f"the setup has no cutter {self.cutter!r}; adopt it from the library first")
        new |= dict.fromkeys(k for k in self.automatic if k != "steps")
        choice = old.model_copy(update=new)
        rest = tuple(c for c in plan.choices if (c.part, c.contour) != (self.part, self.contour))
        steps = (
            tuple(c for c in plan.steps if (c.part, c.contour) != (self.part, self.contour))
            if "steps" in self.automatic
            else plan.steps
        )
        return with_fields(plan, choices=rest if choice.empty else (*rest, choice), steps=steps)


Command = Annotated[
    RenameJob
    | AddOrder
    | AddSetup
    | AddDrawing
    | ReviseDrawing
    | RemovePart
    | SetQuantity
    | SetPart
    | SetStock
    | RemoveStock
    | SetSetup
    | SetOperation
    | SetSteps
    | SetContour
    | ChangeSteps
    | ChangeQuantity
    | ChangeScrews
    | ChangeFixings
    | ChangeStock
    | ChangeSetup
    | AcceptNest
    | MovePiece
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
    | ApplyCutList,
    Field(discriminator="kind"),
]
_adapter: TypeAdapter[Command] = TypeAdapter(Command)


def reads(command: Command) -> set[str]:
    """What a command relies on beyond what it touches: a later change there is a conflict too."""
    return command.reads() if isinstance(command, MovePiece | TakeOffPiece) else set()


def read_command(data: Any) -> Command:
    """A command from JSON data; BadInput with one clear line where it is not one."""
    try:
        return _adapter.validate_python(data)
    except ValidationError as e:
        raise BadInput(plain_error(e)) from e
