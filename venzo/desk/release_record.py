"""Releases as they went out: kept, never changed; withdrawn by a record of their own."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass

from venzo.core.memo import memo
from venzo.core.model import Document, Moment
from venzo.core.plan import Plan
from venzo.core.release.file_names import slug
from venzo.core.release.picking import (
    Before,
    Gone,
    Picked,
)
from venzo.core.runs.records import Released, SheetRun, TakenBack
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput
from venzo.desk.jobs import Earlier
from venzo.desk.release_share import Manifest, Share
from venzo.store.store import KeptRun, NotFound, Store


class ReleaseLine(Document):
    """A release with the number of its record, when it was made and by whom; ``taken_back``: it is not to be
    run. ``run``: sheets of it that were run.
    """

    number: int
    made: Moment
    author: str
    taken_back: bool
    run: int
    released: Released


@dataclass(frozen=True)
class KeptRelease:
    """A release that stands, with its record's number."""

    number: int
    released: Released


def standing_releases(store: Store, job: str) -> list[KeptRelease]:
    """Releases of a job that were not withdrawn, in order."""
    kept = standing([(k.number, k.record) for k in store.runs(job)])
    return [KeptRelease(n, r) for n, r in kept if isinstance(r, Released)]


def files_of(store: Store, released: Released) -> dict[str, bytes]:
    """The files of a release, each held against its digest.

    Raises:
        MissingBlob: it is not there any more, or was altered.
    """
    body = store.blobs.get(released.archive)
    with zipfile.ZipFile(io.BytesIO(body)) as z:
        return {n: z.read(n) for n in z.namelist()}


def manifest_of(store: Store, released: Released) -> Manifest:
    """What a release holds, cut by cut."""
    return memo(
        "release manifest",
        released.archive,
        lambda: Manifest.model_validate_json(files_of(store, released)["release.json"]),
    )


def run_cuts(store: Store, job: str, kept: Sequence[KeptRelease]) -> set[tuple[str, str]]:
    """(setup, cut) of all that was run with releases; a run that stopped counts with what it made."""
    out: set[tuple[str, str]] = set()
    by_number = {k.released.release: k.released for k in kept}
    for _n, r in standing([(k.number, k.record) for k in store.runs(job)]):
        if isinstance(r, SheetRun) and r.release is not None and r.release in by_number:
            cuts = manifest_of(store, by_number[r.release]).cuts
            names = list(cuts.get(r.setup, {}).get(f"{r.sheet}/{r.sheet_copy}", {}))
            out |= {(r.setup, name) for name in names[: r.done]}
    return out


def spoilt_pieces(store: Store, job: str) -> set[tuple[str, str]]:
    """(setup, piece) of all that did not come off sound and did not go out again since."""
    out: set[tuple[str, str]] = set()
    for _n, r in standing([(k.number, k.record) for k in store.runs(job)]):
        if isinstance(r, SheetRun):
            out |= {(r.setup, piece) for piece in r.spoilt}
        elif isinstance(r, Released):
            told = manifest_of(store, r)
            if told.picked is not None and told.picked.which == "spoilt":
                names = [(s, n) for s, sheets in told.cuts.items() for p in sheets.values() for n in p]
                out -= {(setup, name.split("/", 1)[0]) for setup, name in names}
    return out


def before_of(store: Store, job: str) -> dict[str, Before]:
    """By setup what of a job went out and was not withdrawn; the newest of a cut counts."""
    kept = standing_releases(store, job)
    run, spoilt = run_cuts(store, job, kept), spoilt_pieces(store, job)
    out: dict[str, dict[str, Gone]] = {}
    for r in (k.released for k in kept):
        for setup, sheets in manifest_of(store, r).cuts.items():
            for at, prints in sheets.items():
                sheet, copy_no = at.rsplit("/", 1)
                mine = out.setdefault(setup, {})
                for name, prt in prints.items():
                    lost = (setup, name.split("/", 1)[0]) in spoilt
                    mine[name] = Gone(r.release, prt, sheet, int(copy_no), (setup, name) in run, lost)
    return dict(out)


