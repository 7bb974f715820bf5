"""How well do the lengths of a cut meet where stock was moved along between them? Worst cases add up."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from venzo.core.faces.meeting import Meeting, moved
from venzo.core.faces.registration import Errors
from venzo.core.indexing.pins import NEAREST
from venzo.core.indexing.positions import FenceMark, Indexing, IndexPins
from venzo.core.model import Point

MARK = 0.3
"""mm; how well a line is set to a mark by eye (common practice)."""


def lengths_meet(indexing: Indexing, before: int, errors: Errors, places: Sequence[Point]) -> Meeting | None:
    """How far lengths made at a position and the next are off each other at the worst of ``places`` (mm, on
    the stock); None where too few pins hold it. The first position is that of the zero: only what is laid
    anew adds.
    """
    layings = 2 if before else 1
    if isinstance(indexing.brought, FenceMark):
        return _along_a_fence(indexing, layings, errors, places)
    return _on_pins(indexing.brought, indexing, before, errors, places)


def _along_a_fence(indexing: Indexing, layings: int, errors: Errors, places: Sequence[Point]) -> Meeting:
    items = (
        ("lines set to the mark", layings * MARK),
        ("edge along the fence", layings * errors.edge),
    )
    return Meeting(sum(mm for _w, mm in items), 0.0, items)


def _on_pins(
    brought: IndexPins, indexing: Indexing, before: int, errors: Errors, places: Sequence[Point]
) -> Meeting | None:
    if len(brought.pins) < 2 or math.dist(*(p.at for p in brought.pins)) < NEAREST:
        return None
    play = off = 0.0
    for k in (before, before + 1):
        if k == 0:
            continue
        shift = np.array(indexing.shift(k))
        at = np.array([p.at for p in brought.pins]) + shift
        # a pin has play in the stock and in the spoilboard
        play += moved(at, [p.fit for p in brought.pins], places)
        off += moved(at, [2 * errors.placing] * len(at), places)
    items = (("play of the pins in their holes", play), ("holes off their places", off))
    return Meeting(play + off, 0.0, items)
