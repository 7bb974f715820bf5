"""Commands on many contours, or many steps, at once. See ``edits`` for what a command is."""

from __future__ import annotations

from itertools import groupby
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.cuts.operations import On, Operation
from venzo.core.edits.base import part_of, setup_of
from venzo.core.edits.fields import Changed, ChangeSteps, Fields, ThingId
from venzo.core.edits.steps import SetContour, SetSteps, choice_words
from venzo.core.model import Id, Name, Value
from venzo.core.plan import Plan
from venzo.core.rules.house import ClosedLine
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter

CHOICES = ("cutter", "tab_count", "omit", "line")


class ContourOf(Value):
    """A contour of a part."""

    part: Id
    contour: Name


class ChangeContours(Value):
    """Choose the same by hand for many contours in one edit: only the fields given. ``steps``: of their own,
    all on ``on``; ``automatic``: names of fields that go back to automatic.
    """

    kind: Literal["change-contours"] = "change-contours"
    contours: Annotated[tuple[ContourOf, ...], Field(min_length=1, max_length=2000)]
    cutter: Id | None = None
    tab_count: Annotated[int, Field(ge=0, le=40)] | None = None
    omit: bool | None = None
    line: ClosedLine | None = None
    automatic: tuple[Literal["cutter", "tabs", "tab_count", "start", "steps", "line"], ...] = ()
    on: On | None = None
    steps: Annotated[tuple[Operation, ...], Field(max_length=12)] = ()

    def touches(self) -> set[str]:
        return {f"choice/{c.part}/{c.contour}" for c in self.contours}

    def says(self, plan: Plan) -> str:
        n = len(dict.fromkeys(self.contours))
        who = f"{n} contour{'s' * (n != 1)}"
        if self.steps:
            return f"{who}: steps of their own"
        return f"{who}: {choice_words(self._choice())}"

    def apply(self, plan: Plan) -> Plan:
        if self.steps and self.on is None:
            raise BadInput("steps of their own: it is not said on which kind of feature")
        if not self._choice() and not self.steps:
            raise BadInput("nothing is said that should change in these contours")
        for c in dict.fromkeys(self.contours):
            part_of(plan, c.part)
            if self._choice():
                plan = SetContour(part=c.part, contour=c.contour, **self._choice()).apply(plan)
            if self.steps and self.on is not None:
                own = SetSteps(part=c.part, contour=c.contour, on=self.on, steps=self.steps)
                plan = own.apply(plan)
        return plan

    def _choice(self) -> dict:
        given = {k: v for k in CHOICES if (v := getattr(self, k)) is not None}
        return given | ({"automatic": self.automatic} if self.automatic else {})


class StepOf(Value):
    """A step of a setup: the kind of feature it is on, and its id."""

    on: On
    step: ThingId


class ChangeChosenSteps(Value):
    """Change many steps of a setup in one edit: the same ``fields`` of all, or ``drop`` them."""

    kind: Literal["change-chosen-steps"] = "change-chosen-steps"
    setup: Id
    steps: Annotated[tuple[StepOf, ...], Field(min_length=1, max_length=60)]
    fields: Fields | None = None
    drop: bool = False
    cutters: Annotated[tuple[Cutter, ...], Field(max_length=12)] = ()
    """Of the shop, that come into the setup where a step needs them."""

    def touches(self) -> set[str]:
        return {t for one in self._each() for t in one.touches()}

    def says(self, plan: Plan) -> str:
        n = len(dict.fromkeys(self.steps))
        names = ", ".join(k.replace("_", " ") for k in self.fields or {})
        return f"{n} step{'s' * (n != 1)}: {'taken out' if self.drop else f'{names} changed'}"

    def apply(self, plan: Plan) -> Plan:
        setup_of(plan, self.setup)
        if not self.drop and not self.fields:
            raise BadInput("nothing is said that should change in these steps")
        for one in self._each():
            plan = one.apply(plan)
        return plan

    def _each(self) -> list[ChangeSteps]:
        """The commands that this is, one for each kind of feature."""
        chosen = sorted(dict.fromkeys(self.steps), key=lambda s: s.on)
        out = []
        for on, steps in groupby(chosen, key=lambda s: s.on):
            ids = tuple(s.step for s in steps)
            fields = {} if self.drop else self.fields or {}
            changed = tuple(Changed(id=i, fields=fields) for i in ids if fields)
            gone = ids if self.drop else ()
            out.append(ChangeSteps(setup=self.setup, on=on, change=changed, drop=gone, cutters=self.cutters))
        return out
