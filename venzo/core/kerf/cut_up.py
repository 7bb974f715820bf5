"""What is cut beside the parts: the line that parts off a remnant, and lines that cut the skeleton up.

Lines of the skeleton are cut before the outlines, while there is metal on both sides: one between two parts
begins a kerf beside the first part's line and ends on the second's, so that the outlines' own kerfs part it.
The remnant is parted off last of all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from venzo.core.cuts.moves import LINE, RAPID, row
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_cuts import KerfCut, KerfCuts
from venzo.core.kerf.kerf_lines import Body

SKELETON, REMNANT = "skeleton line", "remnant line"
WORTH = 60.0
"""mm: a strip beyond the last part that is narrower is not parted off."""
LEAST = 3.0
"""Kerfs: a shorter stretch between two parts is left."""
BESIDE, AT_EDGE = 0.95, 0.45
"""Kerfs from an outline's line, and from the sheet's edge, at which a stretch begins: kerf meets kerf."""


def cut_up_lines(
    bodies: Sequence[Body], how: KerfHow, plate: Polygon, group: int, avoid: Sequence[Polygon] = ()
) -> list[KerfCut]:
    """The cuts that part off a remnant (``how.cut_up`` is ``remnant``), or cut the skeleton up as well.

    Args:
        bodies: the parts on the sheet.
        how: what was decided; ``cut_up_every`` mm between the lines of a skeleton.
        plate: the sheet's metal.
        group: number of the first line among the groups of cuts.
        avoid: clamps and the like.
    """
    if how.cut_up == "none" or not bodies:
        return []
    x0, y0, x1, y1 = plate.bounds
    taken = shapely.union_all([*(Polygon(b.polygon.exterior).buffer(how.kerf / 2) for b in bodies), *avoid])
    right = max(b.region.outline.bbox[2] for b in bodies)
    at: list[tuple[float, str]] = []
    beyond = right + how.lead + 2 * how.kerf
    if x1 - beyond >= WORTH:
        at.append((beyond, REMNANT))
    if how.cut_up == "skeleton":
        n = int((min(beyond, x1) - x0) // how.cut_up_every)
        at += [(x0 + how.cut_up_every * k, SKELETON) for k in range(1, n + 1)]
        at = [p for p in at if p[1] == REMNANT or beyond - p[0] > how.cut_up_every / 3]
    out: list[KerfCut] = []
    for x, kind in at:
        through = LineString([(x, y0 - 10), (x, y1 + 10)]).intersection(plate).difference(taken)
        for part in shapely.get_parts(through):
            if part.geom_type == "LineString" and part.length > LEAST * how.kerf:
                out.append(_stretch(part, how, plate, f"{kind} {len(out) + 1}", group + len(out)))
    return out


def _stretch(part: LineString, how: KerfHow, plate: Polygon, name: str, group: int) -> KerfCut:
    """One stretch, from below: begun inside, ended on the next part's line or off the sheet."""
    (ax, ay), (_bx, by) = part.coords[0], part.coords[-1]
    low, high = min(ay, by), max(ay, by)
    at_edge, off = (plate.exterior.distance(shapely.Point(ax, y)) < 1e-6 for y in (low, high))
    begin = low + (AT_EDGE if at_edge else BESIDE) * how.kerf
    end = high + how.kerf if off else high
    rows = [row(RAPID, ax, begin, 0.0)]
    if how.pierce > 0 and not how.edge_start:
        rows.append(row(LINE, ax, begin, 0.0, -how.pierce))
    rows.append(row(LINE, ax, end, 0.0, how.feed))
    still = frozenset({len(rows) - 1}) if how.still else frozenset()
    kind = name.rsplit(" ", 1)[0]
    return KerfCut(name, -1, kind, kind == SKELETON, np.array(rows), group, still=still)


def before_outlines(planned: KerfCuts, lines: Sequence[KerfCut]) -> KerfCuts:
    """A sheet's cuts with such lines among them: every outline waits for those of the skeleton, the remnant's
    for everything.
    """
    if not lines:
        return planned
    n = len(planned.cuts)
    early = frozenset(n + k for k, line in enumerate(lines) if line.contour == SKELETON)
    cuts = [c if c.inside else replace(c, after=c.after | early) for c in planned.cuts]
    everything = frozenset(range(n)) | early
    last = [line if line.contour == SKELETON else replace(line, after=everything) for line in lines]
    return replace(planned, cuts=[*cuts, *last])
