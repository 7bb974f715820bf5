"""How a surface made here becomes a feature of a part: the lines its forms lie on, and how high it is."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.offset import offset
from venzo.core.geometry.regions import regions
from venzo.core.model import Name, Value
from venzo.core.parts.shape import Face, Feature, Shape
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.surface_forms import (
    ALONG,
    MOST,
    AForm,
    Drawn,
    Ellipse,
    Formed,
    Laid,
    Line,
    Place,
    Rectangle,
    Texture,
    Whole,
)
from venzo.core.snags import BadInput
from venzo.core.tolerances import FIT

LEAST_HIGH = 0.05
"""mm: a surface that is lower is none."""
ROUND = 0.002
"""mm within which an ellipse is drawn by chords."""


class SurfaceMade(Value):
    """A relief made here of forms over a field of the part's face.

    ``sits``: how far its highest place lies below the face, ``margin``: how far beyond the field's outline
    the middle of a tip may go, mm. Lines of the drawing that a form lies on are cut by it and no longer by
    themselves.
    """

    kind: Literal["made"] = "made"
    name: Name = "surface"
    field: Place
    forms: Annotated[tuple[AForm, ...], Field(min_length=1, max_length=MOST)]
    sits: Annotated[float, Field(ge=0, le=500)] = 0.0
    margin: Annotated[float, Field(ge=0, le=200)] = 0.0
    face: Face = "front"
    """Into which face it is cut; it lies there as if seen through the part."""

    @property
    def pictures(self) -> set[str]:
        """Digests of the pictures of its textures."""
        return {f.surface for f in self.forms if isinstance(f, Texture)}


def formed_feature(
    name: str, a: SurfaceMade, shape: Shape, drawn: Shape, pictures: Mapping[str, Mesh]
) -> Feature:
    """The relief that a surface's forms make on a part; ``drawn``: the part before its alterations, whose
    lines may have been used up by others.

    Raises:
        BadInput: a line the part has not, a field that is none, a form that fits none of its lines, or a
            surface that is level all over.
    """
    field = lines_of(a.field, shape, drawn)
    if len(field) != 1 or not field[0].closed:
        raise BadInput("its field is one closed outline; choose one, or a smaller inset")
    x0, y0, x1, y1 = shape.region.outline.bbox
    left, bottom, right, top = field[0].contour.bbox
    if left < x0 - FIT or bottom < y0 - FIT or right > x1 + FIT or top > y1 + FIT:
        raise BadInput(
            f"its field reaches beyond the part, which is {x1 - x0:.4g} x {y1 - y0:.4g} mm; make it"
            " smaller or move it"
        )
    laid = []
    for form in a.forms:
        lines = field if isinstance(form.on, Whole) else lines_of(form.on, shape, drawn)
        if not isinstance(form, ALONG) and not all(v.closed for v in lines):
            raise BadInput(f"a {form.kind} fills closed outlines; a bead or a swept section follows lines")
        laid.append(Laid(form=form, lines=tuple(lines)))
    made = Formed(field=field[0], laid=tuple(laid))
    new = Feature(
        "relief", name, field[0].contour.oriented(True), None, made.key, a.sits, a.margin, made, a.face
    )
    mesh = mesh_of(new, pictures)
    low, high = (float(v[2]) for v in mesh.box) if mesh else (0.0, 0.0)
    if high - low < LEAST_HIGH:
        raise BadInput("it is level all over; there is nothing to carve")
    return replace(new, depth=round(a.sits + high - low, 6))


def lines_of(on: Drawn | Rectangle | Ellipse, shape: Shape, drawn: Shape) -> list[Line]:
    """The outlines or lines that a form lies on, in the part's frame.

    Raises:
        BadInput: a name the part has not, or an inset that leaves nothing.
    """
    if isinstance(on, Rectangle):
        (x, y), (w, h) = on.at, on.size
        box = Contour.of([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])
        r = min(on.corner, w / 2, h / 2)
        inner = offset([box], -r) if r and r < min(w, h) / 2 else []
        if inner:
            return [Line.of(c.contour) for c in offset([c.contour for c in inner], r)]
        return [Line.of(box)]
    if isinstance(on, Ellipse):
        return [Line.of(_ellipse(on))]
    there = {
        **{f.name: f.contour for f in drawn.features},
        **dict(drawn.contours),
        **{f.name: f.contour for f in shape.features},
        **dict(shape.contours),
    }
    gone = [n for n in on.names if n not in there]
    if gone:
        raise BadInput(f"the part has no line {gone[0]!r} any more; choose another")
    found = [there[n] for n in on.names]
    if not on.inset:
        return [Line.of(c) for c in found]
    if not all(c.closed for c in found):
        raise BadInput("an open line has no inside; set its inset to 0")
    loops = [loop for r in regions(found) for loop in r.loops]
    moved = [r.contour for r in offset(loops, -on.inset)]
    if not moved:
        raise BadInput(f"nothing is left {on.inset:g} mm inside {on.names[0]}; choose a smaller inset")
    return [Line.of(c) for c in moved]


def _ellipse(on: Ellipse) -> Contour:
    (x, y), (w, h) = on.at, on.size
    if w == h:
        return Contour.circle(x + w / 2, y + h / 2, w / 2)
    n = max(24, math.ceil(math.pi / math.acos(1 - min(0.5, ROUND / (max(w, h) / 2)))))
    a = np.arange(n) * 2 * math.pi / n
    return Contour.of(np.column_stack([x + w / 2 * (1 + np.cos(a)), y + h / 2 * (1 + np.sin(a))]))
