"""Routes of what belongs to a machine's table."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from venzo.api.download import download
from venzo.desk import grids, spoilboards
from venzo.store.store import Store


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
    def set_of(board: str, others: Annotated[str, Query(max_length=2000)]) -> spoilboards.TogetherDocument:
        """Several boards in one program, planned where they lie."""
        return spoilboards.together(store, board, [o for o in others.split(",") if o])

    @api.get("/surfacing/{board}/grid")
    def board_grid(board: str, depth: Annotated[float, Query(gt=0, le=5)] = 0.3) -> Response:
        """The program that draws the numbered grid of its table."""
        name, text = spoilboards.board_grid(store, board, depth)
        return download(text.encode("ascii", "replace"), name, "text/plain")

    return api
