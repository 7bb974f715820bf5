"""Derived stages remembered by a digest of their inputs, so that an edit recomputes only what it touches."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, TypeVar

T = TypeVar("T")
MOST = 8000
LARGE = {"hold": 60, "divided": 60, "lap": 120}
"""Stages whose results are megabytes: so many of each are remembered."""

_lock = threading.Lock()
_kept: OrderedDict[tuple[str, str], Any] = OrderedDict()
_large: dict[str, OrderedDict[str, None]] = {s: OrderedDict() for s in LARGE}

_urgent = 0
_turn = threading.Condition()
_mine = threading.local()
LONGEST_WAIT = 20.0
"""Seconds that work done behind waits at one stage."""


@contextmanager
def urgent() -> Iterator[None]:
    """Work that somebody waits for, an edit: what other threads do ``behind`` pauses before its next stage."""
    global _urgent
    with _turn:
        _urgent += 1
    try:
        yield
    finally:
        with _turn:
            _urgent -= 1
            _turn.notify_all()


@contextmanager
def behind() -> Iterator[None]:
    """Work of this thread that gives way to urgent work: trials of remedies, proofs, readings again."""
    before = getattr(_mine, "behind", False)
    _mine.behind = True
    try:
        yield
    finally:
        _mine.behind = before


def give_way() -> None:
    """Between two stages: wait while another thread's work is urgent, if this thread's is not."""
    if getattr(_mine, "behind", False) and _urgent:
        with _turn:
            _turn.wait_for(lambda: not _urgent, LONGEST_WAIT)


@dataclass(eq=False)
class _Making:
    """A result that a thread is making; ``behind``: a thread that gives way, for which urgent work does not wait."""

    behind: bool
    result: Future


_making: dict[tuple[str, str], _Making] = {}


def memo(stage: str, key: str, make: Callable[[], T]) -> T:
    """The result of ``make`` for a stage and the digest of its inputs; the oldest results are forgotten first.

    A result is made by one thread; others that ask for it meanwhile get what it made, or its fault.
    """
    behind = getattr(_mine, "behind", False)
    at = (stage, key)
    if not known(stage, key):
        give_way()
    with _lock:
        if at in _kept:
            _kept.move_to_end(at)
            if stage in LARGE:
                _large[stage].move_to_end(key, last=True)
            return _kept[at]
        theirs = _making.get(at)
        wait = theirs is not None and (behind or not theirs.behind)
        own = _Making(behind, Future())
        if not wait:
            _making[at] = own
    if theirs is not None and wait:
        return theirs.result.result()
    try:
        value = make()
    except BaseException as e:
        with _lock:
            if _making.get(at) is own:
                del _making[at]
        own.result.set_exception(e)
        raise
    with _lock:
        _keep(stage, key, value)
        if _making.get(at) is own:
            del _making[at]
    own.result.set_result(value)
    return value


def _keep(stage: str, key: str, value: Any) -> None:
    """Remember a result, and forget the oldest beyond what is kept."""
    _kept[stage, key] = value
    if stage in LARGE:
        _large[stage][key] = None
        while len(_large[stage]) > LARGE[stage]:
            _kept.pop((stage, _large[stage].popitem(last=False)[0]), None)
    while len(_kept) > MOST:
        (old, gone), _value = _kept.popitem(last=False)
        if old in LARGE:
            _large[old].pop(gone, None)


def known(stage: str, key: str) -> bool:
    """Is the result of a stage remembered?"""
    with _lock:
        return (stage, key) in _kept


def forget(stage: str) -> None:
    """Forget every result of a stage (tests and benchmarks)."""
    with _lock:
        for k in [k for k in _kept if k[0] == stage]:
            del _kept[k]
        if stage in _large:
            _large[stage].clear()
