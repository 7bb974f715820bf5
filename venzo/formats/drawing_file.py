"""A drawing file of any kind that Venzo reads, by its ending or its content."""

from __future__ import annotations

from pathlib import PurePath

from venzo.core.parts.drawing import Drawing
from venzo.core.parts.intake import uncollected
from venzo.core.snags import BadInput
from venzo.formats import dxf, height_picture, hpgl, meshes, svg

MODELS = (*meshes.KINDS, *height_picture.KINDS)
"""Endings of what is no drawing, but may be set on a part as a relief."""


def read_file(data: bytes, name: str) -> Drawing:
    """Read a drawing; raises BadInput with one clear line where it cannot be."""
    with uncollected():
        drawing = _read(data, name)
    drawing.drop_wild(name)
    return drawing


def _read(data: bytes, name: str) -> Drawing:
    """Read bytes by the file's ending or, where that says nothing, by its content."""
    ending = PurePath(name).suffix.lower()
    if ending in (".plt", ".hpgl", ".hpg", ".hpgl2"):
        return hpgl.read(data, name)
    if ending == ".svg" or (ending != ".dxf" and b"<svg" in data[:4096]):
        return svg.read(data, name)
    if ending == ".dxf" or data[:64].lstrip().startswith((b"0", b"AutoCAD Binary")):
        return dxf.read(data, name)
    if ending in MODELS:
        raise BadInput(
            f"{name} is a model or a picture of heights: it is set on a part as a relief; open the part it is"
            " for, and under Changes set it on its face"
        )
    raise BadInput(
        f"{name}: Venzo reads .dxf, .svg, .plt and .hpgl drawings; export the drawing as one of these"
    )
