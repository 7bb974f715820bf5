"""Routes of the rack: lots, movements, what fits, and what jobs take from it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from venzo.api.documents.job import JobDocument
from venzo.api.download import download
from venzo.api.routes.jobs import RevisionNumber, Seen
from venzo.core.rack.fits import Wanted
from venzo.core.snags import BadInput
from venzo.desk import material_past, rack, rack_of_job
from venzo.store.store import NotFound, Store

Size = Annotated[float | None, Query(gt=0, le=20_000)]


class FromRack(BaseModel):
    """A lot of the rack for a setup, on the revision ``base``."""

    base: RevisionNumber
    setup: Annotated[str, Field(max_length=80)]
    lot: Annotated[str, Field(max_length=80)]


class Move(BaseModel):
    """What is done with a lot."""

    done: rack.Done


class Entered(BaseModel):
    """The lot that was made of what came in, and the rack with it."""

    lot: str
    rack: rack.RackDocument


def routes(store: Store, seen: Seen) -> APIRouter:
    """The routes over one store."""
    router = APIRouter(prefix="/api")

    @router.get("/rack")
    def whole() -> rack.RackDocument:
        """Every lot on hand or reserved, and the last movements."""
        return rack.rack(store)

    @router.post("/rack")
    def receive(new: rack.NewLot) -> Entered:
        """Sheets or a remnant that came in; they get a label of their own."""
        lot = rack.receive(store, new)
        return Entered(lot=lot, rack=rack.rack(store))

    @router.post("/rack/{lot}/moves")
    def move(lot: str, asked: Move) -> rack.RackDocument:
        """Reserve, set free, take, bring back, scrap, count or change a lot."""
        rack.do(store, lot, asked.done)
        return rack.rack(store)

    @router.get("/rack/fits")
    def what_fits(
        width: Size = None,
        height: Size = None,
        job: Annotated[str | None, Query(max_length=80)] = None,
        part: Annotated[str | None, Query(max_length=80)] = None,
        material: Annotated[str | None, Query(max_length=80)] = None,
    ) -> list[rack.FitLine]:
        """Lots with a free sheet that hold a size (either way round), or a part of a job in its material."""
        if job is not None and part is not None:
            wanted, own = rack.wanted_part(store, store.get(job).plan, part)
            return rack.what_fits(store, wanted, material or own)
        if width is None or height is None:
            raise BadInput("say what is to fit: width and height in mm, or a job and its part")
        return rack.what_fits(store, Wanted.size(width, height), material)

    @router.get("/rack/labels.pdf")
    def labels(
        lot: Annotated[list[str], Query(max_length=200)], unit: Annotated[str, Query(max_length=2)] = "mm"
    ) -> Response:
        """Labels to print, one a page, with a code that a phone reads."""
        from venzo.formats.rack_label import rack_labels

        found = rack.standing(store)
        missing = [i for i in lot if i not in found]
        if missing:
            raise NotFound(f"the rack has no lot {missing[0]!r}")
        materials = {m["id"]: str(m["name"]) for m in store.library("material")}
        body = rack_labels([found[i].lot for i in lot], materials, unit)
        return download(body, "rack-labels.pdf", "application/pdf")

    @router.get("/rack/past")
    def past() -> list[material_past.MonthOfMaterial]:
        """What the runs took of each material, month by month."""
        return material_past.material_past(store)

    @router.get("/jobs/{job}/rack")
    def of_job(job: str) -> rack_of_job.RackOfJob:
        """Lots that a job is planned on, with what it is short of, and lots that it could have."""
        return rack_of_job.of_job(store, store.get(job).plan)

    @router.post("/jobs/{job}/rack")
    def take_into(job: str, asked: FromRack) -> JobDocument:
        """Put a lot into a setup as stock."""
        return seen(rack_of_job.take_into(store, job, asked.base, asked.setup, asked.lot), False)

    @router.post("/jobs/{job}/rack/reserve")
    def reserve(job: str) -> rack_of_job.RackOfJob:
        """Reserve what the job's layouts take from the rack, and set free what it has beyond that."""
        return rack_of_job.reserve_for(store, store.get(job).plan)

    return router
