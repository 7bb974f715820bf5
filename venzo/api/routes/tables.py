"""Routes of what belongs to a machine's table."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from venzo.api.download import download
from venzo.desk import board_programs, grids
from venzo.store.store import Store

Face = Annotated[int, Query(ge=1, le=2)]
"""First or second face of a board."""


def routes(store: Store) -> APIRouter:
    """The table's routes."""
    api = APIRouter(prefix="/api")

    @api.get("/library/machine/{item}/grid")
    def grid(
        item: str,
        cutter: Annotated[str | None, Query(max_length=80)] = None,
        depth: Annotated[float, Query(gt=0, le=5)] = 0.3,
    ) -> Response:
        """The program that engraves the numbered grid of a table, or without a cutter draws it with a pen."""
        name, text = grids.table_grid(store, item, cutter, depth)
        return download(text.encode("ascii", "replace"), name, "text/plain")

    @api.get("/surfacing/{board}/together")
    def set_of(
        board: str, others: Annotated[str, Query(max_length=2000)], face: Face = 1
    ) -> board_programs.TogetherDocument:
        """Several boards in one program, planned where they lie."""
        return board_programs.together(
            store, board, [o for o in others.split(",") if o], 2 if face == 2 else 1
        )

    @api.get("/surfacing/{board}/grid")
    def board_grid(board: str, depth: Annotated[float, Query(gt=0, le=5)] = 0.3) -> Response:
        """The program that draws the numbered grid of its table."""
        name, text = board_programs.board_grid(store, board, depth)
        return download(text.encode("ascii", "replace"), name, "text/plain")

    return api
