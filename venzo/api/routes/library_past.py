"""Routes of the library's history: what was changed, looked at, taken back and brought back."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel

from venzo.api.documents.common import Said
from venzo.desk import library, library_past
from venzo.store.store import Store

Number = Annotated[int, Path(ge=1, le=2**31 - 1)]


class BringBack(BaseModel):
    """Which side of a change a thing is brought back from."""

    at: Literal["before", "after"] = "before"


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    api = APIRouter(prefix="/api/library")

    @api.get("/history")
    def history(before: Annotated[int | None, Query(ge=1, le=2**31)] = None) -> list[library.LibraryChange]:
        """Changes of the library, newest first."""
        return library.history(store, before)

    @api.get("/history/{number}")
    def looked_at(
        number: Number, one: library_past.When = "before", other: library_past.When = "after"
    ) -> library_past.EntryCompared:
        """A change of the library: the thing at two times, and every field that differs."""
        return library_past.compared(store, number, one, other)

    @api.post("/history/{number}/bring-back")
    def bring_back(number: Number, ask: BringBack) -> Said:
        """Have the thing again as it was before or after a change."""
        return Said(says=library_past.bring_back(store, number, ask.at))

    @api.post("/undo")
    def undo() -> Said:
        """Take the last change of the library back."""
        return Said(says=library.undo(store))

    return api
