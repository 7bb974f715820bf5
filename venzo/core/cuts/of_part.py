"""All cuts of one part under a setup: which steps each feature gets, with which cutter, how deep, how fast, and why."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from shapely import prepare
from shapely.geometry import Point, Polygon

from venzo.core.cuts.areas import Area, areas, region_of
from venzo.core.cuts.cut import Cut
from venzo.core.cuts.depths import Levels, Opened, levels_for
from venzo.core.cuts.follow import beside, follow_moves
from venzo.core.cuts.moves import lengths
from venzo.core.cuts.operations import FEATURE_ON, Bore, Chamfer, Drill, Face, Groove, On, Operation, Pocket, Profile, Step
from venzo.core.cuts.pocket import Lines, clear_area, lay_levels, swept_region
from venzo.core.cuts.profile import ProfileSettings, cutter_rings, nearest_ring, profile_moves, unreached
from venzo.core.cuts.rounds import FIT, bore_moves, circle_of, drill_moves, slot_line
from venzo.core.cuts.track import Track
from venzo.core.feeds.adviser import Advice, advise
from venzo.core.feeds.mechanics import ball_lip
from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points, signed_area
from venzo.core.geometry.regions import Region
from venzo.core.holding.on_contour import tabs_for
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Feature, Shape
from venzo.core.plan import ContourChoice, Part, Setup, StepsChoice
from venzo.core.snags import BadInput, Remedy, Snag, look, note, stop
from venzo.core.tolerances import CHORD
from venzo.core.tooling.cutter import FLAT, KERF, Cutter

VERSION = "steps-1"
MOST_PASSES = 400
CLOSE = 0.005
"""mm by which a lead may come nearer than the cutter's radius: rounding."""


@dataclass(frozen=True)
class StepPlan:
    """One step on one feature as planned, for the screen and the papers. mm, mm/min, m/min, rpm; ``why``: (what, reason) pairs."""

    operation: str
    kind: str
    cutter: str
    passes: int
    depth: float
    begins: float
    width: float
    rpm: float
    feed: float
    plunge: float
    chip: float
    speed: float
    window: tuple[float, float, float, float]
    entry: str
    lead: float
    z_zero: str
    length: float
    left: float
    why: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class ContourPlan:
    """One feature as planned: its last cutter, passes and tabs (x, y on the part's contour), and every step."""

    contour: str
    operation: str
    cutter: str
    inside: bool
    passes: int
    depth: float
    step_down: float
    tabs: tuple[tuple[float, float], ...]
    tabs_by_hand: bool
    omitted: bool
    reason: str
    on: On = "outlines"
    steps: tuple[StepPlan, ...] = ()
    own_steps: bool = False
    """Its steps were chosen for this part or contour alone."""


@dataclass(frozen=True)
class PartCuts:
    """Cuts of a part in its own frame with what is to be said about them; ``kept``: (depth, area) that the cuts on its face may reach, for the proof."""

    cuts: tuple[Cut, ...]
    contours: tuple[ContourPlan, ...]
    snags: tuple[Snag, ...]
    left_out: tuple[str, ...]
    areas: tuple[Area, ...] = ()


def setup_key(setup: Setup) -> str:
    """Digest of all of a setup that the cuts of a part depend on."""
    m = setup.machine
    return digest(VERSION, setup.operations, setup.cutters, setup.rules, setup.material, setup.z_zero, bool(setup.zones_on), setup.allow_in_holes,
                  [m.name, m.retract, m.rpm_min, m.rpm_max, m.power, m.rapid, m.top_feed, list(m.cooling)])


def plan_part(part: Part, shape: Shape, setup: Setup, choices: list[ContourChoice], steps: list[StepsChoice], thickness: float, spacing: float, mirrored: bool = False, key: str = "") -> PartCuts:
    """Cuts of a part for one sheet thickness (mm), remembered by what they depend on.

    ``spacing``: to the neighbours, mm. ``key``: ``setup_key`` of the setup if known. A mirrored piece is planned from the mirrored shape, so that climb
    stays climb; its moves are in the mirrored frame.
    """
    key = digest(key or setup_key(setup), part.id, part.name, shape.digest, mirrored, thickness, spacing, choices, steps)
    return memo("cuts", key, lambda: _Planner(part, shape, setup, choices, steps, thickness, spacing, mirrored).plan())


