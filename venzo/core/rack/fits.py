"""What would this fit in? A part or a size asked of every lot in the rack, with its outline and flaws."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any, Literal

from venzo.core.geometry.regions import Region
from venzo.core.nesting.problem import NestProblem
from venzo.core.rack.lots import Lot
from venzo.core.rack.on_hand import Shelf
from venzo.core.tolerances import SAME

STEPS = 12
"""Steps of the search for a place of one piece before it is said to have none."""


@dataclass(frozen=True)
class Wanted:
    """What is to be fitted: corners of its outline (``(x, y)`` or ``(x, y, bulge)``), the ways it may be
    turned, and along which of its own axes its grain lies (None: it has none).
    """

    outline: Sequence[Sequence[float]]
    rotations: Literal["free"] | tuple[float, ...] = (0.0, 90.0, 180.0, 270.0)
    grain: Literal[0, 90] | None = None
    mirror: bool = False

    @staticmethod
    def size(width: float, height: float) -> Wanted:
        """A rectangle, either way round."""
        return Wanted(((0, 0), (width, 0), (width, height), (0, height)), (0.0, 90.0))


@dataclass(frozen=True)
class Fit:
    """A lot that holds it: where the piece lies in it, and the share of the lot that it takes."""

    lot: Lot
    x: float
    y: float
    rotation: float
    mirrored: bool
    share: float


def problem_of(lot: Lot, wanted: Wanted) -> NestProblem:
    """One piece on one sheet of a lot."""
    sheet: dict[str, Any] = {
        "id": "s",
        "width": lot.width,
        "height": lot.height,
        "quantity": 1,
        "margin": lot.margin,
        "grain": lot.grain,
        "keepouts": [
            {
                "shape": [
                    [f.x, f.y],
                    [f.x + f.width, f.y],
                    [f.x + f.width, f.y + f.height],
                    [f.x, f.y + f.height],
                ],
                "clearance": f.clearance,
            }
            for f in lot.flaws
        ],
    }
    if lot.outline:
        sheet["outline"] = [list(p) for p in lot.outline]
    part = {
        "id": "p",
        "outline": [list(p) for p in wanted.outline],
        "quantity": 1,
        "rotations": wanted.rotations if wanted.rotations == "free" else list(wanted.rotations),
        "grain": wanted.grain,
        "mirror": wanted.mirror,
    }
    return NestProblem.model_validate({"sheets": [sheet], "parts": [part], "spacing": 0.0})


def fit(lot: Lot, wanted: Wanted) -> Fit | None:
    """Where a piece lies on a sheet of a lot; None: no place was found.

    >>> board = Lot(id="a", label="A1", name="ply", material="ply", width=500, height=300, nominal=18)
    >>> round(fit(board, Wanted.size(200, 450)).rotation), fit(board, Wanted.size(290, 450))
    (90, None)
    """
    from venzo.core.nesting.engine import Search

    problem = problem_of(lot, wanted)
    part = problem.parts[0].region()
    if part.area > lot.area:
        return None
    if wanted.rotations != "free":
        in_box = _in_rectangle(lot, wanted, part)
        if in_box is None or not (lot.outline or lot.flaws):
            return in_box  # what is too large for the box is so for any outline in it
    search = Search(problem, 0)
    while search.steps < STEPS and not (search.best and search.best.placements) and search.step(progress=0.0):
        pass
    found = search.best
    if found is None or not found.placements:
        return None
    at = found.placements[0]
    return Fit(lot, at.x, at.y, at.rotation, at.mirrored, part.area / lot.area)


def _in_rectangle(lot: Lot, wanted: Wanted, part: Region) -> Fit | None:
    """On a whole rectangular sheet a piece fits if its box does, at one of the turns it may have."""
    assert wanted.rotations != "free"
    for turn, over in product(sorted(wanted.rotations), (False, True) if wanted.mirror else (False,)):
        if wanted.grain is not None and lot.grain is not None:
            off = (wanted.grain + turn - lot.grain) % 180
            if min(off, 180 - off) > 1e-3:
                continue
        x0, y0, x1, y1 = part.placed(0.0, 0.0, turn, over).outline.bbox
        if x1 - x0 <= lot.width - 2 * lot.margin + SAME and y1 - y0 <= lot.height - 2 * lot.margin + SAME:
            return Fit(lot, lot.margin - x0, lot.margin - y0, turn, over, part.area / lot.area)
    return None


def fits(shelves: Sequence[Shelf], wanted: Wanted, material: str | None = None) -> list[Fit]:
    """Every lot with a free sheet that holds it: remnants first, the smallest first among each."""
    found = []
    for s in shelves:
        if s.free < 1 or (material and s.lot.material != material):
            continue
        at = fit(s.lot, wanted)
        if at is not None:
            found.append(at)
    return sorted(found, key=lambda f: (not f.lot.remnant, f.lot.area))
