"""Derived stages remembered by a digest of their inputs, so that an edit recomputes only what it touches."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")
MOST = 8000

_lock = threading.Lock()
_kept: OrderedDict[tuple[str, str], Any] = OrderedDict()


def memo(stage: str, key: str, make: Callable[[], T]) -> T:
    """The result of ``make`` for a stage and the digest of its inputs; the oldest results are forgotten first."""
    with _lock:
        if (stage, key) in _kept:
            _kept.move_to_end((stage, key))
            return _kept[stage, key]
    value = make()
    with _lock:
        _kept[stage, key] = value
        while len(_kept) > MOST:
            _kept.popitem(last=False)
    return value
