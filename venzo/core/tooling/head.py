"""A head setting: what an arc or a jet cuts with, and its cutting chart.

A chart is data: rows of material and thickness with the kerf they leave, how long a pierce takes, heights and
feed, each with its source. Between rows it is read on straight lines, outside them never.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.kerf.how import Kerf, Speed, Swirl
from venzo.core.model import Id, Name, NotNegative, Positive, Value
from venzo.core.snags import Snag, look, stop

Process = Literal["plasma", "fluid jet"]
Sort = Annotated[str, Field(min_length=1, max_length=80)]
LEVELS: tuple[float, ...] = (1.0, 0.8, 0.6, 0.4, 0.27)
"""Share of the chart's feed at the quality levels 1 (parting only) to 5 (finest) of a jet; common practice:
five levels, each noticeably slower.
"""


class ChartRow(Value):
    """One row of a cutting chart: mm, s, mm/min.

    ``sort``: the material as the chart calls it. ``pierce``: seconds; None: too thick to pierce, cuts begin
    at the sheet's edge.
    """

    sort: Sort
    thickness: Annotated[float, Field(gt=0, le=300)]
    kerf: Kerf
    feed: Speed
    pierce: Annotated[float, Field(ge=0, le=120)] | None = 0.0
    pierce_height: NotNegative = 3.8
    cut_height: NotNegative = 1.5
    source: Annotated[str, Field(min_length=1, max_length=200)] = "common practice"


class KerfMeasured(Value):
    """A kerf as coupons said it was: for a material and thickness, with the scatter of the measured sizes,
    mm.
    """

    sort: Sort
    thickness: Positive
    kerf: Kerf
    scatter: NotNegative
    sizes: Annotated[int, Field(ge=1, le=400)]
    on: date
    note: Annotated[str, Field(max_length=200)] = ""


class HeadSetting(Value):
    """One nozzle of a kerf table's head, with its chart. ``nozzle``: its bore, mm: another number than the
    kerf, which is wider.
    """

    id: Id
    name: Name
    process: Process
    nozzle: Annotated[float, Field(gt=0.05, le=10)]
    swirl: Swirl = "right"
    chart: Annotated[tuple[ChartRow, ...], Field(min_length=1, max_length=400)]
    measured: Annotated[tuple[KerfMeasured, ...], Field(max_length=400)] = ()
    """Newest last: the last that fits is taken in place of the chart's kerf."""
    price: NotNegative | None = None
    """Of a set of consumables; None: nobody has said."""
    starts: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    """Pierces that a set lasts."""
    note: Annotated[str, Field(max_length=500)] = ""

    @model_validator(mode="after")
    def _kerfs(self) -> HeadSetting:
        narrow = next((r for r in self.chart if r.kerf < self.nozzle * 0.8), None)
        if narrow is not None:
            raise ValueError(
                f"{self.name}: a kerf of {narrow.kerf:g} mm in {narrow.sort}, {narrow.thickness:g} mm, is"
                f" narrower than the nozzle's bore, {self.nozzle:g} mm; are the two swapped?"
            )
        return self

    @property
    def sorts(self) -> list[str]:
        """Materials that its chart knows."""
        return sorted({r.sort for r in self.chart})


@dataclass(frozen=True)
class Charted:
    """What a chart says of one material and thickness; lengths in mm, feeds in mm/min, times in s."""

    kerf: float
    feed: float
    pierce: float | None
    pierce_height: float
    cut_height: float
    source: str
    snags: tuple[Snag, ...] = ()


def charted(head: HeadSetting, sort: str, thickness: float) -> Charted:
    """Read a head's chart for a material and thickness.

    On straight lines between two rows; outside the chart's range the nearest row with a *look*; a material
    it does not know is a *stop*, with the first row's numbers so that something can be drawn.

    >>> rows = [ChartRow(sort="mild steel", thickness=t, kerf=1.4, feed=f, pierce=0.3)
    ...         for t, f in ((2.0, 5000), (4.0, 3000))]
    >>> head = HeadSetting(id="a", name="a", process="plasma", nozzle=1.1, chart=rows)
    >>> charted(head, "Mild steel", 3.0).feed
    4000.0
    """
    named = sort.strip().lower()
    rows = sorted((r for r in head.chart if r.sort.lower() == named), key=lambda r: r.thickness)
    snags: list[Snag] = []
    if not rows:
        known = ", ".join(head.sorts)
        snags.append(
            stop(
                "kerf.chart",
                f"{head.name} has no row for {sort or 'a material without a sort'} in its cutting chart (it"
                f" has {known}): add one, choose another head, or name the material's sort as the chart does",
            )
        )
        rows = sorted(head.chart, key=lambda r: r.thickness)[:1]
    low, high = rows[0].thickness, rows[-1].thickness
    if not snags and not low - 0.005 <= thickness <= high + 0.005:
        snags.append(
            look(
                "kerf.chart-range",
                f"{head.name}: its chart has {rows[0].sort} from {low:g} to {high:g} mm; {thickness:.2f} mm"
                " is outside, and the nearest row is taken: cut a coupon first, and add a row",
            )
        )
    row = _between(rows, thickness)
    kerf, source = row.kerf, row.source
    for m in head.measured:
        if m.sort.lower() == named and abs(m.thickness - thickness) <= 0.15 * thickness:
            kerf, source = m.kerf, f"measured {m.on.isoformat()} on {m.sizes} sizes"
    return Charted(kerf, row.feed, row.pierce, row.pierce_height, row.cut_height, source, tuple(snags))


def _between(rows: Sequence[ChartRow], thickness: float) -> ChartRow:
    if thickness <= rows[0].thickness:
        return rows[0]
    for a, b in pairwise(rows):
        if thickness <= b.thickness:
            t = (thickness - a.thickness) / (b.thickness - a.thickness) if b.thickness > a.thickness else 1.0
            mixed = {
                k: getattr(a, k) + (getattr(b, k) - getattr(a, k)) * t
                for k in ("kerf", "feed", "pierce_height", "cut_height")
            }
            pierce = None if a.pierce is None or b.pierce is None else a.pierce + (b.pierce - a.pierce) * t
            source = a.source if a.source == b.source else f"{a.source}; {b.source}"
            return b.model_copy(
                update={**mixed, "pierce": pierce, "thickness": thickness, "source": source[:200]}
            )
    return rows[-1]
