"""Tables. Plans are JSON documents; a revision is never changed once written."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from venzo.store.author import author


class Base(DeclarativeBase):
    """Declarative base; its metadata is what migrations build."""


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class JobRow(Base):
    """A job and its newest revision."""

    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    head: Mapped[int]
    kind: Mapped[str] = mapped_column(String(20), default="parts")
    created: Mapped[datetime] = mapped_column(default=_now)
    changed: Mapped[datetime] = mapped_column(default=_now)
    place: Mapped[str] = mapped_column(String(10), default="desk")
    """``desk``, ``archive`` or ``bin``."""
    words: Mapped[str | None] = mapped_column(Text)
    """What it is found by, in small letters."""
    facts: Mapped[Any] = mapped_column(JSON(none_as_null=True), nullable=True)
    card: Mapped[Any] = mapped_column(JSON(none_as_null=True), nullable=True, deferred=True)
    card_of: Mapped[int | None]
    """The revision that the card is of."""
    standing: Mapped[str] = mapped_column(String(10), default="")


class RevisionRow(Base):
    """One revision of a plan. ``back``: the revision that undo returns to; ``forward``: the one that redo
    brings back.
    """

    __tablename__ = "revisions"
    job: Mapped[str] = mapped_column(ForeignKey("jobs.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    plan: Mapped[bytes] = mapped_column(LargeBinary)
    """As ``store.packed`` packs it."""
    command: Mapped[Any] = mapped_column(JSON)
    touches: Mapped[list[str]] = mapped_column(JSON)
    says: Mapped[str] = mapped_column(Text)
    back: Mapped[int | None]
    forward: Mapped[int | None]
    made: Mapped[datetime] = mapped_column(default=_now)
    author: Mapped[str] = mapped_column(String(80), default=author)


class LayoutRow(Base):
    """A layout that revisions name by its digest: zlib-packed JSON, never changed."""

    __tablename__ = "layouts"
    digest: Mapped[str] = mapped_column(String(32), primary_key=True)
    body: Mapped[bytes] = mapped_column(LargeBinary)


class LibraryRow(Base):
    """A thing of the shop library: machine, material, cutter, stock or rules."""

    __tablename__ = "library"
    kind: Mapped[str] = mapped_column(String(20), primary_key=True)
    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    place: Mapped[int] = mapped_column(default=0)
    body: Mapped[Any] = mapped_column(JSON)


class LibraryChangeRow(Base):
    """One change of the library: what a thing was before and after (None: it was not there). ``undoes``: the
    change it takes back.
    """

    __tablename__ = "library_changes"
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    kind: Mapped[str] = mapped_column(String(20))
    item: Mapped[str] = mapped_column(String(80))
    before: Mapped[Any] = mapped_column(JSON(none_as_null=True), nullable=True)
    after: Mapped[Any] = mapped_column(JSON(none_as_null=True), nullable=True)
    says: Mapped[str] = mapped_column(Text)
    undoes: Mapped[int | None]
    made: Mapped[datetime] = mapped_column(default=_now)
    author: Mapped[str] = mapped_column(String(80), default=author)
    __table_args__ = (Index("library_changes_by_item", "kind", "item", "number"),)


class LedgerRow(Base):
    """An entry in the ledger of a board; never changed, never taken out."""

    __tablename__ = "ledger"
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    board: Mapped[str] = mapped_column(String(80))
    made: Mapped[datetime] = mapped_column(default=_now)
    body: Mapped[Any] = mapped_column(JSON)


class RunRow(Base):
    """A record of what happened at the machine; never changed, never taken out."""

    __tablename__ = "runs"
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    job: Mapped[str | None] = mapped_column(String(80))
    made: Mapped[datetime] = mapped_column(default=_now)
    author: Mapped[str] = mapped_column(String(80), default=author)
    body: Mapped[Any] = mapped_column(JSON)


class RackRow(Base):
    """A movement in the rack; never changed, never taken out."""

    __tablename__ = "rack"
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    lot: Mapped[str] = mapped_column(String(80))
    job: Mapped[str | None] = mapped_column(String(80))
    made: Mapped[datetime] = mapped_column(default=_now)
    author: Mapped[str] = mapped_column(String(80), default=author)
    body: Mapped[Any] = mapped_column(JSON)


Index("jobs_by_place", JobRow.place, JobRow.changed)
Index("runs_by_job", RunRow.job, RunRow.number)
Index("rack_by_lot", RackRow.lot, RackRow.number)
Index("ledger_by_board", LedgerRow.board, LedgerRow.number)
Index("revisions_by_job", RevisionRow.job, RevisionRow.number)
