"""Routes of the surfacing bench."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Body, Query, Response
from pydantic import BaseModel, Field

from venzo.api.documents.common import Removed
from venzo.api.download import download
from venzo.api.routes.tables import Face
from venzo.core.model import Fields
from venzo.core.snags import BadInput
from venzo.core.surfacing.ledger import Entry
from venzo.core.surfacing.tram import Tram, find_tram
from venzo.desk import board_documents, board_programs, jobs, spoilboards
from venzo.store.store import Store


class Readings(BaseModel):
    """Readings pasted as text, or a walk of the simulated probe."""

    text: Annotated[str | None, Field(max_length=200_000)] = None
    inch: bool = False
    columns: Annotated[int, Field(ge=2, le=40)] = 7
    rows: Annotated[int, Field(ge=2, le=40)] = 5
    seed: Annotated[int, Field(ge=0, le=1_000_000)] = 1


class Booked(BaseModel):
    """An entry for the ledger; ``planned`` instead: the passes as planned. What jobs cut into a spoilboard
    comes from their runs.
    """

    entry: Entry | None = None
    planned: bool = False
    face: Literal[1, 2] = 1


class TramAsk(BaseModel):
    """A ridge that was felt."""

    height: Annotated[float, Field(ge=0, le=50)]
    spacing: Annotated[float, Field(gt=0, le=500)]
    high: Literal["left", "right", "front", "back"]
    along: Literal["x", "y"]
    span: Annotated[float, Field(gt=0, le=1000)] = 100.0


Ids = Annotated[str, Query(max_length=2000)]


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/surfacing")
    def listed() -> list[board_documents.BoardLine]:
        """Every board with how it stands."""
        return [board_documents.line_of(store, b) for b in spoilboards.surface_setups(store)]

    @router.get("/surfacing/{board}")
    def one(board: str) -> board_documents.BoardDocument:
        """A board, its plan, its map and its ledger."""
        return board_documents.view(store, spoilboards.surface_setup(store, board))

    @router.put("/surfacing/{board}")
    def put(board: str, data: Fields) -> board_documents.BoardDocument:
        """Add or change a board."""
        if data.get("id") != board:
            raise BadInput(f"the board is {data.get('id')!r}, the address says {board!r}")
        return board_documents.view(store, spoilboards.put(store, data))

    @router.patch("/surfacing/{board}")
    def change(
        board: str, fields: Annotated[Fields, Body(min_length=1, max_length=60)]
    ) -> board_documents.BoardDocument:
        """Change only the fields named; nested ones are merged."""
        return board_documents.view(store, spoilboards.change(store, board, fields))

    @router.post("/surfacing/{board}/undo")
    def undo(board: str) -> board_documents.BoardDocument:
        """Take the last change of a board back; its ledger stays."""
        return board_documents.view(store, spoilboards.undo(store, board))

    @router.post("/surfacing/{board}/redo")
    def redo(board: str) -> board_documents.BoardDocument:
        """Bring back what was undone last."""
        return board_documents.view(store, spoilboards.redo(store, board))

    @router.delete("/surfacing/{board}")
    def drop(board: str) -> Removed:
        """Take a board off the bench."""
        spoilboards.remove(store, board)
        return Removed(removed=board)

    @router.post("/surfacing/{board}/readings")
    def read(board: str, ask: Readings) -> board_documents.BoardDocument:
        """Readings, pasted or from the simulated probe."""
        b = (
            spoilboards.paste(store, board, ask.text, ask.inch)
            if ask.text is not None
            else spoilboards.probe(store, board, ask.columns, ask.rows, ask.seed)
        )
        return board_documents.view(store, b)

    @router.post("/surfacing/{board}/ledger")
    def book(board: str, ask: Booked) -> board_documents.BoardDocument:
        """Book an entry, or the planned passes."""
        if ask.planned:
            return board_documents.view(store, spoilboards.surfaced(store, board, ask.face))
        if ask.entry:
            spoilboards.book(store, board, ask.entry)
        else:
            raise BadInput("nothing to book: give an entry, or the planned passes")
        return board_documents.view(store, spoilboards.surface_setup(store, board))

    @router.get("/surfacing/{board}/program")
    def program(board: str, others: Ids = "", face: Face | None = None) -> Response:
        """Its program, of one face or of all that are planned; several files come as a zip."""
        side: spoilboards.Side | None = None if face is None else 2 if face == 2 else 1
        files = board_programs.programs(store, board, [o for o in others.split(",") if o], side)
        if len(files) == 1:
            return download(files[0][1].encode("ascii", "replace"), files[0][0], "text/plain")
        return download(
            jobs.zipped([(n, t.encode("ascii", "replace")) for n, t in files]),
            f"surface_{board}.zip",
            "application/zip",
        )

    @router.get("/surfacing/{board}/sheet.pdf")
    def sheet(board: str, others: Ids = "") -> Response:
        """The printed sheet, of one board or of several in one program."""
        name, data = board_programs.paper(store, board, [o for o in others.split(",") if o])
        return download(data, name, "application/pdf")

    @router.post("/tram")
    def tram(ask: TramAsk) -> Tram:
        """Which way the spindle leans."""
        return find_tram(ask.height, ask.spacing, ask.high, ask.along, ask.span)

    return router
