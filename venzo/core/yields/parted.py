"""Where does a sheet go? Parts, kerf, drops, skeleton, edge and remnant: areas that add up to the sheet."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import affine_transform
from shapely.geometry import LineString, MultiPolygon, Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import polyline
from venzo.core.geometry.regions import Region
from venzo.core.holding.pieces import NEVER, Divided
from venzo.core.holding.swath import surface
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan
from venzo.core.stock.sheet import Stock
from venzo.core.yields.remnants import Keeps, Remnant, remnants

CHORD = 0.002
"""mm; arcs of parts become chords within this, and their areas are put right by ``SheetParted.arcs``."""
FLAT = 0.01
"""mm; chords of a kerf's way, of which only the area counts."""
CHIP = 1.0
"""mm2; what is smaller than this between two kerfs goes with the chips."""
EMPTY = MultiPolygon()
KINDS = ("parts", "kerf", "drops", "skeleton", "edge", "remnant")


@dataclass(frozen=True, eq=False)
class SheetParted:
    """A sheet as what becomes of it: areas that do not overlap and make up the sheet.

    ``parts``: the pieces, less their holes; ``kerf``: what cutters take between and in them, as chips;
    ``drops``: waste from holes of pieces; ``remnant``: what is kept; ``edge``: the margin along the sheet's
    edge that no piece may use; ``skeleton``: the rest. ``thin``: of the kerf, what tabs and skins are left
    in, with their mean thickness ``left``, mm. ``gross``: mm2 within the outlines of the pieces, holes and
    all.
    """

    sheet: Polygon
    parts: BaseGeometry
    kerf: BaseGeometry
    drops: BaseGeometry
    skeleton: BaseGeometry
    edge: BaseGeometry
    remnant: BaseGeometry
    kept: tuple[Remnant, ...]
    thin: float
    left: float
    gross: float
    arcs: float
    """mm2 by which the parts with their arcs are more than their chords; it is taken off the kerf beside."""

    def areas(self) -> dict[str, float]:
        """mm2 of the sheet and of each kind; those of the kinds add up to the sheet."""
        out = {"sheet": self.sheet.area, **{k: float(getattr(self, k).area) for k in KINDS}}
        return out | {"parts": out["parts"] + self.arcs, "kerf": out["kerf"] - self.arcs}


@dataclass(frozen=True, eq=False)
class Swath:
    """What the cuts of a sheet take away: areas (they may overlap). ``thin``: mm2 of it that stay as tabs and
    skins, ``left``: their mean thickness, mm.
    """

    cut: Sequence[BaseGeometry] | np.ndarray
    thin: float = 0.0
    left: float = 0.0


def milled(divided: Divided) -> Swath:
    """What cutters take away, from the sheet as atoms (``divide_sheet``)."""
    thin, left = _thin(divided)
    return Swath(divided.polygons[divided.thin_at < NEVER], thin, left)


def burnt(sheet: KerfSheet) -> Swath:
    """What the head of a kerf table takes away: the ways of its cuts, as wide as the kerf."""
    half = sheet.how.kerf / 2
    ways = [
        LineString(polyline(c.moves, FLAT)[:, :2]) if c.length else Point(c.pierce) for c in sheet.run.cuts
    ]
    return Swath([w.buffer(half) for w in ways])


def outline_of(stock: Stock) -> Polygon:
    """The outline of a sheet."""
    return Polygon(stock.outline) if stock.outline else box(0, 0, stock.width, stock.height)


def placed(shape: BaseGeometry, piece: Piece) -> BaseGeometry:
    """A part's shape where a piece lies: mirrored, turned, moved."""
    c, s = math.cos(math.radians(piece.rotation)), math.sin(math.radians(piece.rotation))
    flip = -1.0 if piece.mirrored else 1.0
    return affine_transform(shape, [c * flip, -s, s * flip, c, piece.x, piece.y])


