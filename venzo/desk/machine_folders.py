"""Folders that machines read their programs from, local or on a share: a release is put there whole or not at
all, what it takes the place of is kept apart, and the operator's list says what is new.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC
from pathlib import Path
from typing import Annotated

from pydantic import Field

from venzo.core.model import Document, Id, Moment, Value
from venzo.core.plan import Plan
from venzo.core.runs.records import Delivered, Released, ReleasedFile, SheetRun, TakenBack
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput
from venzo.core.voice import counted
from venzo.desk import release_record
from venzo.desk.release_record import files_of, lines, manifest_of, released
from venzo.store.store import NotFound, Store

SHELF = "folder"
"""Kind under which the library keeps them."""
OLD, COMING, LIST = "old", ".venzo-coming-", "NEW.txt"


class MachineFolder(Value):
    """Where a machine reads its programs: a folder of this computer or of a share that it has mounted."""

    id: Id
    """The machine's."""
    path: Annotated[str, Field(min_length=1, max_length=1000)]


class DeliveredLine(Document):
    """A release in a machine's folder. ``run``: sheets of it that were run, of ``sheets``; ``altered``: files
    that are not as they were put there; ``missing``: those that are not there any more; ``withdrawn``: it is
    not to be run.
    """

    job: str
    name: str
    release: int
    folder: str
    made: Moment
    author: str
    files: int
    sheets: int
    run: int
    withdrawn: bool
    altered: list[str]
    missing: list[str]


class FolderDocument(Document):
    """A machine's folder; ``path`` None: it has none. ``wrong``: why nothing can be put there now. ``there``:
    what is in it, newest first.
    """

    machine: str
    name: str
    path: str | None
    wrong: str
    there: list[DeliveredLine]


def folder_of(store: Store, machine: str) -> Path | None:
    """Where a machine reads its programs; None: nobody has said."""
    found = next((f for f in store.library(SHELF) if f["id"] == machine), None)
    return Path(found["path"]) if found else None


def set_folder(store: Store, machine: str, path: str) -> None:
    """Say where a machine reads its programs; empty: nowhere. What lies in a folder stays there.

    Raises:
        NotFound: no such machine.
        BadInput: no folder that can be written to, or one of the shop's own data.
    """
    known = next((m for m in store.library("machine") if m["id"] == machine), None)
    if known is None:
        raise NotFound(f"machine {machine!r}")
    if not path.strip():
        if folder_of(store, machine) is not None:
            store.drop_library(SHELF, machine, f"{known['name']} has no folder any more")
        return
    place = Path(path.strip()).expanduser()
    wrong = _wrong(place, store.folder)
    if wrong:
        raise BadInput(wrong)
    new = MachineFolder(id=machine, path=str(place))
    store.put_library(SHELF, new.model_dump(mode="json"), f"{known['name']} reads its programs from {place}")


def _wrong(place: Path, shop: Path) -> str:
    """Why nothing can be put in a folder; empty: it can."""
    if not place.is_absolute():
        return f"{place}: give the whole way to the folder, from the root of this computer"
    if not place.is_dir():
        return f"{place}: there is no such folder; make it, or connect the share, and try again"
    inside = (shop.resolve(), *shop.resolve().parents)
    if place.resolve() in inside or shop.resolve() in place.resolve().parents:
        return f"{place}: the shop's own data lies there; choose a folder of the machine's"
    if not os.access(place, os.W_OK | os.X_OK):
        return f"{place}: it may not be written to; give this computer's user the right to"
    return ""


def folders(store: Store) -> list[FolderDocument]:
    """Every machine's folder with what is in it."""
    out = []
    for m in store.library("machine"):
        path = folder_of(store, m["id"])
        wrong = _wrong(path, store.folder) if path else ""
        out.append(
            FolderDocument(
                machine=m["id"],
                name=m["name"],
                path=str(path) if path else None,
                wrong=wrong,
                there=_there(store, m["id"], path) if path and not wrong else [],
            )
        )
    return out


