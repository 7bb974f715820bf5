"""How thick a piece is once its reliefs are cut."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from venzo.core.cuts.in_hand import mirrored_shape
from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.geometry.contour import Array, rotation_matrix
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.relief.mesh import Mesh


def thickness_at(
    points: Array, piece: Piece, drawn: Shape, surfaces: Mapping[str, Mesh], thickness: float
) -> Array:
    """How much of a sheet ``thickness`` mm thick stands at places (n, 2) of it that lie in a piece, mm, once
    the reliefs on both its faces are cut.
    """
    off = {"front": np.zeros(len(points)), "back": np.zeros(len(points))}
    shape = mirrored_shape(drawn) if piece.mirrored else drawn
    own = (points - (piece.x, piece.y)) @ rotation_matrix(piece.rotation)
    for f in shape.features:
        mesh = mesh_of(f, surfaces) if f.kind == "relief" else None
        if mesh is None:
            continue
        relief = relief_of(f, mesh, round(thickness, 4), piece.mirrored)
        inside = shapely.contains_xy(relief.outline, own[:, 0], own[:, 1])
        off[f.face][inside] = np.maximum(off[f.face][inside], -relief.ground.heights(own[inside]))
    return np.maximum(thickness - off["front"] - off["back"], 0.0)
