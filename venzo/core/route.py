"""How does a setup stand at each station of its way through the shop? Reckoned once, for screens and lists.

The stations, and what is said at which: a rule's first word names its matter.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from venzo.core.model import Document
from venzo.core.snags import Snag

Station = Literal["parts", "stock", "nest", "cuts", "prove", "yield", "release"]
Mark = Literal["untouched", "in hand", "held up", "clear"]
MATTERS: dict[Station, tuple[str, ...]] = {
    "parts": ("intake", "parts", "joint"),
    "stock": ("stock", "table", "zero"),
    "nest": ("nest", "turn", "index"),
    "cuts": ("plan", "cuts", "feeds", "carve", "holding", "order", "choice", "cutters", "kerf", "relief"),
    "prove": ("proof",),
    "yield": (),
    "release": ("release",),
}


class Stand(Document):
    """A station: its matters, its mark, and the stops and looks said there. At Prove and Release what the
    programs themselves say comes on top, once they are read back.
    """

    station: Station
    matters: tuple[str, ...]
    mark: Mark
    stops: int
    looks: int


class Facts(Document):
    """What the marks follow from: counts of parts, of stock lines in use and of those measured, of pieces
    laid, whether there is a layout, and pieces or features that no program cuts.
    """

    parts: int
    stock: int
    measured: int
    pieces: int
    nested: bool
    left_out: int


def stands(snags: Sequence[Snag], facts: Facts) -> list[Stand]:
    """How each station stands.

    >>> [s.mark for s in stands([], Facts(parts=3, stock=1, measured=0, pieces=0, nested=False, left_out=0))]
    ['clear', 'in hand', 'untouched', 'untouched', 'untouched', 'untouched', 'untouched']
    """
    return [_stand(station, snags, facts) for station in MATTERS]


def _stand(station: Station, snags: Sequence[Snag], facts: Facts) -> Stand:
    everywhere = station == "release" and facts.pieces > 0
    said = [s for s in snags if everywhere or s.rule.split(".")[0] in MATTERS[station]]
    stops = sum(s.severity == "stop" for s in said)
    looks = sum(s.severity == "look" for s in said)
    mark = _mark(station, stops, looks, facts)
    return Stand(station=station, matters=MATTERS[station], mark=mark, stops=stops, looks=looks)


def _mark(station: Station, stops: int, looks: int, facts: Facts) -> Mark:
    if station == "nest" and not facts.nested:
        return "untouched"
    if stops:
        return "held up"
    if station == "parts":
        return "clear" if facts.parts else "untouched"
    if station == "stock":
        if not facts.stock:
            return "untouched"
        return "clear" if facts.measured == facts.stock else "in hand"
    if not facts.pieces:
        return "untouched"
    # what is said of other stations is looked at there
    looked = looks and station != "release"
    return "in hand" if looked or (station == "prove" and facts.left_out) else "clear"


def go_on(found: Sequence[Stand]) -> Station:
    """Where to continue: the first station that is held up, else the first that is not clear.

    >>> go_on(stands([], Facts(parts=3, stock=1, measured=1, pieces=0, nested=False, left_out=0)))
    'nest'
    """
    for marks in (("held up",), ("in hand", "untouched")):
        for s in found:
            if s.mark in marks:
                return s.station
    return "release"
