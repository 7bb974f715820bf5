"""Commands on how a setup on a kerf table cuts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.edits.base import setup_of, with_setup
from venzo.core.edits.fields import Fields, with_changes
from venzo.core.model import Id, Value
from venzo.core.plan import Plan
from venzo.core.snags import BadInput
from venzo.core.tooling.head import HeadSetting


class ChangeKerf(Value):
    """Change fields of how a setup on a kerf table cuts; nested values are merged."""

    kind: Literal["change-kerf"] = "change-kerf"
    setup: Id
    fields: Fields

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/kerf_cutting/{k}" for k in self.fields}

    def says(self, plan: Plan) -> str:
        name = setup_of(plan, self.setup).name
        return f"{name}: {', '.join(k.replace('_', ' ') for k in self.fields)} changed"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        if s.machine.head is None:
            raise BadInput(f"{s.machine.name} is a router: its contours are cut by steps, not by a kerf")
        new = with_changes(s.kerf_cutting, self.fields, "kerf cutting", ())
        if new.head and new.head not in {h.id for h in s.heads}:
            raise BadInput(f"the setup has no head setting {new.head!r}; adopt it from the library first")
        return with_setup(plan, s, kerf_cutting=new)


class AdoptHead(Value):
    """Take a head setting of the library into a setup, in place of its copy there."""

    kind: Literal["adopt-head"] = "adopt-head"
    setup: Id
    head: HeadSetting
    use: Annotated[bool, Field(description="cut with it from now on")] = False

    def touches(self) -> set[str]:
        own = {f"setup/{self.setup}/heads/{self.head.id}"}
        return own | ({f"setup/{self.setup}/kerf_cutting/head"} if self.use else set())

    def says(self, plan: Plan) -> str:
        return f"{setup_of(plan, self.setup).name}: {self.head.name} adopted"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        table = s.machine.head
        if table is None or table.process != self.head.process:
            runs = f"a {table.process}" if table else "a router"
            raise BadInput(f"{self.head.name} is for {self.head.process}; {s.machine.name} is {runs}")
        known = [h.id for h in s.heads]
        heads = (
            [self.head if h.id == self.head.id else h for h in s.heads]
            if self.head.id in known
            else [*s.heads, self.head]
        )
        cutting = s.kerf_cutting.model_copy(update={"head": self.head.id}) if self.use else s.kerf_cutting
        return with_setup(plan, s, heads=heads, kerf_cutting=cutting)
