"""Routes of the log: sheets that were run, and records taken back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from venzo.desk import finishes, runs
from venzo.store.store import Store


class WhyTakenBack(BaseModel):
    """Why a record counts no more."""

    says: Annotated[str, Field(max_length=500)] = ""


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/runs")
    def of_job(job: str) -> runs.RunsDocument:
        """What was run of a job, newest first, and what it comes to."""
        return runs.of_job(store, job)

    @router.post("/jobs/{job}/runs")
    def record(job: str, said: runs.SheetCut) -> runs.RunsDocument:
        """Record that a sheet was run: its pieces, wear and what went into the spoilboard are booked."""
        runs.record(store, job, said)
        return runs.of_job(store, job)

    @router.post("/jobs/{job}/runs/{number}/take-back")
    def take_back(job: str, number: int, why: WhyTakenBack) -> runs.RunsDocument:
        """Take a record of a job back; it stays in the log and counts no more."""
        runs.take_back(store, job, number, why.says)
        return runs.of_job(store, job)

    @router.get("/jobs/{job}/finishes")
    def finishes_of_job(job: str) -> list[finishes.FinishLine]:
        """What edges of a job looked like, with the numbers they were cut with."""
        return finishes.of_job(store, job)

    @router.post("/jobs/{job}/finishes")
    def note_finish(job: str, said: finishes.FinishSaid) -> list[finishes.FinishLine]:
        """Note what an edge looked like."""
        finishes.note_finish(store, job, said)
        return finishes.of_job(store, job)

    @router.post("/jobs/{job}/finishes/{number}/take-back")
    def take_finish_back(job: str, number: int) -> list[finishes.FinishLine]:
        """Take a note back; it stays in the log."""
        finishes.take_back(store, job, number)
        return finishes.of_job(store, job)

    @router.get("/library/cutter/{cutter}/finishes")
    def finishes_of_cutter(cutter: str) -> list[finishes.FinishLine]:
        """What edges looked like that a cutter left, on any job."""
        return finishes.of_cutter(store, cutter)

    @router.get("/library/cutter/{cutter}/runs")
    def runs_of_cutter(cutter: str) -> list[finishes.RunEdge]:
        """What the edges of runs looked like that a cutter took part in, on any job."""
        return finishes.of_cutter_runs(store, cutter)

    return router