def _there(store: Store, machine: str, path: Path) -> list[DeliveredLine]:
    kept = store.runs()
    counting = standing([(k.number, k.record) for k in kept])
    runs = [r for _n, r in counting if isinstance(r, SheetRun) and r.release is not None]
    gone = {k.record.number for k in kept if isinstance(k.record, TakenBack)}
    releases = {(k.record.job, k.record.release): k for k in kept if isinstance(k.record, Released)}
    out: dict[tuple[str, int], DeliveredLine] = {}
    for k in reversed(kept):
        r = k.record
        at = (r.job, r.release) if isinstance(r, Delivered) else None
        if not isinstance(r, Delivered) or r.machine != machine or at in out or at not in releases:
            continue
        whole = releases[at]
        assert isinstance(whole.record, Released) and at is not None
        folder = path / r.folder
        if not folder.is_dir():
            continue
        mine = {f.name: f.sha256 for f in whole.record.files if f.name in r.files}
        now = {n: _sha(folder / n) for n in mine}
        ran = {(x.sheet, x.sheet_copy) for x in runs if (x.job, x.release) == at}
        out[at] = DeliveredLine(
            job=r.job,
            name=_name(store, r.job),
            release=r.release,
            folder=r.folder,
            made=k.made,
            author=k.author,
            files=len(mine),
            sheets=len({(f.sheet, c) for f in whole.record.files if f.name in mine for c in f.copies}),
            run=len(ran),
            withdrawn=whole.number in gone,
            altered=sorted(n for n, sha in now.items() if sha not in ("", mine[n])),
            missing=sorted(n for n, sha in now.items() if not sha),
        )
    return list(out.values())


def _name(store: Store, job: str) -> str:
    try:
        return store.get(job).plan.name
    except NotFound:
        return job


def _sha(path: Path) -> str:
    try:
        return hashlib.sha256(path.read_bytes()).hexdigest()
    except OSError:
        return ""


@dataclass(frozen=True)
class _Parcel:
    """What goes into one machine's folder."""

    machine: str
    path: Path
    name: str
    files: Mapping[str, bytes]


def deliver(store: Store, job: str, release: int) -> list[str]:
    """Put a release into the folders of its machines, each whole or not at all; names of the machines.

    What is in a folder of releases that this one takes the place of, wholly, goes into ``old`` there; so does
    whatever has its name and is not as it was put there.

    Raises:
        NotFound: the job has no such release.
        BadInput: it was withdrawn, no machine of it has a folder, or one of them cannot be written to.
    """
    r = released(store, job, release)
    line = next(x for x in lines(store, job) if x.released.release == release)
    if line.taken_back:
        raise BadInput(f"release {release} was withdrawn: its programs do not go to a machine")
    parcels = _parcels(store, r)
    for p in parcels:
        wrong = _wrong(p.path, store.folder)
        if wrong:
            raise BadInput(f"nothing was put anywhere: {wrong}")
    for p in parcels:
        try:
            _put(p, [_folder_name(job, n) for n in _replaced(store, job, release)])
        except OSError as e:
            raise BadInput(
                f"{p.path}: {e.strerror or e}; nothing of release {release} is there, or all of it: look at"
                " the share and try again"
            ) from e
        store.record(
            Delivered(job=job, release=release, machine=p.machine, folder=p.name, files=tuple(p.files))
        )
        write_list(store, p.machine)
    names = {m["id"]: m["name"] for m in store.library("machine")}
    return [names.get(p.machine, p.machine) for p in parcels]


def _folder_name(job: str, release: int) -> str:
    return f"{job}_release-{release}"  # whole: a shortened id may be that of another job


def _parcels(store: Store, r: Released) -> list[_Parcel]:
    plan = store.get(r.job, r.revision).plan
    bodies = files_of(store, r)
    names = _machines_of(store, plan)
    out = []
    for machine in names:
        path = folder_of(store, machine)
        own = {s.id for s in plan.setups if s.machine.id == machine} or {""}
        files = {f.name: bodies[f.name] for f in r.files if f.setup in own and _goes(f)}
        if path is not None and files:
            out.append(_Parcel(machine, path, _folder_name(r.job, r.release), files))
    if not out:
        called = ", ".join(names.values())
        raise BadInput(
            f"no folder is known for {called or 'the machine of this job'}: say in the library, at the"
            " machine, where it reads its programs"
        )
    return out


def _goes(f: ReleasedFile) -> bool:
    """Does a file go to the machine? Sections of a program are in it."""
    return f.kind != "section" and f.name != "release.json"