def share_of(store: Store, plan: Plan, picked: Picked) -> Share:
    """A part of a job on what went out before."""
    earlier: dict[str, list[Earlier]] = {}
    begun: dict[str, dict[tuple[str, int], int]] = {}
    before = before_of(store, plan.id)
    for k in standing_releases(store, plan.id):
        files = files_of(store, k.released)
        told = manifest_of(store, k.released)
        for f in k.released.files:
            if f.kind == "paper" or not f.sheet or f.setup not in told.dialects:
                continue
            here = told.cuts.get(f.setup, {})
            every = {n for c in f.copies for n in here.get(f"{f.sheet}/{c}", {})}
            # what went out anew is to be run from there
            names = {n for n in every if before[f.setup][n].release == k.released.release}
            if names:
                earlier.setdefault(f.setup, []).append(
                    Earlier(
                        f"release {k.released.release}, {f.name}",
                        files[f.name].decode("ascii", "replace"),
                        told.dialects[f.setup],
                        f.sheet,
                        f.copies,
                        f.loaded,
                        f.z_zero,
                        frozenset(names),
                        f.moved,
                    )
                )
            for c in f.copies:
                at = (f.sheet, c)
                mine = begun.setdefault(f.setup, {})
                mine[at] = mine.get(at, 0) + 1
    if picked.which == "spoilt":  # on a fresh sheet nothing was run
        earlier = {}
    return Share(picked, before, begun, earlier, _cut_whole(store, plan.id))


def _cut_whole(store: Store, job: str) -> frozenset[tuple[str, str, int]]:
    kept = standing([(k.number, k.record) for k in store.runs(job)])
    return frozenset(
        (r.setup, r.sheet, r.sheet_copy)
        for _n, r in kept
        if isinstance(r, SheetRun) and r.release is None and r.complete
    )


def lines(store: Store, job: str) -> list[ReleaseLine]:
    """Releases of a job, newest first, those withdrawn too."""
    kept = store.runs(job)
    gone = {k.record.number for k in kept if isinstance(k.record, TakenBack)}
    runs = [r for _n, r in standing([(k.number, k.record) for k in kept]) if isinstance(r, SheetRun)]
    return [
        ReleaseLine(
            number=k.number,
            made=k.made,
            author=k.author,
            taken_back=k.number in gone,
            run=len({(r.sheet, r.sheet_copy) for r in runs if r.release == k.record.release}),
            released=k.record,
        )
        for k in reversed(kept)
        if isinstance(k.record, Released)
    ]


def released(store: Store, job: str, release: int) -> Released:
    """A release of a job, withdrawn or not.

    Raises:
        NotFound: the job has no such release.
    """
    store.head(job)
    for k in store.runs(job):
        if isinstance(k.record, Released) and k.record.release == release:
            return k.record
    raise NotFound(f"job {job!r} has no release {release}")


def archive(store: Store, job: str, release: int) -> tuple[str, bytes]:
    """What a release is called, and its files as they went out, as one zip.

    Raises:
        NotFound: the job has no such release.
    """
    r = released(store, job, release)
    return f"{slug(store.get(job).plan.name)}_release-{release}.zip", store.blobs.get(r.archive)


def file_of(store: Store, job: str, release: int, name: str) -> bytes:
    """One file of a release, as it went out.

    Raises:
        NotFound: the job has no such release, or that no such file.
    """
    found = files_of(store, released(store, job, release)).get(name)
    if found is None:
        raise NotFound(f"release {release} has no file {name!r}")
    return found


def withdraw(store: Store, job: str, release: int, says: str = "") -> None:
    """Say that a release is not to be run; it stays in the record, and what it held is left over again.

    Raises:
        NotFound: the job has no such release.
        BadInput: it is withdrawn already, or sheets of it were run.
    """
    released(store, job, release)

    def check(kept: list[KeptRun]) -> None:
        number = _number(kept, release)
        if any(isinstance(k.record, TakenBack) and k.record.number == number for k in kept):
            raise BadInput(f"release {release} is withdrawn already")
        for n, r in standing([(k.number, k.record) for k in kept]):
            if isinstance(r, SheetRun) and r.release == release:
                raise BadInput(
                    f"release {release} was run (record {n}); take that run back first, if it was never made"
                )

    number = _number(store.runs(job), release)
    store.record(TakenBack(number=number, job=job, says=says), check)


def _number(kept: Sequence[KeptRun], release: int) -> int:
    return next(k.number for k in kept if isinstance(k.record, Released) and k.record.release == release)
