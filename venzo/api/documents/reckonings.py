"""Reckonings as they are answered."""

from __future__ import annotations

from typing import Literal

from venzo.core.figure import Role
from venzo.core.model import Document, Point


class ReckoningField(Document):
    """A field: ``follows``: it is only ever an answer; ``usual``: it stands till it is said otherwise."""

    name: str
    label: str
    kind: str
    words: list[str]
    usual: bool
    follows: bool


class ReckoningDocument(Document):
    """A reckoning there is."""

    name: str
    title: str
    asks: str
    near: str
    fields: list[ReckoningField]
    formula: str
    source: str


class ReckonedValue(Document):
    """A field's value in words, in the unit asked for and in the other one; ``given``: it was typed or stands
    at its usual, and did not follow from the others.
    """

    name: str
    shown: str
    other: str
    given: bool


class ReckoningMark(Document):
    """A line, an outline, a measure or a word of the drawing, mm, y upwards."""

    role: Role
    points: list[Point]
    text: str


class ReckonedDocument(Document):
    """What came out. ``left``: fields given that follow from those given before them; ``missing``: labels of
    what is not known yet, without which there is no drawing.
    """

    name: str
    unit: Literal["mm", "in"]
    values: list[ReckonedValue]
    left: list[str]
    missing: list[str]
    says: list[str]
    marks: list[ReckoningMark]
