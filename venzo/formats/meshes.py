"""Models of triangles in: STL, OBJ, 3MF and PLY, read by trimesh."""

from __future__ import annotations

import io
import logging
from pathlib import PurePath
from typing import Any

import numpy as np

from venzo.core.relief.mesh import Mesh
from venzo.core.snags import BadInput

KINDS = (".stl", ".obj", ".3mf", ".ply")
LARGEST = 300 * 1024**2
"""Bytes of a file, at most."""
UNITS = {"micron": 1e-3, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0}
"""mm of the units that a 3MF file may be drawn in (3MF core specification, 3.4)."""


def read_mesh(data: bytes, name: str) -> Mesh:
    """A model's faces in mm. Of the kinds only 3MF says its unit; the others are taken as millimetres.

    Raises:
        BadInput: another kind, damaged, over LARGEST, without faces.
    """
    kind = PurePath(name).suffix.lower()
    if kind not in KINDS:
        raise BadInput(f"{name}: a model is read from {', '.join(KINDS)}; export it as one of these")
    if len(data) > LARGEST:
        raise BadInput(f"{name}: over {LARGEST // 1024**2} MB; export the model coarser")
    if not data.strip():
        raise BadInput(f"{name}: the file is empty")
    found = _loaded(data, name, kind)
    points, faces = np.asarray(found.vertices, dtype=float), np.asarray(found.faces, dtype=np.int64)
    scale = UNITS.get(str(found.units or "millimeter"), 1.0) if kind == ".3mf" else 1.0
    return Mesh.of(name, points * scale, faces.reshape(-1, 3))


def _loaded(data: bytes, name: str, kind: str) -> Any:
    import trimesh

    quiet = logging.getLogger("trimesh")
    before, quiet.disabled = quiet.disabled, True
    try:
        # nothing beside the file is opened: materials and pictures are not asked for
        found = trimesh.load(
            io.BytesIO(data), file_type=kind[1:], process=False, resolver=None, skip_materials=True
        )
        if isinstance(found, trimesh.Scene):
            units = found.units
            found = found.to_geometry() if found.geometry else trimesh.Trimesh()
            if isinstance(found, trimesh.Trimesh) and units and not found.units:
                found.units = units
    except Exception as e:
        raise BadInput(
            f"{name}: not a {kind[1:].upper()} file that can be read ({type(e).__name__}); export the model"
            " again"
        ) from e
    finally:
        quiet.disabled = before
    if not isinstance(found, trimesh.Trimesh) or not len(found.faces):
        raise BadInput(f"{name}: no faces in it (points and lines are no surface); export triangles")
    return found
