"""A part of a job is released: what would go out, what is left over, what would differ from what was run;
and the release itself, which is kept as it is.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.derive import DerivedSetup
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.model import Document, Value
from venzo.core.plan import Plan
from venzo.core.release.contents import PartCount, contents
from venzo.core.release.picking import (
    Before,
    Picked,
    SheetShare,
    parted,
    release_digest,
    shares,
)
from venzo.core.release.programs import Joined, ProgramFile, joined
from venzo.core.release.programs import programs as listed
from venzo.core.runs.records import LookedOver, Released, ReleasedFile, Words
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput, Snag
from venzo.core.voice import counted
from venzo.desk import jobs, kerf_jobs, proof_record
from venzo.desk.release_record import ReleaseLine, before_of, lines, share_of, standing_releases
from venzo.desk.releases import SECTIONS, Made, make
from venzo.formats.job_archive import WHEN
from venzo.store.author import author
from venzo.store.store import Conflict, KeptRun, Revision, Store


class ReleaseSaid(Value):
    """What a person releases: which part, of the change of the job that was seen, and a note."""

    revision: Annotated[int, Field(ge=1)]
    picked: Picked = Picked()
    note: Words = ""


class SheetState(Document):
    """How a sheet's cuts stand: how many there are, went out as they are, went out and are otherwise since,
    are still to go out, and were run. ``differ``: ids of pieces that were run and would now be cut otherwise.
    """

    setup: str
    sheet: str
    copy_no: int
    number: int
    cuts: int
    released: int
    changed: int
    left: int
    run: int
    differ: list[str]
    spoilt: list[str]
    """Ids of pieces that did not come off sound, to be cut again."""


class ReleaseState(Document):
    """Releases of a job, newest first, and how its sheets stand. ``gone``: cuts that went out and that the
    plan has no longer.
    """

    releases: list[ReleaseLine]
    sheets: list[SheetState]
    left: int
    gone: int


class FileAhead(Document):
    """A program that a release would hold."""

    name: str
    setup: str
    sheet: str
    copies: list[int]
    cutters: list[str]
    seconds: float
    cuts: int


class HeldSetup(Document):
    """A setup whose programs would be withheld: how many stops its plan has, and the first."""

    setup: str
    name: str
    stops: int
    first: str


class Ahead(Document):
    """What a release would hold: programs, pieces, cuts, cuts still left over after it, what is said of the
    part that it is, and which setups the plan holds up, before anything is written and read back.
    """

    files: list[FileAhead]
    contains: list[PartCount]
    cuts: int
    left: int
    seconds: float
    snags: tuple[Snag, ...]
    held: list[HeldSetup]


def state(store: Store, revision: Revision) -> ReleaseState:
    """Releases of a job and how its sheets stand."""
    plan = revision.plan
    before = before_of(store, plan.id)
    sheets: list[SheetState] = []
    known: set[tuple[str, str]] = set()
    for d in jobs.derive(store, plan, hold=False).values():
        mine = before.get(d.setup.id, {})
        if d.kerf:
            sheets += [_kerf_state(d, n, k, mine) for n, k in enumerate(d.kerf, 1)]
            known |= {(d.setup.id, name) for k in d.kerf for name in kerf_jobs.prints(k)}
            continue
        numbers = [n for n, _s in d.numbered]
        for n, x in zip(numbers, shares(d, Picked(which="left over"), mine), strict=True):
            sheets.append(_state_of(d, n, x, mine))
            known |= {(d.setup.id, c.name) for c in x.sheet.cuts}
    gone = sum((setup, name) not in known for setup, names in before.items() for name in names)
    return ReleaseState(
        releases=lines(store, plan.id), sheets=sheets, left=sum(s.left for s in sheets), gone=gone
    )


def _state_of(d: DerivedSetup, number: int, x: SheetShare, before: Before) -> SheetState:
    cuts = x.sheet.cuts
    run = [i for i, c in enumerate(cuts) if (w := before.get(c.name)) is not None and w.run]
    return SheetState(
        setup=d.setup.id,
        sheet=x.sheet.sheet,
        copy_no=x.sheet.copy_no,
        number=number,
        cuts=len(cuts),
        released=len(x.same),
        changed=len(x.changed),
        left=len(x.now),
        run=len(run),
        differ=sorted({cuts[i].piece.id for i in x.ran}),
        spoilt=sorted({c.piece.id for c in cuts if (w := before.get(c.name)) is not None and w.spoilt}),
    )


def _kerf_state(d: DerivedSetup, number: int, sheet: KerfSheet, before: Before) -> SheetState:
    """How the cuts of a kerf table's sheet stand."""
    now = kerf_jobs.prints(sheet)
    out = {name: before[name] for name in now if name in before}
    same = [name for name, w in out.items() if w.prints == now[name]]
    return SheetState(
        setup=d.setup.id,
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        number=number,
        cuts=len(now),
        released=len(same),
        changed=len(out) - len(same),
        left=len(now) - len(out),
        run=sum(w.run for w in out.values()),
        differ=[],
        spoilt=[],
    )


