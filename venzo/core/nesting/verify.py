"""Is a layout truly feasible? An independent judge on shapely polygons, sharing nothing with the search."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.prepared import prep

from venzo.core.geometry.contour import Contour, rotation_matrix
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.problem import NestPart, NestProblem, Placement, SheetKind

TOLERANCE = 0.004
"""mm by which a stated distance may be undercut (chords under arcs and rounding)."""
SLIVER = 0.01
"""mm2 of overlap that counts as touching."""


def usable(sheet: SheetKind) -> BaseGeometry:
    """The sheet inside its margin."""
    edge = (
        Polygon(Contour.of(sheet.outline).points(0.001))
        if sheet.outline
        else box(0, 0, sheet.width, sheet.height)
    )
    return edge.buffer(-sheet.margin, join_style="mitre")


def _own_polygon(part: NestPart, with_holes: bool) -> Polygon:
    """The part in its own frame, chords within 0.001 mm."""

    def make() -> Polygon:
        region = part.region()
        return region.polygon(0.001) if with_holes else Polygon(region.outline.points(0.001))

    return memo("solid", digest(part.outline, part.holes, with_holes), make)


def turned_right(problem: NestProblem, part_id: str, placement: Placement) -> bool:
    """Is the placement's rotation among those the part allows, grain included?"""
    part = next(p for p in problem.parts if p.id == part_id)
    sheet = next(s for s in problem.sheets if s.id == placement.sheet)
    if part.rotations != "free" and all(
        abs((placement.rotation - a + 180) % 360 - 180) > 1e-3 for a in part.rotations
    ):
        return False
    if part.grain is not None and sheet.grain is not None:
        off = (part.grain + placement.rotation - sheet.grain) % 180
        return min(off, 180 - off) < 1e-3
    return True


def _lying(solids: Mapping[str, Polygon], placements: Sequence[Placement]) -> list[Polygon]:
    """The parts where they lie, all of their corners moved in one go."""
    polygons = np.array([solids[p.part] for p in placements], dtype=object)
    if not len(polygons):
        return []
    corners, of = shapely.get_coordinates(polygons, return_index=True)
    turns = np.array([rotation_matrix(p.rotation) for p in placements])
    turns[:, :, 0] *= np.where([p.mirrored for p in placements], -1.0, 1.0)[:, None]
    moves = np.array([(p.x, p.y) for p in placements])
    moved = (turns[of] @ corners[:, :, None])[:, :, 0] + moves[of]
    return list(shapely.set_coordinates(polygons, moved))


FAULTS: tuple[tuple[str, str], ...] = (
    ("overlaps", "pieces overlap"),
    ("outside the margin", "off the sheet"),
    ("keep-out", "over a screw, a clamp or a flaw"),
    ("needed", "pieces too near"),
    ("is not allowed", "turned as it may not be"),
    ("mirrored", "turned over"),
    ("on hand", "sheet not on hand"),
    ("has no copy", "sheet not on hand"),
    ("not in this setup", "not cut here"),
    ("twice", "a piece laid twice"),
)
"""What is wrong, in a few words, by what the judge says; the gravest first."""


def fault_in_short(said: Sequence[str]) -> str:
    """The gravest of several faults in a few words.

    >>> fault_in_short(["rib: 4.00 mm from rail, 10 mm needed", "rib: overlaps rail"])
    'pieces overlap'
    """
    return next((short for words, short in FAULTS if any(words in s for s in said)), "not as it may lie")


def faults(problem: NestProblem, placements: list[Placement]) -> list[tuple[int, str]]:
    """Every fault of a layout: (index of the placement, what is wrong). Empty means feasible."""
    return [(i, why) for i, why, _other in faults_between(problem, placements)]


def faults_between(problem: NestProblem, placements: list[Placement]) -> list[tuple[int, str, int | None]]:
    """Every fault of a layout as ``faults`` says it, each with the other piece where two are too near."""
    parts = {p.id: p for p in problem.parts}
    solids = {p.id: _own_polygon(p, problem.part_in_hole) for p in problem.parts}
    sheets = {s.id: s for s in problem.sheets}
    lying = _lying(solids, placements)
    out: list[tuple[int, str, int | None]] = []
    by_sheet: dict[tuple[str, int], list[tuple[int, Polygon]]] = defaultdict(list)
    seen: Counter[tuple[str, int]] = Counter()
    for i, pl in enumerate(placements):
        by_sheet[pl.sheet, pl.sheet_copy].append((i, lying[i]))
        seen[pl.part, pl.copy_] += 1
        if not turned_right(problem, pl.part, pl):
            out.append((i, f"{pl.part}: a turn of {pl.rotation:g} degrees is not allowed", None))
        if pl.mirrored and not parts[pl.part].mirror:
            out.append((i, f"{pl.part}: may not be mirrored", None))
        if not 0 <= pl.sheet_copy < sheets[pl.sheet].quantity:
            out.append((i, f"{pl.part}: sheet {pl.sheet} has no copy {pl.sheet_copy}", None))
        if seen[pl.part, pl.copy_] > 1 or not 0 <= pl.copy_ < parts[pl.part].quantity:
            out.append((i, f"{pl.part}: copy {pl.copy_} is placed twice or not ordered", None))
    for (sheet_id, _copy), placed in by_sheet.items():
        sheet = sheets[sheet_id]
        inner = prep(usable(sheet).buffer(TOLERANCE))
        keepouts = [
            (
                Polygon(Contour.of(k.shape).points(0.001)),
                problem.spacing if k.clearance is None else k.clearance,
            )
            for k in sheet.keepouts
        ]
        polygons = [p for _i, p in placed]
        tree = STRtree(polygons)
        for k, (i, polygon) in enumerate(placed):
            name = placements[i].part
            if not inner.covers(polygon):
                out.append((i, f"{name}: outside the margin of sheet {sheet_id}", None))
            for shape, clearance in keepouts:
                if (
                    polygon.distance(shape) < clearance - TOLERANCE
                    or polygon.intersection(shape).area > SLIVER
                ):
                    near = f"{name}: nearer than {clearance:g} mm to a keep-out of sheet {sheet_id}"
                    out.append((i, near, None))
            for j in tree.query(polygon, predicate="dwithin", distance=problem.spacing + 0.01):
                if j <= k:
                    continue
                gap = polygon.distance(polygons[j])
                if gap < problem.spacing - TOLERANCE or polygon.intersection(polygons[j]).area > SLIVER:
                    other = placements[placed[j][0]].part
                    how = (
                        f"{gap:.2f} mm from {other}, {problem.spacing:g} mm needed"
                        if gap > 0
                        else f"overlaps {other}"
                    )
                    out.append((i, f"{name}: {how}", placed[j][0]))
    return out
