"""How a relief sits in its block: size, depth below the top, where cutters may go."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field
from shapely.geometry.base import BaseGeometry

from venzo.core.model import NotNegative, Value
from venzo.core.relief.drop import Ground
from venzo.core.relief.mesh import Mesh
from venzo.core.snags import BadInput, Snag, look, note, stop

Side = Annotated[float, Field(gt=0.5, le=20_000)]


class Block(Value):
    """The stock that a relief is carved from, mm; X 0, Y 0 at its lower left corner, Z 0 at its top.

    ``spread``: between its thickest and thinnest reading.
    """

    width: Side
    height: Side
    thickness: Side
    spread: NotNegative = 0.0


class Sitting(Value):
    """How the model is scaled and set. ``depth``: of its highest point below the block's top; ``margin``: how
    far beyond its outline the middle of a tip may go; ``size``: its extents in x, y and z: one number scales
    it evenly, two leave its height as it is.
    """

    depth: NotNegative = 0.0
    margin: Annotated[float, Field(ge=0, le=500)] = 0.0
    size: tuple[float, ...] = ()


LOOKS = 160
"""Places across, each way, that are looked at for undercuts."""
FOOT = 0.1
"""mm over its lowest place to which a model's underside counts as its foot."""
SHARE = 0.002
"""Of the outline's area: less is no undercut that is told."""


@dataclass(frozen=True, eq=False)
class Relief:
    """A surface in its block. ``boundary``: where the middle of a tip may be; ``floor``: no tip goes
    lower.
    """

    block: Block
    mesh: Mesh
    ground: Ground
    outline: BaseGeometry
    boundary: BaseGeometry
    floor: float
    snags: tuple[Snag, ...]

    @property
    def depth(self) -> float:
        """How deep the deepest place lies below the block's top, mm."""
        return -float(self.floor)


def sized(mesh: Mesh, size: tuple[float, ...]) -> Mesh:
    """The model at a size asked for.

    Raises:
        BadInput: a size of no or too many numbers, or of 0.
    """
    if not size:
        return mesh
    if len(size) > 3 or any(not 0 < v <= 20_000 for v in size):
        raise BadInput(
            f"size {'x'.join(f'{v:g}' for v in size)}: give one, two or three lengths above 0 and up to 20000"
            " mm"
        )
    low, high = mesh.box
    has = high - low
    if len(size) == 1:
        s = size[0] / has[0]
        return mesh.placed((s, s, s), (0.0, 0.0, 0.0))
    if len(size) == 3 and has[2] <= 1e-9:
        raise BadInput(f"{mesh.name} is flat: it has no height to scale; leave the third size away")
    scale = [size[0] / has[0], size[1] / has[1], size[2] / has[2] if len(size) == 3 else 1.0]
    return mesh.placed((scale[0], scale[1], scale[2]), (0.0, 0.0, 0.0))


def set_in(mesh: Mesh, block: Block, sitting: Sitting) -> Relief:
    """A model set in a block: its highest point ``depth`` below the top, middle on middle in plan.

    Raises:
        BadInput: a size that cannot be.
    """
    sized_one = sized(mesh, sitting.size)
    low, high = sized_one.box
    middle = (low + high) / 2
    shift = (block.width / 2 - middle[0], block.height / 2 - middle[1], -sitting.depth - high[2])
    placed = sized_one.placed((1.0, 1.0, 1.0), (float(shift[0]), float(shift[1]), float(shift[2])))
    # who gives a size has answered in which unit it was drawn
    snags = [s for s in placed.faults() if not (sitting.size and s.rule == "relief.unit")]
    low, high = placed.box
    snags += _fits(block, low, high, sitting)
    bottom = float(low[2])
    floor = max(bottom, -block.thickness)
    seen = placed.seen
    ground = Ground(seen.triangles, floor)
    outline = placed.outline
    boundary = outline.buffer(sitting.margin, quad_segs=32) if sitting.margin else outline
    snags += _undercut(placed, ground, outline)
    return Relief(block, placed, ground, outline, boundary, floor, tuple(snags))


