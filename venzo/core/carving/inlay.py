"""An inlay as two carvings from one drawing: the socket in the board, and the plug, mirrored, on a board of
its own.

The socket is carved from the surface to a flat floor. The plug is what stays standing when everything around
the mirrored drawing is carved, reckoned from a plane below the plug's face: at that plane the plug has the
drawing's size, above it it tapers as the socket does. Turned over and pressed in until that plane is level
with the board, the walls touch everywhere; the plug's face is the glue gap short of the floor, and between
the two boards there is room for the saw.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import scale
from shapely.geometry.base import BaseGeometry

from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Carving, Depths, carve
from venzo.core.carving.sweep import Surface, flat, sweep
from venzo.core.carving.toolpath import bit_moves, mill_moves
from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.snags import BadInput, Snag, stop

CLOSES = 0.1
"""mm of overlap beyond what cutting leaves that glue and a mallet take."""


@dataclass(frozen=True, eq=False)
class Inlay:
    """A planned pair. mm: ``depth`` of the socket's floor, ``gap`` for glue under the plug, ``plane`` below
    the plug's face that its size is reckoned from, ``saw`` between the boards when the plug sits.
    """

    socket: Carving
    plug: Carving
    depth: float
    gap: float
    plane: float
    saw: float
    box: tuple[float, float, float, float]
    """Of the carved ground around the plug at the reckoning plane, in the plug's (mirrored) coordinates."""

    @property
    def board(self) -> tuple[float, float, float, float]:
        """What the plug's board must cover at its face, where the outermost walls are wider."""
        wide = self.plane * self.plug.bit.tan
        return self.box[0] - wide, self.box[1] - wide, self.box[2] + wide, self.box[3] + wide


def inlay(
    area: BaseGeometry | Sequence[BaseGeometry],
    bit: Bit,
    depth: float,
    gap: float,
    saw: float,
    margin: float | None = None,
    clear: float | None = None,
    step_down: float | None = None,
) -> Inlay:
    """Plan socket and plug.

    Args:
        area: closed regions of the drawing.
        bit: used for both; the same angle is what makes them mate.
        depth: of the socket, mm.
        gap: for glue between the plug's face and the socket's floor.
        saw: between the boards when the plug is in; the plug is sawn off there.
        margin: of cleared ground around the plug; by default as wide as the bit there and the end mill need.
        clear: diameter of the end mill that clears floors.
        step_down: deepest pass of the bit, mm; a light pass at full depth follows.

    Raises:
        BadInput: measures that cannot be.
    """
    if not 0 < gap < depth <= 100:
        raise BadInput(
            f"a glue gap of {gap:g} mm in a socket {depth:g} mm deep: the gap is above 0 and less than the"
            " depth"
        )
    if not 0.2 <= saw <= 50:
        raise BadInput(f"{saw:g} mm to saw in: give 0.2 to 50 mm")
    plane = depth - gap
    deep = plane + saw
    if deep > bit.deepest:
        raise BadInput(
            f"the plug is carved {deep:.2f} mm deep, the bit reaches {bit.deepest:.2f} mm; take a wider bit,"
            " a shallower socket or less room for the saw"
        )
    wide = float(bit.radius(deep))
    margin = margin if margin is not None else 2 * wide + (clear or 0.0) + 4.0
    if margin < 2 * wide:
        raise BadInput(
            f"a margin of {margin:g} mm around the plug is less than the bit is wide there, {2 * wide:.1f} mm"
        )
    whole = shapely.union_all(list(area)) if isinstance(area, Sequence) else area
    if whole.is_empty:
        raise BadInput("there is no closed outline to make an inlay of")
    mirrored = scale(whole, -1.0, 1.0, origin=(0.0, 0.0))
    b = mirrored.bounds
    frame = (b[0] - margin, b[1] - margin, b[2] + margin, b[3] + margin)
    give_way()
    socket = carve(whole, bit, Depths(floor=depth, clear=clear, step_down=step_down))
    give_way()
    plug = carve(
        shapely.box(*frame).difference(mirrored),
        bit,
        Depths(floor=deep, clear=clear, below=plane, step_down=step_down),
    )
    return Inlay(socket, plug, depth, gap, plane, saw, frame)


