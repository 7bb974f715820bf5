"""A small drawing, true to its numbers: outlines and measures as plain values."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from venzo.core.model import Point

Role = Literal["stock", "cut away", "cutter", "path", "thing", "measure", "word"]


Values = Mapping[str, Any]
"""The values of a reckoning by field: numbers in the core's units, words of choices."""
Said = Callable[[str], str]
"""A field's value in words, in the unit that is asked for."""


@dataclass(frozen=True)
class Mark:
    """Points in mm, y upwards.

    ``stock``, ``cut away``, ``cutter`` and ``thing`` are closed outlines, ``path`` is a line, ``measure``
    goes from its first point to its last and carries ``text``, ``word`` stands at its point.
    """

    role: Role
    points: tuple[Point, ...]
    text: str = ""


def box(x0: float, y0: float, x1: float, y1: float, role: Role = "stock", text: str = "") -> Mark:
    """A rectangle."""
    return Mark(role, ((x0, y0), (x1, y0), (x1, y1), (x0, y1)), text)


def disc(x: float, y: float, radius: float, role: Role = "cutter") -> Mark:
    """A circle."""
    return Mark(role, tuple(arc(x, y, radius, 0, 360)))


def arc(x: float, y: float, radius: float, start: float, end: float, n: int = 48) -> list[Point]:
    """Points of an arc, degrees counter-clockwise."""
    return [
        (x + radius * math.cos(math.radians(a)), y + radius * math.sin(math.radians(a)))
        for a in (start + (end - start) * k / n for k in range(n + 1))
    ]


def measure(a: Point, b: Point, text: str) -> Mark:
    """A measure between two points."""
    return Mark("measure", (a, b), text)


def path(points: Sequence[Point]) -> Mark:
    """A line."""
    return Mark("path", tuple(points))


def word(at: Point, text: str) -> Mark:
    """A word at a place."""
    return Mark("word", (at,), text)
