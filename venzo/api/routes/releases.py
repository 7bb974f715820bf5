"""Routes of releases that are kept: what would go out, what went out, to which machine, and whether a file is
one of them.
"""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Request, Response, UploadFile
from pydantic import BaseModel, Field

from venzo.api.download import download
from venzo.api.leaving import while_asked_for
from venzo.core.release.file_names import slug
from venzo.core.release.picking import Picked
from venzo.desk import machine_folders, part_releases, programs_told, release_record, releases
from venzo.desk.papers import one_set
from venzo.store.store import Store


class WhyWithdrawn(BaseModel):
    """Why a release is not to be run."""

    says: Annotated[str, Field(max_length=500)] = ""


class FolderSaid(BaseModel):
    """Where a machine reads its programs; empty: nowhere."""

    path: Annotated[str, Field(max_length=1000)]


class Delivery(BaseModel):
    """Names of the machines in whose folders a release was put."""

    machines: list[str]


def routes(store: Store) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/jobs/{job}/releases")
    def state(job: str) -> part_releases.ReleaseState:
        """Releases of a job, newest first, and what is still to go out, sheet by sheet."""
        return part_releases.state(store, store.get(job))

    @router.post("/jobs/{job}/releases/ahead")
    def ahead(job: str, picked: Picked) -> part_releases.Ahead:
        """What a release of a part of the job would hold; nothing is written."""
        return part_releases.ahead(store, store.get(job), picked)

    @router.post("/jobs/{job}/releases")
    def freeze(request: Request, job: str, said: part_releases.ReleaseSaid) -> part_releases.ReleaseState:
        """Release the job or a part of it: written, proven, kept as it is."""
        with while_asked_for(request):
            part_releases.freeze(store, job, said)
        return part_releases.state(store, store.get(job))

    @router.post("/jobs/{job}/releases/{release}/withdraw")
    def withdraw(job: str, release: int, why: WhyWithdrawn) -> part_releases.ReleaseState:
        """Say that a release is not to be run; what it held is left over again."""
        machine_folders.withdraw(store, job, release, why.says)
        return part_releases.state(store, store.get(job))

    @router.post("/jobs/{job}/releases/{release}/deliver")
    def deliver(job: str, release: int) -> Delivery:
        """Put a release into the folders that its machines read, whole or not at all."""
        return Delivery(machines=machine_folders.deliver(store, job, release))

    @router.get("/jobs/{job}/releases/{release}.zip")
    def archive(job: str, release: int) -> Response:
        """A release as it went out, as one zip."""
        name, body = release_record.archive(store, job, release)
        return download(body, name, "application/zip")

    @router.get("/jobs/{job}/releases/{release}/papers.pdf")
    def papers(job: str, release: int, look: bool = False) -> Response:
        """The papers of a release as it went out, as one PDF. ``look``: shown and printed, not saved."""
        files = release_record.files_of(store, release_record.released(store, job, release))
        body = one_set([(n, b) for n, b in files.items() if n.endswith(".pdf")])
        if look:
            return Response(body, media_type="application/pdf")
        return download(body, f"{slug(job)}_release-{release}_papers.pdf", "application/pdf")

    @router.get("/jobs/{job}/releases/{release}/files/{name}")
    def one(job: str, release: int, name: str) -> Response:
        """One file of a release, as it went out."""
        body = release_record.file_of(store, job, release, name)
        return download(body, name, "application/pdf" if name.endswith(".pdf") else "text/plain")

    @router.get("/jobs/{job}/papers.pdf")
    def papers_now(request: Request, job: str, look: bool = False) -> Response:
        """The papers of the job as it stands, as one PDF; marked where programs are withheld."""
        revision = store.get(job)
        with while_asked_for(request):
            body = releases.paper_set(store, revision.plan, revision.number)
        if look:
            return Response(body, media_type="application/pdf")
        return download(body, f"{slug(revision.plan.name)}_papers.pdf", "application/pdf")

    @router.post("/jobs/{job}/programs/told")
    def told(job: str, file: Annotated[UploadFile, File()]) -> programs_told.Told:
        """Is a file one that went out with a release of the job, and if not, what is otherwise in it?"""
        body = file.file.read(programs_told.LARGEST_PROGRAM + 1)
        return programs_told.tell(store, job, file.filename or "the file", body)

    @router.get("/folders")
    def folders() -> list[machine_folders.FolderDocument]:
        """Every machine's folder with what is in it, newest first."""
        return machine_folders.folders(store)

    @router.post("/machines/{machine}/folder")
    def set_folder(machine: str, said: FolderSaid) -> list[machine_folders.FolderDocument]:
        """Say where a machine reads its programs."""
        machine_folders.set_folder(store, machine, said.path)
        return machine_folders.folders(store)

    return router
