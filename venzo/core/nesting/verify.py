"""Is a layout truly feasible? An independent judge on shapely polygons, sharing nothing with the search."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

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


def faults_between(
    problem: NestProblem, placements: Sequence[Placement], remembered: bool = False
) -> list[tuple[int, str, int | None]]:
    """Every fault of a layout as ``faults`` says it, each with the other piece where two are too near;
    ``remembered``: what meets on a sheet is not asked again while nothing on it changes.
    """
    parts = {p.id: p for p in problem.parts}
    sheets = {s.id: s for s in problem.sheets}
    out: list[tuple[int, str, int | None]] = []
    by_sheet: dict[tuple[str, int], list[int]] = defaultdict(list)
    seen: Counter[tuple[str, int]] = Counter()
    for i, pl in enumerate(placements):
        by_sheet[pl.sheet, pl.sheet_copy].append(i)
        seen[pl.part, pl.copy_] += 1
        if not turned_right(problem, pl.part, pl):
            out.append((i, f"{pl.part}: a turn of {pl.rotation:g} degrees is not allowed", None))
        if pl.mirrored and not parts[pl.part].mirror:
            out.append((i, f"{pl.part}: may not be mirrored", None))
        if not 0 <= pl.sheet_copy < sheets[pl.sheet].quantity:
            out.append((i, f"{pl.part}: sheet {pl.sheet} has no copy {pl.sheet_copy}", None))
        if seen[pl.part, pl.copy_] > 1 or not 0 <= pl.copy_ < parts[pl.part].quantity:
            out.append((i, f"{pl.part}: copy {pl.copy_} is placed twice or not ordered", None))
    laid = _Laid(problem, {}, {})
    for (sheet, _copy), at in by_sheet.items():
        here = [placements[i] for i in at]
        find = partial(_on_sheet, laid, sheets[sheet], here)
        met = memo("on sheet", _key_of_sheet(laid, sheets[sheet], here), find) if remembered else find()
        out += [(at[k], why, None if other is None else at[other]) for k, why, other in met]
    return out


@dataclass(frozen=True)
class _Laid:
    """A problem whose parts are asked for where they lie: their polygons and digests, made once."""

    problem: NestProblem
    polygons: dict[str, Polygon]
    prints: dict[str, str]

    def part(self, part_id: str) -> NestPart:
        return next(p for p in self.problem.parts if p.id == part_id)

    def solid(self, part_id: str) -> Polygon:
        if part_id not in self.polygons:
            self.polygons[part_id] = _own_polygon(self.part(part_id), self.problem.part_in_hole)
        return self.polygons[part_id]

    def shape_print(self, part_id: str) -> str:
        if part_id not in self.prints:
            part = self.part(part_id)
            self.prints[part_id] = digest(part.outline, part.holes, self.problem.part_in_hole)
        return self.prints[part_id]


def _key_of_sheet(laid: _Laid, sheet: SheetKind, placements: Sequence[Placement]) -> str:
    """Digest of all that may be in the way of one another on a sheet."""
    return digest(
        [sheet.id, sheet.width, sheet.height, sheet.margin, sheet.outline],
        sheet.keepouts,
        laid.problem.spacing,
        [(p.part, laid.shape_print(p.part), p.x, p.y, p.rotation, p.mirrored) for p in placements],
    )


def _on_sheet(
    laid: _Laid, sheet: SheetKind, placements: Sequence[Placement]
) -> list[tuple[int, str, int | None]]:
    """What is wrong among the pieces of one sheet, and between them and the sheet."""
    out: list[tuple[int, str, int | None]] = []
    spacing = laid.problem.spacing
    polygons = _lying({p.part: laid.solid(p.part) for p in placements}, placements)
    inner = prep(usable(sheet).buffer(TOLERANCE))
    keepouts = [
        (Polygon(Contour.of(k.shape).points(0.001)), spacing if k.clearance is None else k.clearance)
        for k in sheet.keepouts
    ]
    tree = STRtree(polygons)
    for k, polygon in enumerate(polygons):
        name = placements[k].part
        if not inner.covers(polygon):
            out.append((k, f"{name}: outside the margin of sheet {sheet.id}", None))
        for shape, clearance in keepouts:
            if polygon.distance(shape) < clearance - TOLERANCE or polygon.intersection(shape).area > SLIVER:
                near = f"{name}: nearer than {clearance:g} mm to a keep-out of sheet {sheet.id}"
                out.append((k, near, None))
        for j in tree.query(polygon, predicate="dwithin", distance=spacing + 0.01).tolist():
            if j <= k:
                continue
            gap = polygon.distance(polygons[j])
            if gap < spacing - TOLERANCE or polygon.intersection(polygons[j]).area > SLIVER:
                other = placements[j].part
                how = f"{gap:.2f} mm from {other}, {spacing:g} mm needed" if gap > 0 else f"overlaps {other}"
                out.append((k, f"{name}: {how}", j))
    return out
