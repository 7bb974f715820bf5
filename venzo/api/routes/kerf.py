"""Routes of kerf tables: what the screen shows, coupons, cutting charts."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from venzo.api.download import download
from venzo.core.tooling.head import HeadSetting
from venzo.desk import kerf_jobs, library
from venzo.store.store import Store

SetupQuery = Annotated[str, Query(max_length=80)]


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/kerf")
    def shown(job: str, setup: SetupQuery) -> kerf_jobs.KerfDocument:
        """How a setup on a kerf table cuts, and every cut of its sheets."""
        return kerf_jobs.document(store, store.get(job).plan, setup)

    @router.get("/jobs/{job}/kerf/coupon")
    def coupon(job: str, setup: SetupQuery) -> Response:
        """The program of a coupon, cut with the kerf that this setup takes."""
        name, text = kerf_jobs.coupon_program(store, store.get(job).plan, setup)
        return download(text.encode("ascii", "replace"), name, "text/plain")

    @router.post("/kerf/measured")
    def measured(ask: kerf_jobs.CouponAsk) -> kerf_jobs.CouponSaid:
        """The kerf that measured sizes tell; kept in the head's history with ``keep``."""
        return kerf_jobs.measured(store, ask)

    @router.get("/heads/{head}/chart.csv")
    def chart_out(head: str) -> Response:
        """A head setting's cutting chart as CSV."""
        return download(library.chart_csv(store, head).encode(), f"chart_{head}.csv", "text/csv")

    @router.post("/heads/{head}/chart")
    async def chart_in(head: str, file: Annotated[UploadFile, File()]) -> HeadSetting:
        """A cutting chart in place of a head setting's own."""
        return library.import_chart(store, head, await file.read(), file.filename or "chart.csv")

    return router
