"""A part in hand while its cuts are planned: what every step asks (which cutter, how fast, how deep, by which
entry), and the record of what was planned and said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from venzo.core.body.field import StockBody
from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import KINDS, ContourCut, Cut, HoleCut, Load, Tab
from venzo.core.cuts.depths import Levels
from venzo.core.cuts.moves import lengths
from venzo.core.cuts.operations import (
    On,
    Operation,
    Profile,
    Step,
)
from venzo.core.cuts.planned import ContourPlan, StepPlan
from venzo.core.cuts.profile import (
    ProfileSettings,
)
from venzo.core.faces.seen import shape_up
from venzo.core.feeds.adviser import Advice, CutNumbers, advise
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.regions import Region
from venzo.core.holding.strength import LIFT
from venzo.core.holding.tabs import Stretch
from venzo.core.parts.shape import Shape
from venzo.core.plan import ContourChoice, Part, Setup, StepsChoice
from venzo.core.relief.mesh import Mesh
from venzo.core.snags import Remedy, Snag, Where, look, stop
from venzo.core.tooling.cutter import Cutter

MOST_PASSES = 400
THRUST = 0.2
"""Share of a drill's force that pushes sideways: its two lips balance but for a little (common practice)."""
NUT_CLEAR = 1.0
"""mm that a nut keeps over the stock."""
SPOILED, RUINED = 3.0, 12.0
"""mm below the sheet from which a stated depth is questioned, and refused."""


CLOSE = 0.005
"""mm by which a lead may come nearer than the cutter's radius: rounding."""


@dataclass(frozen=True)
class PartToCut:
    """A part as it is to be cut under a setup, with what was chosen for it by hand.

    ``thickness`` of the sheet and ``spacing`` to the neighbours in mm. A mirrored piece is planned from the
    mirrored shape, so that climb stays climb; its moves are in the mirrored frame.
    """

    part: Part
    shape: Shape
    setup: Setup
    choices: Sequence[ContourChoice]
    steps: Sequence[StepsChoice]
    thickness: float
    spacing: float
    mirrored: bool = False
    surfaces: Mapping[str, Mesh] = field(default_factory=dict)
    """Of reliefs, by digest."""


@dataclass(frozen=True)
class Doing:
    """One step on one feature, its number among the feature's steps, with its cutter and speeds."""

    feature: str
    step: Step
    number: int
    cutter: Cutter
    advice: Advice


