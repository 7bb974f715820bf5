"""Routes on what holds the work and in which order it is cut."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request

from venzo.api.leaving import while_asked_for
from venzo.core.edits.hold import Way
from venzo.core.holding.fixings import Cover
from venzo.core.holding.screws import Screw
from venzo.core.plan import OrderBy
from venzo.desk import face_orders, holding
from venzo.store.store import Store

Text = Annotated[str, Query(max_length=200)]


def routes(store: Store) -> APIRouter:
    """Routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/hold")
    def what_holds(
        job: str,
        setup: Text,
        sheet: Text,
        piece: Text,
        copy_no: Annotated[int, Query(ge=0)] = 0,
        cut: Annotated[int, Query(ge=-1)] = -1,
    ) -> holding.WhatHolds:
        """What holds a piece after a cut (-1: before the first), with every number."""
        return holding.what_holds(store, store.get(job).plan, setup, sheet, copy_no, piece, cut)

    @router.get("/jobs/{job}/orders")
    def orders(
        request: Request, job: str, setup: Text, only: OrderBy | None = None
    ) -> list[holding.OrderLine]:
        """Every order of cuts, or only one, with its time, travel, cutter changes and lowest hold."""
        with while_asked_for(request):
            return holding.compare_orders(store, store.get(job).plan, setup, only)

    @router.get("/jobs/{job}/ways")
    def ways(request: Request, job: str, setup: Text, only: Way | None = None) -> list[holding.WayLine]:
        """Every way of holding the outlines, or only one, with machine time, hand work and lowest hold."""
        with while_asked_for(request):
            return holding.compare_ways(store, store.get(job).plan, setup, only)

    @router.get("/jobs/{job}/face-orders")
    def order_of_faces(
        request: Request,
        job: str,
        setup: Text,
        rough_both_first: bool,
        outlines: Literal["here", "before", "half"],
    ) -> face_orders.FaceOrder:
        """A way to cut both faces of a job's stock, tried: its time, turns, files, and what would be said."""
        with while_asked_for(request):
            return face_orders.face_order(store, job, setup, rough_both_first, outlines)

    @router.get("/jobs/{job}/screws")
    def screws(
        job: str,
        setup: Text,
        sheet: Text,
        copy_no: Annotated[int, Query(ge=0)] = 0,
        count: Annotated[int, Query(ge=1, le=40)] = 6,
        kind: Literal["screw", "nail"] = "screw",
    ) -> list[Screw]:
        """Places for screws in the waste of one sheet."""
        return holding.screws_for(store, store.get(job).plan, setup, sheet, copy_no, count, kind)

    @router.get("/jobs/{job}/covers")
    def covers(job: str, setup: Text) -> list[Cover]:
        """Strips that cover live spoilboard beside the sheet."""
        return holding.covers_for(store.get(job).plan, setup)

    return router
