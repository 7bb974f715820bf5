"""Routes of material yield and cost, and of the papers on them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from venzo.api.download import download
from venzo.api.leaving import while_asked_for
from venzo.api.routes.cut_stock import At
from venzo.core.memo import Overtaken
from venzo.core.release.file_names import slug
from venzo.desk import jobs, yield_papers, yields
from venzo.store.store import Conflict, Store

UnitQuery = Annotated[str, Query(pattern="^(mm|in)$")]


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/yield")
    def job_yield(request: Request, job: str) -> yields.JobUse:
        """What a job takes, keeps and costs as planned. A later edit ends it, and so does leaving it."""
        asked = store.get(job)
        with while_asked_for(request, jobs.edited_since(store, job, asked.number)):
            try:
                return yields.job_use(store, asked.plan)
            except Overtaken:
                later = f"the job was edited meanwhile; ask again for change {store.head(job)}"
                raise Conflict(f"the yield of change {asked.number}", [later], store.head(job)) from None

    @router.get("/jobs/{job}/yield/drawn")
    def drawn(job: str, at: At) -> yields.UsedSheetDrawn:
        """One sheet as what becomes of it: paths to draw, in the sheet's frame with Y up."""
        return yields.sheet_drawn(store, store.get(job).plan, at)

    @router.get("/jobs/{job}/yield-report.pdf")
    def report(job: str, unit: UnitQuery = "mm") -> Response:
        """The yield report as a paper."""
        revision = store.get(job)
        body = yield_papers.report(store, revision, unit)
        return download(body, f"{slug(revision.plan.name)}_yield.pdf", "application/pdf")

    @router.get("/jobs/{job}/quotation.pdf")
    def quotation_paper(job: str) -> Response:
        """The quotation as a paper."""
        revision = store.get(job)
        body = yield_papers.quotation_paper(store, revision)
        return download(body, f"{slug(revision.plan.name)}_quotation.pdf", "application/pdf")

    @router.get("/jobs/{job}/quotation.csv")
    def quotation_table(job: str) -> Response:
        """The quotation as a table."""
        revision = store.get(job)
        body = yield_papers.quotation_table(store, revision)
        return download(body, f"{slug(revision.plan.name)}_quotation.csv", "text/csv")

    return router
