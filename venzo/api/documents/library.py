"""The shop library, and what is told of cutters."""

from __future__ import annotations

from typing import Literal

from venzo.core.feeds.windows import Window
from venzo.core.model import Document, Family, Point
from venzo.core.snags import Snag
from venzo.core.tooling.cutter import Cutter


class OfferDocument(Document):
    """What a line of a file of cutters would do."""

    line: int
    action: Literal["new", "merge", "same"]
    says: str
    into: str | None
    cutter: Cutter


class FeedsProposed(Document):
    """A cutter that got feeds, and for what."""

    cutter: str
    families: list[Family]


class OnRun(Document):
    """What a feed comes to on a run of some length, mm and mm/min."""

    length: float
    feed: float


class AdviceDocument(Document):
    """What a cutter does at a speed, feed and engagement. mm, mm/min, m/min, mm3/s, W, N; ``available`` None:
    the spindle's curve is not known.
    """

    rpm: float
    feed: float
    plunge: float
    chip_load: float
    chip_thickness: float
    surface_speed: float
    window: Window
    depth: float
    width: float
    step_down: float
    step_reason: str
    plunge_reason: str
    source: str
    energy: float
    energy_source: str
    removal: float
    power: float
    available: float | None
    force: float
    mean_force: float
    bend: float
    snags: tuple[Snag, ...]
    flutes: int
    diameter: float
    rpm_range: Point
    run_up: float
    reached: list[OnRun]
    silhouette: list[Point]
    caution: str
