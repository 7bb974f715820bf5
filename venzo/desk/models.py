"""Models and pictures set on parts as reliefs."""

from __future__ import annotations

import io
from pathlib import PurePath

import numpy as np
import shapely

from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.edits.asks import AlterPart, ChangeForms, ChangeModel, MakeSurface
from venzo.core.edits.fields import with_changes
from venzo.core.parts.alter import ModelSet, SurfaceMade, alter
from venzo.core.parts.shape import OUTLINE
from venzo.core.plan import Part, Plan
from venzo.core.relief.drop import Ground
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.kept_surface import mesh_of, outline_shares
from venzo.core.relief.lit import lit
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.surface_forms import (
    MOST,
    AForm,
    Bead,
    Dish,
    Dome,
    Drawn,
    FormKind,
    Plateau,
    Ramp,
    RoundedEdge,
    SweptSection,
    Texture,
)
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
FIELD_INSET = 10.0
"""mm that the field of a surface made here lies inside a part's outline at first."""
USUAL = 5.0
"""mm: height of a picture's relief, which has none of its own."""


def set_model(
    store: Store,
    job: str,
    base: int,
    part: str,
    name: str,
    data: bytes,
    smooth: float = 0.0,
    black_high: bool = False,
) -> Revision:
    """Set a model or a picture of heights on a part: in its middle, at its own size where that fits, else
    scaled evenly into it; no deeper than half the thickness.

    Raises:
        BadInput: no such part, or no model that can be read.
    """
    plan = store.get(job).plan
    p, thickness = _part(plan, part)
    width, height = store.shapes[p.shape].size
    read, stair = _read(data, name, (width, height), smooth, black_high)
    whole = read.seen
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
        stair=stair,
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
    """Change where a relief lies, how large or how deep it is; of one made here its forms' measures.

    Raises:
        BadInput: no such part or relief, or it would not fit.
    """
    return alter_part(store, job, base, changed_model(store, store.get(job).plan, ask))


def changed_model(store: Store, plan: Plan, ask: ChangeModel) -> AlterPart:
    """What ``change_model`` asks for, as the alterations that a part has then; nothing is stored.

    Raises:
        BadInput: as ``change_model``.
    """
    found = _relief(plan, ask.part, ask.number)
    kept = ("kind", "surface", "outline", "stair")
    return _replaced(store, plan, ask, with_changes(found, ask.fields, f"relief of {found.name}", kept))


def make_surface(store: Store, job: str, base: int, ask: MakeSurface) -> Revision:
    """Make a relief on a part without a modeller, with one form as large as its field.

    Raises:
        BadInput: no such part or line, or one on which the form cannot be made.
    """
    plan = store.get(job).plan
    p, thickness = _part(plan, ask.part)
    taken = sum(isinstance(a, SurfaceMade) for a in p.alterations)
    field = Drawn(names=(ask.on,), inset=_inset(store, p) if ask.on == OUTLINE else 0.0)
    made = SurfaceMade(name=f"surface {taken + 1}", field=field, forms=(_form(ask.form, thickness),))
    return alter_part(store, job, base, AlterPart(part=ask.part, add=made))


def change_forms(store: Store, job: str, base: int, ask: ChangeForms) -> Revision:
    """Put a form more on a relief made here, take one off, or change their order.

    Raises:
        BadInput: no such relief or form, its last one, or too many.
    """
    plan = store.get(job).plan
    found = _relief(plan, ask.part, ask.number)
    thickness = _part(plan, ask.part)[1]
    forms = list(found.forms) if isinstance(found, SurfaceMade) else []
    if not isinstance(found, SurfaceMade):
        raise BadInput(f"the relief of {found.name} is a model: it has no forms to change")
    for k in (ask.drop, *(ask.move or ())):
        if k is not None and k >= len(forms):
            raise BadInput(f"{found.name} has no form {k + 1} any more; look again")
    if ask.drop is not None:
        forms.pop(ask.drop)
    if ask.move:
        forms.insert(ask.move[1], forms.pop(ask.move[0]))
    if ask.add:
        forms.append(_form(ask.add, thickness))
    if not forms:
        raise BadInput(f"{found.name} needs one form at least; drop the relief as a whole instead")
    if len(forms) > MOST:
        raise BadInput(f"{found.name} has {MOST} forms already, as many as are taken")
    new = found.model_copy(update={"forms": tuple(forms)})
    return alter_part(store, job, base, _replaced(store, plan, ask, new))


