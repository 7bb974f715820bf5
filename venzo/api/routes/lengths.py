"""Routes that read lengths as people write them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from venzo.api.documents.lengths import (
    CornersDocument,
    LengthDocument,
    LengthsDocument,
    TypedStockDocument,
)
from venzo.core.stock.typed import typed_stock
from venzo.core.units import as_fraction, parse_corners, parse_length, parse_lengths, show_length


def routes() -> APIRouter:
    """The routes; they need no store."""
    router = APIRouter(prefix="/api")

    @router.get("/length")
    def length(text: Annotated[str, Query(max_length=200)], unit: str = "mm") -> LengthDocument:
        """Read a length as people write it: fractions, units, arithmetic."""
        mm = parse_length(text, unit)
        said = "the comma is read as a decimal point" if "," in text else ""
        return LengthDocument(
            mm=mm,
            shown=show_length(mm, "mm"),
            inch=show_length(mm, "in"),
            fraction=as_fraction(mm),
            said=said,
        )

    @router.get("/lengths")
    def lengths(text: Annotated[str, Query(max_length=4000)], unit: str = "mm") -> LengthsDocument:
        """Read several lengths, parted by a comma and a space, a semicolon or spaces."""
        return LengthsDocument(mm=parse_lengths(text, unit))

    @router.get("/corners")
    def corners(text: Annotated[str, Query(max_length=4000)], unit: str = "mm") -> CornersDocument:
        """Read corners as X, Y pairs."""
        return CornersDocument(mm=parse_corners(text, unit))

    @router.get("/stock/typed")
    def stock(text: Annotated[str, Query(max_length=400)], unit: str = "mm") -> TypedStockDocument:
        """Read a line of stock: 14 x 12 x 0.6 oak."""
        return TypedStockDocument(**asdict(typed_stock(text, unit)))

    return router
