"""Text set as outlines: lines one under the other, along an arc, or as large as a box allows."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, Protocol

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.regions import regions
from venzo.core.snags import BadInput
from venzo.core.tolerances import CHORD

Align = Literal["left", "middle", "right"]


class SetLetter(Protocol):
    """A letter of a line: contours about its own origin, where that lies, its advance; mm."""

    @property
    def contours(self) -> list[Contour]:
        """About its own origin."""
        ...

    @property
    def x(self) -> float:
        """Where its origin lies on the line."""
        ...

    @property
    def y(self) -> float:
        """Over the baseline."""
        ...

    @property
    def advance(self) -> float:
        """To the next letter."""
        ...


class Typeface(Protocol):
    """A font, as far as setting text needs one."""

    def letters(self, text: str, cap_height: float) -> tuple[Sequence[SetLetter], float, list[str]]:
        """Letters of one line, its advance, letters that are missing."""
        ...


def set_lines(
    lines: Sequence[str],
    font: Typeface,
    cap_height: float,
    leading: float = 1.6,
    align: Align = "middle",
    curve: float = 0.0,
) -> tuple[list[Contour], list[str]]:
    """Lines about (0, 0): the block's middle in x, the first baseline at y 0 and each next ``leading`` cap
    heights lower.

    Args:
        lines: of text; empty ones leave their room.
        font: kerning and ligatures are its own.
        cap_height: mm.
        align: of lines among each other.
        curve: radius of the first baseline, mm: positive bends it up like a rainbow, negative like a bowl, 0
        straight. Each letter is turned about the middle of its advance.

    Returns:
        closed contours, overlapping letters of joined scripts made one, and the letters that the font lacks.

    Raises:
        BadInput: no text, or an arc too tight for its line.
    """
    out: list[list[Contour]] = []
    missing: list[str] = []
    sets = [(font.letters(line, cap_height) if line.strip() else ([], 0.0, [])) for line in lines]
    if not any(found for found, _a, _m in sets):
        raise BadInput("the text is empty; type at least one letter")
    widest = max(a for _f, a, _m in sets)
    for k, (found, advance, lacks) in enumerate(sets):
        missing += lacks
        drop = -k * leading * cap_height
        start = {"left": -widest / 2, "middle": -advance / 2, "right": widest / 2 - advance}[align]
        radius = curve + drop if curve else 0.0
        if curve and (radius * curve <= 0 or advance > 1.9 * math.pi * abs(radius)):
            raise BadInput(
                f"the line {lines[k]!r} is {advance:.0f} mm long: an arc of {abs(radius):.0f} mm radius is"
                " too tight for it; take a larger radius or smaller letters"
            )
        for g in found:
            if not curve:
                out.append([c.moved(start + g.x, drop + g.y) for c in g.contours])
                continue
            middle = start + g.x + g.advance / 2
            turn = -middle / radius  # clockwise along an arc that bends up
            x, y = radius * math.sin(-turn), radius * math.cos(turn) - curve
            own = [c.moved(-g.advance / 2, g.y).placed(x, y, math.degrees(turn)) for c in g.contours]
            out.append(own)
    return _joined(out), missing


def set_in_box(
    lines: Sequence[str],
    font: Typeface,
    width: float,
    height: float,
    leading: float = 1.6,
    align: Align = "middle",
) -> tuple[list[Contour], float, list[str]]:
    """Lines as large as a box of ``width`` x ``height`` mm allows, their drawn outlines centred on (0, 0);
    contours, cap height, missing letters.
    """
    one, missing = set_lines(lines, font, 10.0, leading, align)
    x0, y0, x1, y1 = _box(one)
    scale = min(width / (x1 - x0), height / (y1 - y0))
    cap = 10.0 * scale
    if not 0.5 <= cap <= 5000:
        raise BadInput(
            f"in a box of {width:g} x {height:g} mm the letters would be {cap:.2f} mm high; give a larger box"
            " or less text"
        )
    found, missing = set_lines(lines, font, cap, leading, align)
    x0, y0, x1, y1 = _box(found)
    return [c.moved(-(x0 + x1) / 2, -(y0 + y1) / 2) for c in found], cap, missing


def _box(contours: Sequence[Contour]) -> tuple[float, float, float, float]:
    b = np.array([c.bbox for c in contours])
    return float(b[:, 0].min()), float(b[:, 1].min()), float(b[:, 2].max()), float(b[:, 3].max())


def _joined(letters: Sequence[Sequence[Contour]]) -> list[Contour]:
    """All contours; where letters overlap (joined scripts), the outlines of what they cover together,
    refitted.
    """
    solids = [shapely.union_all([r.polygon(CHORD).buffer(0) for r in regions(list(g))]) for g in letters]
    tree = shapely.STRtree(solids)
    hits = tree.query(solids, predicate="intersects")
    overlapping = {int(i) for i, j in hits.T if i != j}
    out = [c for k, g in enumerate(letters) if k not in overlapping for c in g]
    if overlapping:
        whole = shapely.union_all([solids[k] for k in sorted(overlapping)])
        for p in getattr(whole, "geoms", [whole]):
            if isinstance(p, Polygon):
                out += [
                    fit(shapely.get_coordinates(r)[:-1], True)
                    for r in (p.exterior, *p.interiors)
                    if Polygon(r).area > 1e-3
                ]
    return [c for c in out if abs(c.area) > 1e-3]
