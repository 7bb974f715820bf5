"""A drawing of a part's back: which way it lies on the part, told by its outline, and what it cuts there."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.model import Name, NotNegative, Value
from venzo.core.parts.shape import Feature, Shape
from venzo.core.snags import BadInput
from venzo.core.tolerances import LIKE

SeenFrom = Literal["the back", "the front"]
Quarter = Literal[0, 90, 180, 270]
QUARTERS: tuple[Quarter, ...] = (0, 90, 180, 270)
Row = tuple[float, float, float]
MOST_LINES, MOST_ROWS = 400, 4000


class BackLine(Value):
    """A line that is cut into the back: its kind, its vertices with bulges in the part's frame, mm, as if
    seen through the part, and its depth, mm, where the drawing gives one.
    """

    feature: Literal["pocket", "groove", "engraving", "drilling"]
    rows: Annotated[tuple[Row, ...], Field(min_length=2, max_length=MOST_ROWS)]
    closed: bool = True
    depth: NotNegative | None = None


class BackDrawn(Value):
    """What a drawing of its back cuts into a part.

    ``seen``: from which side it is drawn; ``turn``: how far it lies turned on the part, counter-clockwise as
    seen from the front; ``also``: other turns in which its outline fits as well.
    """

    kind: Literal["back"] = "back"
    name: Name
    seen: SeenFrom = "the back"
    turn: Quarter = 0
    also: tuple[Quarter, ...] = ()
    lines: Annotated[tuple[BackLine, ...], Field(min_length=1, max_length=MOST_LINES)]


def back_features(a: BackDrawn, shape: Shape) -> tuple[Feature, ...]:
    """The features that a drawing of its back gives a part, named after those it has."""
    taken, out = {f.name for f in shape.features}, []
    for line in a.lines:
        name = next(n for k in range(1, 10_000) if (n := f"{line.feature} {k}") not in taken)
        taken.add(name)
        contour = Contour.of(line.rows, line.closed)
        own = contour.oriented(True) if line.closed else contour
        out.append(Feature(line.feature, name, own, line.depth, face="back"))
    return tuple(out)


def laid_on(name: str, part: Shape, back: Shape, seen: SeenFrom, turn: Quarter | None = None) -> BackDrawn:
    """A drawing of the back laid on a part by its outline: as it is, else turned by quarters; ``turn``: so
    and no other way. A drawing seen from the back is mirrored about its upright middle first.

    Raises:
        BadInput: its outline fits in none, it has holes that the part has not, or it cuts nothing.
    """
    fits = [q for q in QUARTERS if _fits(part.region, _placed(back, seen, q).region)]
    wanted = [q for q in fits if turn in (None, q)]
    if not wanted:
        w, h = part.size
        u, v = back.size
        turned = f" turned by {turn} degrees" if turn is not None else ""
        raise BadInput(
            f"{name}: its outline, {u:.2f} x {v:.2f} mm, does not lie on the part's, {w:.2f} x {h:.2f} mm,"
            f"{turned} within {LIKE:g} mm; draw the back with the same outline and the same holes, or say"
            " from which side it is seen"
        )
    laid = _placed(back, seen, wanted[0])
    if not laid.features:
        raise BadInput(
            f"{name}: nothing in it is cut into the back; put pockets, grooves, engravings or drillings on"
            " layers whose names say so"
        )
    if len(laid.features) > MOST_LINES:
        raise BadInput(
            f"{name}: its back has more than {MOST_LINES} lines ({len(laid.features)}); leave some out"
        )
    lines = tuple(_line(name, f) for f in laid.features)
    also = tuple(q for q in fits if q != wanted[0])
    return BackDrawn(name=name[:200], seen=seen, turn=wanted[0], also=also, lines=lines)


def _line(name: str, f: Feature) -> BackLine:
    rows = tuple(
        (round(float(x), 6), round(float(y), 6), round(float(b), 9)) for x, y, b in f.contour.vertices
    )
    if len(rows) > MOST_ROWS:
        raise BadInput(f"{name}: {f.name} has {len(rows)} points, more than {MOST_ROWS}; simplify it")
    return BackLine(feature=f.kind, rows=rows, closed=f.contour.closed, depth=f.depth)  # type: ignore[arg-type]


def _placed(back: Shape, seen: SeenFrom, turn: Quarter) -> Shape:
    """A drawing of the back seen through the part, turned, its box in the part's corner."""
    mirrored = seen == "the back"
    box = back.region.outline.placed(0, 0, turn, mirrored).bbox

    def at(c: Contour) -> Contour:
        return c.placed(-box[0], -box[1], turn, mirrored)

    outline, *holes = (at(c) for c in back.region.loops)
    region = Region(outline.oriented(True), tuple(h.oriented(False) for h in holes))
    return Shape(region, back.names, tuple(f.changed(at) for f in back.features))


def _fits(part: Region, back: Region) -> bool:
    """Do outline and holes lie on each other, every point within LIKE?"""
    if len(part.holes) != len(back.holes):
        return False
    a, b = part.outline.bbox, back.outline.bbox
    if np.abs(np.array(a) - np.array(b)).max() > 2 * LIKE:
        return False
    apart = _solid(part).symmetric_difference(_solid(back))
    return bool(apart.buffer(-LIKE).is_empty)


def _solid(region: Region) -> Polygon:
    return region.polygon(LIKE / 4).buffer(0)
