"""Alterations: what a person has changed about a part after it was drawn, kept as a list and made again when
the drawing is revised.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.offset import offset
from venzo.core.geometry.regions import Region
from venzo.core.model import Name, Point, Positive, Value
from venzo.core.parts.back_drawing import BackDrawn, back_features
from venzo.core.parts.corners import (
    Corner,
    ReliefStyle,
    corners,
    fillets,
    refilleted,
    relieved,
    relieved_end,
    rounded,
)
from venzo.core.parts.forming import SurfaceMade, formed_feature
from venzo.core.parts.shape import Face, Feature, Shape
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.surface_forms import Drawn
from venzo.core.snags import BadInput
from venzo.core.tolerances import FIT
from venzo.core.voice import counted

SEEK = 6.0
"""mm; how far a chosen corner may have moved in a newer drawing and still be the same corner."""


class Relief(Value):
    """Round relief in inside corners for square-cornered mates.

    ``radius``: the cutter's plus an allowance. ``at``: chosen corners (points in the part's frame), else all
    inside corners whose angle is at most ``under`` degrees, on all contours or those named.
    """

    kind: Literal["relief"] = "relief"
    style: ReliefStyle = "dog-bone"
    radius: Positive
    contours: tuple[Name, ...] = ()
    at: tuple[Point, ...] = ()
    under: Annotated[float, Field(gt=0, lt=180)] = 150.0


class Fillets(Value):
    """Inside fillets of one radius made larger (or smaller), so that the cutter keeps moving through them."""

    kind: Literal["fillets"] = "fillets"
    radius: Positive
    to: Positive


class Rounding(Value):
    """Sharp corners of the outline (outside ones unless ``inside``) rounded."""

    kind: Literal["rounding"] = "rounding"
    radius: Positive
    inside: bool = False
    at: tuple[Point, ...] = ()


class SlotWidth(Value):
    """A slot or notch opened (or closed) to a width, about its own middle line."""

    kind: Literal["slot-width"] = "slot-width"
    contour: Name
    at: Point
    width: Positive


INSET = "inset groove"
"""What grooves made of an inset are called, with a number: their middle is the line itself."""


class InsetGroove(Value):
    """A groove on the part itself, its middle along the outline moved inwards."""

    kind: Literal["inset-groove"] = "inset-groove"
    distance: Positive
    """From the outline to the groove's middle, mm."""
    depth: Positive


RELIEF = "relief"
"""What reliefs of models are called, with a number."""


Side = Annotated[float, Field(ge=1, le=20_000)]


class ModelSet(Value):
    """A relief of a model or a picture set on the part's face.

    ``surface``: digest of the kept model; ``outline``: what it covers, in shares of its box; ``at``: lower
    left of that box on the part, ``size``: its width and height, ``height``: from its lowest to its highest
    point, ``sits``: how far the highest lies below the face, ``margin``: how far beyond its outline the
    middle of a tip may go, all mm.
    """

    kind: Literal["model"] = "model"
    name: Name
    surface: Annotated[str, Field(pattern="^[0-9a-f]{32}$")]
    outline: Annotated[tuple[Point, ...], Field(min_length=3, max_length=4000)]
    at: Point
    size: tuple[Side, Side]
    height: Annotated[float, Field(ge=0.05, le=500)]
    sits: Annotated[float, Field(ge=0, le=500)] = 0.0
    margin: Annotated[float, Field(ge=0, le=200)] = 0.0
    stair: Annotated[float, Field(ge=0, le=1)] = 0.0
    """Of a picture: one grey level as a share of the height, where it was not smoothed."""
    face: Face = "front"
    """Into which face it is cut; it lies there as if seen through the part."""


Altering = Relief | Fillets | Rounding | SlotWidth | InsetGroove | ModelSet | SurfaceMade | BackDrawn
Alteration = Annotated[Altering, Field(discriminator="kind")]


def _behind(a: ModelSet | SurfaceMade) -> str:
    return ", on the back" if a.face == "back" else ""


