"""The store: revisions by compare-and-set, undo that appends, the library."""

from __future__ import annotations

import json
import logging
import secrets
import tempfile
import threading
import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, delete, event, func, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, undefer

from venzo import __version__
from venzo.core.derive import DerivedSetup, check_derives
from venzo.core.edits import Command, reads
from venzo.core.edits.aimed import aimed
from venzo.core.memo import urgent
from venzo.core.model import Fields
from venzo.core.naming import plan_names, words_of
from venzo.core.parts.shape import Shape
from venzo.core.plan import AcceptedNest, Plan
from venzo.core.rack.lots import READ as MOVEMENT
from venzo.core.rack.lots import Moved
from venzo.core.rack.on_hand import Shelf, moved
from venzo.core.runs.records import READ, Record, Released
from venzo.core.snags import BadInput
from venzo.store.blobs import Blobs
from venzo.store.faults import MissingBlob, NotFound, plain_fault
from venzo.store.found import Found, Place, Wanted, line, these
from venzo.store.models import (
    JobRow,
    LayoutRow,
    LedgerRow,
    LibraryChangeRow,
    LibraryRow,
    RackRow,
    RevisionRow,
    RunRow,
)
from venzo.store.packed import Layouts, Plans, checked, layouts_of, pack, unpack
from venzo.store.surfaces import Surfaces

SCHEMA = "0010"
"""The newest migration: a database that says so needs none."""
__all__ = ["Conflict", "KeptMovement", "KeptRun", "NotFound", "Revision", "Shapes", "Store"]


class Conflict(Exception):
    """Two edits of the same thing: ``mine`` and ``theirs`` say what they are, for a person to choose."""

    def __init__(self, mine: str, theirs: list[str], head: int):
        super().__init__(f"changed meanwhile: {'; '.join(theirs)}")
        self.mine, self.theirs, self.head = mine, theirs, head


@dataclass(frozen=True)
class LibraryChanged:
    """A change of the library, with the thing before and after it (None: it was not there)."""

    number: int
    kind: str
    item: str
    says: str
    before: Fields | None
    after: Fields | None


@dataclass(frozen=True)
class Revision:
    """A revision with its plan."""

    number: int
    plan: Plan
    says: str
    can_undo: bool
    can_redo: bool
    derived: Mapping[str, DerivedSetup] | None = field(default=None, compare=False, repr=False)
    """What follows from the plan, with such holds as were known: only of an edit that was checked just
    now.
    """


@dataclass(frozen=True)
class KeptRun:
    """A record with its number, when it was made, and by whom."""

    number: int
    made: datetime
    author: str
    record: Record


@dataclass(frozen=True)
class KeptMovement:
    """A movement in the rack with its number, when it was made, and by whom."""

    number: int
    made: datetime
    author: str
    movement: Moved


class Shapes(Mapping[str, Shape]):
    """Geometry by digest, read from the blobs and remembered."""

    def __init__(self, blobs: Blobs):
        self._blobs = blobs
        self._kept: dict[str, Shape] = {}
        self.surfaces = Surfaces(blobs)

    def __getitem__(self, digest: str) -> Shape:
        if digest not in self._kept:
            data = self._blobs.raw(digest)
            try:
                shape = Shape.from_json(json.loads(data))
            except (ValueError, KeyError, TypeError, IndexError) as e:
                raise MissingBlob(digest, "was altered in") from e
            if shape.digest != digest:
                raise MissingBlob(digest, "was altered in")
            self._kept[digest] = shape
        return self._kept[digest]

    def __iter__(self):
        return iter(self._kept)

    def __len__(self) -> int:
        return len(self._kept)

    def put(self, shape: Shape) -> str:
        """Store a shape; returns its digest. What is kept is what will be read: rounded to 1e-6 mm."""
        text = json.dumps(shape.to_json(), separators=(",", ":"))
        stored = Shape.from_json(json.loads(text))
        return self._blobs.put_as(stored.digest, text.encode())


def _said(row: RevisionRow) -> str:
    """An edit in its own words, whether it was made or brought back."""
    return row.says.removeprefix("redone: ")


def _name(row: JobRow, plan: Plan) -> None:
    row.words = words_of(plan)
    row.facts = plan_names(plan).model_dump(mode="json")


WITHIN = ("operation/", "choice/", "stock/", "setup/", "surface/")
"""Things that hold other things: whoever replaces one touches all that lies in it."""


