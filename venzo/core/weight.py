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


PLAIN = frozenset({type(None), bool, int, float})
LISTS = (list, tuple, set, frozenset)


def _weigh(value: Any, seen: set[int]) -> float:
    kind = type(value)
    if kind in PLAIN:
        return 32.0
    if id(value) in seen:
        return 8.0
    seen.add(id(value))
    if kind is str or kind is bytes:
        return float(sys.getsizeof(value))
    if isinstance(value, np.ndarray):
        return 120.0 + value.nbytes
    if isinstance(value, LISTS):
        return _many(list(value), seen)
    if isinstance(value, BaseGeometry):
        return float(GEOMETRY + POINT * shapely.get_num_coordinates(value))
    if isinstance(value, Mapping):
        return 64.0 + _many([*value.keys()], seen) + _many([*value.values()], seen)
    return 64.0 + _fields(value, seen)


def _many(values: list[Any], seen: set[int]) -> float:
    many = len(values)
    told = 56.0 + 8 * many
    if many <= 2 * SAMPLE:
        for v in values:
            told += 32.0 if type(v) in PLAIN else _weigh(v, seen)
        return told
    step, sampled = many / SAMPLE, 0.0
    for k in range(SAMPLE):
        sampled += _weigh(values[int(k * step)], seen)
    return told + step * sampled


_slots_of: dict[type, tuple[str, ...]] = {}


def _slots(kind: type) -> tuple[str, ...]:
    """Names of the slots of a type's values; types are few and asked for often."""
    if kind not in _slots_of:
        named = (s for c in kind.__mro__ for s in getattr(c, "__slots__", ()))
        _slots_of[kind] = tuple(s for s in named if not s.startswith("__"))
    return _slots_of[kind]


def _fields(value: Any, seen: set[int]) -> float:
    own = getattr(value, "__dict__", None)
    told = _many([*own.values()], seen) if own else 0.0
    told += sys.getsizeof(getattr(value, "__pydantic_fields_set__", None))  # of names that all values share
    for s in _slots(type(value)):
        v = getattr(value, s, None)
        if not callable(v):
            told += _weigh(v, seen)
    return told
