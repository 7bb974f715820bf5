"""A model as it is kept beside a plan: its faces as bytes, lower left of its box at the origin."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.memo import memo
from venzo.core.relief.formed_mesh import formed_mesh
from venzo.core.relief.mesh import Mesh
from venzo.core.snags import BadInput

if TYPE_CHECKING:
    from venzo.core.parts.shape import Feature

WHEN = (1980, 1, 1, 0, 0, 0)
"""The one time that files in it bear, so that equal models are equal bytes."""
LARGEST = 200 * 1024**2
"""Bytes of a kept model, unpacked."""
OUTLINE = 1e-3
"""Share of the box's larger side within which an outline is kept with fewer corners."""


def packed(mesh: Mesh) -> bytes:
    """A mesh as bytes: its points as single numbers (7 digits), its faces, compressed; the same mesh always
    gives the same bytes.

    >>> m = Mesh("m", np.array([[2, 3, 1], [4, 3, 1], [2, 5, 2.0]]), np.array([[0, 1, 2]]))
    >>> unpacked(packed(m), "m").points.tolist()
    [[0.0, 0.0, 0.0], [0.0, 2.0, 1.0], [2.0, 0.0, 0.0]]
    """
    out = io.BytesIO()
    points = (mesh.points - mesh.box[0]).astype("<f4")
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as kept:
        for name, values in (("points", points), ("faces", mesh.faces.astype("<i4"))):
            one = io.BytesIO()
            np.save(one, values, allow_pickle=False)
            kept.writestr(zipfile.ZipInfo(f"{name}.npy", WHEN), one.getvalue(), zipfile.ZIP_DEFLATED)
    return out.getvalue()


def unpacked(data: bytes, name: str) -> Mesh:
    """The inverse of ``packed``.

    Raises:
        BadInput: they are no such bytes.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as kept:
            if sum(f.file_size for f in kept.infolist()) > LARGEST:
                raise BadInput(f"{name}: over {LARGEST // 1024**2} MB unpacked; it was not made by Venzo")
        with np.load(io.BytesIO(data), allow_pickle=False) as kept:
            points, faces = kept["points"].astype(float), kept["faces"].astype(np.int64)
    except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile, zlib.error) as e:
        raise BadInput(f"{name}: the kept model is damaged; bring its file in again") from e
    return Mesh.of(name, points.reshape(-1, 3), faces.reshape(-1, 3))


def surfaces_of(shapes: object) -> Mapping[str, Mesh]:
    """The models of reliefs that are kept beside shapes; none where there are none."""
    found: Mapping[str, Mesh] = getattr(shapes, "surfaces", {})
    return found


def mesh_of(f: Feature, surfaces: Mapping[str, Mesh]) -> Mesh | None:
    """The surface of a part's relief: the kept model, or what its forms make (remembered); None where it is
    gone.

    Raises:
        BadInput: forms that make none.
    """
    made = f.formed
    if made is None:
        return surfaces.get(f.surface) if f.surface else None
    return memo("formed", f.surface, lambda: formed_mesh(f.name, made, surfaces))


def outline_shares(mesh: Mesh) -> tuple[tuple[float, float], ...]:
    """The largest outline of a model in plan, in shares of its box, without corners that hardly turn it.

    Raises:
        BadInput: it covers nothing.
    """
    low, high = mesh.box
    span = high[:2] - low[:2]
    whole: BaseGeometry = mesh.outline.simplify(float(max(span)) * OUTLINE)
    parts = [g for g in shapely.get_parts(whole).tolist() if g.geom_type == "Polygon" and g.area > 0]
    if not parts:
        raise BadInput(f"{mesh.name}: it covers nothing in plan; there is nothing to carve")
    ring = np.array(max(parts, key=lambda g: g.area).exterior.coords)[:-1]
    shares = (ring - low[:2]) / span
    return tuple((round(float(u), 6), round(float(v), 6)) for u, v in shares)
