"""Routes of carvings: the picture, the figures, inlays and folds."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from venzo.api.download import download
from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import Fold, fold
from venzo.desk import carving, jobs
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]
Length = Annotated[float, Query(gt=0, le=500)]


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/carving")
    def figures(job: str, setup: Text, part: Text) -> carving.CarvingDocument:
        """What is carved into a part."""
        return carving.carving_view(store, store.get(job).plan, setup, part)

    @router.get("/jobs/{job}/carving/at")
    def stroke(job: str, setup: Text, part: Text, x: float, y: float) -> carving.Stroke | None:
        """Depth and width of the stroke under a point."""
        return carving.stroke_at(store, store.get(job).plan, setup, part, x, y)

    @router.get("/jobs/{job}/carved.png")
    def picture(
        job: str, setup: Text, part: Text, px: Annotated[int, Query(ge=100, le=2400)] = 1100
    ) -> Response:
        """Its face as it will be, lit from the side."""
        return Response(
            carving.picture(store, store.get(job).plan, setup, part, px),
            media_type="image/png",
            headers={"cache-control": "no-cache"},
        )

    @router.get("/jobs/{job}/inlay")
    def inlay(
        job: str,
        setup: Text,
        part: Text,
        depth: Length = 4.0,
        gap: Length = 0.4,
        saw: Length = 1.5,
        clear: Annotated[float | None, Query(gt=0, le=100)] = None,
        y: float | None = None,
    ) -> carving.InlayDocument:
        """An inlay pair: section and how it mates."""
        return carving.inlay_view(store, store.get(job).plan, setup, part, depth, gap, saw, clear, y=y)

    @router.get("/jobs/{job}/inlay.zip")
    def inlay_zip(
        job: str,
        setup: Text,
        part: Text,
        depth: Length = 4.0,
        gap: Length = 0.4,
        saw: Length = 1.5,
        clear: Annotated[float | None, Query(gt=0, le=100)] = None,
    ) -> Response:
        """Both programs of a pair."""
        files = carving.inlay_programs(store, store.get(job).plan, setup, part, depth, gap, saw, clear)
        return download(jobs.zipped(files), f"inlay_{part}.zip", "application/zip")

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
