"""Small pieces moved to where they lie firmest, if there is free room and the sheet gets no longer."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Array, Contour
from venzo.core.nesting.forms import Forms
from venzo.core.nesting.laid import LaidSheet
from venzo.core.nesting.separate import weigh
from venzo.core.nesting.squeeze import Lie
from venzo.core.nesting.worth import Worth

TRIES = 60


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