def part_sheet(
    plan: Plan,
    stock: Stock,
    pieces: tuple[Piece, ...],
    shapes: Mapping[str, Shape],
    swath: Swath,
    keeps: Keeps,
) -> SheetParted:
    """A sheet as what becomes of it, by the pieces on it and the swath of its cuts.

    Args:
        swath: what the cuts take away, from the moves of the programs.
        keeps: which remnant is worth keeping.

    Each is what those before it leave: parts, kerf, drops, remnant, edge, skeleton; so nothing counts twice
    and nothing is lost, whatever lies where.
    """
    sheet = outline_of(stock)
    by_id = {p.id: p for p in plan.parts}
    of_part = {q.part: shapes[by_id[q.part].shape].region for q in pieces}
    drawn = {part: region.polygon(CHORD) for part, region in of_part.items()}
    regions = [placed(drawn[q.part], q) for q in pieces]
    parts = surface(shapely.intersection(shapely.union_all(regions), sheet)) if regions else EMPTY
    kerf = surface(shapely.intersection(shapely.union_all(swath.cut), sheet)) if len(swath.cut) else EMPTY
    kerf = surface(shapely.difference(kerf, parts))
    taken = surface(shapely.union_all([parts, kerf]))
    rest = np.array(shapely.get_parts(surface(shapely.difference(sheet, taken))), dtype=object)
    small = shapely.area(rest) < CHIP
    if small.any():
        kerf = surface(shapely.union_all([kerf, *rest[small]]))
        rest = rest[~small]
    filled = [Polygon(r.exterior) for r in regions]
    within = _within(rest, filled)
    drops, open_rest = shapely.union_all(rest[within]), shapely.union_all(rest[~within])
    kept = remnants(sheet, taken, keeps) if pieces else ()
    keep = shapely.union_all([r.polygon for r in kept]) if kept else EMPTY
    remnant = surface(shapely.intersection(shapely.union_all(rest), keep)) if kept else EMPTY
    drops = surface(shapely.difference(drops, keep))
    open_rest = surface(shapely.difference(open_rest, keep))
    inner = sheet.buffer(-stock.margin, join_style="mitre") if stock.margin > 0 else sheet
    return SheetParted(
        sheet=sheet,
        parts=parts,
        kerf=kerf,
        drops=drops,
        skeleton=surface(shapely.intersection(open_rest, inner)),
        edge=surface(shapely.difference(open_rest, inner)),
        remnant=remnant,
        kept=kept,
        thin=swath.thin,
        left=swath.left,
        gross=float(sum(of_part[q.part].outline.area for q in pieces)),
        arcs=_arcs(parts, [drawn[q.part] for q in pieces], [of_part[q.part] for q in pieces]),
    )


def _arcs(laid: BaseGeometry, drawn: Sequence[Polygon], exact: Sequence[Region]) -> float:
    """What arcs have more than their chords; nothing where pieces overlap or reach over the sheet's edge, and
    their area on it is another anyway.
    """
    chords = math.fsum(p.area for p in drawn)
    return math.fsum(r.area for r in exact) - chords if abs(laid.area - chords) < 1e-6 * chords else 0.0


def _within(rest: np.ndarray, filled: list[Polygon]) -> np.ndarray:
    """Which stretches of waste lie within the outline of a piece."""
    out = np.zeros(len(rest), dtype=bool)
    if len(rest) and filled:
        points = shapely.point_on_surface(rest)
        hit, _ = shapely.STRtree(np.array(filled, dtype=object)).query(points, predicate="within")
        out[np.unique(hit)] = True
    return out


def _thin(divided: Divided) -> tuple[float, float]:
    """mm2 of the kerf that stay as tabs and skins to the end, and their mean thickness, mm."""
    stays = (divided.thin_at < NEVER) & (divided.gone_at == NEVER)
    area = shapely.area(divided.polygons[stays]) if stays.any() else np.zeros(0)
    total = float(area.sum())
    return total, float((area * divided.left[stays]).sum() / total) if total else 0.0
