"""Who makes a change: told once around it, and kept with whatever is stored meanwhile."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

LONGEST = 80
"""Characters of a name."""
_author: ContextVar[str] = ContextVar("author", default="")


def author() -> str:
    """The name of whoever makes the change at hand; empty where nobody said."""
    return _author.get()


@contextmanager
def made_by(name: str) -> Iterator[None]:
    """What is stored meanwhile, in this thread or task, was made by somebody.

    >>> with made_by("  Mara\\n(office) "):
    ...     author()
    'Mara (office)'
    >>> author()
    ''
    """
    plain = " ".join("".join(c if c.isprintable() else " " for c in name).split())[:LONGEST]
    before = _author.set(plain)
    try:
        yield
    finally:
        _author.reset(before)
