"""What can no layout beat? Fewest sheets, best yield and shortest length, from areas and from pieces that
cannot share.
"""

from __future__ import annotations

import math

from shapely import unary_union
from shapely.geometry import Polygon, box

from venzo.core.geometry.contour import Contour
from venzo.core.nesting.problem import NestProblem, SheetKind
from venzo.core.nesting.worth import Worth


def room(kind: SheetKind, spacing: float) -> float:
    """Area (mm2) in which the pieces of a sheet lie together with half the spacing around each, which may
    pass the margin line.

    Keep-outs that hold pieces at least half the spacing away take their own area out of it.
    """
    edge = (
        Polygon(Contour.of(kind.outline).points(0.05)) if kind.outline else box(0, 0, kind.width, kind.height)
    )
    inner = edge.buffer(spacing / 2 - kind.margin, join_style="mitre")
    out = [
        Polygon(Contour.of(k.shape).points(0.05)).buffer(0)
        for k in kind.keepouts
        if (spacing if k.clearance is None else k.clearance) >= spacing / 2
    ]
    return float((inner.difference(unary_union(out)) if out else inner).area)


def taken(area: float, spacing: float) -> float:
    """Least area (mm2) of a piece together with half the spacing around it, whatever its outline.

    Brunn and Minkowski: the square root of the area of a sum is at least the sum of the square roots.

    >>> taken(10_000, 0), round(taken(math.pi * 50**2, 10) / (math.pi * 55**2), 6)
    (10000.0, 1.0)
    """
    return (math.sqrt(area) + math.sqrt(math.pi) * spacing / 2) ** 2


def sheets_bound(problem: NestProblem, worth: Worth) -> int:
    """No layout of all pieces (fill pieces left out) can use fewer sheets: by area, and by pieces of which no
    two fit on one sheet.
    """
    need = sum(p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts if not p.fill)
    rooms = {s.id: room(s, problem.spacing) for s in problem.sheets}
    count = 0
    for kind in sorted(problem.sheets, key=lambda s: -rooms[s.id]):
        if need <= 1e-6 or rooms[kind.id] <= 0:
            break
        n = min(kind.quantity, math.ceil(need / rooms[kind.id] - 1e-9))
        need -= n * rooms[kind.id]
        count += n
    return max(count, _alone(problem, worth))


def best_yield(problem: NestProblem, worth: Worth) -> float:
    """No layout can have a higher material yield: net area over the least material the pieces take with half
    the spacing around each.
    """
    net = sum(p.quantity * worth.areas[p.id] for p in problem.parts)
    need = sum(p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts)
    share = max(
        (room(s, problem.spacing) / (s.width * s.height) for s in problem.sheets if s.quantity), default=1.0
    )
    return min(1.0, net / need * share) if need else 1.0


def _alone(problem: NestProblem, worth: Worth) -> int:
    """Rectangles whose shorter side is more than half of every sheet's longer one: no two of them share a
    sheet.
    """
    longest = max(
        (max(s.width, s.height) - 2 * s.margin + problem.spacing for s in problem.sheets if s.quantity),
        default=0.0,
    )
    n = 0
    for p in problem.parts:
        region = worth.regions[p.id]
        x0, y0, x1, y1 = region.outline.bbox
        square = (
            not p.fill and not region.holes and abs(region.area - (x1 - x0) * (y1 - y0)) < 1e-6 * region.area
        )
        if square and 2 * (min(x1 - x0, y1 - y0) + problem.spacing) > longest + 1e-6:
            n += p.quantity
    return n


def shortest(problem: NestProblem, worth: Worth) -> float:
    """No layout of all pieces on a single rectangular sheet can reach less far along X (mm)."""
    kind = problem.sheets[0]
    height = kind.height - 2 * kind.margin + problem.spacing
    if height <= problem.spacing:
        return 0.0
    area = sum(taken(worth.areas[p.id], problem.spacing) * p.quantity for p in problem.parts if not p.fill)
    return kind.margin + area / height - problem.spacing