class PartInHand:
    """One part being planned: what is known of it, what was chosen, and what is to be said on the way."""

    def __init__(self, wanted: PartToCut) -> None:
        self.part, self.drawn, self.setup = wanted.part, wanted.shape, wanted.setup
        self.thickness, self.spacing, self.mirrored = wanted.thickness, wanted.spacing, wanted.mirrored
        up = shape_up(wanted.shape, wanted.setup)
        self.shape = mirrored_shape(up) if wanted.mirrored else up
        self.family, self.rules = self.setup.material.family, self.setup.rules
        self.choices = {c.contour: c for c in wanted.choices}
        self.steps_by_contour = {s.contour: s for s in wanted.steps if s.contour}
        self.steps_by_on = {s.on: s for s in wanted.steps if not s.contour}
        self.surfaces = wanted.surfaces
        self.blocked: Sequence[Stretch] = ()
        """Stretches of the outline, in the drawn frame, on which a tab would hold nothing."""
        self.cuts: list[Cut] = []
        self.plans: list[ContourPlan] = []
        self.snags: list[Snag] = []
        self.left_out: list[str] = []
        self.areas: dict[str, Area] = {}
        self.advice: dict[tuple, Advice] = {}
        self.body: StockBody | None = None
        """What the steps on the feature in hand have left standing, where one follows another."""

    def say(self, *snags: Snag) -> None:
        """Take snags into the record."""
        self.snags += snags

    def where(self, name: str) -> Where:
        """The place of a feature, for a snag."""
        return {"part": self.part.id, "contour": name}

    def label(self, name: str) -> str:
        """The part's name, with the feature's unless it is the outline."""
        return self.part.name if name == self.shape.names[0] else f"{self.part.name}, {name}"

    def steps_of(self, name: str, on: On) -> tuple[list[Operation], bool]:
        """The steps a feature gets, and whether they were chosen for it alone."""
        own = self.steps_by_contour.get(name) or self.steps_by_on.get(on)
        return (list(own.steps), True) if own else ([o for o in self.setup.operations if o.on == on], False)

    def omit(self, name: str, inside: bool, on: On) -> bool:
        """Is a feature left out on purpose? It is recorded so."""
        choice = self.choices.get(name)
        if not (choice and choice.omit):
            return False
        steps, _own = self.steps_of(name, on)
        self.plans.append(
            ContourPlan(
                contour=name,
                operation=steps[-1].id if steps else "",
                cutter=steps[-1].cutter if steps else "",
                inside=inside,
                passes=0,
                depth=0,
                step_down=0,
                tabs=(),
                tabs_by_hand=False,
                omitted=True,
                reason="left out on purpose",
                on=on,
            )
        )
        self.left_out.append(f"{self.label(name)}: left out on purpose")
        return True

    # -- one step's numbers

    def tool(self, step: Step, name: str) -> Cutter | None:
        """The step's cutter, fit to run; None with the reason said."""
        choice = self.choices.get(name)
        cutter = self.setup.cutter(choice.cutter if choice and choice.cutter else step.cutter)
        label, where = self.label(name), self.where(name)
        if cutter is None:
            self.say(
                stop(
                    "cuts.no-cutter",
                    f"{label}: its cutter is not in the setup any more; choose another",
                    where,
                )
            )
            return None
        wrong = _cannot(cutter, step)
        if wrong:
            self.say(stop("cuts.kind", f"{label}: {cutter.name} {wrong}; choose another cutter", where))
            return None
        if self.family not in cutter.feeds and not (step.rpm and step.feed):
            self.say(
                stop(
                    "cuts.no-feeds",
                    f"{label}: {cutter.name} has no feeds for {self.family}; enter them in the library or"
                    " choose another cutter",
                    where,
                )
            )
            return None
        return cutter

    def numbers(
        self, step: Step, cutter: Cutter, depth: float, width: float, section: float | None = None
    ) -> Advice:
        """Speed and feed of a step, judged once for every like cut; ``section``: the largest chip section
        over the feed per tooth where it was measured, mm.
        """
        key = (
            step.id,
            step.kind,
            cutter.id,
            round(depth, 3),
            round(width, 3),
            round(section, 2) if section is not None else None,
        )
        if key not in self.advice:
            given = CutNumbers(step.rpm, step.feed, max(depth, 0.01), max(width, 0.01), step.plunge, section)
            about = (cutter, self.setup.material, self.rules, self.setup.machine)
            base = advise(*about, given)
            feed = base.feed * step.feed_share
            if step.feed_share != 1:
                slower = replace(given, rpm=base.rpm, feed=feed, plunge=min(base.plunge, feed))
                base = advise(*about, slower)
                base = replace(base, source=f"{base.source}, {step.feed_share:.0%} of its feed")
            self.advice[key] = base
            for s in base.snags:
                if s.rule == "feeds.rpm":
                    s = s.model_copy(update={"rule": "cuts.rpm"})
                if s.rule != "feeds.edge":
                    self.say(s)
        return self.advice[key]

    def step_down(self, step: Step, cutter: Cutter) -> tuple[float, str]:
        """Largest depth of a pass, mm, and where it comes from."""
        if step.step_down:
            return step.step_down, "set by hand"
        return self.rules.largest_step(self.family, cutter.diameter, cutter.kind), self.rules.step_reason(
            self.family, cutter.kind
        )

    def entry(self, step: Any, cutter: Cutter, name: str) -> tuple[str, float, str]:
        """How a step goes down: entry, ramp length, reason."""
        entry = step.entry or self.rules.entry.get(self.family, "ramp")
        why = "set by hand" if step.entry else f"house rule in {self.family}"
        if entry == "plunge" and not cutter.centre_cutting:
            self.say(
                look(
                    "cuts.plunge",
                    f"{self.label(name)}: {cutter.name} does not cut at its centre; it ramps in instead of"
                    " plunging",
                    self.where(name),
                )
            )
            entry, why = "ramp", "the cutter does not cut at its centre"
        return entry, step.ramp_length or self.rules.ramp_length, why

    def path_settings(
        self,
        step: Profile,
        radius: float,
        inside: bool,
        lv: Levels,
        a: Advice,
        entry: str,
        ramp: float,
        tab: Tab = Tab(0.0, 0.0),
    ) -> ProfileSettings:
        """The decided numbers of a profile along one contour or wall."""
        slow = self.rules.corner_feed if step.corners == "slow" else 1.0
        return ProfileSettings(
            radius=radius,
            inside=inside,
            climb=step.direction == "climb",
            levels=lv.depths,
            tab_top=tab.top,
            tab_width=tab.width,
            ramp_length=ramp,
            feed=a.feed,
            plunge=a.plunge,
            retract=self.setup.machine.retract,
            begins=lv.begins,
            entry=entry,
            lead=step.lead,
            lead_length=step.lead_length,
            corner_feed=slow,
            sloped=tab.sloped,
            stretches=lv.stretches,
            only=lv.only,
        )

    def deep_enough(self, name: str, cutter: Cutter, depth: float, by_overshoot: bool = False) -> None:
        """Say where a cut is deeper than its edge reaches, or far deeper than the sheet; an overshoot is
        judged where it is stated.
        """
        if depth > cutter.reach + 1e-9:
            limit = "the cutting edge of" if cutter.reach == cutter.cutting_length else "the shop's limit for"
            self.say(
                stop(
                    "cuts.too-deep",
                    f"{self.label(name)}: the cut is {depth:.2f} mm deep, {limit} {cutter.name} is"
                    f" {cutter.reach:g} mm",
                    self.where(name),
                )
            )
        if cutter.stick_out is not None and depth > cutter.stick_out - NUT_CLEAR:
            words = (
                f"{self.label(name)}: the cut is {depth:.2f} mm deep, {cutter.name} stands out"
                f" {cutter.stick_out:g} mm: its nut runs into the work; clamp it longer, or take a longer one"
            )
            self.say(stop("cuts.stick-out", words, self.where(name)))
        below = depth - self.thickness
        if below > SPOILED and not by_overshoot:
            words = (
                f"{self.label(name)}: {depth:.2f} mm deep in a sheet of {self.thickness:.2f} mm cuts"
                f" {below:.2f} mm into the spoilboard; give its depth again"
            )
            self.say((stop if below > RUINED else look)("cuts.below", words, self.where(name)))

    def add(
        self,
        doing: Doing,
        moves: Array,
        path: Contour,
        levels: Sequence[float],
        *,
        tabs: Sequence[tuple[float, float]] = (),
        inside: bool = True,
        frees: bool = False,
        trace: Sequence[Contour] = (),
        ringed: bool = False,
        tab: Tab | None = None,
        made: type[Cut] | None = None,
    ) -> None:
        """Take a cut into the record, and out of the body where one is kept; ``made``: of another kind than
        its step's cuts are (the floor of a carving is an area).
        """
        step, cutter, a = doing.step, doing.cutter, doing.advice
        if self.body is not None:
            self.body.cut(moves, cutter)
        kind = made or KINDS[step.kind]
        own: dict[str, Any] = {}
        if kind is ContourCut:
            in_area = step.on == "pockets"
            own = {"inside": inside, "tabs": tuple(tabs), "tab": tab if tabs else None, "in_area": in_area}
        elif kind is HoleCut:
            own = {"ringed": ringed}
        lift = LIFT.get(cutter.kind, 0.0)
        self.cuts.append(
            kind(
                contour=doing.feature,
                cutter=cutter.id,
                operation=step.id,
                moves=moves,
                path=path,
                levels=tuple(levels),
                kind=step.kind,
                step=doing.number,
                frees=frees,
                rpm=a.rpm,
                z_zero=step.z_zero,
                trace=tuple(trace),
                ring=sum(c.contour == doing.feature and c.step == doing.number for c in self.cuts),
                load=Load(
                    a.force * (THRUST if cutter.kind == "drill" else 1.0), a.force * lift, a.mean_force * lift
                ),
                **own,
            )
        )

    def step_plan(
        self,
        doing: Doing,
        lv: Levels,
        moves: Sequence[Array],
        entry: str,
        why: Sequence[tuple[str, str]],
        *,
        lead: float = 0.0,
        left: float = 0.0,
    ) -> StepPlan:
        """What is told of a step: its numbers and the reasons for them."""
        step, cutter, a = doing.step, doing.cutter, doing.advice
        chip = (
            f"{a.chip_load:.3g} mm a tooth, window {a.window.chip[0]:.3g} to {a.window.chip[1]:.3g}"
            f" ({a.window.chip_source})"
        )
        speed = (
            f"{a.surface_speed:.0f} m/min at the edge, window {a.window.speed[0]:.0f} to"
            f" {a.window.speed[1]:.0f} ({a.window.speed_source})"
        )
        reasons = (
            *why,
            ("passes", lv.reason),
            ("feed", f"{a.source}; {chip}"),
            ("rpm", speed),
            ("plunge", a.plunge_reason),
        )
        return StepPlan(
            operation=step.id,
            kind=step.kind,
            cutter=cutter.id,
            passes=len(lv.depths),
            depth=-lv.depths[-1],
            begins=-lv.begins,
            width=round(lv.width, 2),
            rpm=a.rpm,
            feed=a.feed,
            plunge=a.plunge,
            chip=a.chip_load,
            speed=a.surface_speed,
            window=(*a.window.chip, *a.window.speed),
            entry=entry,
            lead=lead,
            z_zero=step.z_zero or self.setup.z_zero,
            length=float(sum(lengths(m).sum() for m in moves)),
            left=round(left, 2),
            why=reasons,
        )

    def finish(
        self,
        name: str,
        on: On,
        inside: bool,
        plans: list[StepPlan],
        own: bool,
        tabs: Sequence[tuple[float, float]] = (),
        by_hand: bool = False,
        reason: str = "",
    ) -> None:
        """Record what was planned on a feature, if anything was."""
        if not plans:
            return
        last = plans[-1]
        self.plans.append(
            ContourPlan(
                contour=name,
                operation=last.operation,
                cutter=last.cutter,
                inside=inside,
                passes=last.passes,
                depth=last.depth,
                step_down=(last.depth - last.begins) / max(1, last.passes),
                tabs=tuple(tabs),
                tabs_by_hand=by_hand,
                omitted=False,
                reason=reason or "; ".join(f"{w}" for _k, w in last.why[:2]),
                on=on,
                steps=tuple(plans),
                own_steps=own,
            )
        )

    def proposal(self, on: On) -> tuple[Remedy, ...]:
        """The steps that a house rule has for features without any."""
        from venzo.core.rules.propose import propose_for

        found = propose_for(
            on, self.setup.cutters, self.setup.material, self.thickness, self.rules, self.setup.machine
        )
        if not found:
            return ()
        steps = [s.model_dump(mode="json") for s in found]
        command = {"kind": "set-steps", "setup": self.setup.id, "on": on, "steps": steps}
        return (Remedy(label=f"Add {on} by house rule", command=command),)

    def overshoot(self, step: Any) -> float:
        """How far below the sheet a step that cuts through goes, mm."""
        return step.overshoot if step.overshoot is not None else self.rules.overshoot.get(self.family, 0.5)


