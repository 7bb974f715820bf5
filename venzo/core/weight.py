"""How many bytes does a result hold? Reckoned, for budgets: arrays and texts exactly, long lists by samples,
what is met twice once.
"""

from __future__ import annotations

import sys
from collections.abc import Mapping
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

SAMPLE = 12
"""Members of a long list that are weighed for all."""
GEOMETRY, POINT = 200, 16
"""Bytes of a geometry beside its points, and of a point in the plane."""


def weight(value: Any) -> int:
    """Bytes of a value with all that hangs on it.

    >>> weight(np.zeros((1000, 3))) // 1000, weight([np.zeros(100)] * 3) < 1200
    (24, True)
    """
    return round(_weigh(value, set()))


def _weigh(value: Any, seen: set[int]) -> float:
    if value is None or isinstance(value, bool | int | float):
        return 32.0
    if id(value) in seen:
        return 8.0
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return 120.0 + value.nbytes
    if isinstance(value, str | bytes):
        return float(sys.getsizeof(value))
    if isinstance(value, BaseGeometry):
        return float(GEOMETRY + POINT * shapely.get_num_coordinates(value))
    if isinstance(value, Mapping):
        return 64.0 + _many([*value.keys()], seen) + _many([*value.values()], seen)
    if isinstance(value, list | tuple | set | frozenset):
        return _many(list(value), seen)
    return 64.0 + _fields(value, seen)


def _many(values: list[Any], seen: set[int]) -> float:
    if len(values) <= 2 * SAMPLE:
        return 56.0 + 8 * len(values) + sum(_weigh(v, seen) for v in values)
    step = len(values) / SAMPLE
    return (
        56.0
        + 8 * len(values)
        + len(values) / SAMPLE * sum(_weigh(values[int(k * step)], seen) for k in range(SAMPLE))
    )


def _fields(value: Any, seen: set[int]) -> float:
    own = getattr(value, "__dict__", None)
    slots = (getattr(value, s, None) for c in type(value).__mro__ for s in getattr(c, "__slots__", ()))
    return _many([*own.values()] if own else [], seen) + sum(
        _weigh(v, seen) for v in slots if not callable(v)
    )