class _Planner:
    """Plans one part; collects what is to be said on the way."""

    def __init__(self, part: Part, shape: Shape, setup: Setup, choices: Sequence[ContourChoice], steps: Sequence[StepsChoice], thickness: float, spacing: float, mirrored: bool):
        self.part, self.drawn, self.setup, self.thickness, self.spacing, self.mirrored = part, shape, setup, thickness, spacing, mirrored
        self.shape = _mirrored(shape) if mirrored else shape
        self.family, self.rules = setup.material.family, setup.rules
        self.choices = {c.contour: c for c in choices}
        self.steps_by_contour = {s.contour: s for s in steps if s.contour}
        self.steps_by_on = {s.on: s for s in steps if not s.contour}
        self.cuts: list[Cut] = []
        self.plans: list[ContourPlan] = []
        self.snags: list[Snag] = []
        self.left_out: list[str] = []
        self.areas: dict[str, Area] = {}
        self.advice: dict[tuple, Advice] = {}

    # -- the whole part

    def plan(self) -> PartCuts:
        known = set(self.shape.names) | {f.name for f in self.shape.features}
        for name in (self.choices.keys() | self.steps_by_contour.keys()) - known:
            drop = Remedy(label="Drop this choice", command={"kind": "set-contour", "part": self.part.id, "contour": name, "automatic": ["cutter", "tabs", "tab_count", "start", "steps"], "omit": False})
            self.say(stop("choice.unmatched", f"{self.part.name}: the drawing no longer has {name}, for which a choice was made by hand", {"part": self.part.id, "contour": name}, drop))
        self._features()
        outline, *holes = list(self.shape.contours)
        for name, contour in (*holes, outline):  # the outline last
            self._contour(name, contour, name != outline[0])
        return PartCuts(tuple(self.cuts), tuple(self.plans), tuple(self.snags), tuple(self.left_out), tuple(self.areas.values()))

    def say(self, *snags: Snag) -> None:
        self.snags += snags

    def where(self, name: str) -> dict[str, Any]:
        return {"part": self.part.id, "contour": name}

    def label(self, name: str) -> str:
        return self.part.name if name == self.shape.names[0] else f"{self.part.name}, {name}"

    def steps_of(self, name: str, on: On) -> tuple[list[Operation], bool]:
        """The steps a feature gets, and whether they were chosen for it alone."""
        own = self.steps_by_contour.get(name) or self.steps_by_on.get(on)
        return (list(own.steps), True) if own else ([o for o in self.setup.operations if o.on == on], False)

    def omit(self, name: str, inside: bool, on: On) -> bool:
        choice = self.choices.get(name)
        if not (choice and choice.omit):
            return False
        steps, _own = self.steps_of(name, on)
        self.plans.append(ContourPlan(name, steps[-1].id if steps else "", steps[-1].cutter if steps else "", inside, 0, 0, 0, (), False, True, "left out on purpose", on))
        self.left_out.append(f"{self.label(name)}: left out on purpose")
        return True

    # -- one step's numbers

    def tool(self, step: Step, name: str) -> Cutter | None:
        """The step's cutter, fit to run; None with the reason said."""
        choice = self.choices.get(name)
        cutter = self.setup.cutter(choice.cutter if choice and choice.cutter else step.cutter)
        label, where = self.label(name), self.where(name)
        if cutter is None:
            self.say(stop("cuts.no-cutter", f"{label}: its cutter is not in the setup any more; choose another", where))
            return None
        if cutter.kind in KERF:
            self.say(stop("cuts.jet", f"{label}: {cutter.name} is for a kerf table, {self.setup.machine.name} is a router; choose a cutter", where))
            return None
        if self.family not in cutter.feeds and not (step.rpm and step.feed):
            self.say(stop("cuts.no-feeds", f"{label}: {cutter.name} has no feeds for {self.family}; enter them in the library or choose another cutter", where))
            return None
        return cutter

    def numbers(self, step: Step, cutter: Cutter, depth: float, width: float) -> Advice:
        """Speed and feed of a step, judged once for every like cut."""
        key = (step.id, step.kind, cutter.id, round(depth, 3), round(width, 3))  # type: ignore[attr-defined]
        if key not in self.advice:
            base = advise(cutter, self.setup.material, self.rules, self.setup.machine, step.rpm, step.feed, max(depth, 0.01), max(width, 0.01), step.plunge)
            feed = base.feed * step.feed_share
            if step.feed_share != 1:
                base = advise(cutter, self.setup.material, self.rules, self.setup.machine, base.rpm, feed, max(depth, 0.01), max(width, 0.01), min(base.plunge, feed))
                base = replace(base, source=f"{base.source}, {step.feed_share:.0%} of its feed", snags=tuple(s for s in base.snags if s.rule != "feeds.rub" or step.feed_share >= 1))
            self.advice[key] = base
            for s in base.snags:
                if s.rule == "feeds.rpm":
                    s = s.model_copy(update={"rule": "cuts.rpm"})
                if s.rule != "feeds.edge":
                    self.say(s)
        return self.advice[key]

    def step_down(self, step: Step, cutter: Cutter) -> tuple[float, str]:
        if step.step_down:
            return step.step_down, "set by hand"
        return self.rules.largest_step(self.family, cutter.diameter, cutter.kind), self.rules.step_reason(self.family, cutter.kind)

    def entry(self, step: Any, cutter: Cutter, name: str) -> tuple[str, float, str]:
        """How a step goes down: entry, ramp length, reason."""
        entry = step.entry or self.rules.entry.get(self.family, "ramp")
        why = "set by hand" if step.entry else f"house rule in {self.family}"
        if entry == "plunge" and not cutter.centre_cutting:
            self.say(look("cuts.plunge", f"{self.label(name)}: {cutter.name} does not cut at its centre; it ramps in instead of plunging", self.where(name)))
            entry, why = "ramp", "the cutter does not cut at its centre"
        return entry, step.ramp_length or self.rules.ramp_length, why

    def deep_enough(self, name: str, cutter: Cutter, depth: float) -> None:
        if depth > cutter.reach + 1e-9:
            limit = "the cutting edge of" if cutter.reach == cutter.cutting_length else "the shop's limit for"
            self.say(stop("cuts.too-deep", f"{self.label(name)}: the cut is {depth:.2f} mm deep, {limit} {cutter.name} is {cutter.reach:g} mm", self.where(name)))

    def add(self, name: str, step: Step, cutter: Cutter, k: int, moves: Array, path: Contour, levels: Sequence[float], a: Advice, tabs: Sequence[tuple[float, float]] = (),
            inside: bool = True, frees: bool = False, trace: Sequence[Contour] = (), by_trace: bool = False) -> None:
        self.cuts.append(Cut(name, cutter.id, step.id, inside, moves, path, tuple(levels), tuple(tabs), step.kind, k, frees, a.rpm, step.z_zero, tuple(trace), by_trace))  # type: ignore[attr-defined]

    def step_plan(self, step: Step, cutter: Cutter, lv: Levels, a: Advice, moves: Sequence[Array], entry: str, lead: float, left: float, why: Sequence[tuple[str, str]]) -> StepPlan:
        chip = f"{a.chip_load:.3g} mm a tooth, window {a.window.chip[0]:.3g} to {a.window.chip[1]:.3g} ({a.window.chip_source})"
        speed = f"{a.surface_speed:.0f} m/min at the edge, window {a.window.speed[0]:.0f} to {a.window.speed[1]:.0f} ({a.window.speed_source})"
        reasons = (*why, ("passes", lv.reason), ("feed", f"{a.source}; {chip}"), ("rpm", speed), ("plunge", a.plunge_reason))
        return StepPlan(step.id, step.kind, cutter.id, len(lv.depths), -lv.depths[-1], -lv.begins, round(lv.width, 3), a.rpm, a.feed, a.plunge, a.chip_load, a.surface_speed,  # type: ignore[attr-defined]
                        (*a.window.chip, *a.window.speed), entry, lead, step.z_zero or self.setup.z_zero, float(sum(lengths(m).sum() for m in moves)), round(left, 2), reasons)

    def finish(self, name: str, on: On, inside: bool, plans: list[StepPlan], own: bool, tabs: Sequence[tuple[float, float]] = (), by_hand: bool = False, reason: str = "") -> None:
        if not plans:
            return
        last = plans[-1]
        self.plans.append(ContourPlan(name, last.operation, last.cutter, inside, last.passes, last.depth, (last.depth - last.begins) / max(1, last.passes), tuple(tabs), by_hand, False,
                                      reason or "; ".join(f"{w}" for _k, w in last.why[:2]), on, tuple(plans), own))

    # -- outlines and holes

    def _contour(self, name: str, contour: Contour, inside: bool) -> None:
        on: On = "holes" if inside else "outlines"
        label, where = self.label(name), self.where(name)
        circle = circle_of(contour) if inside else None
        steps, own = self.steps_of(name, on)
        if circle and name not in self.steps_by_contour:
            rounds, own_rounds = self.steps_of(name, "round holes")
            fitting = self._fitting(rounds, circle[2], name)
            if fitting:
                on, steps, own = "round holes", fitting, own_rounds
        if self.omit(name, inside, on):
            return
        if not steps:
            self.say(stop("cuts.no-operation", f"{label}: no operation cuts {on}; add one at Cuts & hold", where))
            self.left_out.append(f"{label}: no operation")
            return
        before = len(self.snags)
        profiles = [s for s in steps if isinstance(s, Profile) and s.side == "waste"]
        widest = max((c.diameter for s in profiles if (c := self.setup.cutter(s.cutter))), default=0.0)
        chosen = self.choices.get(name)
        if chosen and chosen.cutter and (c := self.setup.cutter(chosen.cutter)):
            widest = c.diameter
        policy = next((s.tabs for s in reversed(profiles) if s.tabs is not None), None) or self.setup.house_tabs(on)
        middles: list[tuple[float, float]] = []
        by_hand = False
        runnable = widest > 0 and any((c := self.setup.cutter(chosen.cutter if chosen and chosen.cutter else s.cutter)) is not None and self.family in c.feeds for s in profiles)
        if runnable:
            middles, by_hand, said = tabs_for(self.part, name, self.drawn.contour(name) or contour, chosen, policy, widest, self.thickness, label, where, self.setup, inside)
            if not any(-self.thickness + policy.height > -self._depth(s, 0) for s in profiles):
                said = [s for s in said if s.rule != "holding.none"]
            self.say(*said)
        spots = [(-x, y) for x, y in middles] if self.mirrored else middles
        plans: list[StepPlan] = []
        opened: list[Opened] = []
        made = len(self.cuts)
        reason = ""
        for k, step in enumerate(steps):
            if isinstance(step, Profile):
                plan, why = self._profile(name, contour, inside, step, k, spots, policy.height - self.thickness, policy.width, opened)
                reason = why or reason
            elif isinstance(step, Chamfer):
                plan = self._chamfer(name, contour, inside, step, k)
            elif isinstance(step, Bore) and circle:
                plan = self._bore(name, circle, step, k, self.thickness + self._overshoot(step), True)
            elif isinstance(step, Drill) and circle:
                plan = self._drill(name, circle, step, k, self.thickness + self._overshoot(step), True)
            elif isinstance(step, Pocket) and circle:
                plan = None
                self.say(stop("cuts.pocket-through", f"{label}: a pocket does not cut through; profile or bore it", where))
            elif isinstance(step, Face):
                plan = self._face(name, contour, step, k)
            else:
                plan = None
            if plan:
                plans.append(plan)
        self.finish(name, on, inside, plans, own, middles, by_hand, reason)
        if len(self.cuts) == made or not any(c.frees for c in self.cuts[made:]):
            if not any(c.contour == name and -c.levels[-1] >= self.thickness - 1e-6 for c in self.cuts):
                said = next((s.message for s in self.snags[before:] if s.severity == "stop"), "no step cuts through")
                self.left_out.append(f"{label}: {said}" if len(self.cuts) == made else f"{label}: no step cuts through it")

    def _fitting(self, steps: Sequence[Operation], radius: float, name: str) -> list[Operation]:
        """Of steps on round features, those that suit one of this radius: a drill its own size, else a bore up to so many cutter diameters."""
        choice = self.choices.get(name)
        drills, bores, rest = [], [], []
        for s in steps:
            cutter = self.setup.cutter(choice.cutter if choice and choice.cutter else s.cutter)
            if cutter is None:
                continue
            if isinstance(s, Drill) and abs(cutter.diameter - 2 * radius) <= FIT:
                drills.append(s)
            elif isinstance(s, Bore) and cutter.diameter * 1.02 < 2 * radius <= cutter.diameter * self.rules.bore_upto + 1e-9:
                bores.append(s)
            elif isinstance(s, Profile | Pocket | Chamfer):
                rest.append(s)
        first: list[Operation] = [*drills] or [*bores[:1]]
        return [*first, *rest] if first else [s for s in rest if not isinstance(s, Chamfer)] and [*rest]

    def _overshoot(self, step: Any) -> float:
        return step.overshoot if step.overshoot is not None else self.rules.overshoot.get(self.family, 0.5)

    def _depth(self, step: Profile, default: float) -> float:
        """Depth of a profile through the sheet, mm."""
        if step.depth:
            return step.depth
        if step.floor_allowance:
            return max(self.thickness - step.floor_allowance, 0.01)
        return self.thickness + self._overshoot(step)

    def _profile(self, name: str, contour: Contour, inside: bool, step: Profile, k: int, tabs: list[tuple[float, float]], tab_top: float, tab_width: float,
                 opened: list[Opened]) -> tuple[StepPlan | None, str]:
        label, where = self.label(name), self.where(name)
        cutter = self.tool(step, name)
        if cutter is None:
            return None, ""
        depth = self._depth(step, 0.0)
        through = depth >= self.thickness - 1e-6
        radius = cutter.radius
        off = radius + step.side_allowance
        on_line = step.side == "on line"
        largest, school = self.step_down(step, cutter)
        self.deep_enough(name, cutter, depth)
        rounded_end = cutter.kind in ("ball", "tapered ball", "bowl")
        slotted = slot_line(contour, cutter.diameter) if inside and not on_line and not step.side_allowance else None
        rings = [(contour.oriented(True), inside)] if on_line else memo("rings", f"{self.shape.digest}/{name}/{off!r}", lambda: cutter_rings(contour, off, inside))
        if not rings and not slotted:
            b = contour.bbox
            size = f"{b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm"
            keep = f" with {step.side_allowance:g} mm left on its walls" if step.side_allowance else ""
            self.say(stop("cuts.too-small", f"{label}: {size} cannot be entered by the {cutter.diameter:g} mm cutter{keep}; choose a smaller cutter, or leave it out", where,
                          *self._smaller(name, contour, inside, cutter, depth)))
            return None, ""
        lv = levels_for(depth, -radius if on_line else step.side_allowance, cutter.diameter, largest, self.rules, opened, step.one_pass, school)
        if len(lv.depths) > MOST_PASSES:
            self.say(stop("cuts.absurd", f"{label}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass", where))
            return None, ""
        entry, ramp, entry_why = self.entry(step, cutter, name)
        per_pass = max((a - b for a, b in zip((lv.begins, *lv.depths[:-1]), lv.depths, strict=True)), default=depth)
        a = self.numbers(step, cutter, per_pass, lv.width or 0.05)
        self._judge_levels(name, cutter, lv, depth, through, rounded_end, step)
        choice = self.choices.get(name)
        start = choice.start if choice else None
        if start and self.mirrored:
            start = (-start[0], start[1])
        moves_all: list[Array] = []
        lead_used = 0.0
        if slotted:
            track = Track(self.setup.machine.retract, a.feed, a.plunge)
            moves = follow_moves([slotted], lv.depths, entry, ramp, track)
            self.add(name, step, cutter, k, moves, slotted, lv.depths, a, (), True, through, (), True)
            moves_all.append(moves)
        else:
            if not on_line:
                if inside and len(rings) > 1:
                    self.say(look("cuts.neck", f"{label}: a neck narrower than the {cutter.diameter:g} mm cutter splits it into {len(rings)} separate cuts", where))
                patches = memo("unreached", f"{self.shape.digest}/{name}/{off!r}", lambda: unreached(contour, rings, off, inside))
                if patches:
                    x, y, _a = patches[0]
                    area = sum(p[2] for p in patches)
                    self.say(look("cuts.unreached", f"{label}: the {cutter.diameter:g} mm cutter leaves {area:.1f} mm2 uncut in {len(patches)} place{'s' * (len(patches) != 1)}, "
                                  f"the largest at {x:.1f}, {y:.1f}", {**where, "x": x, "y": y}))
            s = ProfileSettings(radius, inside, step.direction == "climb", lv.depths, tab_top, tab_width, ramp, a.feed, a.plunge, self.setup.machine.retract, lv.begins,
                                entry, step.lead, step.lead_length, self.rules.corner_feed if step.corners == "slow" else 1.0)
            clear = self._clear(contour, inside, off, radius) if step.lead != "none" and not on_line else None
            outer = max(range(len(rings)), key=lambda i: abs(rings[i][0].area))
            for i in sorted(range(len(rings)), key=lambda i: (i == outer, i)):  # bays first, the main path last
                ring, kept_outside = rings[i]
                own = [t for t in tabs if nearest_ring(t, rings) == i] if depth > self.thickness + tab_top - 1e-9 or through else []
                moves, lead = profile_moves(ring, kept_outside, own, s, start, clear)
                if clear and lead is None:
                    self.say(note("cuts.lead", f"{label}: no room for a lead-in of {cutter.name} beside the part and its neighbours ({self.spacing:g} mm); it ramps in along the path", where))
                lead_used = max(lead_used, lead.length if lead else 0.0)
                self.add(name, step, cutter, k, moves, ring, lv.depths, a, own, inside or kept_outside, through and not on_line, (), True)
                moves_all.append(moves)
            if inside and through and not tabs:
                wide = max((min(_drop_box(r, radius)) for r, _o in rings), default=0.0)
                if wide > 25.0:
                    self.say(note("holding.drop", f"{label}: the drop comes free at its last pass; vacuum or two tabs keep it from tipping", where))
        opened.append(Opened(depth, -radius if on_line else step.side_allowance, radius if on_line else step.side_allowance + cutter.diameter))
        over = f"{self.thickness:.2f} mm measured + {self._overshoot(step):.2f} overshoot" if depth > self.thickness else f"{depth:.2f} mm deep" + (
            f", {step.floor_allowance:g} mm left as a skin" if step.floor_allowance else "")
        reason = f"{over}; {lv.reason}"
        plan = self.step_plan(step, cutter, lv, a, moves_all, "lead" if lead_used else entry, lead_used, 0.0,
                              (("depth", over), ("entry", f"arrives sideways from the waste over {lead_used:g} mm" if lead_used else entry_why),
                               ("direction", f"{step.direction}: house rule is {self.rules.rough_direction.get(self.family, 'climb')} roughing, {self.rules.finish_direction.get(self.family, 'climb')} finishing")))
        return plan, reason

    def _judge_levels(self, name: str, cutter: Cutter, lv: Levels, depth: float, through: bool, rounded: bool, step: Step) -> None:
        label, where = self.label(name), self.where(name)
        first = -lv.depths[0] if lv.begins == 0 else None
        if cutter.kind == "compression" and first is not None and first < min(cutter.up_cut_length, self.thickness) - 1e-6 and lv.width > 0.5 * cutter.diameter:
            self.say(look("cuts.compression", f"{label}: the first pass is {first:.2f} mm deep, so the up-cut end of {cutter.name} ({cutter.up_cut_length:g} mm) works in the top face and tears it; "
                          "one pass over the whole depth, or a down-cut cutter for the first level", where,
                          Remedy(label="Whole depth in one pass", command={"kind": "set-operation", "setup": self.setup.id, "operation": {**step.model_dump(mode="json"), "one_pass": True}})
                          ) if isinstance(step, Profile) and step in self.setup.operations else look("cuts.compression", f"{label}: first pass {first:.2f} mm: the up-cut end of {cutter.name} "
                                                                                                     f"({cutter.up_cut_length:g} mm) tears the top face", where))
        if cutter.kind == "down-cut" and lv.engaged > 2.5 * cutter.diameter and lv.width > 0.5 * cutter.diameter:
            self.say(note("cuts.packing", f"{cutter.name} packs its chips in slots {lv.engaged:.1f} mm deep; an up-cut cutter below the first level clears them", {"part": self.part.id, "cutter": cutter.id}))
        if rounded and through:
            r = cutter.radius if cutter.kind == "ball" else cutter.tip / 2 if cutter.kind == "tapered ball" else cutter.corner_radius
            below = depth - self.thickness
            if below < r - 1e-6:
                self.say(look("cuts.lip", f"{label}: the round end of {cutter.name} leaves a lip {ball_lip(r, below):.2f} mm wide on each side, {below:.2f} mm under the sheet; "
                              f"gone only at {r:g} mm of overshoot, or with a flat cutter", where,
                              *([Remedy(label=f"Overshoot {r:g} mm", command={"kind": "set-operation", "setup": self.setup.id, "operation": {**step.model_dump(mode="json"), "overshoot": r}})]
                                if step in self.setup.operations and isinstance(step, Profile) else [])))

    def _clear(self, contour: Contour, inside: bool, off: float, radius: float):
        """May the cutter's middle be at these points: off the part, and no nearer to a neighbour than the spacing allows?"""
        poly = Polygon(contour.points(CHORD)).buffer(0)
        solid = self.shape.polygon
        prepare(solid)
        bounded = not inside or self.setup.allow_in_holes

        def clear(points: list[tuple[float, float]]) -> bool:
            for p in points:
                at = Point(p)
                d = solid.distance(at)
                if d < off - CLOSE or (inside and not poly.contains(at)):
                    return False
                if bounded and d > self.spacing - radius + CLOSE:
                    return False
            return True

        return clear

    def _smaller(self, name: str, contour: Contour, inside: bool, cutter: Cutter, depth: float) -> tuple[Remedy, ...]:
        """Cutters of the setup that can enter, the largest first, and leaving the contour out."""
        out = []
        for other in sorted(self.setup.cutters, key=lambda c: -c.diameter):
            fits = other.kind in FLAT and other.diameter < cutter.diameter and self.family in other.feeds and other.cutting_length >= depth
            if fits and cutter_rings(contour, other.radius, inside):
                out.append(Remedy(label=f"Cut it with {other.name}", command={"kind": "set-contour", "part": self.part.id, "contour": name, "cutter": other.id}))
                break
        out.append(Remedy(label="Leave it out", command={"kind": "set-contour", "part": self.part.id, "contour": name, "omit": True}))
        return tuple(out)

    # -- round features

    def _bore(self, name: str, circle: tuple[float, float, float], step: Bore, k: int, depth: float, through: bool) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        self.deep_enough(name, cutter, depth)
        largest, school = self.step_down(step, cutter)
        pitch = step.pitch or min(largest, cutter.diameter / 4)
        lv = Levels((-depth,), 0.0, min(pitch, depth), min(cutter.diameter, 2 * circle[2] - cutter.diameter + 0.01), f"a helix of {pitch:.2f} mm a turn" + ("" if step.pitch else f": a quarter of the diameter, and {school}"))
        a = self.numbers(step, cutter, min(pitch, depth), lv.width)
        track = Track(self.setup.machine.retract, a.feed, a.plunge)
        moves = bore_moves(*circle, cutter.radius, (-depth,), pitch, step.direction == "climb", track)
        path = Contour.circle(circle[0], circle[1], circle[2] - cutter.radius)
        self.add(name, step, cutter, k, moves, path, lv.depths, a, (), True, through, (), through)
        return self.step_plan(step, cutter, lv, a, [moves], "helix", 0.0, 0.0, (("depth", f"{depth:.2f} mm" + (": through with overshoot" if through else "")), ("entry", "a helix is its own entry")))

    def _drill(self, name: str, circle: tuple[float, float, float], step: Drill, k: int, depth: float, through: bool) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        if cutter.kind != "drill" and not cutter.centre_cutting:
            self.say(stop("cuts.plunge", f"{self.label(name)}: {cutter.name} does not cut at its centre and cannot drill; bore it by helix", self.where(name)))
            return None
        point = cutter.height_at(cutter.radius) if cutter.kind == "drill" else 0.0
        full = depth + (point if through else 0.0)
        self.deep_enough(name, cutter, full)
        peck = step.peck or self.rules.peck.get(self.family, 1.0) * cutter.diameter
        a = self.numbers(step, cutter, min(peck, full), cutter.diameter)
        moves = drill_moves(circle[0], circle[1], full, peck, Track(self.setup.machine.retract, a.feed, a.plunge))
        lv = Levels((-full,), 0.0, full, cutter.diameter, f"pecks of {peck:.1f} mm" + ("" if step.peck else f": {self.rules.peck.get(self.family, 1.0):g} diameters in {self.family}"))
        self.add(name, step, cutter, k, moves, Contour.circle(circle[0], circle[1], cutter.radius), (-full,), a, (), True, through)
        words = f"{depth:.2f} mm" + (f" + {point:.2f} for the drill's point" if through and point else "")
        return self.step_plan(step, cutter, lv, a, [moves], "plunge", 0.0, 0.0, (("depth", words), ("entry", "drills go straight down")))

    # -- edges and faces

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
                self.say(stop("cuts.chamfer", f"{label}: a chamfer of {width:g} mm needs a V bit at least {2 * (off + width):.1f} mm wide, {cutter.name} is {cutter.diameter:g} mm", where))
                return None
            depth = cutter.height_at(off + width)
            shift = f"axis {off:.2f} mm off the contour, clear of the tip; {width:g} mm wide at {cutter.angle:g} degrees"
        else:
            self.say(stop("cuts.chamfer", f"{label}: {cutter.name} is a {cutter.kind}; edges are broken with a V bit or a roundover cutter", where))
            return None
        if depth > self.thickness:
            self.say(stop("cuts.chamfer", f"{label}: the edge cut is {depth:.2f} mm deep, the sheet {self.thickness:.2f} mm", where))
            return None
        reach = off + cutter.radius_at(depth)
        if reach > self.spacing + 1e-6 and (not inside or self.setup.allow_in_holes):
            self.say(stop("cuts.neighbour", f"{label}: {cutter.name} reaches {reach:.1f} mm beyond the edge, neighbours lie {self.spacing:.1f} mm away; make the web {reach - self.spacing:.1f} mm wider", where))
        rings = cutter_rings(contour, off, inside)
        if inside:  # the far wall must stay clear of the flank
            rings = [r for r in rings if cutter_rings(contour, max(off, cutter.radius_at(depth) - width), True)]
        if not rings:
            self.say(look("cuts.chamfer", f"{label}: too narrow for {cutter.name} to break its edge; it is left sharp", where))
            return None
        a = self.numbers(step, cutter, depth, width)
        lv = Levels((-depth,), 0.0, depth, width, "one pass")
        moves_all = []
        for ring, kept_outside in rings:
            s = ProfileSettings(cutter.radius_at(depth), inside, step.direction == "climb", (-depth,), 0.0, 0.0, min(self.rules.ramp_length, 20.0), a.feed, a.plunge, self.setup.machine.retract)
            moves, _lead = profile_moves(ring, kept_outside, [], s)
            self.add(name, step, cutter, k, moves, ring, (-depth,), a, (), True, False)
            moves_all.append(moves)
        self.areas[f"{name} edge {k}"] = Area(f"{name} edge", depth, _band(self.shape, contour, width), _band(self.shape, contour, width), (contour,))
        return self.step_plan(step, cutter, lv, a, moves_all, "ramp", 0.0, 0.0, (("depth", f"{depth:.2f} mm: {shift}"), ("entry", "a short ramp along the edge")))

    def _face(self, name: str, contour: Contour, step: Face, k: int) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        target = Polygon(contour.points(CHORD)).buffer(0)
        waste = min(self.spacing - 0.05, cutter.diameter)
        loops = tuple(fit(p) for p in offset_points([contour.oriented(True).points(CHORD)], waste))
        area = Area(f"{name} face", step.depth, target, region_of([c.points(CHORD) for c in loops]), loops, True)
        self.areas[f"{name} face {k}"] = area
        pocket = Pocket(id=step.id, on="pockets", cutter=step.cutter, pattern=step.pattern, angle=step.angle, step_over=step.step_over, direction=step.direction, depth=step.depth, rpm=step.rpm,
                        feed=step.feed, plunge=step.plunge, feed_share=step.feed_share, step_down=step.step_down, z_zero=step.z_zero)
        return self._clear_pocket(name, area, pocket, k, step, [], "face")

    # -- pockets, grooves, engraving, drilling

    def _features(self) -> None:
        closed = [f for f in self.shape.features if f.contour.closed and f.kind in ("pocket", "groove")]
        depths: dict[str, float] = {}
        for f in closed:
            d = self._feature_depth(f)
            if d:
                depths[f.name] = d
        closed = [f for f in closed if f.name in depths]
        waste = max(0.1, min(self.spacing - 0.05, max((c.diameter for c in self.setup.cutters), default=6.0)))
        found = areas(self.shape, closed, depths, waste)
        for f in self.shape.features:
            on = FEATURE_ON[f.kind]
            if self.omit(f.name, True, on):
                continue
            label, where = self.label(f.name), self.where(f.name)
            steps, own = self.steps_of(f.name, on)
            if not steps:
                add = self._proposal(on)
                self.say(stop("cuts.no-operation", f"{label}: no operation cuts {on}; {'add one' if add else 'enter a cutter for it and add one'} at Cuts & hold, or leave it out", where, *add,
                              Remedy(label="Leave it out", command={"kind": "set-contour", "part": self.part.id, "contour": f.name, "omit": True})))
                self.left_out.append(f"{label}: no operation")
                continue
            made = len(self.cuts)
            if f.kind in ("pocket", "groove") and f.contour.closed:
                if f.name not in depths:
                    self._no_depth(f, steps)
                    continue
                if f.name in found:
                    self._area(f, found[f.name], steps, own, on)
                    self.areas[f.name] = found[f.name]
            elif f.kind == "drilling":
                self._drilling(f, steps, own)
            else:
                self._line(f, steps, own, on)
            if len(self.cuts) == made and f.name in (found if f.kind in ("pocket", "groove") and f.contour.closed else [f.name]):
                said = next((s.message for s in reversed(self.snags) if s.where and s.where.get("contour") == f.name and s.severity == "stop"), "no step suits it")
                self.left_out.append(f"{label}: {said.removeprefix(label + ': ')}")

    def _feature_depth(self, f: Feature) -> float | None:
        steps, _own = self.steps_of(f.name, FEATURE_ON[f.kind])
        given = next((s.depth for s in steps if s.depth), None)
        if given:
            return given
        if f.depth:
            return f.depth
        if f.kind == "engraving":
            return self.rules.engraving_depth
        return self.rules.undrawn_depth * self.thickness if self.rules.undrawn_depth else None

    def _no_depth(self, f: Feature, steps: Sequence[Operation]) -> None:
        label = self.label(f.name)
        half = round(self.thickness / 2, 2)
        remedies = [Remedy(label=f"{d:g} mm deep", command={"kind": "set-steps", "part": self.part.id, "on": FEATURE_ON[f.kind], "contour": f.name,
                                                           "steps": [{**s.model_dump(mode="json"), "depth": d} for s in steps]}) for d in (half, 6.0) if d < self.thickness]
        self.say(stop("cuts.no-depth", f"{label}: neither the drawing nor its operation says how deep; half the sheet is {half:g} mm", self.where(f.name), *remedies))
        self.left_out.append(f"{label}: no depth given")

    def _proposal(self, on: On) -> tuple[Remedy, ...]:
        from venzo.core.rules.propose import propose_for

        found = propose_for(on, self.setup.cutters, self.setup.material, self.thickness, self.rules, self.setup.machine)
        return (Remedy(label=f"Add {on} by house rule", command={"kind": "set-steps", "setup": self.setup.id, "on": on, "steps": [s.model_dump(mode="json") for s in found]}),) if found else ()

    def _area(self, f: Feature, area: Area, steps: Sequence[Operation], own: bool, on: On) -> None:
        label, where = self.label(f.name), self.where(f.name)
        plans: list[StepPlan] = []
        done: list[tuple[Lines, float, float]] = []
        if area.depth >= self.thickness - 1e-6:
            self.say(look("cuts.deep-pocket", f"{label}: {area.depth:g} mm deep goes through the {self.thickness:.2f} mm sheet; profile it if it should", where))
        for k, step in enumerate(steps):
            plan = None
            if isinstance(step, Pocket):
                plan = self._clear_pocket(f.name, area, step, k, step, done, f.kind, f.contour)
            elif isinstance(step, Profile):
                plan = self._wall(f.name, area, step, k, done)
            elif isinstance(step, Chamfer):
                plan = self._chamfer(f.name, f.contour, True, step, k)
            elif isinstance(step, Groove) and on == "grooves":
                cutter = self.setup.cutter(step.cutter)
                line = slot_line(f.contour, cutter.diameter) if cutter else None
                if line is not None and not plans:
                    plan = self._follow(f.name, [line], step, k, area.depth)
            if plan:
                plans.append(plan)
        self.finish(f.name, on, True, plans, own)

    def _clear_pocket(self, name: str, area: Area, step: Pocket, k: int, stated: Step, done: list[tuple[Lines, float, float]], what: str, contour: Contour | None = None) -> StepPlan | None:
        label, where = self.label(name), self.where(name)
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        depth = max(0.01, area.depth - step.floor_allowance)
        self.deep_enough(name, cutter, depth)
        largest, school = self.step_down(step, cutter)
        entry, ramp, entry_why = self.entry(step, cutter, name)
        share = step.step_over or self.rules.step_over
        if cutter.kind in ("v-bit", "drill", "roundover", "point roundover"):
            self.say(stop("cuts.kind", f"{label}: a {cutter.kind} does not leave a flat floor; choose an end mill", where))
            return None
        radius = cutter.radius
        floor_radius = cutter.radius_at(0.0) if cutter.kind in ("ball", "tapered ball", "bowl") else radius
        opened = None
        begins = 0.0
        if step.rest:
            deep = [(lines, r, a) for lines, r, a in done]
            if not deep:
                self.say(note("cuts.rest", f"{label}: nothing was cleared before, so the whole is cut", where))
            else:
                opened = swept_region([p for lines, r, _a in deep for p in lines.paths], min(r for _l, r, _a in deep))
        if slot := (slot_line(contour, cutter.diameter) if contour is not None and what == "groove" and not step.side_allowance else None):
            return self._follow(name, [slot], Groove(id=step.id, on="grooves", cutter=step.cutter, step_down=step.step_down, depth=step.depth, entry=step.entry, ramp_length=step.ramp_length, rpm=step.rpm,
                                                     feed=step.feed, plunge=step.plunge, feed_share=step.feed_share, z_zero=step.z_zero), k, depth)
        lv = levels_for(depth, 0.0, cutter.diameter, largest, self.rules, [], False, school)
        if len(lv.depths) > MOST_PASSES:
            self.say(stop("cuts.absurd", f"{label}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass", where))
            return None
        bowl = self.setup.cutter(step.bowl) if step.bowl else None
        width_share = share * (floor_radius / radius) if 0 < floor_radius < radius else share
        levels: list[tuple[float, Lines]] = []
        cache: dict[float, Lines] = {}
        try:
            for z in lv.depths:
                inset = bowl.radius - bowl.radius_at(depth + step.floor_allowance + z) if bowl else 0.0
                if inset not in cache:
                    args = (radius, step.side_allowance + inset, width_share, step.pattern, step.angle, step.wall_pass, step.direction == "climb")
                    key = digest(area.loops_key, area.target.wkb_hex if area.open_sided else "", opened.wkb_hex if opened is not None else "", list(args))
                    cache[inset] = memo("pocket", key, partial(clear_area, area, *args, opened))
                if cache[inset].paths:
                    levels.append((z, cache[inset]))
        except BadInput as e:
            self.say(stop("cuts.absurd", f"{label}: {e}", where))
            return None
        if not levels:
            if opened is not None:
                self.say(note("cuts.rest", f"{label}: the cutters before left nothing that {cutter.name} reaches", where))
            else:
                b = area.target.bounds
                self.say(stop("cuts.too-small", f"{label}: {b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm cannot be entered by the {cutter.diameter:g} mm cutter; choose a smaller cutter, or leave it out", where,
                              *self._smaller_pocket(name, area, cutter, depth)))
            return None
        per_pass = max(a - b for a, b in zip((0.0, *lv.depths[:-1]), lv.depths, strict=True))
        a = self.numbers(stated, cutter, per_pass, width_share * cutter.diameter)
        track = Track(self.setup.machine.retract, a.feed, a.plunge)
        lay_levels(levels, begins, track, entry, ramp, radius, self.rules.wall_feed if step.pattern == "raster" and step.wall_pass else 1.0)
        moves = track.array()
        last = levels[-1][1]
        path = max(last.paths, key=lambda p: p.length)
        closed = path if path.closed else Contour.of(path.points(0.1).tolist(), False)
        self.add(name, stated, cutter, k, moves, closed, [z for z, _l in levels], a, (), True, False, last.paths)
        left = self._left_over(area, levels[-1][1], radius, step) if opened is None else last.left
        if left > max(0.6 * radius * radius, 0.5) and not any(isinstance(s, Pocket) and s.rest for s in self.steps_of(name, stated.on)[0]):
            self.say(look("cuts.unreached", f"{label}: the {cutter.diameter:g} mm cutter leaves {left:.1f} mm2 of its floor uncut, in corners it cannot enter"
                          + (" and along the walls" if last.left else "") + "; a smaller cutter can take the rest", where, *self._rest_remedy(name, area, cutter, depth, stated)))
        why = [("depth", f"{depth:.2f} mm" + (f", {step.floor_allowance:g} left for a later step" if step.floor_allowance else "")), ("entry", entry_why),
               ("step-over", f"{share:.0%} of the diameter" + ("" if step.step_over else " by house rule") + f", {'rings from the middle out' if step.pattern == 'offset' else f'rows at {step.angle:g} degrees'}")]
        done.append((last, radius, step.side_allowance))
        return self.step_plan(stated, cutter, lv, a, [moves], entry, 0.0, left, why)

    def _left_over(self, area: Area, lines: Lines, radius: float, step: Pocket) -> float:
        """mm2 of the target that no pass reaches, beyond the allowance left on purpose."""
        want = area.target.buffer(-step.side_allowance) if step.side_allowance else area.target
        return float(want.difference(lines.centres.buffer(radius, quad_segs=24).buffer(0.02)).area) + lines.left

    def _rest_remedy(self, name: str, area: Area, cutter: Cutter, depth: float, stated: Step) -> tuple[Remedy, ...]:
        """One step more, with the largest cutter of at most two thirds of the diameter that reaches."""
        steps, _own = self.steps_of(name, stated.on)
        for other in sorted(self.setup.cutters, key=lambda c: -c.diameter):
            if other.kind in FLAT and other.diameter <= cutter.diameter * 0.67 and self.family in other.feeds and other.reach >= depth and isinstance(stated, Pocket):
                more = [*(s.model_dump(mode="json") for s in steps), {"kind": "pocket", "id": f"rest {other.number}", "on": stated.on, "cutter": other.id, "rest": True, "direction": stated.direction}]
                return (Remedy(label=f"Take the rest with {other.name}", command={"kind": "set-steps", "part": self.part.id, "on": stated.on, "steps": more}),)
        return ()

    def _smaller_pocket(self, name: str, area: Area, cutter: Cutter, depth: float) -> tuple[Remedy, ...]:
        out = []
        for other in sorted(self.setup.cutters, key=lambda c: -c.diameter):
            if other.kind in FLAT and other.diameter < cutter.diameter and self.family in other.feeds and other.reach >= depth and area.centres(other.radius):
                out.append(Remedy(label=f"Cut it with {other.name}", command={"kind": "set-contour", "part": self.part.id, "contour": name, "cutter": other.id}))
                break
        return (*out, Remedy(label="Leave it out", command={"kind": "set-contour", "part": self.part.id, "contour": name, "omit": True}))

    def _wall(self, name: str, area: Area, step: Profile, k: int, done: list[tuple[Lines, float, float]]) -> StepPlan | None:
        """The closing pass along a pocket's walls and islands, an operation of its own at its own feed."""
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        depth = step.depth or max(0.01, area.depth - step.floor_allowance)
        self.deep_enough(name, cutter, depth)
        loops = area.centres(cutter.radius + step.side_allowance)
        if not loops:
            self.say(stop("cuts.too-small", f"{self.label(name)}: the {cutter.diameter:g} mm cutter cannot run along its walls", self.where(name)))
            return None
        largest, school = self.step_down(step, cutter)
        opened = [Opened(depth, a, a + max(2 * r, cutter.diameter + a + 1)) for _l, r, a in done]
        lv = levels_for(depth, step.side_allowance, cutter.diameter, largest, self.rules, opened, step.one_pass, school)
        a = self.numbers(step, cutter, lv.engaged or depth, lv.width or 0.05)
        entry, ramp, entry_why = self.entry(step, cutter, name)
        centres = region_of(loops)

        def clear(points: list[tuple[float, float]]) -> bool:
            return all(centres.buffer(CLOSE).covers(Point(p)) for p in points)

        all_moves = []
        lead_used = 0.0
        for p in loops:
            island = signed_area(p) < 0
            ring = fit(p, True).simplified(1e-4).oriented(True)
            s = ProfileSettings(cutter.radius, True, step.direction == "climb", lv.depths, 0.0, 0.0, ramp, a.feed, a.plunge, self.setup.machine.retract, lv.begins, entry, step.lead, step.lead_length,
                                self.rules.corner_feed if step.corners == "slow" else 1.0)
            moves, lead = profile_moves(ring, not island, [], s, None, clear if step.lead != "none" else None)
            lead_used = max(lead_used, lead.length if lead else 0.0)
            self.add(name, step, cutter, k, moves, ring, lv.depths, a, (), True, False)
            all_moves.append(moves)
        return self.step_plan(step, cutter, lv, a, all_moves, "lead" if lead_used else entry, lead_used, 0.0, (("depth", f"{depth:.2f} mm along the walls"), ("entry", entry_why)))

    def _drilling(self, f: Feature, steps: Sequence[Operation], own: bool) -> None:
        label, where = self.label(f.name), self.where(f.name)
        circle = circle_of(f.contour)
        if circle is None:
            self.say(stop("cuts.not-round", f"{label}: it is on a drilling layer but not round; call its layer a pocket, or leave it out", where))
            return
        given = next((s.depth for s in steps if s.depth), None) or f.depth
        through = given is None or given >= self.thickness - 1e-6
        fitting = self._fitting(steps, circle[2], f.name)
        if not fitting:
            sizes = ", ".join(c.name for s in steps if (c := self.setup.cutter(s.cutter)))
            able = [c for c in self.setup.cutters if self.family in c.feeds and (
                abs(c.diameter - 2 * circle[2]) <= FIT if c.kind == "drill" else c.kind in FLAT and c.diameter * 1.02 < 2 * circle[2] <= c.diameter * self.rules.bore_upto)]
            able.sort(key=lambda c: (c.kind != "drill", -c.diameter))
            remedy = [Remedy(label=f"{'Drill' if c.kind == 'drill' else 'Bore'} with {c.name}", command={"kind": "set-steps", "part": self.part.id, "on": "drillings", "contour": f.name, "steps": [
                {"kind": "drill" if c.kind == "drill" else "bore", "id": "own", "on": "drillings", "cutter": c.id}]}) for c in able[:2]]
            self.say(stop("cuts.drill-size", f"{label}: {2 * circle[2]:.2f} mm across; {sizes or 'no cutter'} cannot make it (a drill its own size, a bore up to {self.rules.bore_upto:g} diameters)", where, *remedy))
            return
        plans = []
        for k, step in enumerate(fitting):
            depth = self.thickness + self._overshoot(step) if through and isinstance(step, Drill | Bore) else given or self.thickness
            if isinstance(step, Drill):
                plan = self._drill(f.name, circle, step, k, depth, through)
            elif isinstance(step, Bore):
                plan = self._bore(f.name, circle, step, k, depth, through)
                cutter = self.setup.cutter(step.cutter)
                if plan and cutter and not through and 2 * circle[2] > 2 * cutter.diameter + 0.01:
                    self.say(look("cuts.core", f"{label}: the helix of {cutter.name} leaves a core {2 * circle[2] - 2 * cutter.diameter:.1f} mm thick standing; pocket it, or take a larger cutter", where))
            elif isinstance(step, Pocket):
                target = Polygon(f.contour.points(CHORD)).buffer(0)
                plan = self._clear_pocket(f.name, Area(f.name, depth, target, target, (f.contour.oriented(True),)), step, k, step, [], "drilling")
            else:
                plan = None
            if plan:
                plans.append(plan)
        target = Polygon(f.contour.points(CHORD)).buffer(0)
        reach = max((-c.levels[-1] for c in self.cuts if c.contour == f.name), default=0.0)
        self.areas[f.name] = Area(f.name, reach, target, target, (f.contour,))
        self.finish(f.name, "drillings", True, plans, own)

    def _line(self, f: Feature, steps: Sequence[Operation], own: bool, on: On) -> None:
        """An open groove, or an engraving."""
        label, where = self.label(f.name), self.where(f.name)
        depth = self._feature_depth(f)
        if depth is None:
            self._no_depth(f, steps)
            return
        plans = []
        for k, step in enumerate(steps):
            if not isinstance(step, Groove):
                continue
            cutter = self.setup.cutter(step.cutter)
            lines = [f.contour]
            if step.width and cutter and step.width > cutter.diameter + FIT:
                if f.contour.closed:
                    self.say(stop("cuts.groove-width", f"{label}: a closed line cannot be widened to {step.width:g} mm; take a cutter of that width", where))
                    continue
                try:
                    lines = beside(f.contour, step.width, cutter.diameter, self.rules.step_over * cutter.diameter)
                except ValueError as e:
                    self.say(stop("cuts.groove-width", f"{label}: {e}; take a cutter {step.width:g} mm wide", where))
                    continue
            plan = self._follow(f.name, lines, step, k, step.depth or depth)
            if plan:
                plans.append(plan)
        if not plans and not any(isinstance(s, Groove) for s in steps):
            self.say(stop("cuts.open-line", f"{label}: an open line; it needs a groove operation, not a pocket", where, *self._proposal(on)))
        self.finish(f.name, on, True, plans, own)

    def _follow(self, name: str, lines: list[Contour], step: Groove, k: int, depth: float) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        self.deep_enough(name, cutter, depth)
        largest, school = self.step_down(step, cutter)
        lv = levels_for(depth, 0.0, cutter.diameter, largest, self.rules, [], False, school)
        if len(lv.depths) > MOST_PASSES:
            self.say(stop("cuts.absurd", f"{self.label(name)}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass", self.where(name)))
            return None
        entry, ramp, entry_why = self.entry(step, cutter, name)
        wide = 2 * cutter.radius_at(depth)
        a = self.numbers(step, cutter, lv.engaged / len(lv.depths), min(wide, cutter.diameter))
        moves = follow_moves(lines, lv.depths, entry, ramp, Track(self.setup.machine.retract, a.feed, a.plunge))
        self.add(name, step, cutter, k, moves, lines[0], lv.depths, a, (), True, False, lines, True)
        from shapely.geometry import LineString
        from shapely.ops import unary_union

        touched = unary_union([LineString(_points(c)).buffer(wide / 2 + 0.01, quad_segs=24) for c in lines])
        self.areas[f"{name} line {k}"] = Area(name, depth, touched, touched, tuple(lines))
        return self.step_plan(step, cutter, lv, a, [moves], entry, 0.0, 0.0, (("depth", f"{depth:.2f} mm, {wide:.2f} mm wide at the surface"), ("entry", entry_why)))


def _points(c: Contour) -> Array:
    import numpy as np

    p = c.points(0.005)
    return np.vstack([p, p[:1]]) if c.closed else p


def _band(shape: Shape, contour: Contour, width: float):
    """The strip of the part's face within ``width`` of a contour."""
    from shapely.geometry import LineString

    return LineString(_points(contour)).buffer(width + 0.02, quad_segs=24)


def _mirrored(shape: Shape) -> Shape:
    """The part seen in a mirror (x -> -x), names kept; outline counter-clockwise, holes clockwise."""
    region = Region(shape.region.outline.placed(0, 0, 0, True).oriented(True), tuple(h.placed(0, 0, 0, True).oriented(False) for h in shape.region.holes))
    return Shape(region, shape.names, tuple(f.changed(lambda c: c.placed(0, 0, 0, True).oriented(True) if c.closed else c.placed(0, 0, 0, True)) for f in shape.features))


def _drop_box(ring: Contour, radius: float) -> tuple[float, float]:
    """Box of the drop left inside a path, mm."""
    b = ring.bbox
    return b[2] - b[0] - 2 * radius, b[3] - b[1] - 2 * radius
