"""What edges looked like: noted on a job beside the numbers they were cut with, and found from the cutter."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from venzo.core.model import Document, Id, Moment, Value
from venzo.core.runs.records import Finish, FinishSeen, SheetRun, TakenBack, Words
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.store.store import KeptRun, NotFound, Store


class FinishSaid(Value):
    """What a person says of a contour of a part that was cut; ``revision``: the programs were made from it
    (None: the newest).
    """

    setup: Id
    part: Id
    contour: Annotated[str, Field(min_length=1, max_length=200)]
    finish: Finish
    note: Words = ""
    revision: Annotated[int | None, Field(ge=1)] = None


class FinishLine(Document):
    """A finish with its number, when it was noted and by whom, and the job it was seen on."""

    number: int
    made: Moment
    author: str
    seen: FinishSeen


def note_finish(store: Store, job: str, said: FinishSaid) -> int:
    """Note what an edge looked like, with the numbers of the plan that it was cut by; the record's number.

    Raises:
        NotFound: no such job or revision.
        BadInput: the plan does not cut that contour.
    """
    revision = store.get(job, said.revision)
    plan = revision.plan
    derived = jobs.derive(store, plan, False).get(said.setup)
    part = plan.part(said.part)
    if derived is None or part is None or part.setup != said.setup:
        raise BadInput(f"{plan.name}: there is no part {said.part!r} in setup {said.setup!r}")
    found = next((pc for cuts in derived.cuts.values() if (pc := cuts.get((part.id, False)))), None)
    contour = found.of(said.contour) if found else None
    if contour is None or not contour.steps:
        raise BadInput(f"{part.name}: {said.contour} is not cut in that plan")
    step = contour.steps[-1]  # the one that leaves the edge
    cutter = derived.setup.cutter(step.cutter)
    return store.record(
        FinishSeen(
            job=job,
            revision=revision.number,
            setup=said.setup,
            part=part.id,
            part_name=part.name[:120],
            contour=said.contour,
            machine=derived.setup.machine.id,
            material=derived.setup.material.id,
            cutter=step.cutter,
            cutter_name=(cutter.name if cutter else step.cutter)[:120],
            rpm=round(step.rpm, 1),
            feed=round(step.feed, 1),
            chip=round(step.chip, 4),
            passes=max(1, step.passes),
            depth=round(step.depth, 3),
            finish=said.finish,
            note=said.note.strip(),
        )
    )


def of_job(store: Store, job: str) -> list[FinishLine]:
    """What edges of a job looked like, newest first.

    Raises:
        NotFound: no such job.
    """
    store.head(job)
    return _lines(store.runs(job), job=job)


def of_cutter(store: Store, cutter: str) -> list[FinishLine]:
    """What edges looked like that a cutter left, on any job, newest first."""
    return [line for line in _lines(store.runs()) if line.seen.cutter == cutter]


class RunEdge(Document):
    """What the edges of a whole run looked like that a cutter took part in: its metres there, the real
    seconds beside those that were planned, and the words.
    """

    number: int
    made: Moment
    author: str
    job: str
    name: str
    sheet: str
    sheet_copy: int
    material: str
    edge: Finish
    metres: float
    planned: float
    seconds: float | None
    note: str


def of_cutter_runs(store: Store, cutter: str) -> list[RunEdge]:
    """Runs that a cutter took part in and whose edges were looked at, on any job, newest first."""
    kept = store.runs()
    counting = {n for n, _r in standing([(k.number, k.record) for k in kept])}
    names = {j["id"]: j["name"] for j in store.jobs()}
    materials = {m["id"]: m["name"] for m in store.library("material")}
    return [
        RunEdge(
            number=k.number,
            made=k.made,
            author=k.author,
            job=r.job,
            name=names.get(r.job, r.job),
            sheet=r.sheet,
            sheet_copy=r.sheet_copy,
            material=materials.get(r.material, r.material),
            edge=r.edge,
            metres=r.metres[cutter],
            planned=r.planned,
            seconds=r.seconds,
            note=r.note,
        )
        for k in reversed(kept)
        if isinstance(r := k.record, SheetRun)
        and k.number in counting
        and r.edge is not None
        and cutter in r.metres
    ]


def take_back(store: Store, job: str, number: int) -> None:
    """Take a note back; it stays in the log and is shown no more.

    Raises:
        NotFound: the job has no such note.
        BadInput: it is taken back already.
    """

    def check(kept: list[KeptRun]) -> None:
        target = next((k.record for k in kept if k.number == number), None)
        if not isinstance(target, FinishSeen) or target.job != job:
            raise NotFound(f"job {job!r} has no finish noted as {number}")
        if any(isinstance(k.record, TakenBack) and k.record.number == number for k in kept):
            raise BadInput(f"note {number} is taken back already")

    store.record(TakenBack(number=number, job=job), check)


def _lines(kept: list[KeptRun], job: str | None = None) -> list[FinishLine]:
    counting = {n for n, _r in standing([(k.number, k.record) for k in kept])}
    return [
        FinishLine(number=k.number, made=k.made, author=k.author, seen=k.record)
        for k in reversed(kept)
        if isinstance(k.record, FinishSeen) and k.number in counting and (job is None or k.record.job == job)
    ]