def placed_at(mesh: Mesh, box: tuple[float, float, float, float], top: float, bottom: float) -> Mesh:
    """A model that fills a box in plan, its highest point at ``top``, its lowest at ``bottom``, mm."""
    low, high = mesh.box
    span = np.maximum(high - low, 1e-9)
    scale = ((box[2] - box[0]) / span[0], (box[3] - box[1]) / span[1], (top - bottom) / span[2])
    shift = (box[0] - low[0] * scale[0], box[1] - low[1] * scale[1], bottom - low[2] * scale[2])
    return mesh.placed(
        (float(scale[0]), float(scale[1]), float(scale[2])),
        (float(shift[0]), float(shift[1]), float(shift[2])),
    )


def on_face(mesh: Mesh, block: Block, margin: float, covers: BaseGeometry | None = None) -> Relief:
    """A model that lies in the block as it is to come out, Z 0 at the top; ``covers``: its outline in plan,
    where that is known.
    """
    placed_low = float(mesh.box[0][2])
    floor = max(placed_low, -block.thickness)
    ground = Ground(mesh.seen.triangles, floor)
    outline = mesh.outline if covers is None else covers
    boundary = outline.buffer(margin, quad_segs=32) if margin else outline
    # what was made of forms lies over itself nowhere
    said = tuple(_undercut(mesh, ground, outline)) if covers is None else ()
    return Relief(block, mesh, ground, outline, boundary, floor, said)


def clear_depth(spread: float) -> float:
    """How far below the face a relief's highest place is set so that no thin place of the stock stays uncut:
    half a mm more than its thickness varies by, in tenths.

    >>> clear_depth(0.3)
    0.8
    """
    return math.ceil(round(spread * 10 + 5, 6)) / 10


def _fits(block: Block, low: np.ndarray, high: np.ndarray, sitting: Sitting) -> list[Snag]:
    out = []
    deep, t = -float(low[2]), block.thickness
    if deep > t + 1e-6:
        out.append(
            stop(
                "relief.deeper",
                f"the model reaches {deep:.2f} mm below the block's top and the block is {t:g} mm thick: it"
                f" is cut no lower than the block's underside; scale it, set it higher or take {deep:.1f} mm",
            )
        )
    over = [
        f"{name} {have:.1f} of {room:g} mm"
        for name, have, room in (
            ("width", float(high[0] - low[0]), block.width),
            ("height", float(high[1] - low[1]), block.height),
        )
        if have > room + 1e-6
    ]
    if over:
        out.append(
            stop(
                "relief.larger",
                f"the model is larger than the block ({', '.join(over)}): scale it, or take a larger block",
            )
        )
    if block.spread > sitting.depth + 1e-9:
        out.append(
            look(
                "relief.flat-spots",
                f"the block's thickness varies by {block.spread:.2f} mm and the model's highest point lies"
                f" {sitting.depth:.2f} mm below its top: thin places stay uncut and leave flat spots; set it"
                f" {clear_depth(block.spread):.1f} mm below the top",
            )
        )
    return out


def _undercut(mesh: Mesh, ground: Ground, outline: BaseGeometry) -> list[Snag]:
    """Places where the surface lies over itself, or over an underside that is not its flat foot: a straight
    tool leaves what is above.
    """
    x0, y0, x1, y1 = outline.bounds
    xs, ys = (a + (np.arange(LOOKS) + 0.5) / LOOKS * (b - a) for a, b in ((x0, x1), (y0, y1)))
    at = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    under = at[ground.layers(at) > 1]
    area = len(under) * (x1 - x0) * (y1 - y0) / LOOKS**2
    foot = float(mesh.box[0][2])
    if mesh.closed:
        down = mesh.faces_down
        t = mesh.triangles[down]
        hangs = t[:, :, 2].max(axis=1) > foot + FOOT
        area = max(area, float(np.abs(mesh.in_plan[down][hangs]).sum()) / 2)
        under = under if len(under) else t[hangs][:, :, :2].mean(axis=1)
    if not len(under) or area < SHARE * outline.area:
        return []
    x, y = under.mean(axis=0)
    return [
        note(
            "relief.undercut",
            f"{mesh.name}: over about {area:.0f} mm2, near {x:.1f}, {y:.1f} mm, its surface lies over itself"
            " or over a hollow underside: a straight cutter leaves what is below as a solid foot",
            {"x": round(float(x), 2), "y": round(float(y), 2)},
        )
    ]
