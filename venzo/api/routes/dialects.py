"""Routes of dialects: those to begin with, a small program in one, and the shop's jobs in it, proven."""

from __future__ import annotations

from fastapi import APIRouter, Request

from venzo.api.leaving import while_asked_for
from venzo.core.release.file_names import WORDS, Pattern, filled
from venzo.core.stock.dialect import Dialect, starters
from venzo.desk import dialects
from venzo.desk.library import rules
from venzo.store.store import Store

SHOWN = {
    "job": "reading-nook",
    "sheet": "1",
    "side": "face-1",
    "order": "02",
    "cutter": "t7",
    "size": "2440x1220",
    "stock": "full-sheet",
    "material": "birch-plywood",
}
"""What stands for the words of a file name where it is shown how names come out."""


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/dialects")
    def to_begin_with() -> list[Dialect]:
        """Dialects to begin with."""
        return [*starters(), *starters("head")]

    @router.post("/dialects/tried")
    def tried(dialect: Dialect) -> dialects.DialectTried:
        """A small program in a dialect, read back and held against what it is to do."""
        return dialects.tried(dialect)

    @router.post("/machines/{machine}/dialect/tried")
    def on_jobs(request: Request, machine: str, dialect: Dialect) -> list[dialects.JobTried]:
        """The newest jobs of a machine with their programs in a dialect, proven; nothing is changed."""
        with while_asked_for(request):
            return dialects.tried_on_jobs(store, machine, dialect)

    @router.get("/file-names/words")
    def words() -> dict[str, str]:
        """Words of a file name's pattern, and what stands in their place."""
        return WORDS

    @router.get("/file-names/shown")
    def shown(pattern: Pattern | None = None) -> list[str]:
        """How names come out by a pattern (that of the house rules where none is given): of a sheet whose
        layout is cut once, and of one that is cut three times and in which insides are a file of their own.
        """
        called = pattern or rules(store).file_names
        three = {**SHOWN, "sheet": "2x3", "what": "insides"}
        return [f"{filled(called, words)}.nc" for words in (SHOWN, three)]

    return router
