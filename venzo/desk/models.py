"""Models and pictures set on parts as reliefs."""

from __future__ import annotations

import io
from pathlib import PurePath

import numpy as np
import shapely

from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.edits.asks import AlterPart, ChangeModel
from venzo.core.edits.fields import with_changes
from venzo.core.parts.alter import ModelSet, alter
from venzo.core.plan import Part, Plan
from venzo.core.relief.drop import Ground
from venzo.core.relief.kept_surface import outline_shares
from venzo.core.relief.lit import lit
from venzo.core.relief.mesh import Mesh
from venzo.core.snags import BadInput
from venzo.desk.drawings import alter_part
from venzo.desk.relief import model_of
from venzo.formats import height_picture
from venzo.store.store import Revision, Store

ROOM = 0.9
"""Share of a part's box that a relief is scaled to where it is larger."""
DEEP = 0.5
"""Share of the thickness that a relief is lowered to where it is higher."""
MARGIN = 6.35
"""mm that tips may go beyond the outline where the rim is low (common practice: 1/4 in)."""
LOW = 0.6
"""Share of a model's height under which its rim is low."""
LEAST = 1.0
"""mm: a model that is smaller either way is taken for one in another unit."""
USUAL = 5.0
"""mm: height of a picture's relief, which has none of its own."""


def set_model(
    store: Store, job: str, base: int, part: str, name: str, data: bytes, smooth: float = 0.0
) -> Revision:
    """Set a model or a picture of heights on a part: in its middle, at its own size where that fits, else
    scaled evenly into it; no deeper than half the thickness.

    Raises:
        BadInput: no such part, or no model that can be read.
    """
    plan = store.get(job).plan
    p, thickness = _part(plan, part)
    width, height = store.shapes[p.shape].size
    whole = _read(data, name, (width, height), smooth).seen
    mesh = Mesh.of(name, whole.points, whole.faces)  # of a closed model what is seen from above
    low, high = mesh.box
    wide, tall, deep = (float(v) for v in high - low)
    if deep <= 1e-6:
        raise BadInput(f"{name} is flat: it has no heights to carve; choose a model with a relief")
    if min(wide, tall) < LEAST:
        raise BadInput(
            f"{name} is {wide:.3g} x {tall:.3g} mm; at least {LEAST:g} mm are carved: was it drawn in"
            " metres or inches? Export it in millimetres"
        )
    scale = min(1.0, ROOM * width / wide, ROOM * height / tall)
    size = (round(wide * scale, 4), round(tall * scale, 4))
    kept = store.shapes.surfaces.put(mesh)
    made = ModelSet(
        name=PurePath(name).stem[:120] or "model",
        surface=kept,
        outline=outline_shares(mesh),
        at=(round((width - size[0]) / 2, 4), round((height - size[1]) / 2, 4)),
        size=size,
        height=round(max(0.05, min(deep * scale, DEEP * thickness)), 4),
        margin=MARGIN if _rim_is_low(mesh) else 0.0,
    )
    return alter_part(store, job, base, AlterPart(part=part, add=made))


def _rim_is_low(mesh: Mesh) -> bool:
    """Does a model slope down to its rim, as a shell does, so that cutters need room beside it? A dish, or a
    picture in a frame, does not.
    """
    low, high = mesh.box
    outline = mesh.outline
    ring = outline.buffer(-0.01 * float(max(high[:2] - low[:2]))).boundary
    at = shapely.get_coordinates(ring.segmentize(float(ring.length) / 200)) if not ring.is_empty else None
    if at is None or not len(at):
        return False
    rim = float(np.median(Ground(mesh.seen.triangles).heights(at)))
    return rim < low[2] + LOW * (high[2] - low[2])


def change_model(store: Store, job: str, base: int, ask: ChangeModel) -> Revision:
    """Change where a relief lies, how large or how deep it is.

    Raises:
        BadInput: no such part or relief, or it would not fit.
    """
    p, _thickness = _part(store.get(job).plan, ask.part)
    found = p.alterations[ask.number] if ask.number < len(p.alterations) else None
    if not isinstance(found, ModelSet):
        raise BadInput(f"{p.name} has no relief at {ask.number + 1} of its alterations any more")
    new = with_changes(found, ask.fields, f"relief of {found.name}", ("kind", "surface", "outline"))
    every = [*p.alterations[: ask.number], new, *p.alterations[ask.number + 1 :]]
    lost = alter(store.shapes[p.drawn or p.shape], every)[1]
    if lost:
        raise BadInput(f"{p.name}: {lost[-1]}")
    return alter_part(store, job, base, AlterPart(part=ask.part, alterations=tuple(every)))


def _part(plan: Plan, part: str) -> tuple[Part, float]:
    p = plan.part(part)
    setup = plan.setup(p.setup) if p else None
    if p is None or setup is None:
        raise BadInput(f"the plan has no part {part!r}; it may have been removed")
    if setup.machine.head is not None:
        raise BadInput(f"{setup.name} is cut on {setup.machine.name}: a head carves no relief; use a router")
    return p, min((s.thickness for s in setup.stock), default=18.0)


def _read(data: bytes, name: str, room: tuple[float, float], smooth: float) -> Mesh:
    """A model as it is, or a picture as large as fits the room, ``USUAL`` high."""
    if PurePath(name).suffix.lower() not in height_picture.KINDS:
        return model_of(data, name, (), smooth)[0]
    mesh = model_of(data, name, (1.0, 1.0, 1.0), smooth)[0]
    low, high = mesh.box
    wide, tall, deep = (float(v) for v in high - low)
    scale = min(ROOM * room[0] / wide, ROOM * room[1] / tall)
    return mesh.placed((scale, scale, USUAL / deep), (0.0, 0.0, 0.0))


def picture(store: Store, plan: Plan, part: str, name: str, px: int = 700) -> bytes:
    """A relief as planned, lit, as a PNG.

    Raises:
        BadInput: no such part or relief.
    """
    from PIL import Image

    p, thickness = _part(plan, part)
    f = next((f for f in store.shapes[p.shape].features if f.name == name and f.surface), None)
    if f is None:
        raise BadInput(f"{p.name} has no relief {name!r}; it may have been dropped")
    relief = relief_of(f, store.shapes.surfaces[f.surface], round(thickness, 4))
    out = io.BytesIO()
    Image.fromarray(lit(relief, min(2000, max(16, px)))).save(out, "PNG")
    return out.getvalue()