def swept(c: Carving, box: tuple[float, float, float, float], cell: float) -> Surface:
    """The surface a carving's own moves leave over a box."""
    s = flat(box, cell)
    for m in mill_moves(c, 3.0, 3000.0, 1000.0):
        give_way()
        sweep(s, m, None, (c.depths.clear or 0.0) / 2)
    for m in bit_moves(c, 3.0, 3000.0, 1000.0):
        give_way()
        sweep(s, m, c.bit)
    return s


@dataclass(frozen=True)
class Mating:
    """How a pair fits, from what the moves really leave: overlap (mm3) beyond ``slack`` mm, the least and the
    middle gap under the plug's face, and the room for the saw.

    ``x``, ``y``: where they overlap deepest, in the drawing's coordinates.
    """

    overlap: float
    deepest_overlap: float
    floor_gap: float
    least_gap: float
    saw: float
    slack: float
    x: float
    y: float


def gaps(
    pair: Inlay, cell: float = 0.1, rows: tuple[float, float] | None = None
) -> tuple[Array, Array, Array, Surface]:
    """Socket's and plug's surfaces over the drawing (mm, Z 0 at the board's face, the plug turned over and
    pressed in) and the gap between them; ``rows``: only between two y.
    """
    b = shapely.union_all(list(pair.socket.polygons)).bounds
    y0, y1 = rows if rows else (b[1] - 1.0, b[3] + 1.0)
    box = (b[0] - 1.0, y0, b[2] + 1.0, y1)
    socket = swept(pair.socket, box, cell)
    # the mirrored box: its columns read backwards are the same places
    width = (socket.heights.shape[1] - 1) * cell
    plug = swept(pair.plug, (-(box[0] + width), box[1], -box[0], box[3]), cell)
    turned = -(plug.heights[:, ::-1] + pair.plane)
    return socket.heights, turned, turned - socket.heights, socket


def mating(pair: Inlay, cell: float = 0.1, slack: float = 0.02) -> Mating:
    """How the pair fits."""
    socket, turned, gap, s = gaps(pair, cell)
    row, column = np.unravel_index(int(np.argmin(gap)), gap.shape)
    face = turned <= -pair.plane + 1e-6
    floor = face & (socket <= -pair.depth + 0.03)
    under = gap[floor] if floor.any() else gap[face]
    outside = socket >= -1e-9
    return Mating(
        float(np.maximum(-gap - slack, 0).sum() * cell * cell),
        float(max(0.0, -gap.min())),
        float(np.median(under)) if len(under) else pair.gap,
        float(gap[face].min()) if face.any() else pair.gap,
        float(np.median(gap[outside])),
        slack,
        float(s.xs[column]),
        float(s.ys[row]),
    )


def mating_snags(fit: Mating) -> list[Snag]:
    """A *stop* where the pair cannot close: somewhere plug and socket both stand, by more than cutting
    leaves.
    """
    if fit.deepest_overlap <= fit.slack + CLOSES:
        return []
    words = (
        f"the pair cannot close: plug and socket overlap by {fit.deepest_overlap:.2f} mm at {fit.x:.1f},"
        f" {fit.y:.1f}"
    )
    return [
        stop(
            "carve.inlay",
            f"{words}; take a bit with a finer point, a smaller end mill, or enlarge what is narrow there",
            {"x": round(fit.x, 2), "y": round(fit.y, 2)},
        )
    ]


def section(pair: Inlay, y: float, cell: float = 0.05) -> tuple[Array, Array, Array]:
    """x, the socket's and the plug's surface (mm) along a line at ``y``, the plug pressed in."""
    socket, turned, _gap, s = gaps(pair, cell, (y, y))
    return s.xs, socket[0], turned[0]
