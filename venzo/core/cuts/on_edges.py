"""Steps on round features and edges: boring, drilling, chamfers and roundovers."""

from __future__ import annotations

import numpy as np
from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.areas import Area
from venzo.core.cuts.depths import Levels
from venzo.core.cuts.operations import Bore, Chamfer, Drill
from venzo.core.cuts.planner import Planner, StepPlan
from venzo.core.cuts.profile import ProfileSettings, cutter_rings, profile_moves
from venzo.core.cuts.rounds import bore_moves, drill_moves
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array, Contour
from venzo.core.snags import look, stop


class EdgeSteps(Planner):
    """Plans bores, drillings and edges."""

    def _bore(
        self, name: str, circle: tuple[float, float, float], step: Bore, k: int, depth: float, through: bool
    ) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        self.deep_enough(name, cutter, depth, through)
        largest, school = self.step_down(step, cutter)
        pitch = step.pitch or min(largest, cutter.diameter / 4)
        lv = Levels(
            (-depth,),
            0.0,
            min(pitch, depth),
            min(cutter.diameter, 2 * circle[2] - cutter.diameter + 0.01),
            f"a helix of {pitch:.2f} mm a turn"
            + ("" if step.pitch else f": a quarter of the diameter, and {school}"),
        )
        a = self.numbers(step, cutter, min(pitch, depth), lv.width)
        track = Track(self.setup.machine.retract, a.feed, a.plunge)
        moves = bore_moves(*circle, cutter.radius, (-depth,), pitch, step.direction == "climb", track)
        path = Contour.circle(circle[0], circle[1], circle[2] - cutter.radius)
        self.add(name, step, cutter, k, moves, path, lv.depths, a, (), True, through, (), through)
        return self.step_plan(
            step,
            cutter,
            lv,
            a,
            [moves],
            "helix",
            0.0,
            0.0,
            (
                ("depth", f"{depth:.2f} mm" + (": through with overshoot" if through else "")),
                ("entry", "a helix is its own entry"),
            ),
        )

    def _drill(
        self, name: str, circle: tuple[float, float, float], step: Drill, k: int, depth: float, through: bool
    ) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        if cutter.kind != "drill" and not cutter.centre_cutting:
            self.say(
                stop(
                    "cuts.plunge",
                    f"{self.label(name)}: {cutter.name} does not cut at its centre and cannot drill; bore it"
                    " by helix",
                    self.where(name),
                )
            )
            return None
        point = cutter.height_at(cutter.radius) if cutter.kind == "drill" else 0.0
        full = depth + (point if through else 0.0)
        self.deep_enough(name, cutter, full, through)
        peck = step.peck or self.rules.peck.get(self.family, 1.0) * cutter.diameter
        a = self.numbers(step, cutter, min(peck, full), cutter.diameter)
        moves = drill_moves(
            circle[0], circle[1], full, peck, Track(self.setup.machine.retract, a.feed, a.plunge), step.dwell
        )
        lv = Levels(
            (-full,),
            0.0,
            full,
            cutter.diameter,
            f"pecks of {peck:.1f} mm"
            + (
                "" if step.peck else f": {self.rules.peck.get(self.family, 1.0):g} diameters in {self.family}"
            ),
        )
        self.add(
            name,
            step,
            cutter,
            k,
            moves,
            Contour.circle(circle[0], circle[1], cutter.radius),
            (-full,),
            a,
            (),
            True,
            through,
        )
        words = f"{depth:.2f} mm" + (f" + {point:.2f} for the drill's point" if through and point else "")
        return self.step_plan(
            step,
            cutter,
            lv,
            a,
            [moves],
            "plunge",
            0.0,
            0.0,
            (("depth", words), ("entry", "drills go straight down")),
        )

    def _chamfer(self, name: str, contour: Contour, inside: bool, step: Chamfer, k: int) -> StepPlan | None:
        label, where = self.label(name), self.where(name)
        cutter = self.tool(step, name)
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
                self.say(
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
            self.say(
                stop(
                    "cuts.chamfer",
                    f"{label}: {cutter.name} is a {cutter.kind}; edges are broken with a V bit or a roundover"
                    " cutter",
                    where,
                )
            )
            return None
        if depth > self.thickness:
            self.say(
                stop(
                    "cuts.chamfer",
                    f"{label}: the edge cut is {depth:.2f} mm deep, the sheet {self.thickness:.2f} mm",
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
            self.say(
                look(
                    "cuts.chamfer",
                    f"{label}: too narrow for {cutter.name} to break its edge; it is left sharp",
                    where,
                )
            )
            return None
        a = self.numbers(step, cutter, depth, width)
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
                min(self.rules.ramp_length, 20.0),
                a.feed,
                a.plunge,
                self.setup.machine.retract,
            )
            moves, _lead = profile_moves(ring, kept_outside, [], s)
            self.add(name, step, cutter, k, moves, ring, (-depth,), a, (), True, False)
            moves_all.append(moves)
        self.areas[f"{name} edge {k}"] = Area(
            f"{name} edge", depth, _band(contour, width), _band(contour, width), (contour,)
        )
        return self.step_plan(
            step,
            cutter,
            lv,
            a,
            moves_all,
            "ramp",
            0.0,
            0.0,
            (("depth", f"{depth:.2f} mm: {shift}"), ("entry", "a short ramp along the edge")),
        )


def _band(contour: Contour, width: float) -> BaseGeometry:
    """The strip of the part's face within ``width`` of a contour."""
    return LineString(closed_points(contour)).buffer(width + 0.02, quad_segs=24)


def closed_points(c: Contour) -> Array:
    p = c.points(0.005)
    return np.vstack([p, p[:1]]) if c.closed else p
