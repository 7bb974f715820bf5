"""Does a program go into a relief? Every place of the cutter is held against where it would rest on the
surface itself.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import ReliefCut
from venzo.core.cuts.in_hand import mirrored_shape
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z, chords
from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.cuts.planned import PartCuts
from venzo.core.geometry.contour import Array, rotation_matrix
from venzo.core.memo import give_way
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.relief.block import Relief
from venzo.core.relief.kept_surface import mesh_of, surfaces_of
from venzo.core.relief.tip import Tip
from venzo.core.snags import BadInput, Snag, Where, stop
from venzo.core.tolerances import BUDGET, CHORD
from venzo.core.tooling.cutter import Cutter

Mask = npt.NDArray[np.bool_]
BELOW = -1e6
"""mm: beside the surface a cutter may go as deep as it likes, as far as the relief is concerned."""
HAIR = 2e-3
"""mm: what rounding of a written place may add."""


@dataclass(frozen=True, eq=False)
class Laid:
    """A relief where its piece lies: ``area``: what its cutters may sweep, on the sheet."""

    name: str
    piece: Piece
    relief: Relief
    area: BaseGeometry
    carved: BaseGeometry
    """Where carvings follow it."""

    def own(self, points: Array) -> Array:
        """Places (n, 2) of the sheet in the part's frame."""
        q = self.piece
        return (points - (q.x, q.y)) @ rotation_matrix(q.rotation)


class Reliefs:
    """The reliefs of a sheet, and the numbers of the cutters that are used on them."""

    def __init__(
        self,
        plan: Plan,
        setup: Setup,
        sheet: SheetPlan,
        shapes: Mapping[str, Shape],
        part_cuts: Mapping[tuple[str, bool], PartCuts],
        thickness: float,
    ):
        self.numbers = {
            c.number
            for pc in sheet.cuts
            if isinstance(pc.cut, ReliefCut) and (c := setup.cutter(pc.cut.cutter)) is not None
        }
        self.laid: list[Laid] = []
        if not self.numbers:
            return
        surfaces = surfaces_of(shapes)
        for q in sheet.pieces:
            part, cuts = plan.part(q.part), part_cuts.get((q.part, q.mirrored))
            if part is None or cuts is None:
                continue
            shape = shapes[part.shape]
            shape = mirrored_shape(shape) if q.mirrored else shape
            areas = {a.name: a for a in cuts.areas}
            own_names = {f.name for f in shape.features if f.kind == "relief"}
            for f in shape.features:
                mesh = mesh_of(f, surfaces) if f.kind == "relief" and f.name in areas else None
                if mesh is None:
                    continue
                relief = relief_of(f, mesh, thickness, q.mirrored)
                turn = rotation_matrix(q.rotation)
                # holes and pockets through a relief take of it what is theirs
                holes = [shapely.Polygon(h.points(CHORD)) for h in shape.region.holes]
                other = [a.target for a in cuts.areas if a.name not in own_names]
                own = areas[f.name].target.difference(shapely.union_all([*holes, *other]).buffer(BUDGET))
                area = shapely.affinity.affine_transform(own, [*turn.ravel().tolist(), q.x, q.y])
                follows = shapely.union_all([a.target for a in cuts.areas if a.follows])
                on_it = follows.intersection(shapely.Polygon(f.contour.points(CHORD)).buffer(HAIR))
                carved = shapely.affinity.affine_transform(on_it, [*turn.ravel().tolist(), q.x, q.y])
                shapely.prepare(area)
                shapely.prepare(carved)
                self.laid.append(
                    Laid(f"{part.name} piece {q.copy_no + 1}, {f.name}", q, relief, area, carved)
                )

    def within(self, chain: Array) -> Mask:
        """Which moves run inside what reliefs are cut of, from end to end, and no deeper than they are."""
        at = np.zeros(len(chain), dtype=bool)
        for one in self.laid:
            here = shapely.contains_xy(one.area, chain[:, X], chain[:, Y])
            at |= here & (chain[:, Z] >= one.relief.floor - HAIR)
        return at & np.concatenate([at[:1], at[:-1]])

    def from_surface(self, chain: Array) -> tuple[Array, Mask]:
        """The moves with Z reckoned from the relief's surface where carvings follow it, and which they are:
        what they may take is said from there.
        """
        out, on = chain, np.zeros(len(chain), dtype=bool)
        for one in self.laid:
            if one.carved.is_empty:
                continue
            here = shapely.contains_xy(one.carved, chain[:, X], chain[:, Y]) & (chain[:, Z] < HAIR)
            if here.any():
                out = out.copy() if out is chain else out
                z = chain[here, Z] - np.minimum(
                    0.0, one.relief.ground.heights(one.own(chain[here][:, [X, Y]]))
                )
                out[here, Z] = np.where(z > -BUDGET, np.maximum(z, 0.0), z)  # on the surface, nothing is cut
                on |= here
        return out, on & np.concatenate([on[:1], on[:-1]])

    def heights(self, points: Array) -> Array:
        """How high the models lie at places (n, 2) of the sheet, mm; nan where there is none, or where
        something else is cut into one.
        """
        out = np.full(len(points), np.nan)
        for one in self.laid:
            near = np.flatnonzero(shapely.contains_xy(one.area, points[:, 0], points[:, 1]))
            own = one.own(points[near])
            inside = shapely.contains_xy(one.relief.outline, own[:, 0], own[:, 1])
            out[near[inside]] = one.relief.ground.heights(own[inside])
        return out

    def gone_into(self, chain: Array, cutter: Cutter, where: Where) -> list[Snag]:
        """Places at which a cutter goes into a relief by more than is allowed, normal to its surface; moves
        (n, 7) in the sheet's coordinates, Z 0 at its top.
        """
        try:
            tip = Tip.of(cutter)
        except BadInput:
            return []
        points, of = chords(chain, CHORD)
        cutting = chain[of, KIND] != RAPID
        starts, ends = points[:-1][cutting], points[1:][cutting]
        places = np.vstack([ends, (starts + ends) / 2])
        places = places[places[:, 2] < -HAIR]
        out = []
        for one in self.laid:
            give_way()
            near = places[shapely.contains_xy(one.area, places[:, 0], places[:, 1])]
            if not len(near):
                continue
            rest = one.relief.ground.rest(one.own(near[:, :2]), tip.narrower(BUDGET), low=BELOW)
            deep = rest - (near[:, 2] + BUDGET)
            k = int(np.argmax(deep))
            if deep[k] > HAIR:
                x, y, z = near[k].tolist()
                words = (
                    f"{one.name}: {cutter.name} goes into its surface at {x:.2f}, {y:.2f} mm of the sheet,"
                    f" {-z:.2f} mm deep, where it would rest {-float(rest[k]):.2f} mm deep"
                )
                out.append(stop("proof.gouge", words, {**where, "x": round(x, 3), "y": round(y, 3)}))
        return out


def unread(chain: Array, inside: Mask) -> Array:
    """Moves of which those inside a relief are passed over: they are judged against its surface."""
    out = chain.copy()
    out[inside, KIND] = RAPID
    return out