def add_texture(
    store: Store, job: str, base: int, part: str, number: int, name: str, data: bytes, smooth: float = 0.0
) -> Revision:
    """Put a picture of heights on a relief made here as a texture, side by side over its field.

    Raises:
        BadInput: no such relief, or no picture that can be read.
    """
    plan = store.get(job).plan
    found = _relief(plan, part, number)
    if not isinstance(found, SurfaceMade):
        raise BadInput(f"the relief of {found.name} is a model: a texture is put on a surface made here")
    if PurePath(name).suffix.lower() not in height_picture.KINDS:
        raise BadInput(f"{name}: a texture is a picture ({', '.join(height_picture.KINDS)})")
    if len(found.forms) >= MOST:
        raise BadInput(f"{found.name} has {MOST} forms already, as many as are taken")
    mesh = model_of(data, name, (1.0, 1.0, 1.0), smooth)[0]
    short = PurePath(name).stem[:120] or "texture"
    form = Texture(name=short, surface=store.shapes.surfaces.put(mesh))
    ask = ChangeForms(part=part, number=number)
    new = found.model_copy(update={"forms": (*found.forms, form)})
    return alter_part(store, job, base, _replaced(store, plan, ask, new))


def _relief(plan: Plan, part: str, number: int) -> ModelSet | SurfaceMade:
    p, _thickness = _part(plan, part)
    found = p.alterations[number] if number < len(p.alterations) else None
    if not isinstance(found, ModelSet | SurfaceMade):
        raise BadInput(f"{p.name} has no relief at {number + 1} of its alterations any more")
    return found


def _replaced(
    store: Store, plan: Plan, ask: ChangeModel | ChangeForms, new: ModelSet | SurfaceMade
) -> AlterPart:
    """A part with one alteration in place of another, if it can be made."""
    p, _thickness = _part(plan, ask.part)
    every = (*p.alterations[: ask.number], new, *p.alterations[ask.number + 1 :])
    lost = alter(store.shapes[p.drawn or p.shape], every, store.shapes.surfaces)[1]
    if lost:
        raise BadInput(f"{p.name}: {lost[-1]}")
    return AlterPart(part=ask.part, alterations=every)


def _inset(store: Store, p: Part) -> float:
    """How far inside the outline a first field lies, mm: a part's edge stays for its profile."""
    return round(min(FIELD_INSET, 0.1 * min(store.shapes[p.shape].size)), 2)


def _form(kind: FormKind, thickness: float) -> AForm:
    """A first form of a kind, no higher than a quarter of the sheet."""
    high = round(max(0.5, 0.25 * thickness), 1)
    if kind == "dome":
        return Dome(height=high)
    if kind == "dish":
        return Dish(depth=high)
    if kind == "ramp":
        return Ramp(low=0.0, high=high)
    if kind == "plateau":
        return Plateau(height=high)
    if kind == "rounded edge":
        return RoundedEdge(radius=high)
    if kind == "bead":
        return Bead(width=2 * high, height=high, together="higher")
    return SweptSection(together="higher")


def _part(plan: Plan, part: str) -> tuple[Part, float]:
    p = plan.part(part)
    setup = plan.setup(p.setup) if p else None
    if p is None or setup is None:
        raise BadInput(f"the plan has no part {part!r}; it may have been removed")
    if setup.machine.head is not None:
        raise BadInput(f"{setup.name} is cut on {setup.machine.name}: a head carves no relief; use a router")
    return p, min((s.thickness for s in setup.stock), default=18.0)


def _read(
    data: bytes, name: str, room: tuple[float, float], smooth: float, black_high: bool
) -> tuple[Mesh, float]:
    """A model as it is, or a picture as large as fits the room, ``USUAL`` high; and of a picture that was not
    smoothed one grey level as a share of its height.
    """
    if PurePath(name).suffix.lower() not in height_picture.KINDS:
        return model_of(data, name, (), smooth, black_high)[0], 0.0
    picture = height_picture.read_heights(data, name, smooth, black_high)
    mesh = grid_mesh(name, picture.heights)
    low, high = mesh.box
    wide, tall, deep = (float(v) for v in high - low)
    scale = min(ROOM * room[0] / wide, ROOM * room[1] / tall)
    placed = mesh.placed((scale, scale, USUAL / deep), (0.0, 0.0, 0.0))
    return placed, 0.0 if smooth else round(picture.stair_share, 6)


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
    mesh = mesh_of(f, store.shapes.surfaces)
    if mesh is None:
        raise BadInput(f"{p.name}: the model of {name} is not there any more; set it anew")
    relief = relief_of(f, mesh, round(thickness, 4))
    out = io.BytesIO()
    Image.fromarray(lit(relief, min(2000, max(16, px)))).save(out, "PNG")
    return out.getvalue()
