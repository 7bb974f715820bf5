"""Commands on a board to surface."""

from __future__ import annotations

from typing import Any, Literal

from venzo.core.edits.base import with_fields
from venzo.core.edits.fields import WHOLE, Fields, with_changes
from venzo.core.model import Value
from venzo.core.plan import Plan
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.faces import passes_for
from venzo.core.surfacing.flatness import flatness


def surface_of(plan: Plan) -> SurfaceSetup:
    """The board that a job surfaces; BadInput where it surfaces none."""
    if plan.surface is None:
        raise BadInput(f"{plan.name} cuts parts and surfaces no board; start a job for the board")
    return plan.surface


def _with_surface(plan: Plan, new: SurfaceSetup) -> Plan:
    """The plan with its board changed, checked; the job is called as its board."""
    if plan.id != new.id or new.board.id != new.id:
        raise BadInput(f"{new.board.name}: the id of a board is that of its job, {plan.id!r}, and stays")
    if new.how.touch == "table":
        raise BadInput(
            f"{new.board.name}: Z of the first face is touched off on the board itself; only the second is"
            " taken from the table, since the board then lies flat on it"
        )
    if new.second:
        # as much as it can ever have to lose: refused here, while the depth before is still there
        most = new.board.thickness - new.wanted if new.wanted else 0.0
        passes_for(max(most, new.second.how.depth) + new.second.stands, new.second.how)
    if new.readings:
        flatness(new.readings, new.board.width, new.board.height)
    return with_fields(plan, surface=new, name=new.board.name)


class SetSurface(Value):
    """Replace the board to surface as a whole, or bring it back to the bench."""

    kind: Literal["set-surface"] = "set-surface"
    surface: SurfaceSetup

    def touches(self) -> set[str]:
        return {"surface"}

    def says(self, plan: Plan) -> str:
        return f"{self.surface.board.name} put on the bench"

    def apply(self, plan: Plan) -> Plan:
        surface_of(plan)
        return _with_surface(plan, self.surface)


class ChangeSurface(Value):
    """Change fields of the board to surface, of how it is cut, of what was read; nested ones are merged."""

    kind: Literal["change-surface"] = "change-surface"
    fields: Fields

    def touches(self) -> set[str]:
        return {f"surface/{path}" for path in _paths(self.fields)}

    def says(self, plan: Plan) -> str:
        old = surface_of(plan).second
        if "second" in self.fields and (old is None or self.fields["second"] is None):
            return f"{plan.name}: {'only one face is cut' if old else 'its other face is cut too'}"
        named = [path.rsplit("/", 1)[-1].replace("_", " ") for path in _paths(self.fields)]
        return f"{plan.name}: {', '.join(dict.fromkeys(named))} changed"

    def apply(self, plan: Plan) -> Plan:
        old = surface_of(plan)
        return _with_surface(plan, with_changes(old, self.fields, old.board.name, ("id",)))


def _paths(fields: dict[str, Any]) -> list[str]:
    """The fields that a change names, nested ones with what they lie in.

    >>> _paths({"how": {"feed": 1, "rpm": 2}, "readings": []})
    ['how/feed', 'how/rpm', 'readings']
    """
    out = []
    for k, v in fields.items():
        nested = isinstance(v, dict) and v and list(v) != [WHOLE]
        out += [f"{k}/{p}" for p in _paths(v)] if nested else [k]
    return out
