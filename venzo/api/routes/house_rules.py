"""Routes of the house rules as drawings."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from venzo.api.documents.reckonings import ReckoningMark
from venzo.core.model import Document, Family
from venzo.core.rules.drawn import DrawnFor, drawn
from venzo.desk import library
from venzo.store.store import Store


class RuleDocument(Document):
    """A house rule, by its field: what it does in a sentence, and drawn to scale, mm."""

    rule: str
    says: str
    marks: list[ReckoningMark]


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/house-rules/drawn")
    def rules_drawn(
        family: Family = "wood",
        diameter: Annotated[float, Query(ge=0.5, le=100)] = 6.0,
        thickness: Annotated[float, Query(ge=0.1, le=300)] = 18.0,
    ) -> list[RuleDocument]:
        """What each of the shop's rules does to a sheet of a thickness with a cutter of a diameter."""
        return [
            RuleDocument(
                rule=d.rule,
                says=d.says,
                marks=[ReckoningMark(role=m.role, points=list(m.points), text=m.text) for m in d.marks],
            )
            for d in drawn(library.rules(store), DrawnFor(family, diameter, thickness))
        ]

    return router