def _cannot(cutter: Cutter, step: Step) -> str:
    """Why a kind of cutter cannot make a step at all; empty: it can."""
    if cutter.kind == "drill" and step.kind != "drill":
        return "is a drill: it cuts at its point, not along its side"
    if cutter.kind in ("roundover", "point roundover") and step.kind in (
        "profile",
        "pocket",
        "bore",
        "drill",
        "face",
    ):
        return f"is a {cutter.kind} cutter: it shapes an edge and cuts nothing through"
    if cutter.kind == "surfacing" and step.kind in ("profile", "groove", "bore", "drill"):
        return "is a surfacing cutter: it faces, its edge is too short to cut out with"
    return ""


def mirrored_shape(shape: Shape) -> Shape:
    """The part seen in a mirror (x -> -x), names kept; outline counter-clockwise, holes clockwise."""
    region = Region(
        shape.region.outline.placed(0, 0, 0, True).oriented(True),
        tuple(h.placed(0, 0, 0, True).oriented(False) for h in shape.region.holes),
    )
    return Shape(
        region,
        shape.names,
        tuple(
            f.changed(
                lambda c: c.placed(0, 0, 0, True).oriented(True) if c.closed else c.placed(0, 0, 0, True)
            )
            for f in shape.features
        ),
    )


def closed_points(c: Contour) -> Array:
    """Points (n, 2) along a contour, the first again at the end of a closed one."""
    p = c.points(0.005)
    return np.vstack([p, p[:1]]) if c.closed else p
