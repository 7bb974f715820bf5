"""Derived stages remembered by a digest of their inputs, so that an edit recomputes only what it touches."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")
MOST = 8000
LARGE = {"hold": 60, "divided": 60}
"""Stages whose results are megabytes: so many of each are remembered."""

_lock = threading.Lock()
_kept: OrderedDict[tuple[str, str], Any] = OrderedDict()
_large: dict[str, OrderedDict[str, None]] = {s: OrderedDict() for s in LARGE}


def memo(stage: str, key: str, make: Callable[[], T]) -> T:
    """The result of ``make`` for a stage and the digest of its inputs; the oldest results are forgotten first."""
    with _lock:
        if (stage, key) in _kept:
            _kept.move_to_end((stage, key))
            if stage in LARGE:
                _large[stage].move_to_end(key, last=True)
            return _kept[stage, key]
    value = make()
    with _lock:
        _kept[stage, key] = value
        if stage in LARGE:
            _large[stage][key] = None
            while len(_large[stage]) > LARGE[stage]:
                _kept.pop((stage, _large[stage].popitem(last=False)[0]), None)
        while len(_kept) > MOST:
            (old, gone), _value = _kept.popitem(last=False)
            if old in LARGE:
                _large[old].pop(gone, None)
    return value


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
