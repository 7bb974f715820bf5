"""Where do pieces lie firmest? The problem of laying all of them over what holds; small ones moved to where
they lie firmer, if there is free room and the sheet gets no longer.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Array, Contour
from venzo.core.nesting.bound import taken
from venzo.core.nesting.forms import Forms
from venzo.core.nesting.laid import LaidSheet
from venzo.core.nesting.live import CHORD, dead, pieces_of
from venzo.core.nesting.problem import Keepout, NestProblem
from venzo.core.nesting.separate import weigh
from venzo.core.nesting.squeeze import Lie
from venzo.core.nesting.verify import usable
from venzo.core.nesting.worth import LARGE_COUNTS, Worth

TRIES = 60
HAIR = 0.02
"""mm around a locked piece that is let be where it lies."""
FULLEST = 0.9
"""Share of the live areas that pieces can be expected to fill."""
ABOVE = 1e6
"""What the user's priority weighs beside being small."""
LEAST = 25.0
"""mm2: a smaller area without hold keeps nothing away."""


def firmness(areas: list[tuple[Polygon, float]], x: Array, y: Array) -> Array:
    """Firmness at points: that of the firmest area they lie in, else 0."""
    out = np.zeros(len(x))
    for polygon, value in areas:
        out = np.maximum(out, value * shapely.contains_xy(polygon, x, y))
    return out


def make_firm(forms: Forms, laid: LaidSheet, worth: Worth, rng: np.random.Generator) -> bool:
    """Move small pieces of a laid to free places of greater firmness; True when one was moved."""
    sheet = worth.sheets[laid.sheet]
    areas = [(Polygon(Contour.of(f.shape).points(0.5)), f.firmness) for f in sheet.firm]
    small = [i for i, (part, _c) in enumerate(laid.names) if worth.small(part, laid.sheet)]
    if not small or not areas:
        return False
    right, arena = max(laid.lie.right, laid.locked_right), laid.arena(forms)
    arena.refresh()
    low, high = np.array([[*p.bounds[:2]] for p, _v in areas]), np.array([[*p.bounds[2:]] for p, _v in areas])
    moved = False
    for i in sorted(small, key=lambda k: worth.areas[laid.names[k][0]]):
        now = firmness(
            areas,
            (arena.place[i : i + 1, 2] + arena.place[i : i + 1, 4]) / 2,
            (arena.place[i : i + 1, 3] + arena.place[i : i + 1, 5]) / 2,
        )[0]
        if now >= max(v for _p, v in areas):
            continue
        ways = forms.ways[forms.first_way[laid.kinds[i]] : forms.first_way[laid.kinds[i] + 1]]
        which = rng.integers(len(areas), size=TRIES)
        spots = rng.uniform(low[which], high[which])
        value = firmness(areas, spots[:, 0], spots[:, 1])
        for k in np.argsort(-value, kind="stable"):
            if value[k] <= now:
                break
            form, turn = (int(v) for v in ways[int(rng.integers(len(ways)))])
            b = forms.boxes[form, turn]
            x, y = spots[k] - (b[:2] + b[2:]) / 2
            if x + b[0] < laid.box[0] or y + b[1] < laid.box[1] or x + b[2] > right or y + b[3] > laid.box[3]:
                continue
            if weigh(i, form, turn, float(x), float(y), 1e-9, arena.address) == 0.0:
                arena.put(i, form, turn, float(x), float(y))
                arena.refresh()
                moved = True
                break
    if moved:
        n = arena.n
        laid.lie = Lie(float(arena.place[:n, 4].max()), arena.pose[:n].copy(), arena.place[:n].copy())
    return moved


def on_live_only(problem: NestProblem, worth: Worth, used: Mapping[str, int]) -> NestProblem | None:
    """The same problem with all that does not hold kept clear, on so many sheets of each kind; None where
    there is no such area.

    Pieces locked there stay. Where the pieces are more than the live areas hold the small ones come first.
    """
    if (
        problem.repeat
        or problem.guillotine
        or not any(f.firmness == 1 for s in problem.sheets for f in s.firm)
    ):
        return None
    parts = {p.id: p for p in problem.parts}
    sheets = []
    found = False
    for s in problem.sheets:
        off = dead(s)
        still = [
            parts[pl.part].region().outline.placed(pl.x, pl.y, pl.rotation, pl.mirrored).points(CHORD)
            for pl in problem.locked
            if pl.sheet == s.id
        ]
        if still:
            off = off.difference(shapely.union_all([Polygon(r) for r in still]).buffer(HAIR))
        away = [
            Keepout(shape=[list(c) for c in g.exterior.coords[:-1]], clearance=0.0)
            for whole in shapely.get_parts(off)
            for g in pieces_of(whole)
            if g.area > LEAST
        ]
        found = found or bool(away)
        away = [*s.keepouts, *away]
        sheets.append(s.model_copy(update={"firm": [], "keepouts": away, "quantity": used.get(s.id, 0)}))
    if not found:
        return None
    room = sum(used.get(s.id, 0) * (usable(s).area - dead(s).area) for s in problem.sheets)
    need = sum(p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts)
    order = problem.parts
    if need > FULLEST * room:
        sheet = max(problem.sheets, key=lambda s: s.width * s.height).id
        largest = max(worth.areas.values())
        order = [
            p.model_copy(
                update={
                    "priority": p.priority * ABOVE
                    + (largest / LARGE_COUNTS / worth.areas[p.id] if worth.small(p.id, sheet) else 0.0)
                }
            )
            for p in problem.parts
        ]
    return problem.model_copy(update={"sheets": sheets, "parts": order})