def ahead(store: Store, revision: Revision, picked: Picked) -> Ahead:
    """What a release would hold, before it is written."""
    plan = revision.plan
    share = share_of(store, plan, picked)
    files: list[FileAhead] = []
    found: dict[str, int] = {}
    turned: dict[tuple[str, str], int] = {}
    """By first face and part: turns of the same stock hold the same pieces."""
    snags: list[Snag] = []
    held: list[HeldSetup] = []
    cuts = left = 0
    seconds = 0.0
    for whole in jobs.derive(store, plan, hold=False).values():
        before = share.before.get(whole.setup.id, {})
        if whole.kerf:
            due = kerf_jobs.due(whole, before, picked)
            kerf = _kerf_ahead(plan, whole, due)
            files += kerf
            cuts += sum(f.cuts for f in kerf)
            seconds += sum(f.seconds for f in kerf)
            left += sum(
                sum(name not in before for name in kerf_jobs.prints(k)) for k in whole.kerf if k not in due
            )
            for c in kerf_jobs.contents(plan, whole, due, []).contains:
                found[c.part] = found.get(c.part, 0) + c.pieces
            held += _held(whole) if due else []
            continue
        mine = shares(whole, picked, before)
        left += sum(len(x.left) for x in mine)
        cuts += sum(len(x.now) for x in mine)
        d = parted(whole, mine, share.begun.get(whole.setup.id, {}))
        if not d.sheets:
            continue
        snags += share.snags(whole, mine)
        held += _held(whole)
        of = (whole.first or whole).setup.id
        for c in contents(plan, d).contains:
            turned[of, c.part] = max(turned.get((of, c.part), 0), c.pieces)
        ready = listed(plan, d)
        one = joined(plan, d, ready)
        files += [_ahead(d, f) for f in ready if one is None or not f.cuts]
        if one is not None:
            files.append(_ahead_joined(d, one))
        seconds += one.seconds if one is not None else sum(s.seconds for s in d.sheets)
    for (_of, part), pieces in turned.items():
        found[part] = found.get(part, 0) + pieces
    return Ahead(
        files=files,
        contains=[PartCount(part=p, pieces=n) for p, n in sorted(found.items())],
        cuts=cuts,
        left=left,
        seconds=seconds,
        snags=tuple(snags),
        held=held,
    )


def _held(d: DerivedSetup) -> list[HeldSetup]:
    """Is a setup held up by its plan?"""
    stops = [s.message for s in d.snags if s.severity == "stop"]
    return [HeldSetup(setup=d.setup.id, name=d.setup.name, stops=len(stops), first=stops[0])] if stops else []


def _kerf_ahead(plan: Plan, d: DerivedSetup, due: Sequence[KerfSheet]) -> list[FileAhead]:
    """The programs of sheets of a kerf table that would go out."""
    return [_ahead(d, f) for f in kerf_jobs.programs(plan, d, due)]


