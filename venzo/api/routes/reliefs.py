"""Routes for reliefs: a model set on a part, and how it is seen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, File, Query, Request, Response, UploadFile

from venzo.api.documents.job import JobDocument
from venzo.api.leaving import while_asked_for
from venzo.desk import models
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]


def routes(store: Store, seen: Callable[..., JobDocument]) -> APIRouter:
    """The routes over one store; ``seen`` makes the job document of a revision."""
    router = APIRouter(prefix="/api")

    @router.post("/jobs/{job}/parts/{part}/model")
    def set_model(
        job: str,
        part: str,
        file: Annotated[UploadFile, File()],
        base: Annotated[int, Query(ge=1, le=2**31 - 1)],
        smooth: Annotated[float, Query(ge=0, le=200)] = 0.0,
    ) -> JobDocument:
        """Set a model (STL, OBJ, 3MF, PLY) or a picture of heights (PNG, TIFF) on a part as a relief."""
        data = file.file.read()
        return seen(models.set_model(store, job, base, part, file.filename or "model", data, smooth))

    @router.get("/jobs/{job}/relief.png")
    def picture(
        request: Request, job: str, part: Text, name: Text, px: Annotated[int, Query(ge=16, le=2000)] = 700
    ) -> Response:
        """A relief as planned, lit from the upper left."""
        with while_asked_for(request):
            drawn = models.picture(store, store.get(job).plan, part, name, px)
        return Response(drawn, media_type="image/png", headers={"cache-control": "no-cache"})

    return router
