"""What is to be said of reliefs set on a part: flat spots, stair steps, reliefs over one another."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import shapely

from venzo.core.parts.alter import Altering, ModelSet, SurfaceMade, says
from venzo.core.parts.shape import Shape
from venzo.core.relief.block import clear_depth
from venzo.core.relief.height_grid import STAIR
from venzo.core.snags import Remedy, Snag, Where, look, stop

CHORD = 0.05
OVER = 1.0
"""mm2 that two reliefs may share."""


def relief_snags(
    part: str, name: str, shape: Shape, alterations: Sequence[Altering], spread: float
) -> list[Snag]:
    """Judge a part's reliefs; ``spread``: between the thickest and thinnest reading of its stock, mm."""
    out: list[Snag] = []
    where: Where = {"part": part}
    for number, a in enumerate(alterations):
        if not isinstance(a, ModelSet | SurfaceMade):
            continue
        if spread > a.sits + 1e-9:
            deep = clear_depth(spread)
            lower = Remedy(
                label=f"Set it {deep:.1f} mm below the face",
                command={
                    "kind": "change-model",
                    "part": part,
                    "number": number,
                    "fields": {"sits": deep},
                },
            )
            out.append(
                look(
                    "relief.flat-spots",
                    f"{name}, {says(a)}: the stock's thickness varies by {spread:.2f} mm and the highest"
                    f" place lies {a.sits:.2f} mm below the face: thin places stay uncut and leave flat"
                    " spots",
                    where,
                    lower,
                )
            )
        if isinstance(a, ModelSet) and a.stair * a.height > STAIR:
            out.append(
                look(
                    "relief.stairs",
                    f"{name}, {says(a)}: one grey of its picture is a stair of {a.stair * a.height:.3f} mm"
                    " that may be seen on slopes; set it anew smoothed over a few pixels, or save it with 16"
                    " bits",
                    where,
                )
            )
    return [*out, *_over_one_another(name, shape, where)]


def _over_one_another(name: str, shape: Shape, where: Where) -> list[Snag]:
    areas = [
        (f, shapely.Polygon(f.contour.points(CHORD)).buffer(0)) for f in shape.features if f.kind == "relief"
    ]
    return [
        stop(
            "relief.overlap",
            f"{name}: {one.name} and {other.name} lie over one another on {shared:.0f} mm2, where each cuts"
            " into what the other leaves; move one, or drop it",
            where,
        )
        for (one, a), (other, b) in combinations(areas, 2)
        if one.face == other.face and (shared := float(a.intersection(b).area)) > OVER
    ]
