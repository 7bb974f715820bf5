"""Routes of nesting: start a search, watch it, stop it."""

from __future__ import annotations

import secrets
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from venzo.api.documents.desk import RunningSearch
from venzo.api.documents.jobs import SearchDocument, StoppingDocument
from venzo.core.nesting.layout import check_locked, inputs_digest, nest_problem, placement
from venzo.core.snags import BadInput
from venzo.store.store import Conflict, NotFound, Store
from venzo.work.nest_result import settle_nest
from venzo.work.nest_worker import NestWorker, Running


class NestRequest(BaseModel):
    """Start a nest for a setup; ``seconds`` of search at most. It goes on from the layout there is, unless
    ``afresh``.
    """

    setup: str
    seconds: Annotated[float, Field(gt=0, le=3600)] = 8.0
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1
    afresh: bool = False


def routes(store: Store, worker: NestWorker) -> APIRouter:
    """The routes over one store and the process that searches."""
    router = APIRouter(prefix="/api")
    searches: dict[tuple[str, str], str] = {}

    @router.post("/jobs/{job}/nest", status_code=202, response_model_exclude_none=True)
    def start(job: str, ask: NestRequest) -> SearchDocument:
        """Start nesting a setup in the background; locked pieces stay."""
        if worker.busy(job, ask.setup):
            raise BadInput("a nest of this setup is running already; stop it first")
        running = search_for(store, job, ask)
        searches[job, ask.setup] = running.id
        worker.start(running, ask.seed)
        return _search(running)

    @router.get("/searches")
    def running() -> list[RunningSearch]:
        """Searches that run or wait, of all jobs."""
        names = {j["id"]: j["name"] for j in store.jobs()} if worker.running() else {}
        return [
            RunningSearch(
                job=r.job,
                name=names.get(r.job, r.job),
                setup=r.setup,
                state="waiting" if worker.ahead(r) else "running",
                elapsed=round(r.elapsed, 1),
                seconds=r.seconds,
            )
            for r in worker.running()
        ]

    @router.get("/jobs/{job}/nest", response_model_exclude_none=True)
    def state(job: str, setup: str, after: int = -1) -> SearchDocument:
        """How the last nest of a setup stands; ``after``: number of improvements the screen has seen."""
        running = worker.get(searches.get((job, setup), ""))
        return _search(running, after, worker.ahead(running)) if running else SearchDocument(state="none")

    @router.post("/jobs/{job}/nest/stop")
    def stop(job: str, setup: str) -> StoppingDocument:
        """Stop and keep the best so far."""
        running = worker.busy(job, setup)
        if running:
            worker.stop(running)
        return StoppingDocument(state="stopping" if running else "none")

    return router


def search_for(store: Store, job: str, ask: NestRequest) -> Running:
    """The search that a request asks for, with what is done when it ends: its layout is accepted only while
    what it was made from still holds.

    Raises:
        NotFound: no such setup.
        BadInput: there is nothing to nest, or a locked piece lies where none may.
    """
    revision = store.get(job)
    setup = revision.plan.setup(ask.setup)
    if setup is None:
        raise NotFound(f"job {job!r} has no setup {ask.setup!r}")
    problem = nest_problem(revision.plan, setup, store.shapes)
    problem.check()
    check_locked(revision.plan, problem)
    before = setup.nest.pieces if setup.nest else ()

    def done(r: Running) -> None:
        if r.best is None:
            r.state, r.message = "failed", "stopped before the first layout"
            return
        now = store.get(job)
        mine = now.plan.setup(ask.setup)
        if mine is None or inputs_digest(nest_problem(now.plan, mine, store.shapes)) != inputs_digest(
            problem
        ):
            r.state, r.message = "outdated", "parts, stock or spacing changed while it ran; nest again"
            return
        if (mine.nest.pieces if mine.nest else ()) != before:
            r.state, r.message = (
                "outdated",
                "pieces were moved by hand while it ran, and are kept; nest again around them",
            )
            return
        try:
            r.state, r.message = settle_nest(store, now, mine, problem, r.best, ask.afresh)
        except Conflict as e:
            r.state, r.message = "outdated", str(e)

    start = [] if ask.afresh or not before else [placement(q) for q in before]
    known = {s.id for s in problem.sheets}, {p.id for p in problem.parts}
    start = start if all(q.sheet in known[0] and q.part in known[1] for q in start) else []
    return Running(secrets.token_hex(4), job, ask.setup, problem, ask.seconds, done, start)


def _search(r: Running, after: int = -1, ahead: int = 0) -> SearchDocument:
    """A search for the screen; the layout itself only when it is newer than what the screen has."""
    best = r.best if r.best is not None and len(r.curve) > after else None
    return SearchDocument(
        state=r.state,
        message=r.message,
        steps=r.steps,
        elapsed=r.elapsed,
        seconds=r.seconds,
        curve=r.curve,
        limit=r.limit,
        found=len(r.curve),
        best=best,
        ahead=ahead,
    )