def _machines_of(store: Store, plan: Plan) -> dict[str, str]:
    """Names of the machines that cut a job, by id: of its setups, of its board, of its table."""
    if plan.surface is not None:
        machine = plan.surface.board.machine
        return {machine: machine} if machine else {}
    if plan.run is not None:
        laid = plan.run.sheets[:1]
        own = [store.get(x.job).plan.setup(x.setup) for x in laid]  # all of a table are of one machine
        return {s.machine.id: s.machine.name for s in own if s is not None}
    return {s.machine.id: s.machine.name for s in plan.setups}


def _replaced(store: Store, job: str, release: int) -> list[int]:
    """Earlier releases every cut of which is in this one too, and those that were withdrawn."""

    def cuts(r: Released) -> set[tuple[str, str]]:
        held = manifest_of(store, r).cuts
        return {(setup, n) for setup, sheets in held.items() for names in sheets.values() for n in names}

    mine = cuts(released(store, job, release))
    return [
        x.released.release
        for x in lines(store, job)
        if x.released.release < release and (x.taken_back or (not x.run and cuts(x.released) <= mine))
    ]


def withdraw(store: Store, job: str, release: int, says: str = "") -> None:
    """Say that a release is not to be run, and take it out of the folders it was put in.

    Raises:
        NotFound: the job has no such release.
        BadInput: it is withdrawn already, or sheets of it were run.
    """
    release_record.withdraw(store, job, release, says)
    withdraw_from(store, job, release)


def withdraw_from(store: Store, job: str, release: int) -> None:
    """Take a release out of the folders it was put in; it is kept in ``old`` there."""
    for k in store.runs(job):
        r = k.record
        if not isinstance(r, Delivered) or r.release != release:
            continue
        path = folder_of(store, r.machine)
        if path is None or _wrong(path, store.folder) or not (path / r.folder).is_dir():
            continue
        _put_away(path, r.folder)
        write_list(store, r.machine)


def _put(p: _Parcel, replaced: Sequence[str]) -> None:
    """Write a folder beside its place and rename it: it is there whole, or not at all."""
    for left in p.path.glob(f"{COMING}*"):  # of a power cut
        shutil.rmtree(left, ignore_errors=True)
    coming = p.path / f"{COMING}{secrets.token_hex(4)}"
    coming.mkdir()
    try:
        for name, body in p.files.items():
            with open(coming / name, "wb") as f:
                f.write(body)
                f.flush()
                os.fsync(f.fileno())
        _flush(coming)
        if (p.path / p.name).exists():
            _put_away(p.path, p.name)
        os.rename(coming, p.path / p.name)
        _flush(p.path)
    except BaseException:
        shutil.rmtree(coming, ignore_errors=True)
        raise
    for name in replaced:
        if (p.path / name).is_dir():
            _put_away(p.path, name)


def _put_away(path: Path, name: str) -> None:
    """Move a folder into ``old``, under a name of its own."""
    old = path / OLD
    old.mkdir(exist_ok=True)
    n, to = 1, old / name
    while to.exists():
        n += 1
        to = old / f"{name}-{n}"
    os.rename(path / name, to)
    _flush(path)


def _flush(folder: Path) -> None:
    """Have a folder's names on disk."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    except OSError:  # a share may not know how
        pass
    finally:
        os.close(handle)


def write_list(store: Store, machine: str) -> None:
    """The operator's list: what is in a machine's folder, what of it is new, what must not be run."""
    path = folder_of(store, machine)
    if path is None or not path.is_dir():
        return
    rows = ["What is here for the machine, newest first. Made by Venzo; it is written anew each time.", ""]
    for d in _there(store, machine, path):
        when = d.made.astimezone(UTC).strftime("%Y-%m-%d %H:%M UTC")
        how = "NEW, nothing of it was run" if not d.run else f"run: {d.run} of {counted(d.sheets, 'sheet')}"
        how = "WITHDRAWN: do not run it" if d.withdrawn else how
        rows += [
            f"{d.folder}: {d.name}, release {d.release}, {when}{f', {d.author}' if d.author else ''}",
            f"    {how}",
        ]
        rows += [f"    ALTERED since it was put here: {n}" for n in d.altered]
    text = "\r\n".join([*rows, ""]).encode("utf-8", "replace")
    part = path / f"{COMING}{secrets.token_hex(4)}.txt"
    try:
        part.write_bytes(text)
        os.replace(part, path / LIST)
    except OSError:
        part.unlink(missing_ok=True)
