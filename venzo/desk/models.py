"""Models and pictures set on parts as reliefs."""

from __future__ import annotations

from pathlib import PurePath

from venzo.core.edits.asks import AlterPart, ChangeModel
from venzo.core.edits.fields import with_changes
from venzo.core.parts.alter import ModelSet, alter
from venzo.core.plan import Part, Plan
from venzo.core.relief.kept_surface import outline_shares
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
    mesh = _read(data, name, (width, height), smooth)
    low, high = mesh.box
    wide, tall, deep = (float(v) for v in high - low)
    if deep <= 1e-6:
        raise BadInput(f"{name} is flat: it has no heights to carve; choose a model with a relief")
    scale = min(1.0, ROOM * width / wide, ROOM * height / tall)
    size = (round(wide * scale, 4), round(tall * scale, 4))
    kept = store.shapes.surfaces.put(mesh)
    made = ModelSet(
        name=PurePath(name).stem[:120] or "model",
        surface=kept,
        outline=outline_shares(mesh),
        at=(round((width - size[0]) / 2, 4), round((height - size[1]) / 2, 4)),
        size=size,
        height=round(min(deep * scale, DEEP * thickness), 4),
    )
    return alter_part(store, job, base, AlterPart(part=part, add=made))


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
