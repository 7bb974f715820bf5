"""Commands on stock that is longer than the table: moved along it in positions, how, and no longer."""

from __future__ import annotations

from typing import Literal

from venzo.core.edits.base import setup_of, swapped, with_fields
from venzo.core.edits.fields import Fields, with_changes
from venzo.core.indexing.positions import Indexing
from venzo.core.model import Id, Value
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.voice import counted

CALLED = {"moved": "positions", "brought": "how it is brought there", "seconds": "time of a move"}
"""Fields in a person's words, where their names are not."""


def _with(plan: Plan, setup: Setup, indexing: Indexing | None) -> Plan:
    return with_fields(plan, setups=swapped(plan.setups, setup.model_copy(update={"indexing": indexing})))


def _indexed(plan: Plan, setup_id: str) -> tuple[Setup, Indexing]:
    s = setup_of(plan, setup_id)
    if s.indexing is None:
        raise BadInput(f"{s.name} is not moved along the table; say first that it is")
    return s, s.indexing


class IndexStock(Value):
    """Move a setup's stock along the table in positions."""

    kind: Literal["index-stock"] = "index-stock"
    setup: Id
    indexing: Indexing

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/indexing", f"setup/{self.setup}/other_face"}

    def says(self, plan: Plan) -> str:
        positions = counted(self.indexing.count, "position")
        return f"{setup_of(plan, self.setup).name}: stock moved along the table in {positions}"

    def apply(self, plan: Plan) -> Plan:
        s = setup_of(plan, self.setup)
        if s.indexing is not None:
            raise BadInput(f"{s.name} is moved along the table already; change its positions")
        if s.machine.head is not None:
            raise BadInput(
                f"{s.machine.name} is a kerf table: stock is not moved along it yet; cut it shorter"
            )
        return _with(plan, s, self.indexing)


class ChangeIndexing(Value):
    """Change how a setup's stock is moved along the table: where to, how it is brought there, the overlap."""

    kind: Literal["change-indexing"] = "change-indexing"
    setup: Id
    fields: Fields

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/indexing/{k}" for k in self.fields}

    def says(self, plan: Plan) -> str:
        named = ", ".join(CALLED.get(k, k) for k in self.fields)
        return f"{setup_of(plan, self.setup).name}, moved along the table: {named} changed"

    def apply(self, plan: Plan) -> Plan:
        s, now = _indexed(plan, self.setup)
        return _with(plan, s, with_changes(now, self.fields, s.name, ()))


class StopIndexing(Value):
    """Leave a setup's stock where it lies first."""

    kind: Literal["stop-indexing"] = "stop-indexing"
    setup: Id

    def touches(self) -> set[str]:
        return {f"setup/{self.setup}/indexing"}

    def says(self, plan: Plan) -> str:
        return f"{setup_of(plan, self.setup).name}: stock no longer moved along the table"

    def apply(self, plan: Plan) -> Plan:
        s, _now = _indexed(plan, self.setup)
        return _with(plan, s, None)
