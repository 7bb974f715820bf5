"""Routes of the stock as it is cut: pictures, sections, what is under the pointer, loads along the tape."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response

from venzo.api.download import download
from venzo.core.release.file_names import slug
from venzo.core.snags import BadInput
from venzo.desk import cut_stock
from venzo.desk.cut_stock import Framed, LeftDocument, MomentDocument, SectionDocument, SheetAt, UnderPointer
from venzo.desk.left_remedies import LeftRemedies, remedies_for
from venzo.desk.loads import LoadDocument, load_document
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]
Place = Annotated[float, Query(ge=-1e5, le=1e5)]
Revision = Annotated[int | None, Query(ge=1)]


def _sheet_at(
    setup: Text,
    sheet: Text,
    copy_no: Annotated[int, Query(ge=0, le=100_000)] = 0,
    seconds: Annotated[float | None, Query(ge=0, le=1e9)] = None,
) -> SheetAt:
    return SheetAt(setup=setup, sheet=sheet, copy_no=copy_no, seconds=seconds)


At = Annotated[SheetAt, Depends(_sheet_at)]


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/cut.webp")
    def picture(
        job: str,
        at: At,
        revision: Revision = None,
        area: Annotated[str | None, Query(max_length=100)] = None,
        px: Annotated[int, Query(ge=50, le=2400)] = 1200,
        every: Annotated[float, Query(ge=0.05, le=500)] = 5.0,
        against_models: bool = False,
    ) -> Response:
        """A sheet as it is cut at a moment, by the plan of a revision; ``area``: x0,y0,x1,y1 of it;
        a line ``every`` so deep, mm; ``against_models``: with what stands above its reliefs.
        """
        made = cut_stock.difference if against_models else cut_stock.picture
        return Response(
            made(store, store.get(job, revision).plan, at, Framed(_area(area), px, every)),
            media_type="image/webp",
            headers={"cache-control": "private, max-age=3600" if revision else "no-cache"},
        )

    @router.get("/jobs/{job}/cut/{what}.png")
    def picture_out(
        job: str,
        what: Literal["picture", "heights"],
        at: At,
        area: Annotated[str | None, Query(max_length=100)] = None,
        px: Annotated[int, Query(ge=50, le=2400)] = 1600,
    ) -> Response:
        """A sheet as it is cut, to be taken away as a PNG: as it is seen, or its heights in 16 bits (white
        its top, black its underside).
        """
        plan = store.get(job).plan
        framed = Framed(_area(area), px)
        made = cut_stock.picture_png if what == "picture" else cut_stock.heights_png
        name = f"{slug(plan.name)}_{slug(at.sheet)}-{at.copy_no + 1}_{what}.png"
        return download(made(store, plan, at, framed), name, "image/png")

    @router.get("/jobs/{job}/cut/at")
    def under_pointer(job: str, at: At, x: Place, y: Place) -> UnderPointer | None:
        """How deep and how wide it is cut at a point of the sheet, mm."""
        return cut_stock.under_pointer(store, store.get(job).plan, at, x, y)

    @router.get("/jobs/{job}/cut/section")
    def section(job: str, at: At, x0: Place, y0: Place, x1: Place, y1: Place) -> SectionDocument:
        """A section along a line of the sheet."""
        return cut_stock.section_of(store, store.get(job).plan, at, (x0, y0), (x1, y1))

    @router.get("/jobs/{job}/cut/moment")
    def moment(job: str, at: At) -> MomentDocument | None:
        """Where the cutter is at a moment, how it moves, and its way just before and after."""
        return cut_stock.at_moment(store, store.get(job).plan, at)

    @router.get("/jobs/{job}/cut/left")
    def left(job: str, at: At) -> list[LeftDocument]:
        """What stands where the drawing wants nothing, once all of a sheet is cut."""
        return cut_stock.left_standing(store, store.get(job).plan, at)

    @router.get("/jobs/{job}/cut/left/remedies")
    def remedies(job: str, at: At) -> list[LeftRemedies]:
        """What takes away what is left standing; each was tried, and what stands then measured."""
        return remedies_for(store, store.get(job).plan, at)

    @router.get("/jobs/{job}/cut/load")
    def load(job: str, at: At) -> LoadDocument:
        """What every moment of a sheet's tape asks of cutter, spindle and machine."""
        return load_document(store, store.get(job).plan, at)

    return router


def _area(text: str | None) -> list[float] | None:
    if text is None:
        return None
    try:
        found = [float(v) for v in text.split(",")]
    except ValueError:
        found = []
    if len(found) != 4 or any(not abs(v) < 1e5 for v in found):
        raise BadInput(f"area {text}: give x0,y0,x1,y1 in mm")
    return found
