"""Carvings and engraved lines over a relief: they follow its surface where that is asked for."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from venzo.core.cuts.in_hand import PartInHand
from venzo.core.cuts.moves import Z
from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.cuts.operations import FEATURE_ON, Groove, VCarve
from venzo.core.geometry.contour import Array
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.relief.projected import UnderCarving, meets, on_surface, slopes_along, wider_uphill
from venzo.core.snags import Remedy, look, note, stop
from venzo.core.tooling.cutter import Cutter

VERSION = "over-reliefs-1"
CHORD = 0.02
LEFT = 0.5
"""mm that must be left under a carving on a relief."""
SELDOM = 0.01
"""Share of a carving on which the surface may be steeper than its bit before it is said."""
SLIGHT = 1.05
"""Times as wide as on the level that a stroke may be uphill before it is said."""
FAR = 0.1
"""mm below the face from which a relief under a carving matters."""


class OverReliefs:
    """What lies under the carvings of a part."""

    def __init__(self, hand: PartInHand) -> None:
        self.hand = hand

    @property
    def under(self) -> UnderCarving:
        """The part's reliefs that are cut."""
        hand, laid = self.hand, []
        for f in hand.shape.features:
            if f.kind != "relief" or f.depth is None or f.depth > hand.thickness:
                continue
            choice = hand.choices.get(f.name)
            mesh = None if choice and choice.omit else mesh_of(f, hand.surfaces)
            if mesh is not None and hand.steps_of(f.name, "reliefs")[0]:
                area = shapely.Polygon(f.contour.points(CHORD)).buffer(0)
                shapely.prepare(area)
                laid.append((relief_of(f, mesh, hand.thickness, hand.mirrored), area))
        return UnderCarving(tuple(laid))

    def follow(
        self, name: str, step: VCarve | Groove, cutter: Cutter, moves: Sequence[Array], plunge: float
    ) -> list[Array]:
        """A step's moves laid on the reliefs under them, where it follows them; what is wrong is said."""
        under = self.under
        if not under.laid:
            return list(moves)
        if not step.follow_relief:
            self._not_followed(name, step, moves, under)
            return list(moves)
        key = digest(
            VERSION,
            [m.tobytes().hex() for m in moves],
            [[f.surface, f.contour.rows(), f.depth, f.sits] for f in self._reliefs()],
            self.hand.thickness,
            self.hand.mirrored,
            plunge,
        )
        laid = memo("on-surface", key, lambda: [on_surface(m, under, plunge) for m in moves])
        self._judged(name, cutter, laid, under)
        return laid

    def _reliefs(self) -> list:
        return [f for f in self.hand.shape.features if f.kind == "relief"]

    def _judged(self, name: str, cutter: Cutter, laid: Sequence[Array], under: UnderCarving) -> None:
        hand = self.hand
        deepest = -min((float(m[:, Z].min()) for m in laid), default=0.0)
        if deepest > hand.thickness - LEFT:
            hand.say(
                stop(
                    "relief.through",
                    f"{hand.label(name)}: on the relief it reaches {deepest:.2f} mm below the face of a sheet"
                    f" {hand.thickness:.2f} mm thick; at least {LEFT:g} mm are to stay: carve less deep, set"
                    " the relief higher, or take a thicker sheet",
                    hand.where(name),
                )
            )
        half = cutter.angle / 2 if cutter.kind == "v-bit" and cutter.angle else 0.0
        if not half:
            return
        slopes = np.concatenate([slopes_along(m, under) for m in laid])
        steep = float((slopes * math.tan(math.radians(half)) >= 1).mean()) if len(slopes) else 0.0
        wider = wider_uphill(float(np.percentile(slopes, 99)) if len(slopes) else 0.0, half)
        if wider > SLIGHT and steep <= SELDOM:
            many = f"up to {wider:.1f} times" if math.isfinite(wider) else "many times"
            hand.say(
                note(
                    "relief.wider-strokes",
                    f"{hand.label(name)}: where the relief slopes, strokes of {cutter.name} come out {many}"
                    " as wide uphill as on the level; a sharper bit keeps them nearer",
                    hand.where(name),
                )
            )
        if steep > SELDOM:
            hand.say(
                look(
                    "relief.steep-carving",
                    f"{hand.label(name)}: on {100 * steep:.0f} % of its way the relief is steeper than the"
                    f" flank of {cutter.name}, which cuts into what stands above it; move it, or take a"
                    " sharper bit",
                    hand.where(name),
                )
            )

    def _not_followed(
        self, name: str, step: VCarve | Groove, moves: Sequence[Array], under: UnderCarving
    ) -> None:
        hand = self.hand
        deep = meets(under, [m[:, [1, 2]] for m in moves])
        if deep < FAR:
            return
        kind = next(f.kind for f in hand.shape.features if f.name == name)
        on = FEATURE_ON[kind]
        if on == "grooves":
            return
        command: dict = {"kind": "change-steps", "on": on}
        if name in hand.steps_by_contour:
            command |= {"part": hand.part.id, "contour": name}
        elif on in hand.steps_by_on:
            command |= {"part": hand.part.id}
        else:
            command |= {"setup": hand.setup.id}
        command["change"] = [{"id": step.id, "fields": {"follow_relief": True}}]
        hand.say(
            look(
                "relief.not-followed",
                f"{hand.label(name)}: it lies over a relief that is up to {deep:.2f} mm below the face, and"
                " is reckoned from the face: part of it is cut in the air",
                hand.where(name),
                Remedy(label="Follow the relief", command=command),
            )
        )
