"""Derived stages remembered by a digest of their inputs, so that an edit recomputes only what it touches."""

from __future__ import annotations

import logging
import os
import sys
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from dataclasses import dataclass
from time import monotonic, perf_counter
from typing import Any, Protocol, TypeVar

from cachetools import LRUCache

from venzo.core.weight import weight

T = TypeVar("T")
BUDGET = int(float(os.environ.get("VENZO_MEMORY_MB", "1200")) * 1e6)
"""Bytes that remembered results weigh together at most, as ``weight`` reckons; VENZO_MEMORY_MB sets
another.
"""


def _store(budget: int) -> LRUCache:
    return LRUCache(
        budget, getsizeof=lambda kept: kept[1]
    )  # each with its weight, which is reckoned before the lock is taken


_lock = threading.Lock()
_kept: LRUCache = _store(BUDGET)


class Keeper(Protocol):
    """Keeps results beyond this process, such as on disk. Neither question may fail: what cannot be kept or
    read is made again.
    """

    def find(self, stage: str, key: str) -> Any:
        """The result of a stage, or None."""
        ...

    def keep(self, stage: str, key: str, value: Any, heavy: int) -> None:
        """Keep a result; ``heavy``: its weight in memory, bytes."""
        ...


_keeper: Keeper | None = None
LASTING = 0.002
"""Seconds: what took longer to make is handed to the keeper; a key must then say all that a result follows
from, with nothing that only this process knows.
"""


def keep_with(keeper: Keeper | None) -> Keeper | None:
    """Have results of this process kept by a keeper, and what it kept before found; returns the one so
    far.
    """
    global _keeper
    before, _keeper = _keeper, keeper
    return before


_urgent = 0
_ended = 0.0
"""When the last urgent work ended (``monotonic``)."""
_turn = threading.Condition()
_mine = threading.local()
LONGEST_WAIT = 20.0
"""Seconds that work done behind waits at one stage."""


@contextmanager
def urgent() -> Iterator[None]:
    """Work that somebody waits for, an edit: what other threads do ``behind`` pauses before its next
    stage.
    """
    global _urgent, _ended
    with _turn:
        _urgent += 1
    try:
        yield
    finally:
        with _turn:
            _urgent -= 1
            _ended = monotonic()
            _turn.notify_all()


def quiet(seconds: float) -> bool:
    """Has no urgent work been done for so long?"""
    return not _urgent and monotonic() - _ended > seconds


class Overtaken(Exception):
    """Nobody waits for this work any more."""


@contextmanager
def behind(overtaken: Callable[[], bool] = lambda: False) -> Iterator[None]:
    """Work of this thread that gives way to urgent work: trials of remedies, proofs, readings again.

    Between its stages it ends with ``Overtaken`` where ``overtaken`` says so.
    """
    before = getattr(_mine, "behind", None)
    _mine.behind = overtaken
    try:
        yield
    finally:
        _mine.behind = before


@contextmanager
def passing() -> Iterator[None]:
    """What this thread works out is only tried: it is remembered, but not kept beyond this process."""
    before = getattr(_mine, "passing", False)
    _mine.passing = True
    try:
        yield
    finally:
        _mine.passing = before


def give_way() -> None:
    """Between two stages: wait while another thread's work is urgent, if this thread's is not.

    Raises:
        Overtaken: nobody waits for this work any more.
    """
    overtaken = getattr(_mine, "behind", None)
    if overtaken is None:
        return
    if _urgent:
        with _turn:
            _turn.wait_for(lambda: not _urgent, LONGEST_WAIT)
    if overtaken():
        raise Overtaken


@dataclass(eq=False)
class _Making:
    """A result that a thread is making; ``behind``: a thread that gives way, for which urgent work does not
    wait.
    """

    behind: bool
    result: Future


_making: dict[tuple[str, str], _Making] = {}


def memo(stage: str, key: str, make: Callable[[], T]) -> T:
    """The result of ``make`` for a stage and the digest of its inputs; what was asked for longest ago is
    forgotten first.

    A result is made by one thread; others that ask for it meanwhile get what it made, or its fault; where
    that thread's work was overtaken, the next one makes it.
    """
    behind = getattr(_mine, "behind", None) is not None
    at = (stage, key)
    if not known(stage, key):
        give_way()
    with _lock:
        if at in _kept:
            return _kept[at][0]  # and it is the youngest again
        theirs = _making.get(at)
        wait = theirs is not None and (behind or not theirs.behind)
        own = _Making(behind, Future())
        if not wait:
            _making[at] = own
    if theirs is not None and wait:
        try:
            return theirs.result.result()
        except Overtaken:  # that was their work, not ours
            return memo(stage, key, make)
    try:
        keeper = _keeper
        value = keeper.find(stage, key) if keeper else None
        took = 0.0
        if value is None:
            start = perf_counter()
            value = make()
            took = perf_counter() - start
    except BaseException as e:
        with _lock:
            if _making.get(at) is own:
                del _making[at]
        own.result.set_exception(e)
        raise
    own.result.set_result(value)  # whoever waits gets it, whatever becomes of remembering it
    heavy = _weighed(value)
    with _lock:
        _keep(stage, key, value, heavy)
        if _making.get(at) is own:
            del _making[at]
    if keeper is not None and took > LASTING and not getattr(_mine, "passing", False):
        keeper.keep(stage, key, value, heavy)
    return value


def _weighed(value: Any) -> int:
    """The weight of a result; what cannot be weighed counts as too heavy, and is made again each time it is
    asked for.
    """
    try:
        return weight(value)
    except Exception:
        logging.getLogger("venzo").exception("a result of type %s cannot be weighed", type(value).__name__)
        return sys.maxsize


def _keep(stage: str, key: str, value: Any, heavy: int) -> None:
    """Remember a result; one heavier than the whole budget is not."""
    try:
        _kept[stage, key] = (value, heavy)
    except ValueError:
        _kept.pop((stage, key), None)


@contextmanager
def budget(most: int) -> Iterator[None]:
    """Another budget for a while, with nothing remembered (tests and benchmarks)."""
    global _kept
    with _lock:
        before, _kept = _kept, _store(most)
    try:
        yield
    finally:
        with _lock:
            _kept = before


def held() -> tuple[int, int]:
    """Results remembered, and the bytes they weigh together."""
    with _lock:
        return len(_kept), int(_kept.currsize)


def known(stage: str, key: str) -> bool:
    """Is the result of a stage remembered?"""
    with _lock:
        return (stage, key) in _kept


def forget(stage: str) -> None:
    """Forget every result of a stage (tests and benchmarks)."""
    with _lock:
        for k in [k for k in _kept if k[0] == stage]:
            del _kept[k]