def says(a: Altering) -> str:
    """An alteration in words."""
    if isinstance(a, ModelSet):
        deep = (f", {a.sits:.3g} mm below the face" if a.sits else "") + _behind(a)
        return f"a relief of {a.name}, {a.size[0]:.4g} x {a.size[1]:.4g} x {a.height:.3g} mm{deep}"
    if isinstance(a, SurfaceMade):
        deep = (f", {a.sits:.3g} mm below the face" if a.sits else "") + _behind(a)
        return f"a relief, {a.name}, of {' and '.join(f.kind for f in a.forms[:4])}{deep}"
    if isinstance(a, BackDrawn):
        turned = f", turned by {a.turn} degrees" if a.turn else ""
        return f"{counted(len(a.lines), 'line')} on the back, from {a.name} seen from {a.seen}{turned}"
    if isinstance(a, InsetGroove):
        return f"a groove {a.depth:.3g} mm deep, {a.distance:.4g} mm inside the outline"
    if isinstance(a, Relief):
        return (
            f"{a.style} relief, radius {a.radius:.3g} mm,"
            f" {'chosen corners' if a.at else f'inside corners up to {a.under:g} degrees'}"
        )
    if isinstance(a, Fillets):
        return f"inside fillets of {a.radius:.3g} mm made {a.to:.3g} mm"
    if isinstance(a, Rounding):
        return f"{'inside' if a.inside else 'outside'} corners rounded to {a.radius:.3g} mm"
    return f"slot in {a.contour} made {a.width:.4g} mm wide"


NO_PICTURES: Mapping[str, Mesh] = {}


def alter(
    drawn: Shape, alterations: Sequence[Altering], pictures: Mapping[str, Mesh] = NO_PICTURES
) -> tuple[Shape, list[str], list[float]]:
    """The shape with every alteration made in order; ``pictures``: of textures, by digest.

    Returns:
        the new shape, what could not be made (one sentence each), and the area in mm2 that each alteration
        removed (negative: added).
    """
    shape, lost, removed = drawn, [], []
    for a in alterations:
        before = shape.region.area
        shape, missed = _one(shape, a, drawn, pictures)
        lost += missed
        removed.append(before - shape.region.area)
    return shape, lost, removed


def _grooved(shape: Shape, a: InsetGroove) -> tuple[Shape, list[str]]:
    """A shape with a groove, in as many lines as the inset falls apart into."""
    lines = [r.contour for r in offset([shape.region.outline], -a.distance) if not r.hole]
    if not lines:
        return shape, [f"{says(a)}: nothing is left so far inside; its narrowest place is smaller"]
    taken = {f.name for f in shape.features}
    names = (name for n in range(1, 10_000) if (name := f"{INSET} {n}") not in taken)
    new = [Feature("groove", name, c.oriented(True), a.depth) for c, name in zip(lines, names, strict=False)]
    return replace(shape, features=(*shape.features, *new)), []


def _carved(shape: Shape, a: ModelSet) -> tuple[Shape, list[str]]:
    """A shape with a relief on its face."""
    name = _next_name(shape)
    rows = [(a.at[0] + u * a.size[0], a.at[1] + v * a.size[1]) for u, v in a.outline]
    x0, y0, x1, y1 = shape.region.outline.bbox
    left, bottom, right, top = Contour.of(rows).bbox
    if left < x0 - FIT or bottom < y0 - FIT or right > x1 + FIT or top > y1 + FIT:
        return shape, [
            f"{says(a)}: it reaches beyond the part, which is {x1 - x0:.4g} x {y1 - y0:.4g} mm; make it"
            " smaller or move it"
        ]
    new = Feature(
        "relief",
        name,
        Contour.of(rows).oriented(True),
        a.sits + a.height,
        a.surface,
        a.sits,
        a.margin,
        face=a.face,
    )
    return replace(shape, features=(*shape.features, new)), []


