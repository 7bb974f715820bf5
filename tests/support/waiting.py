"""Waiting for what happens in its own time: by asking again, never by the clock alone."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


def until(true: Callable[[], T], seconds: float = 30) -> T:
    """What ``true`` gives as soon as it is something; an AssertionError where it is nothing after so many
    seconds.
    """
    end = time.monotonic() + seconds
    while not (got := true()):
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.05)
    return got


def settled(page: Any, seconds: float = 120) -> None:
    """All edits of a page are answered when its header no longer says so."""
    from playwright.sync_api import expect

    expect(page.get_by_text("working ...")).to_have_count(0, timeout=seconds * 1000)
