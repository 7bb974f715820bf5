"""How broadly ``make test`` asks: a few telling cases of a slow matter each time, all of them in the long
check.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import pytest


def spread(cases: Iterable[Any], now: int) -> list[Any]:
    """Cases for ``parametrize``: ``now`` of them, evenly spread and always the same, are asked each time; the
    others are marked *long*.

    >>> [getattr(case, "marks", ()) == () for case in spread("abcdefg", 3)]
    [True, False, True, False, False, True, False]
    """
    every = list(cases)
    asked = {round(k * len(every) / now) for k in range(now)}
    return [case if i in asked else _long(case) for i, case in enumerate(every)]


def _long(case: Any) -> Any:
    if hasattr(case, "marks"):
        return pytest.param(*case.values, marks=[*case.marks, pytest.mark.long], id=case.id)
    return pytest.param(*(case if isinstance(case, tuple) else (case,)), marks=pytest.mark.long)
