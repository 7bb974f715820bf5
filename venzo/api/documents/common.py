"""Short answers that several routes give, and how faults are answered."""

from __future__ import annotations

from venzo.core.model import Document


class Fault(Document):
    """Why nothing was done, in one sentence."""

    detail: str


class Clash(Fault):
    """Two edits of one thing: what was asked for and what was done meanwhile, in words; ``head``: the newest
    revision.
    """

    mine: str
    theirs: list[str]
    head: int


class Said(Document):
    """What was done, in words."""

    says: str


class Removed(Document):
    """What is no longer there."""

    removed: str


FAULTS: dict[int | str, dict[str, type[Document] | str]] = {
    400: {"model": Fault, "description": "the request cannot be read"},
    403: {"model": Fault, "description": "another page asked"},
    404: {"model": Fault, "description": "there is no such thing"},
    409: {"model": Clash, "description": "a later edit touched the same thing"},
    413: {"model": Fault, "description": "too much at once"},
    422: {"model": Fault, "description": "what was sent cannot be used"},
    503: {"model": Fault, "description": "the data cannot be read or written just now"},
    507: {"model": Fault, "description": "the disk is full"},
}
"""Answers that every operation may give beside its own."""
