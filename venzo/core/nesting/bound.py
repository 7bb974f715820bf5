"""What can no layout beat? Fewest sheets and shortest length, from areas and from pieces that cannot share."""

from __future__ import annotations

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.offset import signed_area
from venzo.core.nesting.problem import NestProblem, SheetKind
from venzo.core.nesting.worth import Worth


def room(kind: SheetKind, spacing: float) -> float:
    """Area of a sheet in which pieces together with half the spacing around each have to find place (mm2).

    Half the spacing may stick out over the margin line, so the box counts with it; a keep-out counts as its own area.
    """
    if kind.outline:
        box = abs(signed_area(Contour.of(kind.outline).points()))
    else:
        box = max(0.0, kind.width - 2 * kind.margin + spacing) * max(0.0, kind.height - 2 * kind.margin + spacing)
    return box


def sheets_bound(problem: NestProblem, worth: Worth) -> int:
    """No layout of all pieces can use fewer sheets.

    The larger of two bounds: area (each piece with half the spacing around its outline, against the roomiest sheets first; Steiner's formula
    gives that area from below for any outline), and pieces of which no two can lie on one sheet (more than half its height and width each way).
    """
    grown = 0.0
    for p in problem.parts:
        if not p.fill:
            region = worth.regions[p.id]
            box = region.outline.bbox
            # a hole may take other pieces in, so the net area counts; the rim around it at least as that of its box's narrower side
            grown += p.quantity * (region.area if problem.part_in_hole and region.holes else region.area + problem.spacing / 2 * _hull_length(region.outline.points(), box))
    rooms = sorted((room(s, problem.spacing) for s in problem.sheets for _ in range(min(s.quantity, 20_000))), reverse=True)
    need, count = grown, 0
    for r in rooms:
        if need <= 1e-6:
            break
        need -= r
        count += 1
    return max(count, _alone(problem, worth))


def _hull_length(points, box) -> float:
    # the rim of half a spacing is at least as long as needed only around convex outlines; the box's two longer sides are a safe floor
    return 2 * max(box[2] - box[0], box[3] - box[1])


def _alone(problem: NestProblem, worth: Worth) -> int:
    """Pieces so large that no two of them share a sheet: more than half of the room in both directions, whichever way they lie.

    Solid convex-hull-like pieces only: the largest square inside is judged by the inscribed circle of the outline's net area; here simply rectangles
    (outline area equal to its box) are counted, for which the argument is exact.
    """
    widest = max((s.width - 2 * s.margin + problem.spacing for s in problem.sheets if s.quantity), default=0.0)
    highest = max((s.height - 2 * s.margin + problem.spacing for s in problem.sheets if s.quantity), default=0.0)
    n = 0
    for p in problem.parts:
        region = worth.regions[p.id]
        x0, y0, x1, y1 = region.outline.bbox
        if p.fill or region.holes or abs(region.area - (x1 - x0) * (y1 - y0)) > 1e-6 * region.area:
            continue
        least = min(x1 - x0, y1 - y0) + problem.spacing
        if 2 * least > max(widest, highest) + 1e-6:
            n += p.quantity
    return n


def shortest(problem: NestProblem, worth: Worth) -> float:
    """No layout of all pieces on a single rectangular sheet can reach less far along X (mm), spacing left out of account."""
    kind = problem.sheets[0]
    height = kind.height - 2 * kind.margin
    if height <= 0:
        return 0.0
    area = sum(worth.areas[p.id] * p.quantity for p in problem.parts if not p.fill)
    return kind.margin + area / height
