"""Commands on a run of sheets of several jobs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.edits.base import with_fields
from venzo.core.edits.fields import Changed, changed_list
from venzo.core.model import Value
from venzo.core.plan import Plan
from venzo.core.snags import BadInput
from venzo.core.stock.laid_sheets import MOST_SHEETS, LaidSheet, TableRun

Things = Annotated[tuple[Annotated[str, Field(max_length=80)], ...], Field(max_length=MOST_SHEETS)]


def run_of(plan: Plan) -> TableRun:
    """The sheets that a job runs together; BadInput where it is no such job."""
    if plan.run is None:
        raise BadInput(f"{plan.name} runs no sheets of other jobs; start a table run for them")
    return plan.run


class ChangeRun(Value):
    """Lay sheets of jobs on the table, move them to other squares, take them off; where Z 0 is taken."""

    kind: Literal["change-run"] = "change-run"
    add: Annotated[tuple[LaidSheet, ...], Field(max_length=MOST_SHEETS)] = ()
    change: Annotated[tuple[Changed, ...], Field(max_length=MOST_SHEETS)] = ()
    drop: Things = ()
    z_zero: Literal["top", "bed"] | None = None

    def touches(self) -> set[str]:
        own = {f"run/{i}" for i in (*(s.id for s in self.add), *self.drop, *(c.id for c in self.change))}
        return own | ({"run/z"} if self.z_zero else set())

    def says(self, plan: Plan) -> str:
        if self.z_zero:
            return f"Z 0 on the {'spoilboard' if self.z_zero == 'bed' else 'top of the material'}"
        for n, words in ((len(self.add), "laid on the table"), (len(self.drop), "taken off the table")):
            if n:
                return f"{n} sheet{'s' * (n != 1)} {words}"
        return f"{len(self.change)} sheet{'s' * (len(self.change) != 1)} moved"

    def apply(self, plan: Plan) -> Plan:
        run = run_of(plan)
        if not (self.add or self.change or self.drop or self.z_zero):
            raise BadInput("nothing of the table is to change; name a sheet to lay, move or take off")
        sheets = changed_list(run.sheets, self.add, self.change, self.drop, "sheet on the table")
        seen: dict[tuple[str, str, str, int], LaidSheet] = {}
        for s in sheets:
            if s.job == plan.id:
                raise BadInput(f"{plan.name} cannot lie on its own table; lay sheets of other jobs")
            other = seen.setdefault((s.job, s.setup, s.sheet, s.copy_no), s)
            if other is not s:
                raise BadInput(
                    f"sheet {s.sheet} {s.copy_no + 1} of {s.job} lies on square {other.square} already"
                )
        new = {"sheets": tuple(sheets), "z_zero": self.z_zero or run.z_zero}
        return with_fields(plan, run=run.model_copy(update=new))
