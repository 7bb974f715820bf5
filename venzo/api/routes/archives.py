"""Routes of whole jobs: handed on as an archive, brought in from one, and single sheets as open vectors."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, Request, Response, UploadFile

from venzo.api.download import download
from venzo.api.leaving import while_asked_for
from venzo.api.routes.cut_stock import At
from venzo.core.release.file_names import slug
from venzo.desk import archives
from venzo.formats.cut_list import cut_list_csv
from venzo.formats.job_archive import schema
from venzo.store.store import Store


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/archive.zip")
    def export(request: Request, job: str) -> Response:
        """The whole job as one open archive."""
        revision = store.get(job)
        with while_asked_for(request):
            body = archives.export(store, revision)
        return download(body, f"{slug(revision.plan.name)}.venzo.zip", "application/zip")

    @router.post("/archives")
    def bring_in(
        file: Annotated[UploadFile, File()], bring: Annotated[bool, Form()] = False
    ) -> archives.Imported:
        """Bring a job in from its archive; nothing is changed unless all of it is sound."""
        return archives.bring_in(store, file.file.read(), file.filename or "archive", bring)

    @router.get("/archives/schema")
    def published() -> Response:
        """The JSON schema of an archive's manifest."""
        return Response(json.dumps(schema()), media_type="application/schema+json")

    @router.get("/jobs/{job}/nest.{ending}")
    def nest(job: str, ending: Literal["dxf", "svg"], at: At) -> Response:
        """A nested sheet as DXF or SVG."""
        plan = store.get(job).plan
        name, body = archives.nested(store, plan, at, ending)
        kind = "image/svg+xml" if ending == "svg" else "application/dxf"
        return download(body, name, kind)

    @router.get("/jobs/{job}/cut-list.csv")
    def cut_list(job: str) -> Response:
        """The parts as a cut list."""
        plan = store.get(job).plan
        return download(cut_list_csv(plan), f"{slug(plan.name)}_cut-list.csv", "text/csv")

    return router
