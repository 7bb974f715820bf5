"""Surfaces made without a modeller: forms over closed outlines and along lines, put together one by one."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from venzo.core.geometry.contour import Array, Contour
from venzo.core.model import Name, Point, Value, digest

Length = Annotated[float, Field(ge=0.01, le=20_000)]
High = Annotated[float, Field(ge=0.01, le=500)]
Together = Literal["add", "higher", "lower", "cut"]
"""How a form meets what was there before: added to it, the higher or the lower of both, or taken off it."""
TOGETHER: tuple[Together, ...] = ("add", "higher", "lower", "cut")
FormKind = Literal["dome", "dish", "ramp", "plateau", "rounded edge", "bead", "swept section"]
"""Forms that need no picture."""
SAGITTA = 0.01
"""mm: a round section is followed by chords within this."""
MOST = 24
"""Forms of one surface."""
VERSION = "formed-2"
Row = tuple[float, float, float]


class Drawn(Value):
    """Contours of the part by name: its outline, or closed and open lines of its features. ``inset``: moved
    inwards, mm (below 0: outwards).
    """

    kind: Literal["drawn"] = "drawn"
    names: Annotated[tuple[Name, ...], Field(min_length=1, max_length=400)]
    inset: Annotated[float, Field(ge=-500, le=2000)] = 0.0


class Rectangle(Value):
    """``at``: its lower left corner on the part, mm; ``corner``: radius of its corners."""

    kind: Literal["rectangle"] = "rectangle"
    at: Point
    size: tuple[Length, Length]
    corner: Annotated[float, Field(ge=0, le=5000)] = 0.0


class Ellipse(Value):
    """``at``: lower left of its box on the part, mm."""

    kind: Literal["ellipse"] = "ellipse"
    at: Point
    size: tuple[Length, Length]


class Whole(Value):
    """The field itself, whatever it becomes."""

    kind: Literal["field"] = "field"


Place = Annotated[Drawn | Rectangle | Ellipse, Field(discriminator="kind")]
Where = Annotated[Whole | Drawn | Rectangle | Ellipse, Field(discriminator="kind")]


class Form(Value):
    """What every form has: ``on`` which outline or line, and how it is put together with those before it."""

    kind: str
    on: Where = Whole()
    together: Together = "add"


class Dome(Form):
    """Rises in a round section from its outline to ``height``; ``rise``: over so much, mm, level beyond (a
    cushion); None: up to its middle. Over a circle it is a spherical cap.
    """

    kind: Literal["dome"] = "dome"
    height: High = 4.0
    rise: Length | None = None


class Dish(Form):
    """A dome upside down: ``depth`` below its outline."""

    kind: Literal["dish"] = "dish"
    depth: High = 4.0
    rise: Length | None = None


class Ramp(Form):
    """A plane from ``low`` to ``high`` over its outline's extent along ``angle``, degrees from X."""

    kind: Literal["ramp"] = "ramp"
    low: Annotated[float, Field(ge=-500, le=500)] = 0.0
    high: Annotated[float, Field(ge=-500, le=500)] = 4.0
    angle: Annotated[float, Field(ge=-360, le=360)] = 0.0


class Plateau(Form):
    """Level at ``height``; ``draft``: how far its walls lean inwards, degrees (0: upright)."""

    kind: Literal["plateau"] = "plateau"
    height: High = 3.0
    draft: Annotated[float, Field(ge=0, le=85)] = 10.0


class RoundedEdge(Form):
    """Takes the edge inside its outline off in a quarter round of ``radius``."""

    kind: Literal["rounded edge"] = "rounded edge"
    radius: High = 3.0


class Bead(Form):
    """A rounded strip along its line, ``width`` wide and ``height`` high."""

    kind: Literal["bead"] = "bead"
    width: Length = 6.0
    height: High = 3.0


class Texture(Form):
    """A picture of heights laid side by side over its outline. ``surface``: digest of the kept picture;
    ``tile``: width of one, mm; ``height``: from black to white.
    """

    kind: Literal["texture"] = "texture"
    name: Name
    surface: Annotated[str, Field(pattern="^[0-9a-f]{32}$")]
    tile: Annotated[float, Field(ge=1, le=5000)] = 40.0
    height: High = 1.0