def _formed(
    shape: Shape, a: SurfaceMade, drawn: Shape, pictures: Mapping[str, Mesh]
) -> tuple[Shape, list[str]]:
    """A shape with a surface made here on its face, without the lines that became part of it."""
    try:
        new = formed_feature(_next_name(shape), a, shape, drawn, pictures)
    except BadInput as e:
        return shape, [f"{says(a)}: {e}"]
    used = {n for f in (a.field, *(f.on for f in a.forms)) if isinstance(f, Drawn) for n in f.names}
    rest = [f for f in shape.features if f.name not in used]
    return replace(shape, features=(*rest, new)), []


def _next_name(shape: Shape) -> str:
    taken = {f.name for f in shape.features}
    return next(n for k in range(1, 10_000) if (n := f"{RELIEF} {k}") not in taken)


def _one(  # noqa: C901
    shape: Shape, a: Altering, drawn: Shape, pictures: Mapping[str, Mesh]
) -> tuple[Shape, list[str]]:
    if isinstance(a, SurfaceMade):
        return _formed(shape, a, drawn, pictures)
    if isinstance(a, InsetGroove):
        return _grooved(shape, a)
    if isinstance(a, ModelSet):
        return _carved(shape, a)
    if isinstance(a, BackDrawn):
        return replace(shape, features=(*shape.features, *back_features(a, shape))), []
    loops = dict(shape.contours)
    missed: list[str] = []
    done = 0
    outline = shape.names[0]
    wanted = list(getattr(a, "at", ())) if not isinstance(a, SlotWidth) else []
    for name, contour in list(loops.items()):
        hole = name != outline
        if isinstance(a, Relief):
            if a.contours and name not in a.contours:
                continue
            while True:  # every relief moves the indices behind it
                todo = [
                    c
                    for c in corners(loops[name], hole)
                    if c.inside and c.angle <= a.under and _chosen(c.x, c.y, wanted)
                ]
                made = next(
                    (m for c in todo if (m := relieved(loops[name], c, a.radius, a.style)) is not None), None
                )
                ends = _ends(loops[name], todo)
                if ends:  # both corners of a narrow end, before one takes the other's room
                    made = next(
                        (m for e in ends if (m := relieved_end(loops[name], *e, a.radius, a.style))), made
                    )
                if made is None:
                    if todo and not wanted:
                        missed.append(
                            f"{name}: {len(todo)} corner{'s' * (len(todo) != 1)} with sides too short for a"
                            f" relief of radius {a.radius:g} mm"
                        )
                    break
                loops[name] = made
                done += 1
        elif isinstance(a, Fillets):
            short = 0
            while True:
                f = next(
                    (
                        f
                        for f in fillets(loops[name], hole)[short:]
                        if f.inside and abs(f.radius - a.radius) < 0.02
                    ),
                    None,
                )
                if f is None:
                    break
                new = refilleted(loops[name], f.index, a.to)
                if new is None:
                    short += 1
                    missed.append(f"{name}: no room for a fillet of {a.to:g} mm at {f.x:.1f}, {f.y:.1f} mm")
                    if short > 20:
                        break
                    continue
                loops[name], done = new, done + 1
        elif isinstance(a, Rounding):
            if hole and not a.inside:
                continue
            for c in sorted(
                corners(contour, hole), key=lambda c: -c.index
            ):  # from the end, so that indices before stay
                if c.inside == a.inside and _chosen(c.x, c.y, wanted):
                    new = rounded(loops[name], c.index, a.radius)
                    if new is None:
                        missed.append(
                            f"{name}: no room to round the corner at {c.x:.1f}, {c.y:.1f} mm to"
                            f" {a.radius:g} mm"
                        )
                    else:
                        loops[name], done = new, done + 1
        elif name == a.contour:
            slot = next(
                (
                    s
                    for s in sorted(slots(contour, hole), key=lambda s: math.dist(s.at, a.at))
                    if math.dist(s.at, a.at) <= SEEK
                ),
                None,
            )
            if slot is not None:
                loops[name], done = widened(contour, slot, a.width), 1
    if not done and not missed:
        missed.append(f"{says(a)}: the drawing no longer has what this was made for")
    new_outline = loops[outline]
    return (
        Shape(Region(new_outline, tuple(loops[n] for n in shape.names[1:])), shape.names, shape.features),
        missed,
    )