def _ahead(d: DerivedSetup, f: ProgramFile) -> FileAhead:
    return FileAhead(
        name=f.name,
        setup=d.setup.id,
        sheet=f.sheet,
        copies=list(f.copies or (f.copy_no,)),
        cutters=list(f.cutters),
        seconds=f.seconds,
        cuts=len(f.cuts),
    )


def _ahead_joined(d: DerivedSetup, one: Joined) -> FileAhead:
    return FileAhead(
        name=one.name,
        setup=d.setup.id,
        sheet="",
        copies=[],
        cutters=list(dict.fromkeys(c for _w, f in one.parts for c in f.cutters)),
        seconds=one.seconds,
        cuts=sum(len(f.cuts) for _w, f in one.parts),
    )


def freeze(store: Store, job: str, said: ReleaseSaid) -> int:
    """Release a job or a part of it: programs and papers are written, proven, kept as they are, and recorded;
    the number of the release.

    Raises:
        NotFound: no such job.
        BadInput: nothing is left to release, or a stop stands in the way; nothing is kept then.
        Conflict: the job was edited since it was seen, or something else went out meanwhile.
    """
    revision = store.get(job)
    if revision.number != said.revision:
        words = f"the job is at change {revision.number}, change {said.revision} was seen; look again"
        raise Conflict("the release", [words], revision.number)
    plan = revision.plan
    known = [k.released.release for k in standing_releases(store, job)]
    share = replace(share_of(store, plan, said.picked), number=_next_number(store, job))
    made = make(store, plan, revision.number, share)
    _refuse(made, plan)
    record = _record(store, revision, said, made)

    def check(kept: list[KeptRun]) -> None:
        now = standing([(k.number, k.record) for k in kept])
        if [r.release for _n, r in now if isinstance(r, Released)] != known:
            raise Conflict("the release", ["something else of the job went out meanwhile"], revision.number)
        if store.head(job) != revision.number:
            raise Conflict("the release", ["the job was edited meanwhile; look again"], store.head(job))

    store.record(record, check)
    return record.release


def _next_number(store: Store, job: str) -> int:
    """Of the job's next release; withdrawn ones keep theirs."""
    return max((k.record.release for k in store.runs(job) if isinstance(k.record, Released)), default=0) + 1


def is_program(name: str) -> bool:
    """Is a file of a release a program, by its name?"""
    return not name.endswith((".pdf", ".json", ".csv", ".png"))


def _refuse(made: Made, plan: Plan) -> None:
    stops = [f"{c.setup}: {s}" for c in made.manifest.setups for s in c.stops]
    if stops:
        more = f"; and {counted(len(stops) - 1, 'more stop')}" if len(stops) > 1 else ""
        raise BadInput(f"nothing was released: {stops[0]}{more}")
    if plan.kind != "parts" and not any(is_program(name) for name, _body in made.files):
        raise BadInput(f"nothing was released: {plan.name} has no program while a stop is open")
    if plan.kind == "parts" and not any(made.programs.values()):
        raise BadInput(
            "nothing was released: nothing is left that was asked for; choose another part, or everything"
            " again"
        )


def _record(store: Store, revision: Revision, said: ReleaseSaid, made: Made) -> Released:
    plan = revision.plan
    about = {f.name: (setup, f) for setup, own in made.programs.items() for f in own}
    about |= {f"{SECTIONS}{name}": found for name, found in about.items()}
    told = [
        _joined_file(name, body, made.joined[name])
        if name in made.joined
        else _file(plan, name, body, about.get(name) or made.papers.get(name, ""))
        for name, body in made.files
    ]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name, body in made.files:
            z.writestr(zipfile.ZipInfo(name, WHEN), body, zipfile.ZIP_DEFLATED)
    left = ahead_left(store, plan, said.picked)
    return Released(
        job=plan.id,
        revision=revision.number,
        release=_next_number(store, plan.id),
        digest=release_digest([(f.name, f.sha256) for f in told]),
        archive=store.blobs.put(out.getvalue()),
        says=said.picked.says(_names(plan))[:500],
        files=tuple(told),
        cuts=sum(len(p) for s in made.manifest.cuts.values() for p in s.values()),
        left=left,
        looks=tuple(_looks(store, revision, said, made))[:500],
        note=said.note.strip(),
    )


