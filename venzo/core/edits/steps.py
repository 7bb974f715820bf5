"""Commands on steps, and on what is chosen by hand for one contour."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from venzo.core.cuts.operations import On, Operation, RecipeSteps
from venzo.core.edits.base import part_of, setup_of, swapped, with_fields, with_setup
from venzo.core.model import Id, Name, Point, Value
from venzo.core.plan import ContourChoice, Plan, StepsChoice
from venzo.core.rules.house import ClosedLine
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter


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
    were_of: Id | None = None
    """The part whose own steps these were until now: as the setup's they are its no more."""

    def touches(self) -> set[str]:
        own = {f"setup/{self.setup}/cutters"} if self.cutters else set()
        own |= {f"choice/{self.were_of}/{self.on}"} if self.were_of else set()
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
        if self.part and self.were_of:
            raise BadInput("steps are a part's own or become the setup's; name the setup alone")
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
        if self.were_of:
            part_of(plan, self.were_of)
            left = tuple(c for c in plan.steps if (c.part, c.on, c.contour) != (self.were_of, self.on, ""))
            plan = with_fields(plan, steps=left)
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


def choice_words(given: dict[str, Any]) -> str:
    """What is chosen by hand for a contour, in words.

    >>> choice_words({"tab_count": 1}), choice_words({"omit": False}), choice_words({"automatic": ("start",)})
    ('1 tab', 'cut again', 'back to automatic')
    """
    if "tabs" in given:
        return "tabs placed by hand"
    if (count := given.get("tab_count")) is not None:
        return f"{count} tab{'s' * (count != 1)}"
    if given.get("cutter"):
        return "another cutter"
    if given.get("start"):
        return "start moved"
    if given.get("line"):
        return LINE_WORDS[given["line"]]
    if "omit" in given:
        return "left out" if given["omit"] else "cut again"
    return "back to automatic"


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
        what = choice_words(self.model_dump(exclude={"kind", "part", "contour"}, exclude_none=True))
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
