"""Routes of carvings: the picture, the figures, inlays and folds."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field

from venzo.api.download import download
from venzo.api.leaving import while_asked_for
from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import Fold, fold
from venzo.desk import carving, jobs
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]
Length = Annotated[float, Query(gt=0, le=500)]


class InlayAsk(BaseModel):
    """An inlay pair, mm: the socket's ``depth``, the ``gap`` for glue, the room for the ``saw``, the diameter
    of the end mill that clears (None: the bit alone).
    """

    setup: str = Field(max_length=200)
    part: str = Field(max_length=200)
    depth: float = Field(4.0, gt=0, le=500)
    gap: float = Field(0.4, gt=0, le=500)
    saw: float = Field(1.5, gt=0, le=500)
    clear: float | None = Field(None, gt=0, le=100)


class SectionAsk(InlayAsk):
    """A pair, and where the section goes through it; None: where it shows most."""

    y: float | None = None


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/carving")
    def figures(request: Request, job: str, setup: Text, part: Text) -> carving.CarvingDocument:
        """What is carved into a part."""
        with while_asked_for(request):
            return carving.carving_view(store, store.get(job).plan, setup, part)

    @router.get("/jobs/{job}/carving/at")
    def stroke(job: str, setup: Text, part: Text, x: float, y: float) -> carving.Stroke | None:
        """Depth and width of the stroke under a point."""
        return carving.stroke_at(store, store.get(job).plan, setup, part, x, y)

    @router.get("/jobs/{job}/carved.png")
    def picture(
        request: Request, job: str, setup: Text, part: Text, px: Annotated[int, Query(ge=100, le=2400)] = 1100
    ) -> Response:
        """Its face as it will be, lit from the side."""
        with while_asked_for(request):
            drawn = carving.picture(store, store.get(job).plan, setup, part, px)
        return Response(drawn, media_type="image/png", headers={"cache-control": "no-cache"})

    @router.get("/jobs/{job}/inlay")
    def inlay(request: Request, job: str, ask: Annotated[SectionAsk, Query()]) -> carving.InlayDocument:
        """An inlay pair: section and how it mates."""
        how = (ask.setup, ask.part, ask.depth, ask.gap, ask.saw, ask.clear)
        with while_asked_for(request):
            return carving.inlay_view(store, store.get(job).plan, *how, y=ask.y)

    @router.get("/jobs/{job}/inlay.zip")
    def inlay_zip(request: Request, job: str, ask: Annotated[InlayAsk, Query()]) -> Response:
        """Both programs of a pair."""
        how = (ask.setup, ask.part, ask.depth, ask.gap, ask.saw, ask.clear)
        with while_asked_for(request):
            files = carving.inlay_programs(store, store.get(job).plan, *how)
        return download(jobs.zipped(files), f"inlay_{ask.part}.zip", "application/zip")

    @router.get("/fold")
    def folded(
        thickness: Length,
        skin: Length,
        angle: Annotated[float, Query(gt=0, lt=180)],
        bit_angle: Annotated[float, Query(ge=1, lt=179)],
        bit_diameter: Length = 25.0,
        tip: Annotated[float, Query(ge=0, le=20)] = 0.0,
    ) -> Fold:
        """A folding groove and its bend allowance."""
        return fold(thickness, skin, angle, Bit(bit_angle, bit_diameter, tip))

    return router
