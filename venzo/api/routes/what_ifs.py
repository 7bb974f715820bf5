"""Routes of what an order could be otherwise: ask, watch, stop."""

from __future__ import annotations

import time
from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field

from venzo.api.leaving import while_asked_for
from venzo.core.model import Document
from venzo.core.nesting.layout import inputs_digest, nest_problem
from venzo.core.plan import Plan
from venzo.core.snags import BadInput
from venzo.desk.asking import Asking, WhatIfs
from venzo.desk.what_ifs import OnMachine, Outcome, Seconds, WhatIf, on_machines, pose
from venzo.store.store import NotFound, Store
from venzo.work.executor import State

Setup = Annotated[str, Query(max_length=80)]


class AskWhatIf(BaseModel):
    """A what-if about a setup; ``seconds`` of search for each of its questions at most."""

    setup: Annotated[str, Field(max_length=80)]
    what: WhatIf
    seconds: Seconds = 10.0


class WhatIfDocument(Document):
    """How a what-if stands: how far it is (0 to 1), what it comes to so far, and whether the plan has
    changed since in what it was asked about.
    """

    id: str
    kind: str
    title: str
    state: State
    share: float
    elapsed: float
    fault: str
    outdated: bool
    outcome: Outcome | None


def routes(store: Store, what_ifs: WhatIfs) -> APIRouter:
    """The routes over one store and whatever answers."""
    router = APIRouter(prefix="/api")

    def one(job: str, number: str) -> Asking:
        found = what_ifs.get(job, number)
        if found is None:
            raise NotFound(f"job {job!r} has no what-if {number!r} any more; ask again")
        return found

    def told(a: Asking, now: str) -> WhatIfDocument:
        return WhatIfDocument(
            id=a.id,
            kind=a.kind,
            title=a.posed.title,
            state=a.state,
            share=round(a.share, 3),
            elapsed=round(time.monotonic() - a.began, 1),
            fault=a.fault,
            outdated=a.made_from != now,
            outcome=a.outcome(),
        )

    @router.post("/jobs/{job}/what-ifs", status_code=202)
    def ask(request: Request, job: str, asked: AskWhatIf) -> WhatIfDocument:
        """Ask; it is answered in the background."""
        plan = store.get(job).plan
        with while_asked_for(request):  # several sets are held against what the plan costs now
            posed = pose(store, plan, asked.setup, asked.what, asked.seconds)
        now = _about(store, plan, asked.setup)
        return told(what_ifs.ask(job, asked.what.kind, posed, now), now)

    @router.get("/jobs/{job}/what-ifs")
    def every(job: str, setup: Setup) -> list[WhatIfDocument]:
        """What was asked about a setup, the newest first."""
        plan = store.get(job).plan
        now = _about(store, plan, setup)
        return [told(a, now) for a in what_ifs.of(job, setup)]

    @router.post("/jobs/{job}/what-ifs/{number}/stop")
    def stop(job: str, number: str) -> WhatIfDocument:
        """Stop; the best found until then is kept."""
        found = one(job, number)
        what_ifs.stop(found)
        return told(found, _about(store, store.get(job).plan, found.posed.setup))

    @router.delete("/jobs/{job}/what-ifs/{number}")
    def forget(job: str, number: str) -> list[WhatIfDocument]:
        """Stop it where it still runs, and take it off the list."""
        found = one(job, number)
        what_ifs.forget(found)
        return every(job, found.posed.setup)

    @router.get("/jobs/{job}/on-machines")
    def machines(request: Request, job: str, setup: Setup) -> list[OnMachine]:
        """The same order on every machine of the shop."""
        with while_asked_for(request):
            return on_machines(store, store.get(job).plan, setup)

    return router


def _about(store: Store, plan: Plan, setup_id: str) -> str:
    """Digest of what is nested in a setup; empty where nothing is."""
    setup = plan.setup(setup_id)
    if setup is None:
        raise NotFound(f"{plan.name} has no setup {setup_id!r}")
    try:
        return inputs_digest(nest_problem(plan, setup, store.shapes))
    except BadInput:
        return ""
