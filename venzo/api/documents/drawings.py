"""Drawings taken in, compared and read; parts measured; parts made here."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.api.documents.job import Box, FeatureDrawn, JobDocument, feature_drawn, path_of
from venzo.core.model import Document, Fields, Point
from venzo.core.parts.alter import Alteration
from venzo.core.parts.measure import Narrow, Reach
from venzo.core.parts.shape import Shape
from venzo.core.snags import PlainSnag


class TakenFile(Document):
    """What became of one file."""

    file: str
    ok: bool
    says: str
    snags: list[PlainSnag]


class TakenDocument(Document):
    """What became of every file, and the job as it is now."""

    results: list[TakenFile]
    job: JobDocument


class PathDrawn(Document):
    """A contour as SVG path data."""

    name: str
    d: str


class Picture(Document):
    """A shape as the screen draws it: box, contours and features; area in mm2."""

    box: Box
    contours: list[PathDrawn]
    features: list[FeatureDrawn]
    area: float


def picture(shape: Shape) -> Picture:
    """A shape as the screen draws it."""
    x0, y0, x1, y1 = (round(v, 3) for v in shape.region.outline.bbox)
    contours = [PathDrawn(name=n, d=path_of(c)) for n, c in shape.contours]
    return Picture(
        box=(x0, y0, x1, y1),
        contours=contours,
        features=[feature_drawn(f) for f in shape.features],
        area=shape.region.area,
    )


class PartCompared(Document):
    """A part in the old and the newer drawing; ``choices``: contours chosen on by hand; ``lost``: what of it
    cannot stay; ``added``: features that are new.
    """

    id: str
    name: str
    state: Literal["same", "mirrored", "changed", "missing", "new"]
    old: Picture | None
    new: Picture | None
    area_mm2: Point
    choices: list[str]
    lost: list[str]
    added: list[str]


class Effect(Document):
    """What adopting a newer drawing whole would do to a setup: layout before and after, and new stops."""

    setup: str
    layout: tuple[str, str]
    stops: list[str]


class ComparedDocument(Document):
    """What a newer file of a known drawing changes."""

    file: str
    drawing: str
    revision: int
    parts: list[PartCompared]
    effects: list[Effect]


class CornerDocument(Document):
    """A sharp corner: where, the angle of the waste in degrees, and whether it is an inside one."""

    contour: str
    x: float
    y: float
    angle: float
    inside: bool


class AlterationDocument(Document):
    """An alteration in words, the area it takes (mm2), and itself."""

    says: str
    removed_mm2: float
    value: Alteration


class VersionDocument(Document):
    """A shape that a part had before; ``altered``: in words, of one that a person kept; ``again``: may it be
    taken again?
    """

    drawing_revision: int
    note: str
    picture: Picture
    altered: list[str]
    again: bool


class LineNamed(Document):
    """A line of a part's drawing that a form may lie on."""

    name: str
    kind: str
    closed: bool


class JudgementDocument(Document):
    """What can be measured of a part, mm; ``inside_radius`` 0: a sharp inside corner, None: no inside
    corner.
    """

    part: str
    inside_radius: float | None
    sharp_inside: int
    web: Narrow | None
    slot: Narrow | None
    reaches: list[Reach]
    corners: list[CornerDocument]
    alterations: list[AlterationDocument]
    lines: list[LineNamed]
    versions: list[VersionDocument]


class FontDocument(Document):
    """A font by the name it is chosen by."""

    name: str


class MadePart(Picture):
    """A part that a recipe makes."""

    name: str
    quantity: int
    size: Point
    parent: list[str]
    """What it was taken from, as SVG path data."""


class MadeOffer(Document):
    """A change of a recipe that mends what was said of it."""

    label: str
    fields: dict[str, float]


class Dimension(Document):
    """A named dimension of what a recipe makes, and between which places it is measured, mm."""

    name: str
    mm: float
    start: Annotated[Point, Field(alias="from")]
    end: Annotated[Point, Field(alias="to")]


class DrawnDocument(Document):
    """The parts and dimensions of a recipe."""

    parts: list[MadePart]
    dimensions: list[Dimension]
    notes: list[str]
    offers: list[MadeOffer]


class RecipeKind(Document):
    """Something that can be made here: its title, default dimensions and what each may be."""

    kind: str
    title: str
    defaults: Fields
    fields: Annotated[Fields, Field(alias="schema")]


class MadeDocument(Document):
    """What can be made here."""

    fonts: list[str]
    recipes: list[RecipeKind]