def ahead_left(store: Store, plan: Plan, picked: Picked) -> int:
    """Cuts of a job that are still to go out after a part of it did."""
    before = before_of(store, plan.id)
    found = jobs.derive(store, plan, hold=False).values()
    left = 0
    for d in found:
        mine = before.get(d.setup.id, {})
        if d.kerf:
            due = kerf_jobs.due(d, mine, picked)
            left += sum(name not in mine for k in d.kerf if k not in due for name in kerf_jobs.prints(k))
        else:
            left += sum(len(x.left) for x in shares(d, picked, mine))
    return left


def _names(plan: Plan):
    cutters = {c.id: c.name for s in plan.setups for c in s.cutters}
    parts = {p.id: p.name for p in plan.parts}

    def called(kind: str, i: str) -> str:
        return (cutters if kind == "cutter" else parts).get(i, i)

    return called


def _file(plan: Plan, name: str, body: bytes, about: tuple[str, ProgramFile] | str) -> ReleasedFile:
    sha = hashlib.sha256(body).hexdigest()
    if isinstance(about, str):  # a paper, or the program of a board or a table of several jobs
        kind: Literal["program", "paper"] = "program" if is_program(name) else "paper"
        return ReleasedFile(name=name, sha256=sha, bytes=len(body), kind=kind, setup=about)
    setup, f = about
    of = plan.setup(setup)
    cutter = of.cutter(f.cutters[0]) if of and f.cutters else None
    return ReleasedFile(
        name=name,
        sha256=sha,
        bytes=len(body),
        kind="section" if name.startswith(SECTIONS) else "program",
        setup=setup,
        sheet=f.sheet,
        copies=f.copies or (f.copy_no,),
        loaded=cutter.number if cutter else 0,
        z_zero="bed" if f.z_zero == "bed" else "top",
        seconds=round(f.seconds, 1),
        cuts=len(f.cuts),
        moved=of.shift(f.position) if of else (0.0, 0.0),
    )


def _joined_file(name: str, body: bytes, found: tuple[str, Joined]) -> ReleasedFile:
    setup, one = found
    return ReleasedFile(
        name=name,
        sha256=hashlib.sha256(body).hexdigest(),
        bytes=len(body),
        kind="program",
        setup=setup,
        seconds=round(one.seconds, 1),
        cuts=sum(len(f.cuts) for _w, f in one.parts),
    )


def _looks(store: Store, revision: Revision, said: ReleaseSaid, made: Made) -> list[LookedOver]:
    """Every look that stood, with who accepted it and why: of a sheet, where its proof was looked at and is
    as it was; of a setup as a whole, where that is so of all its sheets; of the part that goes out, whoever
    releases it.
    """
    out = []
    kept = {(r.setup, r.sheet, r.copy_no): r.record for r in proof_record.records(store, revision)}
    for setup, snags in made.said.items():
        sheets = [k for k in kept if k[0] == setup]
        for s in _once(snags):
            where = s.where or {}
            sheet, copy_no = str(where.get("sheet", "")), int(where.get("sheet_copy", 0))
            records = [kept.get(k) for k in ([(setup, sheet, copy_no)] if sheet else sheets)]
            fresh = [r for r in records if r is not None and not r.changed]
            by = fresh[0] if fresh and len(fresh) == len(records) else None
            who, why = (by.author, by.note) if by else ("", "")
            of_part = s.rule.startswith("release.")
            if of_part:
                who, why = author(), said.note.strip()
            out.append(
                LookedOver(
                    setup=setup,
                    sheet=sheet,
                    sheet_copy=copy_no,
                    rule=s.rule,
                    message=s.message,
                    who=who,
                    why=why,
                    accepted=of_part or by is not None,
                )
            )
    return out


def _once(snags: Sequence[Snag]) -> list[Snag]:
    """Looks, each that is said alike once."""
    return list({(s.rule, s.message): s for s in snags if s.severity == "look"}.values())
