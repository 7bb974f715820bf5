"""How are jobs found on the shop's desk?"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import ColumnElement

from venzo.core.model import Fields
from venzo.store.models import JobRow

Place = Literal["desk", "archive", "bin"]


@dataclass(frozen=True)
class Wanted:
    """Which jobs to find: every word must be in their names (small letters); ``standing``: how they stand by
    their card; ``since``: changed then or later, UTC without a zone.
    """

    place: Place = "desk"
    words: tuple[str, ...] = ()
    standing: str | None = None
    kind: str | None = None
    since: datetime | None = None
    after: int = 0
    most: int = 60


@dataclass(frozen=True)
class JobFound:
    """A job as it lies on the desk. ``card``: of the revision ``card_of``."""

    id: str
    kind: str
    name: str
    revision: int
    changed: datetime
    place: str
    facts: Fields | None
    card: Fields | None
    card_of: int | None


@dataclass(frozen=True)
class Found:
    """How many there are, a page of them, and how many lie in each place."""

    total: int
    jobs: list[JobFound]
    places: dict[str, int]


def these(w: Wanted) -> list[ColumnElement[bool]]:
    """What a job must meet to be found."""
    escaped = [word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for word in w.words]
    wheres = [JobRow.place == w.place, *(JobRow.words.like(f"%{word}%", escape="\\") for word in escaped)]
    if w.standing:
        wheres.append(JobRow.standing == w.standing)
    if w.kind:
        wheres.append(JobRow.kind == w.kind)
    if w.since:
        wheres.append(JobRow.changed >= w.since)
    return wheres


def line(r: JobRow) -> JobFound:
    """A row as it is found."""
    return JobFound(r.id, r.kind, r.name, r.head, r.changed, r.place, r.facts, r.card, r.card_of)
