"""Routes of the shop's desk: find jobs, put them away, make one once more."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel

from venzo.api.documents.desk import DeskDocument, DeskJob
from venzo.api.documents.jobs import JobLine
from venzo.core.model import Document
from venzo.core.naming import PlanNames
from venzo.desk.attention import Attention, attention
from venzo.desk.cards import Card, card_now, kept
from venzo.desk.copies import AskedAgain, OnceMore, asked_again, once_more
from venzo.desk.rules_trial import RulesTrial, rules_trial
from venzo.desk.table_runs import burn
from venzo.store.found import JobFound, Place, Wanted
from venzo.store.store import Store

MOST_WORDS = 12


class PutAt(BaseModel):
    """Where a job is put."""

    place: Place


class Put(Document):
    """Where a job lies now, and where it lay."""

    id: str
    place: Place


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/desk")
    def desk(
        words: Annotated[str, Query(max_length=300)] = "",
        place: Place = "desk",
        standing: Literal["stops", "looks", "clear", "begun"] | None = None,
        kind: Literal["parts", "surface", "run"] | None = None,
        days: Annotated[int | None, Query(ge=1, le=36_500)] = None,
        after: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
        most: Annotated[int, Query(ge=1, le=200)] = 60,
    ) -> DeskDocument:
        """Jobs whose names hold all the words, the last changed first; ``days``: changed in so many."""
        since = datetime.now(UTC).replace(tzinfo=None) - timedelta(days=days) if days else None
        wanted = tuple(words.lower().split())[:MOST_WORDS]
        found = store.find(Wanted(place, wanted, standing, kind, since, after, most))
        return DeskDocument(
            total=found.total,
            places={p: found.places.get(p, 0) for p in ("desk", "archive", "bin")},
            jobs=[_job(j) for j in found.jobs],
        )

    @router.get("/desk/attention")
    def waiting() -> Attention:
        """Boards due to be surfaced, and cutters worn."""
        return attention(store)

    @router.get("/jobs/{job}/card")
    def card(job: str) -> Card:
        """The card of a job as it is now, worked out where it is not known."""
        return card_now(store, job)

    @router.put("/jobs/{job}/place")
    def put(job: str, at: PutAt) -> Put:
        """Put a job on the desk, into the archive, or into the bin."""
        store.put_at(job, at.place)
        return Put(id=job, place=at.place)

    @router.delete("/jobs/{job}")
    def delete(job: str) -> Put:
        """Delete a job that lies in the bin for good; the log of its runs stays."""
        burn(store, job)
        return Put(id=job, place="bin")

    @router.get("/jobs/{job}/rules-trial")
    def trial(job: str) -> RulesTrial:
        """What would change if the job took the shop's rules as they are now."""
        return rules_trial(store, job)

    @router.get("/jobs/{job}/again")
    def again(job: str) -> AskedAgain:
        """What must be said before the same runs again on new stock."""
        return asked_again(store, job)

    @router.post("/jobs/{job}/once-more", status_code=201)
    def more(job: str, asked: OnceMore) -> JobLine:
        """A copy, the next version, or the same again on new stock."""
        made = once_more(store, job, asked)
        found = next(j for j in store.jobs() if j["id"] == made.plan.id)
        return JobLine(**found)

    return router


def _job(j: JobFound) -> DeskJob:
    return DeskJob(
        id=j.id,
        kind=j.kind,  # type: ignore[arg-type]
        name=j.name,
        revision=j.revision,
        changed=j.changed,
        names=PlanNames.model_validate(j.facts) if j.facts else None,
        # what a run looks like hangs on other jobs, as they are now: it is asked for
        card=None if j.kind == "run" else kept(j.card),
    )