class SweptSection(Form):
    """A section carried along its line. ``section``: (across, height), mm, across ascending: left of the line
    as it was drawn is above 0.
    """

    kind: Literal["swept section"] = "swept section"
    section: Annotated[tuple[Point, ...], Field(min_length=2, max_length=200)] = (
        (-6.0, 0.0),
        (-3.0, 2.0),
        (0.0, 1.0),
        (3.0, 2.0),
        (6.0, 0.0),
    )

    @model_validator(mode="after")
    def _goes_on(self) -> SweptSection:
        across = [a for a, _h in self.section]
        for a, b in pairwise(across):
            if b <= a:
                raise ValueError(f"a section goes on from left to right: {b:g} mm stands after {a:g} mm")
        if max(abs(h) for _a, h in self.section) > 500 or max(abs(a) for a in across) > 5000:
            raise ValueError("a section reaches 5000 mm across and 500 mm up or down at most")
        return self


AForm = Annotated[
    Dome | Dish | Ramp | Plateau | RoundedEdge | Bead | Texture | SweptSection, Field(discriminator="kind")
]
ALONG = (Bead, SweptSection)
"""Forms that follow a line; the others fill closed outlines."""


class Line(Value):
    """A contour in the part's frame: (x, y, bulge)."""

    rows: tuple[Row, ...]
    closed: bool = True

    @classmethod
    def of(cls, contour: Contour) -> Line:
        """A contour as it is kept."""
        rows = tuple((float(x), float(y), float(b)) for x, y, b in contour.rows())
        return cls(rows=rows, closed=contour.closed)

    @property
    def contour(self) -> Contour:
        """The inverse of ``of``."""
        return Contour.of(self.rows, self.closed)


class Laid(Value):
    """A form with the outlines or lines it lies on."""

    form: AForm
    lines: tuple[Line, ...]


class Formed(Value):
    """A surface made of forms over a field, level 0 where none lies; mm, in the part's frame."""

    field: Line
    laid: tuple[Laid, ...]

    @property
    def key(self) -> str:
        """Digest of all that the surface follows from."""
        return digest(VERSION, self)


def cap(inward: Array, over: float, height: float) -> Array:
    """Height of a round section ``inward`` mm from its rim that rises to ``height`` over ``over`` mm: an arc
    of a circle, or where it is higher than wide a quarter of an ellipse.

    >>> cap(np.array([0.0, 5.0, 10.0, 12.0]), 10.0, 5.0).round(4).tolist()
    [0.0, 3.9564, 5.0, 5.0]
    """
    away = np.clip(over - inward, 0.0, over)
    if height <= over:
        radius = (over**2 + height**2) / (2 * height)
        return np.maximum(0.0, np.sqrt(np.maximum(0.0, radius**2 - away**2)) - (radius - height))
    return height * np.sqrt(np.maximum(0.0, 1 - (away / over) ** 2))


def steps_of_cap(over: float, height: float, widest: float) -> list[float]:
    """How far from the rim a round section is to be parted so that chords follow it within ``SAGITTA``, where
    that is closer than ``widest`` mm: near a steep rim.

    >>> [round(d, 2) for d in steps_of_cap(10.0, 10.0, 0.4)]
    [0.04, 0.15, 0.34, 0.6, 0.94]
    """
    tall = height > over
    radius = height if tall else (over**2 + height**2) / (2 * height)
    reach = over if tall else radius
    steepest = math.pi / 2 if tall else math.asin(min(1.0, over / radius))
    n = max(1, math.ceil(steepest / (2 * math.acos(1 - min(1.0, SAGITTA / radius)))))
    out: list[float] = []
    for k in range(1, n):
        d = over - reach * math.sin(steepest * (1 - k / n))
        if d - (out[-1] if out else 0.0) > widest:
            break
        out.append(d)
    return out


def rounded(inward: Array, radius: float) -> Array:
    """What a rounded edge takes off ``inward`` mm from its outline (below 0).

    >>> rounded(np.array([0.0, 3.0]), 3.0).tolist()
    [-3.0, 0.0]
    """
    d = np.clip(inward, 0.0, radius)
    return np.sqrt(np.maximum(0.0, radius**2 - (radius - d) ** 2)) - radius
