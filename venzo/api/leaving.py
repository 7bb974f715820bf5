"""Long work for a page ends when the page no longer waits for it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from time import monotonic

from anyio import from_thread
from fastapi import Request

from venzo.core.memo import behind

LOOK = 0.25
"""s between two looks at whether somebody still waits."""


@contextmanager
def while_asked_for(request: Request, overtaken: Callable[[], bool] = lambda: False) -> Iterator[None]:
    """Work of a handler's own thread that gives way to edits, and that ends between two of its stages with
    ``Overtaken`` when whoever asked has gone or ``overtaken`` says so.
    """
    looked, gone = monotonic(), False

    def left() -> bool:
        nonlocal looked, gone
        if not gone and monotonic() - looked > LOOK:
            gone = from_thread.run(request.is_disconnected)
            looked = monotonic()
        return gone or overtaken()

    with behind(left):
        yield
