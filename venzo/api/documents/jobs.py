"""Lists of jobs and revisions, searches and proofs."""

from __future__ import annotations

from typing import Literal

from venzo.core.model import Document
from venzo.core.nesting.problem import NestResult
from venzo.core.snags import Snag

Place = tuple[float, float, float]


class JobLine(Document):
    """A job in the list; ``kind``: does it cut parts, surface a board, or run sheets of other jobs;
    ``changed``: UTC.
    """

    id: str
    kind: Literal["parts", "surface", "run"]
    name: str
    revision: int
    changed: str


class RevisionLine(Document):
    """A revision in the history; ``made``: when, UTC; ``back``: the revision that undo goes to; ``author``:
    who said to be working, empty where nobody did.
    """

    revision: int
    says: str
    made: str
    back: int | None
    author: str


class SearchDocument(Document):
    """How a search for a layout stands. ``curve``: (s, sheets, material yield) at every improvement;
    ``limit``: no layout can have a higher yield; ``best``: only when it is newer than what the screen has;
    ``ahead``: searches that go first.
    """

    state: Literal["none", "waiting", "running", "accepted", "kept", "outdated", "failed", "stopped"]
    message: str = ""
    steps: int = 0
    elapsed: float = 0.0
    seconds: float = 0.0
    curve: list[tuple[float, int, float]] = []
    limit: float = 1.0
    found: int = 0
    best: NestResult | None = None
    ahead: int = 0


class StoppingDocument(Document):
    """Whether there was a search to stop."""

    state: Literal["stopping", "none"]


class ProofDocument(Document):
    """A sheet's programs read back: moves, s, mm; lowest and highest place from the program's zero, mm."""

    sheet: str
    copy_no: int
    moves: int
    seconds: float
    cut_length: float
    rapid_length: float
    lowest: Place | None
    highest: Place | None
    snags: tuple[Snag, ...]