def _meet(a: str, b: str) -> bool:
    """Do two commands touch the same thing, or one what lies within the other's?"""
    inside = a.startswith(WITHIN) or b.startswith(WITHIN)
    return a == b or (inside and (a.startswith(f"{b}/") or b.startswith(f"{a}/")))


def _writable(folder: Path) -> None:
    """Raise OSError where nothing can be written into a folder."""
    with tempfile.TemporaryFile(dir=folder) as f:
        f.write(b".")


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 10})

    @event.listens_for(engine, "connect")
    def _pragmas(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # transactions are begun by hand, below
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "busy_timeout=10000", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    return engine


class Store:
    """One shop's data in one folder: ``venzo.db`` and ``blobs/``."""

    def __init__(self, folder: Path):
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self.blobs = Blobs(folder / "blobs")
            _writable(folder)
        except OSError as e:
            raise BadInput(
                f"{folder}: the data folder cannot be used ({e.strerror or e}); name another with --data"
            ) from e
        self.folder = folder
        self.shapes = Shapes(self.blobs)
        self._engine = _engine(folder / "venzo.db")
        self._lock = threading.Lock()
        self._turns: dict[str, threading.Lock] = {}
        self._watching: list[Callable[[str, int], None]] = []
        self._layouts, self._plans = Layouts(), Plans()
        self._runs: list[KeptRun] = []
        self._rack: list[KeptMovement] = []
        self._shelves: dict[str, Shelf] = {}
        self._racked = threading.Lock()
        self.shelf = threading.RLock()
        """Held by whoever reads a thing of the library to write it changed: two of them never take each other
        back.
        """
        self._library: dict[str, list[dict[str, Any]]] = {}
        self.library_version = secrets.token_hex(8)
        """Another one after every change of the library."""
        self._migrate()

    def _migrate(self) -> None:
        """Give the database the tables of this version.

        Raises:
            BadInput: it cannot be read, or a newer version made it.
        """
        try:
            if not self._current():
                self._upgrade()
        except (DBAPIError, OSError) as e:
            plain = plain_fault(e)
            raise BadInput(f"{self.folder}: {plain[1] if plain else e}") from e

    def _upgrade(self) -> None:
        from alembic import command
        from alembic.config import Config
        from alembic.util.exc import CommandError

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        try:
            with self._engine.begin() as connection:
                config.attributes["connection"] = connection
                command.upgrade(config, "head")
        except CommandError as e:
            raise BadInput(
                f"{self.folder}: its data was made by a newer version of Venzo than {__version__}; start that"
                " one, or name another folder with --data"
            ) from e

    def _current(self) -> bool:
        """Has the database the tables of this version already? Then nothing that migrates is loaded."""
        with self._engine.begin() as c:
            if (
                c.exec_driver_sql("SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'").first()
                is None
            ):
                return False
            found = c.exec_driver_sql("SELECT version_num FROM alembic_version").scalars().all()
        return found == [SCHEMA]

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    # -- jobs -----------------------------------------------------------------

    def jobs(self) -> list[dict[str, Any]]:
        """Every job: id, name, revision, when changed; newest first."""
        with Session(self._engine) as s:
            rows = s.scalars(select(JobRow).order_by(JobRow.changed.desc(), JobRow.id))
            return [
                {
                    "id": r.id,
                    "kind": r.kind,
                    "name": r.name,
                    "revision": r.head,
                    "changed": r.changed.isoformat(timespec="seconds"),
                }
                for r in rows
            ]

    def used_ids(self) -> set[str]:
        """Ids that no new job may have: of those there are, and of those that records tell of."""
        records = {getattr(k.record, "job", None) for k in self.runs()}
        return {j["id"] for j in self.jobs()} | {r for r in records if r is not None}

    def find(self, wanted: Wanted) -> Found:
        """Jobs by place, words and state, the last changed first, a page at a time."""
        wheres = these(wanted)
        with Session(self._engine) as s:
            total = s.scalar(select(func.count()).select_from(JobRow).where(*wheres)) or 0
            asked = select(JobRow).options(undefer(JobRow.card)).where(*wheres)
            asked = asked.order_by(JobRow.changed.desc(), JobRow.id).offset(wanted.after).limit(wanted.most)
            places = s.execute(select(JobRow.place, func.count()).group_by(JobRow.place))
            return Found(total, [line(r) for r in s.scalars(asked)], dict(places.tuples().all()))

    def put_at(self, job: str, place: Place) -> None:
        """Put a job on the desk, into the archive or into the bin; its plan and its log stay as they are."""
        with self._lock, Session(self._engine) as s, s.begin():
            self._row(s, job, None)
            row = s.get(JobRow, job)
            assert row is not None
            row.place = place

    def burn(self, job: str) -> None:
        """Delete a job that lies in the bin, with all its revisions; what was recorded of its runs stays.

        Raises:
            BadInput: it is not in the bin.
        """
        with self._turn(job), self._lock, Session(self._engine) as s, s.begin():
            self._row(s, job, None)
            row = s.get(JobRow, job)
            assert row is not None
            if row.place != "bin":
                raise BadInput(f"{row.name} is not in the bin; put it there first")
            s.execute(delete(RevisionRow).where(RevisionRow.job == job))
            s.delete(row)

    def keep_card(self, job: str, number: int, card: Fields, standing: str) -> None:
        """Keep the card of a revision, if it is the newest still."""
        with Session(self._engine) as s, s.begin():
            row = s.get(JobRow, job)
            if row is not None and row.head == number:
                row.card, row.card_of, row.standing = card, number, standing

    def kept_card(self, job: str) -> Fields | None:
        """The card kept of a job, of whichever revision.

        Raises:
            NotFound: no such job.
        """
        with Session(self._engine) as s:
            self._row(s, job, None)
            card: Fields | None = s.scalar(select(JobRow.card).where(JobRow.id == job))
            return card

    def card_of(self, job: str) -> int | None:
        """The revision that the card kept of a job is of."""
        with Session(self._engine) as s:
            return s.scalar(select(JobRow.card_of).where(JobRow.id == job))

    def name_jobs(self) -> int:
        """Note what jobs are found by that were stored by a version that kept no such notes; how many."""
        with Session(self._engine) as s:
            unnamed = list(s.scalars(select(JobRow.id).where(JobRow.words.is_(None))))
        for job in unnamed:  # one at a time: edits go on meanwhile
            with Session(self._engine) as s, s.begin():
                row = s.get(JobRow, job)
                if row is not None and row.words is None:
                    _name(row, self._revision(s, self._row(s, job, None)).plan)
        return len(unnamed)

    def create(self, plan: Plan, says: str = "job started", number: int = 1) -> Revision:
        """A new job; its first revision is ``number`` where it was begun elsewhere."""
        with Session(self._engine) as s, s.begin():
            if s.get(JobRow, plan.id):
                raise BadInput(f"there is a job {plan.id!r} already; choose another name")
            row = JobRow(id=plan.id, name=plan.name, head=number, kind=plan.kind)
            _name(row, plan)
            s.add(row)
            s.flush()
            s.add(
                RevisionRow(
                    job=plan.id,
                    number=number,
                    plan=self._packed(s, plan),
                    command=None,
                    touches=[],
                    says=says,
                    back=None,
                    forward=None,
                )
            )
        return Revision(number, plan, says, False, False)

    def get(self, job: str, number: int | None = None) -> Revision:
        """A revision of a job, the newest by default."""
        with Session(self._engine) as s:
            return self._revision(s, self._row(s, job, number))

    def of_kind(self, kind: str) -> list[Revision]:
        """The newest revision of every job of a kind, in the order they were started."""
        wanted = select(RevisionRow).join(
            JobRow, (JobRow.id == RevisionRow.job) & (JobRow.head == RevisionRow.number)
        )
        with Session(self._engine) as s:
            wanted = wanted.where(JobRow.kind == kind, JobRow.place != "bin")
            rows = s.scalars(wanted.order_by(JobRow.created, JobRow.id))
            return [self._revision(s, row) for row in rows]

    def head(self, job: str) -> int:
        """The number of a job's newest revision."""
        with Session(self._engine) as s:
            found = s.scalar(select(JobRow.head).where(JobRow.id == job))
        if found is None:
            raise NotFound(f"there is no job {job!r}")
        return found

    def history(self, job: str, limit: int = 200, before: int | None = None) -> list[dict[str, Any]]:
        """Revisions, newest first: number, words, when, who; ``before``: only older than that one."""
        with Session(self._engine) as s:
            self._row(s, job, None)
            wanted = select(
                RevisionRow.number, RevisionRow.says, RevisionRow.made, RevisionRow.back, RevisionRow.author
            ).where(RevisionRow.job == job, RevisionRow.number < (before or 2**31))
            rows = s.execute(wanted.order_by(RevisionRow.number.desc()).limit(limit))
            return [
                {
                    "revision": n,
                    "says": says,
                    "made": made.isoformat(timespec="seconds"),
                    "back": back,
                    "author": who,
                }
                for n, says, made, back, who in rows
            ]

    def _row(self, s: Session, job: str, number: int | None) -> RevisionRow:
        head = s.get(JobRow, job)
        if head is None:
            raise NotFound(f"there is no job {job!r}")
        row = s.get(RevisionRow, (job, head.head if number is None else number))
        if row is None:
            raise NotFound(f"job {job!r} has no revision {number}")
        return row

    def _revision(self, s: Session, row: RevisionRow) -> Revision:
        plan = self._plans.unpacked(row.plan, partial(self._read_layouts, s))
        return Revision(row.number, plan, row.says, row.back is not None, row.forward is not None)

    def _read_layouts(self, s: Session, digests: Sequence[str]) -> dict[str, AcceptedNest]:
        """Layouts by their digests."""
        found = {d: nest for d in digests if (nest := self._layouts.known(d)) is not None}
        for d in digests:
            if d not in found:
                row = s.get(LayoutRow, d)
                if row is None:
                    raise MissingBlob(d)
                found[d] = AcceptedNest.model_validate_json(zlib.decompress(row.body))
                self._layouts.met(d, found[d])
        return found

    def _packed(self, s: Session, plan: Plan) -> bytes:
        """A plan as it is stored; layouts that are new are stored beside it, in the same step."""
        return pack(plan, {at: self._keep_layout(s, nest) for at, nest in layouts_of(plan).items()})

    def _recorded(self, s: Session, command: Command) -> Fields:
        """A command as it is kept with its revision: of a layout that it brings, the digest."""
        nest = getattr(command, "nest", None)
        if not isinstance(nest, AcceptedNest):
            return command.model_dump(mode="json")
        return {**command.model_dump(mode="json", exclude={"nest"}), "nest": self._keep_layout(s, nest)}

    def _keep_layout(self, s: Session, nest: AcceptedNest) -> str:
        digest, body = self._layouts.digest(nest)
        if body is not None and s.get(LayoutRow, digest) is None:
            s.add(LayoutRow(digest=digest, body=body))
            s.flush()
        return digest

    def apply(self, job: str, base: int, command: Command) -> Revision:
        """Apply a command made on revision ``base``.

        Later revisions that touched other things do not matter: the command is applied on top of them.

        Raises:
            Conflict: a later revision touched what this command touches or relies on.
            BadInput: the command makes no sense on this plan, or what it leads to cannot be planned. Nothing
            is stored then.
        """
        with self._turn(job):
            with Session(self._engine) as s:
                head = self._row(s, job, None)
                before, at = self._revision(s, head).plan, head.number
                command = aimed(before, command)
                self._may_apply(s, job, base, head, command)
            # planned before it is stored, and without holding up edits of other jobs
            with urgent():
                plan = checked(command.apply(before), before)
                derived = check_derives(plan, self.shapes, before)
            with self._lock, Session(self._engine) as s, s.begin():
                head = self._row(s, job, None)
                if head.number != at:
                    raise Conflict(command.says(before), [head.says], head.number)
                done = self._append(
                    s,
                    job,
                    plan,
                    self._recorded(s, command),
                    sorted(command.touches()),
                    command.says(before),
                    at,
                    None,
                )
        return self._told(job, replace(done, derived=derived))

    def watch(self, tell: Callable[[str, int], None]) -> Callable[[], None]:
        """Have a function called with the job and its newest revision after every edit, from the thread that
        made it; the answer ends it.
        """
        with self._lock:
            self._watching.append(tell)

        def end() -> None:
            with self._lock:
                self._watching.remove(tell)

        return end

    def _told(self, job: str, revision: Revision) -> Revision:
        """Tell whoever watches; it is stored already, so nobody who fails to hear of it may undo that."""
        with self._lock:
            watching = list(self._watching)
        for tell in watching:
            try:
                tell(job, revision.number)
            except Exception:
                logging.getLogger("venzo").exception("a change of %s was not told", job)
        return revision

    def _turn(self, job: str) -> threading.Lock:
        """Edits of one job wait for each other, in the order they came."""
        with self._lock:
            return self._turns.setdefault(job, threading.Lock())

    def _may_apply(self, s: Session, job: str, base: int, head: RevisionRow, command: Command) -> None:
        """Raise where a revision after ``base`` touched what a command touches or relies on."""
        if base > head.number or base < 1:
            raise NotFound(f"job {job!r} has no revision {base}")
        if base == head.number:
            return
        mine = command.touches() | reads(command)
        later = s.execute(
            select(RevisionRow.touches, RevisionRow.says).where(
                RevisionRow.job == job, RevisionRow.number > base
            )
        )
        theirs = [says for touched, says in later if any(_meet(a, b) for a in mine for b in touched)]
        if theirs:
            asked_on = self._revision(s, self._row(s, job, base)).plan  # what it is about may be gone since
            raise Conflict(command.says(asked_on), theirs, head.number)

    def undo(self, job: str) -> Revision:
        """Append a revision that returns to the state before the newest edit not yet undone."""
        with self._turn(job), self._lock, Session(self._engine) as s, s.begin():
            head = self._row(s, job, None)
            if head.back is None:
                raise BadInput("there is nothing to undo")
            target, top = self._row(s, job, head.back), self._top(s, job, head)
            done = self._append(
                s,
                job,
                self._revision(s, target).plan,
                {"kind": "undo"},
                top.touches,
                f"undone: {_said(top)}",
                target.back,
                head.number,
            )
        return self._told(job, done)

    def bring_back(self, job: str, number: int) -> Revision:
        """Append a revision that is as an older one was; undo takes that back.

        Raises:
            NotFound: no such job or revision.
            BadInput: it is the newest already.
        """
        with self._turn(job), self._lock, Session(self._engine) as s, s.begin():
            head, old = self._row(s, job, None), self._row(s, job, number)
            if number == head.number:
                raise BadInput(f"change {number} is how the job is now")
            later = s.scalars(
                select(RevisionRow.touches).where(RevisionRow.job == job, RevisionRow.number > number)
            )
            touched = sorted({t for touches in later for t in touches})
            done = self._append(
                s,
                job,
                self._revision(s, old).plan,
                {"kind": "bring-back", "revision": number},
                touched,
                f"brought back as it was at change {number}",
                head.number,
                None,
            )
        return self._told(job, done)

    def redo(self, job: str) -> Revision:
        """Append a revision that brings back what the last undo took."""
        with self._turn(job), self._lock, Session(self._engine) as s, s.begin():
            head = self._row(s, job, None)
            if head.forward is None:
                raise BadInput("there is nothing to redo")
            target = self._row(s, job, head.forward)
            done = self._append(
                s,
                job,
                self._revision(s, target).plan,
                {"kind": "redo"},
                target.touches,
                f"redone: {_said(self._top(s, job, target))}",
                head.number,
                target.forward,
            )
        return self._told(job, done)

    def _top(self, s: Session, job: str, row: RevisionRow) -> RevisionRow:
        """The edit that is on top of a revision's state: of an undone one what was before it."""
        while row.command and row.command.get("kind") == "undo":
            undone = self._row(s, job, row.forward)
            row = self._row(s, job, undone.back)
        return row

    def _append(
        self,
        s: Session,
        job: str,
        plan: Plan,
        command: Any,
        touches: list[str],
        says: str,
        back: int | None,
        forward: int | None,
    ) -> Revision:
        row_head = s.get(JobRow, job)
        assert row_head is not None
        number = row_head.head + 1
        s.add(
            RevisionRow(
                job=job,
                number=number,
                plan=self._packed(s, plan),
                command=command,
                touches=touches,
                says=says,
                back=back,
                forward=forward,
            )
        )
        row_head.head, row_head.name, row_head.changed = (
            number,
            plan.name,
            datetime.now(UTC).replace(tzinfo=None),
        )
        _name(row_head, plan)
        row_head.standing = ""
        return Revision(number, plan, says, back is not None, forward is not None)

    def collect(self, older: float = 0.0) -> int:
        """Remove blobs that no revision of any job and no release refers to and that are ``older`` than so
        many seconds.
        """
        wanted = {k.record.archive for k in self.runs() if isinstance(k.record, Released)}
        with Session(self._engine) as s:
            keys = s.execute(select(RevisionRow.job, RevisionRow.number)).all()
        for job, number in keys:  # one at a time: edits go on meanwhile
            with Session(self._engine) as s:
                packed = s.scalar(
                    select(RevisionRow.plan).where(RevisionRow.job == job, RevisionRow.number == number)
                )
                if packed is not None:
                    wanted |= unpack(packed, partial(self._read_layouts, s)).blobs
        return self.blobs.collect(wanted, older)

    # -- library --------------------------------------------------------------

    def library(self, kind: str) -> list[dict[str, Any]]:
        """Everything of one kind, in the shop's order; kept in memory, since every answer asks for it."""
        kept = self._library.get(kind)
        if kept is None:
            with Session(self._engine) as s:
                kept = [
                    r.body
                    for r in s.scalars(
                        select(LibraryRow)
                        .where(LibraryRow.kind == kind)
                        .order_by(LibraryRow.place, LibraryRow.id)
                    )
                ]
            self._library[kind] = kept
        return [dict(i) for i in kept]

    def put_library(self, kind: str, item: dict[str, Any], says: str = "") -> None:
        """Add or replace a thing of the library; ``says``: in words, for its history (a shop being set up has
        none).
        """
        self._shelve(kind, item["id"], item, says)

    def drop_library(self, kind: str, item: str, says: str = "") -> None:
        """Take a thing out of the library; nothing happens where it is not there."""
        self._shelve(kind, item, None, says)

    def _shelve(
        self, kind: str, item: str, body: dict[str, Any] | None, says: str, undoes: int | None = None
    ) -> None:
        with self.shelf:
            with Session(self._engine) as s, s.begin():
                row = s.get(LibraryRow, (kind, item))
                before = row.body if row else None
                if before == body:
                    return
                if row and body is not None:
                    row.body = body
                elif row:
                    s.delete(row)
                else:
                    last = s.scalar(select(func.max(LibraryRow.place)).where(LibraryRow.kind == kind))
                    s.add(LibraryRow(kind=kind, id=item, place=0 if last is None else last + 1, body=body))
                if says:
                    s.add(
                        LibraryChangeRow(
                            kind=kind, item=item, before=before, after=body, says=says, undoes=undoes
                        )
                    )
            self._library.pop(kind, None)
            self.library_version = secrets.token_hex(8)

    def library_history(
        self, kinds: Sequence[str], item: str | None = None, limit: int = 200, before: int | None = None
    ) -> list[dict[str, Any]]:
        """Changes of some kinds of things (or of one), newest first; ``before``: only older than that
        number.
        """
        wanted = select(LibraryChangeRow).where(LibraryChangeRow.kind.in_(kinds))
        wanted = wanted.where(LibraryChangeRow.item == item) if item else wanted
        wanted = wanted.where(LibraryChangeRow.number < before) if before else wanted
        with Session(self._engine) as s:
            undone = set(
                s.scalars(select(LibraryChangeRow.undoes).where(LibraryChangeRow.undoes.is_not(None)))
            )
            rows = s.scalars(wanted.order_by(LibraryChangeRow.number.desc()).limit(limit))
            return [
                {
                    "number": r.number,
                    "kind": r.kind,
                    "item": r.item,
                    "says": r.says,
                    "made": r.made.isoformat(timespec="seconds"),
                    "undone": r.number in undone,
                    "undoes": r.undoes,
                    "author": r.author,
                }
                for r in rows
            ]

    def library_change(self, number: int) -> LibraryChanged:
        """One change of the library.

        Raises:
            NotFound: no such change.
        """
        with Session(self._engine) as s:
            row = s.get(LibraryChangeRow, number)
            if row is None:
                raise NotFound(f"the library has no change {number}")
            return LibraryChanged(row.number, row.kind, row.item, row.says, row.before, row.after)

    def undo_library(self, kinds: Sequence[str], item: str | None = None) -> str:
        """Take back the newest change of some kinds of things (or of one) that was not taken back yet; says
        which.

        Raises:
            BadInput: there is none.
        """
        with self.shelf:
            with Session(self._engine) as s:
                undone = select(LibraryChangeRow.undoes).where(LibraryChangeRow.undoes.is_not(None))
                wanted = select(LibraryChangeRow).where(
                    LibraryChangeRow.kind.in_(kinds),
                    LibraryChangeRow.undoes.is_(None),
                    LibraryChangeRow.number.not_in(undone),
                )
                wanted = wanted.where(LibraryChangeRow.item == item) if item else wanted
                top = s.scalars(wanted.order_by(LibraryChangeRow.number.desc()).limit(1)).first()
                if top is None:
                    raise BadInput("there is nothing to undo")
                kind, thing, body, says, number = (
                    top.kind,
                    top.item,
                    top.before,
                    f"undone: {top.says}",
                    top.number,
                )
            self._shelve(kind, thing, body, says, number)
            return says

    # -- ledger ---------------------------------------------------------------

    def ledger(self, board: str) -> list[dict[str, Any]]:
        """Entries of a board in order: number, when, and the entry."""
        with Session(self._engine) as s:
            rows = s.scalars(select(LedgerRow).where(LedgerRow.board == board).order_by(LedgerRow.number))
            return [
                {"number": r.number, "made": r.made.isoformat(timespec="microseconds"), "entry": r.body}
                for r in rows
            ]

    def book(self, board: str, entry: dict[str, Any]) -> int:
        """Add an entry; returns its number."""
        with Session(self._engine) as s, s.begin():
            row = LedgerRow(board=board, body=entry)
            s.add(row)
            s.flush()
            return row.number

    # -- runs -----------------------------------------------------------------

    def runs(self, job: str | None = None) -> list[KeptRun]:
        """Records in order, of one job or all. They are never changed: only new ones are read."""
        with self._lock, Session(self._engine) as s:
            last = self._runs[-1].number if self._runs else 0
            new = s.scalars(select(RunRow).where(RunRow.number > last).order_by(RunRow.number))
            self._runs += [KeptRun(r.number, r.made, r.author, READ.validate_python(r.body)) for r in new]
            kept = list(self._runs)
        return [k for k in kept if job is None or getattr(k.record, "job", None) == job]

    def record(
        self,
        record: Record,
        check: Callable[[list[KeptRun]], None] = lambda _kept: None,
        moves: Callable[[int, list[Moved]], Sequence[Moved]] | None = None,
    ) -> int:
        """Add a record; returns its number. ``check`` raises where those there are forbid it, and nothing
        comes between. ``moves``: of its number and all movements so far, what it moves in the rack; both are
        stored, or neither.

        Raises:
            BadInput: the rack has not what is moved.
        """
        job = getattr(record, "job", None)
        with self.shelf:
            check(self.runs(job))
            with Session(self._engine) as s, s.begin():
                so_far = self._movements(s) if moves is not None else []
                row = RunRow(job=job, body=record.model_dump(mode="json"))
                s.add(row)
                s.flush()
                if moves is not None:
                    self._book(s, moves(row.number, [k.movement for k in so_far]))
                return row.number

    # -- rack -----------------------------------------------------------------

    def rack(self) -> list[KeptMovement]:
        """Movements in order."""
        with Session(self._engine) as s, s.begin():
            return self._movements(s)

    def move(self, movements: Callable[[dict[str, Shelf]], Sequence[Moved]]) -> list[int]:
        """Add movements, all or none; returns their numbers. ``movements``: of the rack as it stands, what is
        moved; nothing comes between, so it must not ask this store for anything.

        Raises:
            BadInput: the rack has not what is moved.
        """
        with Session(self._engine) as s, s.begin():
            self._movements(s)
            return self._book(s, movements(dict(self._shelves)))

    def _movements(self, s: Session) -> list[KeptMovement]:
        """All movements, within a transaction, before it adds any: they are never changed, so only new ones
        are read. The database is taken before the lock, always.
        """
        with self._racked:
            last = self._rack[-1].number if self._rack else 0
            for r in s.scalars(select(RackRow).where(RackRow.number > last).order_by(RackRow.number)):
                m = MOVEMENT.validate_python(r.body)
                self._rack.append(KeptMovement(r.number, r.made, r.author, m))
                self._shelves[m.of] = moved(self._shelves.get(m.of), m)
            return list(self._rack)

    def _book(self, s: Session, new: Sequence[Moved]) -> list[int]:
        """Add movements within a transaction that has read all there are: each is tried on its lot."""
        numbers, found = [], dict(self._shelves)
        for m in new:
            found[m.of] = moved(found.get(m.of), m)
            row = RackRow(lot=m.of, job=getattr(m, "job", None), body=m.model_dump(mode="json"))
            s.add(row)
            s.flush()
            numbers.append(row.number)
        return numbers
