"""Commands on many parts at once. See ``edits`` for what a command is."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.edits.base import part_of
from venzo.core.edits.fields import ChangeQuantity
from venzo.core.edits.parts import RemovePart, SetPart
from venzo.core.edits.steps import SetContour
from venzo.core.model import Id, Value
from venzo.core.plan import Plan
from venzo.core.snags import BadInput

OUTLINE = "outline"
"""Name of a part's outline among its contours."""


class ChangeParts(Value):
    """Change many parts in one edit: only the fields given. ``more``: pieces more (or fewer) of each, for its
    first order; ``tab_count``: tabs on each outline; ``cutter``: that cuts each outline; ``remove``: they go.
    """

    kind: Literal["change-parts"] = "change-parts"
    parts: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    more: Annotated[int, Field(ge=-1000, le=1000)] | None = None
    grain: Literal[0, 90, "none"] | None = None
    mirror: bool | None = None
    group: Annotated[str, Field(max_length=80)] | None = None
    priority: Annotated[int, Field(ge=0, le=9)] | None = None
    fill: bool | None = None
    tab_count: Annotated[int, Field(ge=0, le=40)] | None = None
    cutter: Id | None = None
    remove: bool | None = None

    def touches(self) -> set[str]:
        out: set[str] = set()
        for part in self.parts:
            for command in self._each(part):
                out |= command.touches()
        # of how many are wanted another edit of the number must know
        return out | ({f"quantity/{p}" for p in self.parts} if self.more else set())

    def says(self, plan: Plan) -> str:
        n = len(self.parts)
        what = "removed" if self.remove else f"{', '.join(self._named())} changed"
        return f"{n} part{'s' * (n != 1)}: {what}"

    def _named(self) -> list[str]:
        words = {"more": "number wanted", "tab_count": "tabs", "mirror": "turning over"}
        given = [k for k in type(self).model_fields if k not in ("kind", "parts", "remove")]
        return [words.get(k, k) for k in given if getattr(self, k) is not None]

    def apply(self, plan: Plan) -> Plan:
        if not self.remove and not self._named():
            raise BadInput("nothing is said that should change in these parts")
        for part in dict.fromkeys(self.parts):
            if self.more and not part_of(plan, part).lines:
                raise BadInput(f"{part_of(plan, part).name} is wanted by no order")
            for command in self._each(part):
                plan = command.apply(plan)
            if self.more and not self.remove:
                line = part_of(plan, part).lines[0]
                plan = ChangeQuantity(part=part, order=line.order, more=self.more).apply(plan)
        return plan

    def _each(self, part: Id) -> list[RemovePart | SetPart | SetContour]:
        """The single commands that this is of one part, but for its number."""
        if self.remove:
            return [RemovePart(part=part)]
        out: list[RemovePart | SetPart | SetContour] = []
        lies = {k: getattr(self, k) for k in ("grain", "mirror", "group", "priority", "fill")}
        if any(v is not None for v in lies.values()):
            out.append(SetPart(part=part, **lies))
        if self.tab_count is not None or self.cutter is not None:
            out.append(SetContour(part=part, contour=OUTLINE, tab_count=self.tab_count, cutter=self.cutter))
        return out
