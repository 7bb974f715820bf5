"""Commands on how the work is held and in which order it is cut."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.cuts.operations import Operation, Profile
from venzo.core.edits.base import part_of, setup_of, with_fields, with_setup
from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.holding.strength import calibrated_friction, calibrated_strength
from venzo.core.model import Family, Id, Value
from venzo.core.parts.shape import OUTLINE
from venzo.core.plan import ContourChoice, FilesBy, MovedCut, OperatorStop, OrderBy, Plan, Setup, StepsChoice
from venzo.core.rules.house import Tabs
from venzo.core.snags import BadInput

Way = Literal["tabs", "skin, last pass", "skin, by hand", "nothing"]


class SetScrews(Value):
    """The screws and nails of a setup."""

    kind: Literal["set-screws"] = "set-screws"
    setup: Id
    screws: Annotated[tuple[Screw, ...], Field(max_length=400)]

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/screws"}

    def says(self, plan: Plan) -> str:
        return f"{len(self.screws)} screw{'s' * (len(self.screws) != 1)}"

    def apply(self, plan: Plan) -> Plan:
        if len({s.id for s in self.screws}) < len(self.screws):
            raise BadInput("two screws have the same id")
        return with_setup(plan, setup_of(plan, self.setup), screws=self.screws)


class SetFixings(Value):
    """The clamps, cams, pins, tape, pods, fixture boards and covers of a setup."""

    kind: Literal["set-fixings"] = "set-fixings"
    setup: Id
    fixings: Annotated[tuple[Fixing, ...], Field(max_length=200)]

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/fixings"}

    def says(self, plan: Plan) -> str:
        return f"{len(self.fixings)} fixing{'s' * (len(self.fixings) != 1)} on the table"

    def apply(self, plan: Plan) -> Plan:
        if len({f.id for f in self.fixings}) < len(self.fixings):
            raise BadInput("two fixings have the same id")
        return with_setup(plan, setup_of(plan, self.setup), fixings=self.fixings)


class SetOrder(Value):
    """How the cuts of a setup are put in order; only the fields given change."""

    kind: Literal["set-order"] = "set-order"
    setup: Id
    order_by: OrderBy | None = None
    moved_cuts: Annotated[tuple[MovedCut, ...], Field(max_length=2000)] | None = None
    trial: Annotated[tuple[str, ...], Field(max_length=200)] | None = None
    insides_apart: bool | None = None
    files_by: FilesBy | None = None
    first_run: Annotated[float, Field(ge=10, le=100)] | None = None

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/order"}

    def says(self, plan: Plan) -> str:
        if self.trial is not None:
            return (
                f"{len(self.trial)} piece{'s' * (len(self.trial) != 1)} cut first, as a trial"
                if self.trial
                else "no trial pieces"
            )
        if self.first_run is not None:
            return f"first run at {self.first_run:g} % of the feeds"
        if self.order_by:
            return f"order of cuts: {self.order_by}"
        if self.files_by is not None:
            return f"a program for {'the whole' if self.files_by == 'job' else 'each'} {self.files_by}"
        if self.insides_apart is not None:
            return (
                "insides and outlines in programs of their own"
                if self.insides_apart
                else "insides and outlines in one program"
            )
        return "order of cuts changed by hand" if self.moved_cuts else "order of cuts back to the rules"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        new = {
            k: v
            for k in ("order_by", "moved_cuts", "trial", "insides_apart", "files_by", "first_run")
            if (v := getattr(self, k)) is not None
        }
        known = {q.id for q in s.nest.pieces} if s.nest else set()
        unknown = [q for q in self.trial or () if q not in known and q not in s.trial]
        if unknown:
            raise BadInput(f"trial piece {unknown[0]!r} lies on no sheet; nest first")
        return with_setup(plan, s, **new)


class ChangeStops(Value):
    """Stops of programs for the operator, more or fewer."""

    kind: Literal["change-stops"] = "change-stops"
    setup: Id
    add: Annotated[tuple[OperatorStop, ...], Field(max_length=40)] = ()
    drop: Annotated[tuple[Id, ...], Field(max_length=200)] = ()

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/stops/{i}" for i in (*self.drop, *(s.id for s in self.add))}

    def says(self, plan: Plan) -> str:
        if self.add:
            return f"the program stops: {self.add[0].words}"
        return f"{len(self.drop)} stop{'s' * (len(self.drop) != 1)} of the program taken out"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        gone = set(self.drop) - {x.id for x in s.stops}
        if gone:
            raise BadInput(f"{s.name} has no stop {sorted(gone)[0]!r} any more")
        kept = [x for x in s.stops if x.id not in self.drop]
        for new in self.add:
            if any(x.id == new.id for x in kept):
                raise BadInput(f"there is a stop {new.id!r} already")
            if any(
                (x.sheet, x.sheet_copy, x.before) == (new.sheet, new.sheet_copy, new.before) for x in kept
            ):
                raise BadInput(f"the program stops before {new.before} already; change its words there")
            kept.append(new)
        return with_setup(plan, s, stops=tuple(kept))


class SetHold(Value):
    """How outlines (or the outline of one part) are kept from coming loose: by tabs, by a skin that a last
    pass takes, by a skin for knife or flush-trimmer, or by nothing but the table.

    It changes the last profile on the outlines, and its last pass; other steps stay.
    """

    kind: Literal["set-hold"] = "set-hold"
    setup: Id
    part: Id | None = None
    contour: Annotated[str, Field(max_length=200)] = ""
    """A hole of the part whose middle is kept in; empty: the outlines."""
    way: Way
    skin: Annotated[float, Field(gt=0, le=50)] | None = None
    """mm; None: by house rule."""

    def touches(self) -> set[str]:
        if self.part is None:
            return {f"operation/{self.setup}/outlines"}
        if self.contour:
            return {f"choice/{self.part}/{self.contour}"}
        return {f"choice/{self.part}/outlines", f"choice/{self.part}/{OUTLINE}/tab_count"}

    def says(self, plan: Plan) -> str:
        p = plan.part(self.part) if self.part else None
        return (
            f"{p.name if p else 'outlines'}{f', {self.contour}' if self.contour else ''} held by"
            f" {self.way if self.way != 'nothing' else 'the table alone'}"
        )

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        if self.contour:
            return self._middle(plan, s)
        own = (
            next(
                (c for c in plan.steps if c.part == self.part and c.on == "outlines" and not c.contour), None
            )
            if self.part
            else None
        )
        steps = with_way(s, own.steps if own else s.steps_on("outlines"), self.way, self.skin)
        if self.part is None:
            others = tuple(o for o in s.operations if o.on != "outlines")
            return with_setup(plan, s, operations=(*others, *steps))
        new = StepsChoice(part=part_of(plan, self.part).id, on="outlines", steps=steps)
        # a count chosen for the outline would bring the tabs back
        mine = (self.part, OUTLINE)
        choices = tuple(
            c.model_copy(update={"tab_count": None})
            if (c.part, c.contour) == mine and self.way != "tabs"
            else c
            for c in plan.choices
        )
        return with_fields(
            plan,
            steps=(*(c for c in plan.steps if c.key != new.key), new),
            choices=tuple(c for c in choices if not c.empty),
        )

    def _middle(self, plan: Plan, s: Setup) -> Plan:
        """The middle of a hole kept in."""
        p = part_of(plan, self.part or "")
        old = plan.choice(p.id, self.contour) or ContourChoice(part=p.id, contour=self.contour)
        choice = old.model_copy(update={"tab_count": 2 if self.way == "tabs" else None, "tabs": None})
        choices = tuple(c for c in plan.choices if (c.part, c.contour) != (p.id, self.contour))
        rest = tuple(c for c in plan.steps if (c.part, c.contour) != (p.id, self.contour))
        plan = with_fields(plan, choices=choices if choice.empty else (*choices, choice), steps=rest)
        if self.way in ("tabs", "nothing"):
            return plan
        own = next(
            (c.steps for c in rest if c.part == p.id and c.on == "holes" and not c.contour),
            s.steps_on("holes"),
        )
        steps = with_way(s, own, self.way, self.skin)
        return with_fields(
            plan, steps=(*plan.steps, StepsChoice(part=p.id, on="holes", contour=self.contour, steps=steps))
        )


class CalibrateHold(Value):
    """A pull scale's reading on a test piece replaces what the house rules reckon with.

    ``friction``: a piece with ``area`` mm2 over live zones at ``pressure`` kPa slid at ``pull`` N. ``tab``: a
    tab or skin of ``area`` mm2 section tore at it. ``screw``: one screw gave way sideways at it.
    """

    kind: Literal["calibrate-hold"] = "calibrate-hold"
    setup: Id
    what: Literal["friction", "tab", "screw"]
    pull: Annotated[float, Field(gt=0, le=50_000)]
    area: Annotated[float, Field(gt=0, le=5e6)] | None = None
    pressure: Annotated[float, Field(gt=0, le=101.325)] | None = None

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/rules"}

    def says(self, plan: Plan) -> str:
        return f"{self.what} set by a pull scale's reading of {self.pull:g} N"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        hold, family = s.rules.hold, s.material.family
        if self.what == "screw":
            new = hold.model_copy(update={"screw_shear": self.pull})
        elif self.area is None or (self.what == "friction" and self.pressure is None):
            raise BadInput(
                "a pull-scale reading needs the area it was taken on"
                + ("" if self.what == "tab" else " and the pressure then")
            )
        elif self.what == "tab":
            new = hold.model_copy(
                update={
                    "tab_strength": {**hold.tab_strength, family: calibrated_strength(self.pull, self.area)}
                }
            )
        else:
            assert self.pressure is not None
            value = calibrated_friction(self.pull, self.area, self.pressure)
            if value > 2:
                raise BadInput(
                    f"a friction of {value:.1f} cannot be: check the reading ({self.pull:g} N), the area and"
                    " the pressure"
                )
            new = hold.model_copy(update={"friction": {**hold.friction, family: value}})
        return with_setup(plan, s, rules=s.rules.model_copy(update={"hold": new}))


def with_way(
    setup: Setup, steps: tuple[Operation, ...], way: Way, skin: float | None = None
) -> tuple[Operation, ...]:
    """Steps on outlines that hold the parts in a way.

    Raises:
        BadInput: no step cuts the outlines.
    """
    family: Family = setup.material.family
    last = next((o for o in reversed(steps) if isinstance(o, Profile) and not _frees_skin(o)), None)
    if last is None:
        raise BadInput(f"{setup.name}: no profile cuts the outlines; add one first")
    rest = tuple(o for o in steps if o is not last and not (isinstance(o, Profile) and _frees_skin(o)))
    house = setup.house_tabs("outlines")
    none = house.model_copy(update={"count": 0})
    if way == "tabs":
        wanted: Tabs | None = None if house.count else Tabs(count=4, width=house.width, height=house.height)
        return (*rest, last.model_copy(update={"tabs": wanted, "floor_allowance": 0.0, "depth": None}))
    if way == "nothing":
        return (*rest, last.model_copy(update={"tabs": none, "floor_allowance": 0.0, "depth": None}))
    thin = skin if skin is not None else setup.rules.hold.skin[family]
    skinned = last.model_copy(update={"tabs": none, "floor_allowance": thin, "depth": None})
    if way == "skin, by hand":
        return (*rest, skinned)
    free = last.model_copy(
        update={
            "id": FREE,
            "tabs": none,
            "floor_allowance": 0.0,
            "depth": None,
            "one_pass": False,
            "lead": "none",
        }
    )
    return (*rest, skinned, free)


FREE = "off the skin"
"""Id of the step that takes a skin."""


def _frees_skin(step: Profile) -> bool:
    return step.id == FREE
