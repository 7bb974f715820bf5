"""Routes for reliefs: a model set on a part, and how it is seen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Depends, File, Query, Request, Response, UploadFile

from venzo.api.documents.job import JobDocument
from venzo.api.leaving import while_asked_for
from venzo.core.parts.back_drawing import Quarter, SeenFrom
from venzo.desk import back_drawings, models
from venzo.desk.finish_or_sand import FinishChoice, FinishWeighed, Whose, choices, weigh
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]


def _whose(setup: str, step: Text, part: Text = "", contour: Text = "") -> Whose:
    return Whose(setup, step, part, contour)


Step = Annotated[Whose, Depends(_whose)]


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
        black_high: bool = False,
    ) -> JobDocument:
        """Set a model (STL, OBJ, 3MF, PLY) or a picture of heights (PNG, TIFF) on a part as a relief; of a
        picture ``smooth``: pixels that are averaged, ``black_high``: black is high.
        """
        data, name = file.file.read(), file.filename or "model"
        return seen(models.set_model(store, job, base, part, name, data, smooth, black_high))

    @router.post("/jobs/{job}/parts/{part}/back")
    def set_back(
        job: str,
        part: str,
        file: Annotated[UploadFile, File()],
        base: Annotated[int, Query(ge=1, le=2**31 - 1)],
        seen_from: SeenFrom = "the back",
        turn: Annotated[Quarter | None, Query()] = None,
    ) -> JobDocument:
        """Lay a drawing of its back on a part by its outline; ``turn``: degrees counter-clockwise as seen
        from the front, else the first way that fits.
        """
        data, name = file.file.read(), file.filename or "back"
        return seen(back_drawings.set_back(store, job, base, part, name, data, seen_from, turn))

    @router.post("/jobs/{job}/parts/{part}/back/turn")
    def turn_back(
        job: str,
        part: str,
        base: Annotated[int, Query(ge=1, le=2**31 - 1)],
        number: Annotated[int, Query(ge=0, le=200)],
    ) -> JobDocument:
        """Lay a drawing of the back (alteration ``number``) the next way in which its outline fits."""
        return seen(back_drawings.turn_back(store, job, base, part, number))

    @router.post("/jobs/{job}/parts/{part}/texture")
    def add_texture(
        job: str,
        part: str,
        file: Annotated[UploadFile, File()],
        base: Annotated[int, Query(ge=1, le=2**31 - 1)],
        number: Annotated[int, Query(ge=0, le=200)],
        smooth: Annotated[float, Query(ge=0, le=200)] = 0.0,
    ) -> JobDocument:
        """Put a picture of heights on a relief made here (alteration ``number``) as a texture."""
        data = file.file.read()
        name = file.filename or "texture"
        return seen(models.add_texture(store, job, base, part, number, name, data, smooth))

    @router.get("/jobs/{job}/relief.png")
    def picture(
        request: Request, job: str, part: Text, name: Text, px: Annotated[int, Query(ge=16, le=2000)] = 700
    ) -> Response:
        """A relief as planned, lit from the upper left."""
        with while_asked_for(request):
            drawn = models.picture(store, store.get(job).plan, part, name, px)
        return Response(drawn, media_type="image/png", headers={"cache-control": "no-cache"})

    @router.get("/jobs/{job}/setups/{setup}/finishes")
    def finishes(job: str, whose: Step) -> list[FinishChoice]:
        """Cutters and step-overs that could finish the reliefs of a step."""
        return choices(store, store.get(job).plan, whose)

    @router.get("/jobs/{job}/setups/{setup}/finish")
    def finish(
        request: Request,
        job: str,
        whose: Step,
        cutter: Text,
        step_over: Annotated[float, Query(gt=0, le=1)],
        now: bool = False,
    ) -> FinishWeighed:
        """What one of them comes to: time, ridges, what is left, sanding; ``now``: what is planned."""
        with while_asked_for(request):
            return weigh(store, store.get(job).plan, whose, cutter, step_over, now)

    return router