def _ends(contour: Contour, todo: Sequence[Corner]) -> list[tuple[Corner, Corner]]:
    """Corners that follow one another along a contour, the side between them first."""
    by_index = {c.index: c for c in todo}
    n = len(contour.vertices)
    return [(c, by_index[k]) for c in todo if (k := (c.index + 1) % n) in by_index]


def _chosen(x: float, y: float, wanted: Sequence[Point]) -> bool:
    return not wanted or any(math.dist((x, y), w) <= SEEK for w in wanted)


class Slot(Value):
    """A slot (hole) or notch (in the outline): middle, width and length in mm, unit vector across it, and
    which vertices move to which side.
    """

    at: Point
    width: float
    length: float
    across: Point
    sides: tuple[int, ...]
    """Per vertex: +1 or -1 where it moves along or against ``across``, 0 where it stays."""


def slots(contour: Contour, hole: bool) -> list[Slot]:
    """Slots and notches that a sheet may be put into: two parallel straight sides, waste between them.

    A hole is a slot when it is at least 1.5 times as long as wide and its two longest sides are parallel; a
    notch is a straight bottom between two inside corners of about 90 degrees.
    """
    v = contour.vertices
    n = len(v)
    if hole:
        lines = sorted((s for s in contour.segments() if not s.bulge), key=lambda s: -s.length)[:2]
        if len(lines) < 2 or n > 24:
            return []
        d = np.array([lines[0].x1 - lines[0].x0, lines[0].y1 - lines[0].y0])
        d /= np.hypot(*d)
        e = np.array([lines[1].x1 - lines[1].x0, lines[1].y1 - lines[1].y0])
        if abs(d[0] * e[1] - d[1] * e[0]) > 1e-3 * np.hypot(*e) or lines[1].length < 0.8 * lines[0].length:
            return []
        across = np.array([-d[1], d[0]])
        one, two = (np.array([s.x0 + s.x1, s.y0 + s.y1]) / 2 for s in lines)
        width = float(abs((two - one) @ across))
        along = [float(p @ d) for p in contour.points(0.5)]
        length = max(along) - min(along)
        middle = (one + two) / 2
        # nothing may reach far beyond the sides but corner reliefs
        if (
            width < 0.5
            or length < 1.5 * width
            or lines[0].length < 0.4 * length
            or max(abs((p - middle) @ across) for p in v[:, :2]) > 0.9 * width
        ):
            return []
        sides = tuple(int(np.sign(round(float((p - middle) @ across), 3))) for p in v[:, :2])
        return [
            Slot(
                at=tuple(middle.tolist()),
                width=width,
                length=length,
                across=tuple(across.tolist()),
                sides=sides,
            )
        ]
    out = []
    inner = {c.index: c for c in corners(contour, hole) if c.inside and abs(c.angle - 90) < 3}
    for i in inner:
        k = (i + 1) % n
        if k not in inner or v[i, 2]:
            continue
        before, after = (i - 1) % n, (k + 1) % n
        bottom = v[k, :2] - v[i, :2]
        width = float(np.hypot(*bottom))
        deep = min(float(np.hypot(*(v[before, :2] - v[i, :2]))), float(np.hypot(*(v[after, :2] - v[k, :2]))))
        if deep < 0.5 * width:
            continue
        moves = [0] * n
        moves[before] = moves[i] = -1
        moves[k] = moves[after] = 1
        middle = (v[i, :2] + v[k, :2]) / 2
        out.append(
            Slot(
                at=tuple(middle.tolist()),
                width=width,
                length=deep,
                across=tuple((bottom / width).tolist()),
                sides=tuple(moves),
            )
        )
    return out


def widened(contour: Contour, slot: Slot, width: float) -> Contour:
    """The contour with a slot's sides moved evenly apart (or together) to the width."""
    v = contour.vertices.copy()
    v[:, :2] += np.outer(np.array(slot.sides) * (width - slot.width) / 2, slot.across)
    return Contour.of(v, True, contour.layer)
