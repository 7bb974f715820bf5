"""Routes of jobs: start, read, edit, undo, history."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query, Response
from pydantic import BaseModel, Field

from venzo.api.documents.job import JobDocument
from venzo.api.documents.jobs import JobLine, RevisionLine
from venzo.core.edits import Command
from venzo.core.memo import urgent
from venzo.desk import jobs
from venzo.desk.cards import as_svg, picture
from venzo.desk.compared import RevisionsCompared, compared
from venzo.store.store import Store

RevisionQuery = Annotated[int, Query(ge=1, le=2**31 - 1)]
RevisionNumber = Annotated[int, Field(ge=1, le=2**31 - 1)]
Seen = Callable[..., JobDocument]
"""Makes the job document of a revision; its second argument says whether what holds the pieces is waited
for.
"""


class NewJob(BaseModel):
    """What a new job is started with; machine and material are library ids."""

    name: Annotated[str, Field(max_length=200)]
    machine: str | None = None
    material: str | None = None


class NewSetup(BaseModel):
    """Another material (and machine) of the library, for the revision ``base``."""

    base: RevisionNumber
    material: Annotated[str, Field(max_length=80)]
    machine: Annotated[str | None, Field(max_length=80)] = None


class BringBack(BaseModel):
    """An older revision of a job."""

    revision: RevisionNumber


class Edit(BaseModel):
    """A command made on the revision ``base``."""

    base: RevisionNumber
    command: Command


def _waited_for() -> Iterator[None]:
    """Somebody waits from the edit to its answer: what is done behind pauses, and nothing is packed."""
    with urgent():
        yield


AT_ONCE = [Depends(_waited_for)]


def routes(store: Store, seen: Seen) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs")
    def every() -> list[JobLine]:
        """Every job, the last changed first."""
        return [JobLine(**j) for j in store.jobs()]

    @router.post("/jobs", status_code=201)
    def start(new: NewJob) -> JobDocument:
        """Start a job from the library."""
        return seen(jobs.new_job(store, new.name, new.machine, new.material))

    @router.get("/jobs/{job}")
    def one(
        job: str, revision: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None, soon: bool = False
    ) -> JobDocument:
        """A job's plan and everything derived from it, at the newest or a given revision.

        ``soon``: with such holds and tried remedies only as are known already, as edits are answered.
        """
        return seen(store.get(job, revision), not soon)

    @router.get("/jobs/{job}/history")
    def history(
        job: str, before: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None
    ) -> list[RevisionLine]:
        """Revisions, newest first, 200 at a time; ``before``: only older than that one."""
        return [RevisionLine(**line) for line in store.history(job, before=before)]

    @router.get("/jobs/{job}/history/{revision}/picture", response_class=Response)
    def drawn(job: str, revision: Annotated[int, Path(ge=1, le=2**31 - 1)]) -> Response:
        """A revision drawn small, as an SVG image; a revision never changes."""
        image = as_svg(picture(store.get(job, revision).plan, store.shapes))
        kept = {"cache-control": "private, max-age=31536000, immutable"}
        return Response(image, media_type="image/svg+xml", headers=kept)

    @router.get("/jobs/{job}/compared")
    def beside(job: str, one: RevisionQuery, other: RevisionQuery) -> RevisionsCompared:
        """Two revisions side by side: drawn, in figures, and the changes between them."""
        return compared(store, job, one, other)

    @router.post("/jobs/{job}/bring-back", dependencies=AT_ONCE)
    def bring_back(job: str, to: BringBack) -> JobDocument:
        """Make the job as it was at an older revision; an edit like any other, which undo takes back."""
        return seen(store.bring_back(job, to.revision))

    @router.post("/jobs/{job}/commands", dependencies=AT_ONCE)
    def edit(job: str, e: Edit) -> JobDocument:
        """Apply a typed command; 409 when a later revision touched the same thing."""
        return seen(store.apply(job, e.base, e.command))

    @router.post("/jobs/{job}/setups", dependencies=AT_ONCE)
    def add_setup(job: str, new: NewSetup) -> JobDocument:
        """Cut parts of a job from another material too, or on another machine."""
        return seen(jobs.add_setup(store, job, new.base, new.machine, new.material))

    @router.post("/jobs/{job}/undo", dependencies=AT_ONCE)
    def undo(job: str) -> JobDocument:
        """Take the last edit back (appends a revision)."""
        return seen(store.undo(job))

    @router.post("/jobs/{job}/redo", dependencies=AT_ONCE)
    def redo(job: str) -> JobDocument:
        """Bring back what was undone last."""
        return seen(store.redo(job))

    return router
