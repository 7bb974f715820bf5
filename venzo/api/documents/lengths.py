"""Lengths as they were read."""

from __future__ import annotations

from venzo.core.model import Document, Point


class LengthDocument(Document):
    """A length in mm, as it is written in mm and in inches, and what was taken for granted in reading it."""

    mm: float
    shown: str
    inch: str
    fraction: str
    said: str


class LengthsDocument(Document):
    """Several lengths, mm."""

    mm: list[float]


class CornersDocument(Document):
    """Corners, mm."""

    mm: list[Point]


class TypedStockDocument(Document):
    """A sheet as it was typed in a line, mm."""

    width: float
    height: float
    thickness: float
    name: str
    quantity: int
