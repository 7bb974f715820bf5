"""Sheet stock: size, grain and the thickness that the calipers say."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Id, Name, NotNegative, Point, Positive, Value
from venzo.core.snags import Remedy, Snag, Where, look, stop

Reading = Annotated[float, Field(gt=0, le=500)]


FAR_SHARE, FAR = 0.1, 1.0
"""Share of the middle reading, and mm, by which one that is no slip of the pen may be off."""


class Flaw(Value):
    """A place on the sheet that pieces keep clear of: a knot, a dent, a nail. Box in the sheet's frame, mm;
    ``clearance`` beyond it.
    """

    x: float
    y: float
    width: Annotated[float, Field(gt=0, le=20_000)]
    height: Annotated[float, Field(gt=0, le=20_000)]
    clearance: NotNegative = 0.0


class Stock(Value):
    """A kind of sheet on hand. Width lies along the machine's X, height along Y. Lengths mm.

    ``grain``: 0 along the width, 90 along the height, None without. ``readings``: caliper readings of the
    thickness; their mean replaces the nominal value.
    """

    id: Id
    name: Name
    width: Annotated[float, Field(gt=0, le=20_000)]
    height: Annotated[float, Field(gt=0, le=20_000)]
    quantity: Annotated[int, Field(ge=0, le=10_000)] = 1
    nominal: Annotated[float, Field(gt=0, le=500)]
    readings: Annotated[tuple[Reading, ...], Field(max_length=200)] = ()
    measured: date | None = None
    """The day of the readings."""
    margin: NotNegative = 10.0
    grain: Literal[0, 90] | None = None
    price: NotNegative | None = None
    """Price of one sheet; None: area times the material's price."""
    outline: Annotated[tuple[Point, ...], Field(max_length=500)] = ()
    """Corners of an irregular remnant inside the box; empty: the whole box."""
    flaws: Annotated[tuple[Flaw, ...], Field(max_length=100)] = ()
    lot: Id | None = None
    """The lot in the rack that it is; None: not from the rack."""

    @property
    def area(self) -> float:
        """Area of the sheet, mm2: of its outline where it has one."""
        if not self.outline:
            return self.width * self.height
        return (
            abs(
                sum(
                    a[0] * b[1] - b[0] * a[1]
                    for a, b in zip(self.outline, (*self.outline[1:], self.outline[0]), strict=True)
                )
            )
            / 2
        )

    @property
    def thickness(self) -> Positive:
        """Mean of the readings, else the nominal thickness, mm."""
        return sum(self.readings) / len(self.readings) if self.readings else self.nominal

    @property
    def spread(self) -> NotNegative:
        """Largest less smallest reading, mm."""
        return max(self.readings) - min(self.readings) if self.readings else 0.0


def _slips(readings: tuple[float, ...]) -> list[int]:
    """Indices of readings that are slips of the pen: a tenth off the middle one and a millimetre at least; of
    two that differ so, both.

    >>> _slips((17.6, 1.76, 17.7, 17.5)), _slips((17.6, 18.3, 17.5)), _slips((17.6, 16.7, 17.5))
    ([1], [], [])
    """
    if len(readings) < 2:
        return []
    ordered = sorted(readings)
    middle = ordered[len(ordered) // 2] if len(ordered) > 2 else sum(ordered) / 2
    far = max(FAR_SHARE * middle, min(FAR, 0.25 * middle))
    return [i for i, r in enumerate(readings) if abs(r - middle) > far]


def thickness_snags(stock: Stock, spread_limit: float, distance_share: float, setup: str = "") -> list[Snag]:
    """Judge the readings: none taken, spread too large, or far from nominal.

    ``spread_limit`` in mm; ``distance_share``: accepted distance from nominal as a share of it; ``setup``:
    for remedies.
    """
    where: Where = {"stock": stock.id}
    if not stock.readings:
        return [
            look(
                "stock.unmeasured",
                f"{stock.name}: thickness {stock.nominal:g} mm is nominal; measure it with calipers in"
                " several places",
                where,
            )
        ]
    odd = _slips(stock.readings)
    if odd:
        rest = [r for i, r in enumerate(stock.readings) if i not in odd]
        said = ", ".join(f"{stock.readings[i]:g}" for i in odd)
        words = (
            f"{stock.name}: the reading {said} mm is far off the others ({min(rest):g} to {max(rest):g} mm)"
            if rest
            else f"{stock.name}: the readings {said} mm are far apart"
        )
        out_of_it = stock.model_copy(update={"readings": tuple(rest)}).model_dump(mode="json")
        mend = (
            [
                Remedy(
                    label=f"Take {said} out",
                    command={"kind": "set-stock", "setup": setup, "stock": out_of_it},
                )
            ]
            if rest and setup
            else []
        )
        return [
            stop("stock.reading", f"{words}: a slip of the pen? Take it out, or measure again", where, *mend)
        ]
    out = []
    off = abs(stock.thickness - stock.nominal)
    if off > 0.5 * stock.nominal:
        out.append(
            stop(
                "stock.far-from-nominal",
                f"{stock.name}: readings average {stock.thickness:.2f} mm, nominal is {stock.nominal:g} mm;"
                " is a reading mistyped, or the wrong sheet on the table?",
                where,
            )
        )
    elif off > distance_share * stock.nominal:
        out.append(
            look(
                "stock.far-from-nominal",
                f"{stock.name}: {stock.thickness:.2f} mm is {off:.2f} mm from nominal {stock.nominal:g};"
                " slots that mate with it should be drawn for the measured value",
                where,
            )
        )
    if stock.spread > spread_limit:
        out.append(
            look(
                "stock.spread",
                f"{stock.name}: thickness varies by {stock.spread:.2f} mm over the sheet; the overshoot must"
                f" reach through the thickest place ({max(stock.readings):g} mm)",
                where,
            )
        )
    return out
