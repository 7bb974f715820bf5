"""Steps on round features and edges: boring, drilling, chamfers and roundovers."""

from __future__ import annotations

from collections.abc import Sequence

from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.areas import Area
from venzo.core.cuts.depths import Levels
from venzo.core.cuts.in_hand import (
    Doing,
    PartInHand,
    closed_points,
)
from venzo.core.cuts.operations import (
    Bore,
    Chamfer,
    Drill,
    Operation,
    Pocket,
    Profile,
)
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.profile import (
    ProfileSettings,
    cutter_rings,
    profile_moves,
)
from venzo.core.cuts.rounds import bore_moves, drill_moves
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.snags import look, stop
from venzo.core.tolerances import FIT


class EdgeSteps:
    """Plans bores, drillings and edges."""

    def __init__(self, hand: PartInHand) -> None:
        self.hand = hand

    def bore(
        self, name: str, circle: tuple[float, float, float], step: Bore, k: int, depth: float, through: bool
    ) -> StepPlan | None:
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        self.hand.deep_enough(name, cutter, depth, through)
        largest, school = self.hand.step_down(step, cutter)
        pitch = step.pitch or min(largest, cutter.diameter / 4)
        lv = Levels(
            (-depth,),
            0.0,
            min(pitch, depth),
            min(cutter.diameter, 2 * circle[2] - cutter.diameter + 0.01),
            f"a helix of {pitch:.2f} mm a turn"
            + ("" if step.pitch else f": a quarter of the diameter, and {school}"),
        )
        a = self.hand.numbers(step, cutter, min(pitch, depth), lv.width)
        doing = Doing(name, step, k, cutter, a)
        track = Track(self.hand.setup.machine.retract, a.feed, a.plunge)
        moves = bore_moves(*circle, cutter.radius, (-depth,), pitch, step.direction == "climb", track)
        path = Contour.circle(circle[0], circle[1], circle[2] - cutter.radius)
        self.hand.add(doing, moves, path, lv.depths, frees=through, ringed=through)
        return self.hand.step_plan(
            doing,
            lv,
            [moves],
            "helix",
            (
                ("depth", f"{depth:.2f} mm" + (": through with overshoot" if through else "")),
                ("entry", "a helix is its own entry"),
            ),
        )

    def drill(
        self, name: str, circle: tuple[float, float, float], step: Drill, k: int, depth: float, through: bool
    ) -> StepPlan | None:
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        if cutter.kind != "drill" and not cutter.centre_cutting:
            self.hand.say(
                stop(
                    "cuts.plunge",
                    f"{self.hand.label(name)}: {cutter.name} does not cut at its centre and cannot drill;"
                    " bore it by helix",
                    self.hand.where(name),
                )
            )
            return None
        point = cutter.height_at(cutter.radius) if cutter.kind == "drill" else 0.0
        full = depth + (point if through else 0.0)
        self.hand.deep_enough(name, cutter, full, through)
        peck = step.peck or self.hand.rules.peck.get(self.hand.family, 1.0) * cutter.diameter
        a = self.hand.numbers(step, cutter, min(peck, full), cutter.diameter)
        doing = Doing(name, step, k, cutter, a)
        moves = drill_moves(
            circle[0],
            circle[1],
            full,
            peck,
            Track(self.hand.setup.machine.retract, a.feed, a.plunge),
            step.dwell,
        )
        lv = Levels(
            (-full,),
            0.0,
            full,
            cutter.diameter,
            f"pecks of {peck:.1f} mm"
            + (
                ""
                if step.peck
                else f": {self.hand.rules.peck.get(self.hand.family, 1.0):g} diameters in {self.hand.family}"
            ),
        )
        self.hand.add(
            doing, moves, Contour.circle(circle[0], circle[1], cutter.radius), (-full,), frees=through
        )
        words = f"{depth:.2f} mm" + (f" + {point:.2f} for the drill's point" if through and point else "")
        return self.hand.step_plan(
            doing, lv, [moves], "plunge", (("depth", words), ("entry", "drills go straight down"))
        )

    def chamfer(self, name: str, contour: Contour, inside: bool, step: Chamfer, k: int) -> StepPlan | None:
        label, where = self.hand.label(name), self.hand.where(name)
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        if cutter.kind in ("roundover", "point roundover"):
            off = step.offset if step.offset is not None else cutter.tip / 2
            width, depth = cutter.corner_radius, cutter.corner_radius
            shift = f"axis {off:.2f} mm off the contour, where the point meets the edge"
        elif cutter.kind == "v-bit":
            off = step.offset if step.offset is not None else cutter.tip / 2 + 0.25
            width = step.width
            if off + width > cutter.radius + 1e-9:
                self.hand.say(
                    stop(
                        "cuts.chamfer",
                        f"{label}: a chamfer of {width:g} mm needs a V bit at least {2 * (off + width):.1f}"
                        f" mm wide, {cutter.name} is {cutter.diameter:g} mm",
                        where,
                    )
                )
                return None
            depth = cutter.height_at(off + width)
            shift = (
                f"axis {off:.2f} mm off the contour, clear of the tip; {width:g} mm wide at {cutter.angle:g}"
                " degrees"
            )
        else:
            self.hand.say(
                stop(
                    "cuts.chamfer",
                    f"{label}: {cutter.name} is a {cutter.kind}; edges are broken with a V bit or a roundover"
                    " cutter",
                    where,
                )
            )
            return None
        if depth > self.hand.thickness:
            self.hand.say(
                stop(
                    "cuts.chamfer",
                    f"{label}: the edge cut is {depth:.2f} mm deep, the sheet {self.hand.thickness:.2f} mm",
                    where,
                )
            )
            return None
        rings = cutter_rings(contour, off, inside)
        if inside:  # the far wall must stay clear of the flank
            rings = [
                r for r in rings if cutter_rings(contour, max(off, cutter.radius_at(depth) - width), True)
            ]
        if not rings:
            self.hand.say(
                look(
                    "cuts.chamfer",
                    f"{label}: too narrow for {cutter.name} to break its edge; it is left sharp",
                    where,
                )
            )
            return None
        a = self.hand.numbers(step, cutter, depth, width)
        doing = Doing(name, step, k, cutter, a)
        lv = Levels((-depth,), 0.0, depth, width, "one pass")
        moves_all = []
        for ring, kept_outside in rings:
            s = ProfileSettings(
                cutter.radius_at(depth),
                inside,
                step.direction == "climb",
                (-depth,),
                0.0,
                0.0,
                min(self.hand.rules.ramp_length, 20.0),
                a.feed,
                a.plunge,
                self.hand.setup.machine.retract,
            )
            moves, _lead = profile_moves(ring, kept_outside, [], s)
            self.hand.add(doing, moves, ring, (-depth,))
            moves_all.append(moves)
        self.hand.areas[f"{name} edge {k}"] = Area(
            f"{name} edge", depth, _band(contour, width), _band(contour, width), (contour,)
        )
        return self.hand.step_plan(
            doing,
            lv,
            moves_all,
            "ramp",
            (("depth", f"{depth:.2f} mm: {shift}"), ("entry", "a short ramp along the edge")),
        )

    def fitting(self, steps: Sequence[Operation], radius: float, name: str) -> list[Operation]:
        """Of steps on round features, those that suit one of this radius: a drill its own size, else a bore
        up to so many cutter diameters.
        """
        choice = self.hand.choices.get(name)
        drills, bores, rest = [], [], []
        for s in steps:
            cutter = self.hand.setup.cutter(choice.cutter if choice and choice.cutter else s.cutter)
            if cutter is None:
                continue
            if isinstance(s, Drill) and abs(cutter.diameter - 2 * radius) <= FIT:
                drills.append(s)
            elif (
                isinstance(s, Bore)
                and cutter.diameter * 1.02 < 2 * radius <= cutter.diameter * self.hand.rules.bore_upto + 1e-9
            ):
                bores.append(s)
            elif isinstance(s, Profile | Pocket | Chamfer):
                rest.append(s)
        first: list[Operation] = [*drills] or [*bores[:1]]
        return [*first, *rest] if first else [s for s in rest if not isinstance(s, Chamfer)] and [*rest]


def _band(contour: Contour, width: float) -> BaseGeometry:
    """The strip of the part's face within ``width`` of a contour."""
    return LineString(closed_points(contour)).buffer(width + 0.02, quad_segs=24)
