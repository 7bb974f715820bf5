"""Steps on what is cut into a part but not through it: which steps each feature gets, areas, drillings."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from shapely.geometry import Polygon

from venzo.core.cuts.areas import Area, areas
from venzo.core.cuts.feature_depths import FeatureDepths
from venzo.core.cuts.in_hand import (
    PartInHand,
)
from venzo.core.cuts.on_carvings import CarveSteps
from venzo.core.cuts.on_edges import EdgeSteps
from venzo.core.cuts.on_lines import LineSteps
from venzo.core.cuts.on_pockets import Cleared, PocketSteps
from venzo.core.cuts.on_reliefs import ReliefSteps
from venzo.core.cuts.operations import (
    FEATURE_ON,
    Bore,
    Chamfer,
    Drill,
    Groove,
    On,
    Operation,
    Pocket,
    Profile,
)
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.rounds import circle_of, slot_line
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Feature
from venzo.core.snags import Remedy, look, stop
from venzo.core.tolerances import CHORD, FIT
from venzo.core.tooling.cutter import FLAT


class FeatureSteps:
    """Plans the steps on pockets, grooves, engravings and drillings."""

    def __init__(
        self,
        hand: PartInHand,
        edges: EdgeSteps,
        depths: FeatureDepths,
        lines: LineSteps,
        pockets: PocketSteps,
        carvings: CarveSteps,
        reliefs: ReliefSteps,
    ) -> None:
        self.hand, self.edges, self.depths = hand, edges, depths
        self.lines, self.pockets, self.carvings = lines, pockets, carvings
        self.reliefs = reliefs

    def plan(self) -> None:
        lines = {
            f.name: self.lines.meant(f)
            for f in self.hand.shape.features
            if f.kind == "groove" and f.contour.closed
        }
        closed = [
            f
            for f in self.hand.shape.features
            if f.contour.closed and (f.kind == "pocket" or lines.get(f.name) == "clear")
        ]
        depths: dict[str, float] = {}
        for f in closed:
            d = self.depths.of(f)
            if d:
                depths[f.name] = d
        closed = [f for f in closed if f.name in depths]
        waste = max(
            0.1,
            min(self.hand.spacing - 0.05, max((c.diameter for c in self.hand.setup.cutters), default=6.0)),
        )
        found = memo(
            "areas",
            digest(self.hand.shape.digest, [f.name for f in closed], depths, waste),
            partial(areas, self.hand.shape, closed, depths, waste),
        )
        carved = self.carvings.plan()
        for f in self.hand.shape.features:
            on = FEATURE_ON[f.kind]
            if f.name in carved or self.hand.omit(f.name, True, on):
                continue
            label, where = self.hand.label(f.name), self.hand.where(f.name)
            steps, own = self.hand.steps_of(f.name, on)
            if not steps:
                add = self.hand.proposal(on)
                self.hand.say(
                    stop(
                        "cuts.no-operation",
                        f"{label}: no operation cuts {on};"
                        f" {'add one' if add else 'enter a cutter for it and add one'} at Cuts & hold, or"
                        " leave it out",
                        where,
                        *add,
                        Remedy(
                            label="Leave it out",
                            command={
                                "kind": "set-contour",
                                "part": self.hand.part.id,
                                "contour": f.name,
                                "omit": True,
                            },
                        ),
                    )
                )
                self.hand.left_out.append(f"{label}: no operation")
                continue
            made = len(self.hand.cuts)
            if f.name in lines and lines[f.name] is None:
                self.lines.ask(f)
                continue
            an_area = f.contour.closed and (f.kind == "pocket" or lines.get(f.name) == "clear")
            if an_area:
                if f.name not in depths:
                    self.depths.missing(f, steps)
                    continue
                if f.name in found:
                    self._area(f, found[f.name], steps, own, on)
                    self.hand.areas[f.name] = found[f.name]
            elif f.kind == "drilling":
                self._drilling(f, steps, own)
            elif f.kind == "relief":
                self.reliefs.plan(f, steps, own)
            else:
                self.lines.line(f, steps, own, on, lines.get(f.name) or "on line")
            if len(self.hand.cuts) == made and f.name in (found if an_area else [f.name]):
                said = next(
                    (
                        s.message
                        for s in reversed(self.hand.snags)
                        if s.where and s.where.get("contour") == f.name and s.severity == "stop"
                    ),
                    "",
                )
                if not said:
                    said = (
                        f"{label}: none of its steps cuts it; choose a step that suits it at Cuts & hold, or"
                        " leave it out"
                    )
                    leave = Remedy(
                        label="Leave it out",
                        command={
                            "kind": "set-contour",
                            "part": self.hand.part.id,
                            "contour": f.name,
                            "omit": True,
                        },
                    )
                    self.hand.say(stop("cuts.not-cut", said, where, leave))
                self.hand.left_out.append(f"{label}: {said.removeprefix(label + ': ')}")

    def _area(self, f: Feature, area: Area, steps: Sequence[Operation], own: bool, on: On) -> None:
        plans: list[StepPlan] = []
        done: list[Cleared] = []
        self.depths.floor_left(f.name, area.depth)
        for k, step in enumerate(steps):
            plan = None
            if isinstance(step, Pocket):
                plan = self.pockets.clear(f.name, area, step, k, step, done, f.kind, f.contour)
            elif isinstance(step, Profile):
                plan = self.pockets.wall(f.name, area, step, k, done)
            elif isinstance(step, Chamfer):
                plan = self.edges.chamfer(f.name, f.contour, True, step, k)
            elif isinstance(step, Groove) and on == "grooves":
                cutter = self.hand.setup.cutter(step.cutter)
                line = slot_line(f.contour, cutter.diameter) if cutter else None
                if line is not None and not plans:
                    plan = self.lines.follow(f.name, [line], step, k, area.depth)
            if plan:
                plans.append(plan)
        self.hand.finish(f.name, on, True, plans, own)

    def _drilling(self, f: Feature, steps: Sequence[Operation], own: bool) -> None:
        label, where = self.hand.label(f.name), self.hand.where(f.name)
        circle = circle_of(f.contour)
        if circle is None:
            self.hand.say(
                stop(
                    "cuts.not-round",
                    f"{label}: it is on a drilling layer but not round; call its layer a pocket, or leave"
                    " it out",
                    where,
                )
            )
            return
        given = next((s.depth for s in steps if s.depth), None) or f.depth
        through = given is None or given >= self.hand.thickness - 1e-6
        fitting = self.edges.fitting(steps, circle[2], f.name)
        if not fitting:
            sizes = ", ".join(c.name for s in steps if (c := self.hand.setup.cutter(s.cutter)))
            able = [
                c
                for c in self.hand.setup.cutters
                if self.hand.family in c.feeds
                and (
                    abs(c.diameter - 2 * circle[2]) <= FIT
                    if c.kind == "drill"
                    else c.kind in FLAT
                    and c.diameter * 1.02 < 2 * circle[2] <= c.diameter * self.hand.rules.bore_upto
                )
            ]
            able.sort(key=lambda c: (c.kind != "drill", -c.diameter))
            remedy = [
                Remedy(
                    label=f"{'Drill' if c.kind == 'drill' else 'Bore'} with {c.name}",
                    command={
                        "kind": "set-steps",
                        "part": self.hand.part.id,
                        "on": "drillings",
                        "contour": f.name,
                        "steps": [
                            {
                                "kind": "drill" if c.kind == "drill" else "bore",
                                "id": "own",
                                "on": "drillings",
                                "cutter": c.id,
                            }
                        ],
                    },
                )
                for c in able[:2]
            ]
            self.hand.say(
                stop(
                    "cuts.drill-size",
                    f"{label}: {2 * circle[2]:.2f} mm across; {sizes or 'no cutter'} cannot make it (a drill"
                    f" its own size, a bore up to {self.hand.rules.bore_upto:g} diameters)",
                    where,
                    *remedy,
                )
            )
            return
        plans = []
        for k, step in enumerate(fitting):
            depth = (
                self.hand.thickness + self.hand.overshoot(step)
                if through and isinstance(step, Drill | Bore)
                else given or self.hand.thickness
            )
            if isinstance(step, Drill):
                plan = self.edges.drill(f.name, circle, step, k, depth, through)
            elif isinstance(step, Bore):
                plan = self.edges.bore(f.name, circle, step, k, depth, through)
                cutter = self.hand.setup.cutter(step.cutter)
                if plan and cutter and not through and 2 * circle[2] > 2 * cutter.diameter + 0.01:
                    self.hand.say(
                        look(
                            "cuts.core",
                            f"{label}: the helix of {cutter.name} leaves a core"
                            f" {2 * circle[2] - 2 * cutter.diameter:.1f} mm thick standing; pocket it, or"
                            " take a larger cutter",
                            where,
                        )
                    )
            elif isinstance(step, Pocket):
                target = Polygon(f.contour.points(CHORD)).buffer(0)
                plan = self.pockets.clear(
                    f.name,
                    Area(f.name, depth, target, target, (f.contour.oriented(True),)),
                    step,
                    k,
                    step,
                    [],
                    "drilling",
                )
            else:
                plan = None
            if plan:
                plans.append(plan)
        target = Polygon(f.contour.points(CHORD)).buffer(0)
        reach = max((-c.levels[-1] for c in self.hand.cuts if c.contour == f.name), default=0.0)
        self.hand.areas[f.name] = Area(f.name, reach, target, target, (f.contour,))
        self.hand.finish(f.name, "drillings", True, plans, own)
