"""Steps on outlines and holes: profiles, with what there is to say about the cutter and its passes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from shapely import prepare
from shapely.geometry import Point, Polygon

from venzo.core.body.engagement import body_around, cell_for
from venzo.core.body.field import StockBody
from venzo.core.cuts.cut import ContourCut, HoleCut, Tab
from venzo.core.cuts.depths import DepthRule, Levels, levels_in, levels_in_full
from venzo.core.cuts.follow import follow_moves
from venzo.core.cuts.in_hand import (
    CLOSE,
    MOST_PASSES,
    SPOILED,
    Doing,
    PartInHand,
)
from venzo.core.cuts.on_edges import EdgeSteps
from venzo.core.cuts.on_pockets import PocketSteps
from venzo.core.cuts.operations import (
    Bore,
    Chamfer,
    Drill,
    Face,
    On,
    Operation,
    Pocket,
    Profile,
    Step,
)
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.profile import (
    cutter_rings,
    nearest_ring,
    profile_moves,
    rounded,
    unreached,
)
from venzo.core.cuts.rounds import circle_of, slot_line
from venzo.core.cuts.track import Track, open_run
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.feeds.mechanics import ball_lip
from venzo.core.geometry.contour import Array, Contour
from venzo.core.holding.on_contour import Tied, Tying, tabs_for
from venzo.core.memo import memo
from venzo.core.rules.house import Tabs
from venzo.core.snags import Remedy, look, note, stop
from venzo.core.tolerances import CHORD
from venzo.core.tooling.cutter import FLAT, Cutter

TAB_SHARE = 0.4
"""Tabs by house rule are at most this share of the sheet's thickness."""
ROUNDED = 0.5
"""Radius of rounded inside corners of a path over the cutter's radius."""
MOST_CELLS = 1_500_000
"""Cells of a body along one contour: longer contours get larger ones."""


class ContourSteps:
    """Plans the steps on one outline or hole."""

    def __init__(self, hand: PartInHand, edges: EdgeSteps, pockets: PocketSteps) -> None:
        self.hand, self.edges, self.pockets = hand, edges, pockets
        self.patches: list[tuple[Cutter, list[tuple[float, float, float]]]] = []
        """What each cutter along the contour in hand leaves standing: x, y, mm2."""

    def plan(self, name: str, contour: Contour, inside: bool) -> None:
        on: On = "holes" if inside else "outlines"
        label, where = self.hand.label(name), self.hand.where(name)
        circle = circle_of(contour) if inside else None
        steps, own = self.hand.steps_of(name, on)
        if circle and name not in self.hand.steps_by_contour:
            rounds, own_rounds = self.hand.steps_of(name, "round holes")
            fitting = self.edges.fitting(rounds, circle[2], name)
            if fitting:
                on, steps, own = "round holes", fitting, own_rounds
        if self.hand.omit(name, inside, on):
            return
        elsewhere = not self.hand.setup.cuts_here(on)
        steps = [s for s in steps if not elsewhere or isinstance(s, Chamfer | Face)]  # each face's own
        if elsewhere and not steps:
            return
        if not steps:
            self.hand.say(
                stop("cuts.no-operation", f"{label}: no operation cuts {on}; add one at Cuts & hold", where)
            )
            self.hand.left_out.append(f"{label}: no operation")
            return
        before = len(self.hand.snags)
        profiles = [s for s in steps if isinstance(s, Profile) and s.side == "waste"]
        widest = max((c.diameter for s in profiles if (c := self.hand.setup.cutter(s.cutter))), default=0.0)
        chosen = self.hand.choices.get(name)
        if chosen and chosen.cutter and (c := self.hand.setup.cutter(chosen.cutter)):
            widest = c.diameter
        policy = next((s.tabs for s in reversed(profiles) if s.tabs is not None), None) or self._house_tabs(
            on
        )
        middles, by_hand = self._tied(name, contour, inside, profiles, policy, widest)
        spots = [(-x, y) for x, y in middles] if self.hand.mirrored else middles
        plans: list[StepPlan] = []
        self.hand.body = self._body_of(contour, steps, name)
        made = len(self.hand.cuts)
        self.patches = []
        reason = ""
        steps = self._able(name, contour, inside, steps)
        for k, step in enumerate(steps):
            if isinstance(step, Profile):
                plan, why = self._profile(
                    name,
                    contour,
                    inside,
                    step,
                    k,
                    spots,
                    self._tab(policy, on),
                )
                reason = why or reason
            elif isinstance(step, Chamfer):
                plan = self.edges.chamfer(name, contour, inside, step, k)
            elif isinstance(step, Bore) and circle:
                plan = self.edges.bore(
                    name, circle, step, k, self.hand.thickness + self.hand.overshoot(step), True
                )
            elif isinstance(step, Drill) and circle:
                plan = self.edges.drill(
                    name, circle, step, k, self.hand.thickness + self.hand.overshoot(step), True
                )
            elif isinstance(step, Pocket) and circle:
                plan = None
                self.hand.say(
                    stop(
                        "cuts.pocket-through",
                        f"{label}: a pocket does not cut through; profile or bore it",
                        where,
                    )
                )
            elif isinstance(step, Face):
                plan = self.pockets.face(name, contour, step, k)
            else:
                plan = None
            if plan:
                plans.append(plan)
        self._say_unreached(name)
        self._say_left(name, inside, steps, made)
        self.hand.finish(name, on, inside, plans, own, middles, by_hand, reason)
        through = (c.frees or -c.levels[-1] >= self.hand.thickness - 1e-6 for c in self.hand.cuts[made:])
        parted = self._half(inside) or any(through)
        if not parted and not elsewhere:
            why = next(
                (s.message for s in self.hand.snags[before:] if s.severity == "stop"), "no step cuts through"
            )
            skin = next(
                (s.message for s in self.hand.snags[before:] if s.rule == "cuts.skin-left"),
                f"{label}: no step cuts through it",
            )
            self.hand.left_out.append(f"{label}: {why}" if len(self.hand.cuts) == made else skin)

    def _tied(
        self, name: str, contour: Contour, inside: bool, profiles: list[Profile], policy: Tabs, widest: float
    ) -> tuple[list[tuple[float, float]], bool]:
        """Middles of a contour's tabs on the drawn contour, and whether a person placed them; none where no
        step can be run, or a web holds all round.
        """
        chosen = self.hand.choices.get(name)
        runnable = widest > 0 and any(
            (c := self.hand.setup.cutter(chosen.cutter if chosen and chosen.cutter else s.cutter)) is not None
            and self.hand.family in c.feeds
            for s in profiles
        )
        if not runnable or (self._half(inside) and self._web()):
            return [], False
        drawn = self.hand.drawn.contour(name) or contour
        tied = Tied(self.hand.part, name, drawn, inside, chosen, self.hand.label(name), self.hand.where(name))
        blocked = () if inside else self.hand.blocked
        load = self._load(profiles, chosen.cutter if chosen else None)
        found = tabs_for(tied, Tying(policy, widest, self.hand.thickness, blocked, load), self.hand.setup)
        said = found.snags
        if not any(self._depth(s, 0) > self.hand.thickness - policy.height for s in profiles):
            said = [s for s in said if s.rule not in ("holding.tabs-none", "holding.tab-room")]
        self.hand.say(*said)
        return found.middles, found.by_hand

    def _able(self, name: str, contour: Contour, inside: bool, steps: list[Operation]) -> list[Operation]:
        """The steps, with a smaller cutter of the setup in the last profile where none of theirs can enter;
        profiles that cannot, beside one that can, are left out with a word.
        """
        choice = self.hand.choices.get(name)
        if choice and choice.cutter:
            return steps

        def enters(step: Profile, cutter: Cutter) -> bool:
            off = cutter.radius + step.side_allowance
            return bool(
                memo(
                    "rings",
                    f"{self.hand.shape.digest}/{name}/{off!r}",
                    lambda: cutter_rings(contour, off, inside),
                )
                or (inside and slot_line(contour, cutter.diameter))
            )

        profiles = [
            (s, c)
            for s in steps
            if isinstance(s, Profile)
            and s.side == "waste"
            and (c := self.hand.setup.cutter(s.cutter)) is not None
        ]
        able = [s for s, c in profiles if enters(s, c)]
        if not profiles or len(able) == len(profiles):
            return steps
        last, widest = profiles[-1]
        if able:
            out = [s for s in steps if not isinstance(s, Profile) or s in able or s.side != "waste"]
            if last in able:
                gone = " and ".join(c.name for s, c in profiles if s not in able)
                self.hand.say(
                    note(
                        "cuts.smaller",
                        f"{self.hand.label(name)}: {gone} cannot enter; the step with the smaller cutter does"
                        " it alone",
                        self.hand.where(name),
                    )
                )
                return out
            return steps
        for other in sorted(self.hand.setup.cutters, key=lambda c: -c.diameter):
            mill = other.kind in FLAT and other.kind not in ("surfacing", "roughing")
            fit = (
                mill
                and other.diameter < widest.diameter
                and self.hand.family in other.feeds
                and other.reach >= self._depth(last, 0.0)
            )
            alone = last.model_copy(
                update={"cutter": other.id, "rpm": None, "feed": None, "plunge": None, "side_allowance": 0.0}
            )
            if fit and enters(alone, other):
                words = (
                    f"{self.hand.label(name)}: {widest.name} cannot enter; {other.name}, the largest of the"
                    " setup that can, cuts it instead"
                )
                self.hand.say(note("cuts.smaller", words, self.hand.where(name)))
                return [s for s in steps if not isinstance(s, Profile) or s.side != "waste"] + [alone]
        return steps

    def _say_unreached(self, name: str) -> None:
        """What the last of the cutters along a contour leaves standing, if no other step takes it."""
        if not self.patches:
            return
        cutter, patches = min(self.patches, key=lambda p: sum(a for _x, _y, a in p[1]))
        if self.hand.body is not None and self.hand.body.touched:
            heights = self.hand.body.heights(np.array([(x, y) for x, y, _a in patches]))
            patches = [p for p, h in zip(patches, heights, strict=True) if h > -self.hand.thickness + 0.05]
        if not patches:
            return
        x, y, _a = patches[0]
        area = sum(p[2] for p in patches)
        words = (
            f"{self.hand.label(name)}: the {cutter.diameter:g} mm cutter leaves {area:.1f} mm2 uncut in"
            f" {len(patches)} place{'s' * (len(patches) != 1)}, the largest at {x:.1f}, {y:.1f} mm"
        )
        self.hand.say(look("cuts.unreached", words, {**self.hand.where(name), "x": x, "y": y}))

    def _say_left(self, name: str, inside: bool, steps: Sequence[Operation], made: int) -> None:
        """What stays under a contour: meant, as a skin, or not."""
        cuts = [c for c in self.hand.cuts[made:] if c.contour == name and isinstance(c, ContourCut | HoleCut)]
        if self._half(inside) or not cuts or any(-c.levels[-1] >= self.hand.thickness - 1e-6 for c in cuts):
            return
        profiles = [s for s in steps if isinstance(s, Profile)]
        deepest = max(-c.levels[-1] for c in cuts)
        left = self.hand.thickness - deepest
        label, where = self.hand.label(name), self.hand.where(name)
        asked = max((s.floor_allowance for s in profiles), default=0.0)
        if asked >= self.hand.thickness - 1e-6:
            words = (
                f"{label}: a skin of {asked:g} mm is as thick as the {self.hand.thickness:.2f} mm sheet:"
                " nothing would be cut"
            )
            self.hand.say(
                stop(
                    "cuts.skin",
                    f"{words}; give the thickness that is to stay",
                    where,
                    *self._house_skin(name, profiles[-1]),
                )
            )
        elif profiles and profiles[-1].floor_allowance and not profiles[-1].depth:
            self.hand.say(
                note(
                    "cuts.skin-left",
                    f"{label}: a skin of {left:.2f} mm is left under it on purpose; it is cut or"
                    " flush-trimmed by hand",
                    where,
                )
            )
        elif profiles and profiles[-1].side != "on line":
            words = (
                f"{label}: it is cut {deepest:.2f} mm deep and not through: {left:.2f} mm of the"
                f" {self.hand.thickness:.2f} mm sheet stay"
            )
            self.hand.say(
                stop(
                    "cuts.not-through",
                    f"{words}; cut it through, or say that a skin is meant",
                    where,
                    *self._through(name, profiles[-1]),
                )
            )

    def _step_remedy(self, name: str, step: Profile, label: str, **change: Any) -> tuple[Remedy, ...]:
        """A change to one step, where it was stated: for the setup, the part or the contour."""
        new = step.model_copy(update=change).model_dump(mode="json")
        if step in self.hand.setup.operations:
            return (
                Remedy(
                    label=label,
                    command={"kind": "set-operation", "setup": self.hand.setup.id, "operation": new},
                ),
            )
        own = self.hand.steps_by_contour.get(name) or self.hand.steps_by_on.get(step.on)
        if own is None or step not in own.steps:
            return ()
        steps = [new if s is step else s.model_dump(mode="json") for s in own.steps]
        return (
            Remedy(
                label=label,
                command={
                    "kind": "set-steps",
                    "part": self.hand.part.id,
                    "on": own.on,
                    "contour": own.contour,
                    "steps": steps,
                },
            ),
        )

    def _house_skin(self, name: str, step: Profile) -> tuple[Remedy, ...]:
        skin = self.hand.rules.hold.skin[self.hand.family]
        return self._step_remedy(name, step, f"Leave {skin:g} mm", floor_allowance=skin)

    def _through(self, name: str, step: Profile) -> tuple[Remedy, ...]:
        return self._step_remedy(name, step, "Cut it through", depth=None, floor_allowance=0.0)

    def _body_of(self, contour: Contour, steps: Sequence[Operation], name: str) -> StockBody | None:
        """A body for the steps on a contour to cut into, where one step follows another; None: nothing comes
        before.
        """
        choice = self.hand.choices.get(name)
        found = [
            c
            for s in steps
            if (c := self.hand.setup.cutter(choice.cutter if choice and choice.cutter else s.cutter))
            is not None
        ]
        if len(found) < 2:
            return None
        reach = (
            2 * max(c.diameter for c in found)
            + max((s.side_allowance for s in steps if isinstance(s, Profile)), default=0.0)
            + 20.0
        )
        cell = max(
            min(cell_for(c) for c in found),
            math.sqrt(contour.length * 1.5 * max(c.diameter for c in found) / MOST_CELLS),
        )
        return body_around([contour.points(0.1)], reach, cell)

    def _levels(
        self,
        ring: Contour,
        cutter: Cutter,
        depth: float,
        rule: DepthRule,
        tabs: Sequence[tuple[float, float]],
        tab: Tab,
        rest: bool = False,
    ) -> Levels:
        """Passes along a ring, counting what the steps before have really opened."""
        if self.hand.body is None or not self.hand.body.touched:
            return levels_in_full(depth, cutter.diameter, rule)
        lift = tab.width / 2 + cutter.radius + 4 * self.hand.body.cell
        over = [(s - lift, s + lift) for t in tabs for s in [ring.nearest(*t)[0]]]
        return levels_in(self.hand.body, ring, cutter, depth, rule, over, rest)

    def _say_closed(self, name: str, cutter: Cutter, step: Profile, lv: Levels) -> None:
        """Say where the steps before could not enter, and that those stretches are cut apart."""
        length = sum(s.end - s.start for s in lv.stretches)
        n = len(lv.stretches)
        self.hand.say(
            note(
                "cuts.not-opened",
                f"{self.hand.label(name)}: {n} stretch{'es' * (n != 1)}, {length:.0f} mm, where the steps"
                f" before could not enter: {cutter.name} cuts {'them' if n != 1 else 'it'} apart in"
                f" {len(lv.stretches[0].depths)} pass{'es' * (len(lv.stretches[0].depths) != 1)} before it"
                " runs the whole edge",
                self.hand.where(name),
            )
        )

    def _house_tabs(self, on: str) -> Tabs:
        """Tabs by house rule, no thicker than a share of a thin sheet."""
        house, most = self.hand.setup.house_tabs(on), round(TAB_SHARE * self.hand.thickness, 1)
        return house if house.height <= most else house.model_copy(update={"height": max(most, 0.2)})

    def _load(self, profiles: Sequence[Profile], other: str | None) -> float:
        """N that the heaviest of some profiles pushes with in a slot, a rule's step deep: what tabs must
        bear.
        """
        most = 0.0
        for step in profiles:
            cutter = self.hand.setup.cutter(other or step.cutter)
            if cutter is None or self.hand.family not in cutter.feeds:
                continue
            deep = self._depth(step, 0.0)
            depth = max(0.01, deep if step.one_pass else min(self.hand.step_down(step, cutter)[0], deep))
            key = ("slot", step.id, cutter.id, round(depth, 3), 0.0)
            if key not in self.hand.advice:
                given = CutNumbers(step.rpm, step.feed, depth, cutter.diameter, step.plunge)
                setup = self.hand.setup
                self.hand.advice[key] = advise(cutter, setup.material, self.hand.rules, setup.machine, given)
            most = max(most, self.hand.advice[key].force)
        return most

    def _tab(self, policy: Tabs, on: On) -> Tab:
        """What tabs are like: on the bed, or half way up where both faces cut down to them."""
        thick = self.hand.thickness
        if on == "outlines" and self.hand.setup.halves:
            return Tab(-(thick - policy.height) / 2, policy.width, policy.sloped)
        return Tab(policy.height - thick, policy.width, policy.sloped)

    def _depth(self, step: Profile, default: float) -> float:
        """Depth of a profile through the sheet, mm; half of it where the other face cuts the other half."""
        if step.depth:
            return step.depth
        setup = self.hand.setup
        half = step.on == "outlines" and setup.role is not None and setup.halves
        if step.floor_allowance:  # of halves it stands between them
            left = self.hand.thickness - step.floor_allowance
            return max(left / 2 if half else left, 0.01)
        if half and setup.role is not None:
            return max((self.hand.thickness + setup.role.overlap) / 2, 0.01)
        return self.hand.thickness + self.hand.overshoot(step)

    def _half(self, inside: bool) -> bool:
        """Is a contour cut half from each face?"""
        return self.hand.setup.halves and not inside

    def _web(self) -> bool:
        """Do both faces leave a web between them?"""
        role = self.hand.setup.role
        return role is not None and role.overlap < 0

    def _second_half(self) -> bool:
        """Does this face meet what the other has cut half of the outlines?"""
        role = self.hand.setup.role
        return role is not None and role.outlines == "half" and role.parts_last and not self._web()

    def _half_words(self) -> str:
        role = self.hand.setup.role
        if role is None or role.outlines != "half":
            return ""
        left = (
            f"a web of {-role.overlap:g} mm is left" if role.overlap < 0 else f"{role.overlap:g} mm overlap"
        )
        return f", half from each face, {left}"

    def _profile(
        self,
        name: str,
        contour: Contour,
        inside: bool,
        step: Profile,
        k: int,
        tabs: list[tuple[float, float]],
        tab: Tab,
    ) -> tuple[StepPlan | None, str]:
        label, where = self.hand.label(name), self.hand.where(name)
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None, ""
        depth = self._depth(step, 0.0)
        through = depth >= self.hand.thickness - 1e-6
        frees = through or (step.on == "outlines" and self._second_half() and not step.floor_allowance)
        radius = cutter.radius
        off = radius + step.side_allowance
        on_line = step.side == "on line"
        largest, school = self.hand.step_down(step, cutter)
        self.hand.deep_enough(name, cutter, depth, step.depth is None)
        rounded_end = cutter.kind in ("ball", "tapered ball", "bowl")
        slotted = (
            slot_line(contour, cutter.diameter)
            if inside and not on_line and not step.side_allowance
            else None
        )
        rings = (
            [(contour.oriented(True), inside)]
            if on_line
            else memo(
                "rings",
                f"{self.hand.shape.digest}/{name}/{off!r}",
                lambda: cutter_rings(contour, off, inside),
            )
        )
        if step.corners == "round" and not on_line:
            rings = rounded(rings, ROUNDED * radius)
        if not rings and not slotted:
            b = contour.bbox
            size = f"{b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm"
            keep = f" with {step.side_allowance:g} mm left on its walls" if step.side_allowance else ""
            self.hand.say(
                stop(
                    "cuts.too-small",
                    f"{label}: {size} cannot be entered by the {cutter.diameter:g} mm cutter{keep}; choose a"
                    " smaller cutter, or leave it out",
                    where,
                    *self._smaller(name, contour, inside, cutter, depth),
                )
            )
            return None, ""
        rule = DepthRule(largest, school, self.hand.rules, step.one_pass)
        standing = [t for t in tabs if depth > -tab.top + 1e-9]
        by_ring = [
            self._levels(
                ring,
                cutter,
                depth,
                rule,
                [t for t in standing if nearest_ring(t, rings) == i],
                tab,
                step.rest,
            )
            for i, (ring, _out) in enumerate(rings)
        ]
        if by_ring and all(v.only and not v.stretches for v in by_ring):
            words = f"{label}: the steps before left nothing for {cutter.name}: its rest step cuts nothing"
            self.hand.say(note("cuts.rest", words, where))
            return None, ""
        lv = max(by_ring, key=lambda v: (v.width, v.heaviest, len(v.depths)), default=None) or levels_in_full(
            depth, cutter.diameter, rule
        )
        if len(lv.depths) > MOST_PASSES:
            self.hand.say(
                stop(
                    "cuts.absurd",
                    f"{label}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass",
                    where,
                )
            )
            return None, ""
        entry, ramp, entry_why = self.hand.entry(step, cutter, name)
        a = self.hand.numbers(step, cutter, lv.heaviest or 0.01, lv.width or 0.05, lv.section)
        doing = Doing(name, step, k, cutter, a)
        if any(v.stretches and not v.only for v in by_ring):
            self._say_closed(name, cutter, step, next(v for v in by_ring if v.stretches))
        self._judge_levels(name, cutter, lv, depth, through, rounded_end, step)
        choice = self.hand.choices.get(name)
        start = choice.start if choice else None
        if start and self.hand.mirrored:
            start = (-start[0], start[1])
        moves_all: list[Array] = []
        lead_used = 0.0
        if slotted:
            track = Track(self.hand.setup.machine.retract, a.feed, a.plunge)
            lv = levels_in_full(depth, cutter.diameter, rule) if lv.begins or lv.stretches else lv
            moves = follow_moves([slotted], lv.depths, entry, ramp, track)
            self.hand.add(doing, moves, slotted, lv.depths, frees=through)
            moves_all.append(moves)
        else:
            if not on_line:
                if inside and len(rings) > 1:
                    self.hand.say(
                        look(
                            "cuts.neck",
                            f"{label}: a neck narrower than the {cutter.diameter:g} mm cutter splits it into"
                            f" {len(rings)} separate cuts",
                            where,
                        )
                    )
                patches = memo(
                    "unreached",
                    f"{self.hand.shape.digest}/{name}/{off!r}",
                    lambda: unreached(contour, rings, off, inside),
                )
                if patches:
                    self.patches.append((cutter, patches))
            clear = self._clear(contour, inside, off, radius) if step.lead != "none" and not on_line else None
            outer = max(range(len(rings)), key=lambda i: abs(rings[i][0].area))
            for i in sorted(
                range(len(rings)), key=lambda i: (i == outer, i)
            ):  # bays first, the main path last
                ring, kept_outside = rings[i]
                if by_ring[i].only and not by_ring[i].stretches:
                    continue
                own = [t for t in standing if nearest_ring(t, rings) == i]
                s = self.hand.path_settings(step, radius, inside, by_ring[i], a, entry, ramp, tab)
                moves, lead = profile_moves(ring, kept_outside, own, s, start, clear)
                if clear and lead is None:
                    self.hand.say(
                        note(
                            "cuts.lead",
                            f"{label}: no room for a lead-in of {cutter.name} beside the part and its"
                            f" neighbours ({self.hand.spacing:g} mm); it ramps in along the path",
                            where,
                        )
                    )
                lead_used = max(lead_used, lead.length if lead else 0.0)
                self.hand.add(
                    doing,
                    moves,
                    ring,
                    by_ring[i].depths,
                    tabs=own,
                    inside=inside or kept_outside,
                    frees=frees and not on_line,
                    tab=tab,
                    trace=[open_run(ring, s.start, s.end) for s in by_ring[i].stretches]
                    if by_ring[i].only
                    else (),
                )
                moves_all.append(moves)
        over = (
            f"{self.hand.thickness:.2f} mm measured + {self.hand.overshoot(step):.2f} overshoot"
            if depth > self.hand.thickness
            else f"{depth:.2f} mm deep"
            + (f", {step.floor_allowance:g} mm left as a skin" if step.floor_allowance else "")
            + (self._half_words() if step.on == "outlines" else "")
        )
        reason = f"{over}; {lv.reason}"
        plan = self.hand.step_plan(
            doing,
            lv,
            moves_all,
            "lead" if lead_used else entry,
            (
                ("depth", over),
                (
                    "entry",
                    f"arrives sideways from the waste over {lead_used:g} mm" if lead_used else entry_why,
                ),
                (
                    "direction",
                    (
                        f"{step.direction}: house rule is"
                        f" {self.hand.rules.rough_direction.get(self.hand.family, 'climb')} roughing,"
                        f" {self.hand.rules.finish_direction.get(self.hand.family, 'climb')} finishing"
                    ),
                ),
            ),
            lead=lead_used,
        )
        return plan, reason

    def _judge_levels(
        self, name: str, cutter: Cutter, lv: Levels, depth: float, through: bool, rounded: bool, step: Step
    ) -> None:
        label, where = self.hand.label(name), self.hand.where(name)
        first = -lv.depths[0] if lv.begins == 0 else None
        if (
            cutter.kind == "compression"
            and first is not None
            and first < min(cutter.up_cut_length, self.hand.thickness) - 1e-6
            and lv.width > 0.5 * cutter.diameter
        ):
            self.hand.say(
                look(
                    "cuts.compression",
                    f"{label}: the first pass is {first:.2f} mm deep, so the up-cut end of {cutter.name}"
                    f" ({cutter.up_cut_length:g} mm) works in the top face and tears it; one pass over the"
                    " whole depth, or a down-cut cutter for the first level",
                    where,
                    Remedy(
                        label="Whole depth in one pass",
                        command={
                            "kind": "set-operation",
                            "setup": self.hand.setup.id,
                            "operation": {**step.model_dump(mode="json"), "one_pass": True},
                        },
                    ),
                )
                if isinstance(step, Profile) and step in self.hand.setup.operations
                else look(
                    "cuts.compression",
                    f"{label}: first pass {first:.2f} mm: the up-cut end of {cutter.name}"
                    f" ({cutter.up_cut_length:g} mm) tears the top face",
                    where,
                )
            )
        if (
            cutter.kind == "down-cut"
            and lv.engaged > 2.5 * cutter.diameter
            and lv.width > 0.5 * cutter.diameter
        ):
            self.hand.say(
                note(
                    "cuts.packing",
                    f"{cutter.name} packs its chips in slots {lv.engaged:.1f} mm deep; an up-cut cutter below"
                    " the first level clears them",
                    {"part": self.hand.part.id, "cutter": cutter.id},
                )
            )
        if rounded and through:
            r = (
                cutter.radius
                if cutter.kind == "ball"
                else cutter.tip / 2
                if cutter.kind == "tapered ball"
                else cutter.corner_radius
            )
            below = depth - self.hand.thickness
            if below < r - 1e-6:
                self.hand.say(
                    look(
                        "cuts.lip",
                        f"{label}: the round end of {cutter.name} leaves a lip {ball_lip(r, below):.2f} mm"
                        f" wide on each side, {below:.2f} mm under the sheet; gone only at {r:g} mm of"
                        " overshoot, or with a flat cutter",
                        where,
                        *(self._flat_end(name, step, depth) if isinstance(step, Profile) else ()),
                        *(
                            self._step_remedy(name, step, f"Overshoot {r:g} mm", overshoot=r)
                            if isinstance(step, Profile) and r <= SPOILED
                            else ()
                        ),
                    )
                )

    def _flat_end(self, name: str, step: Profile, depth: float) -> tuple[Remedy, ...]:
        """The same step with a flat cutter of the setup, the nearest in diameter that reaches."""
        now = self.hand.setup.cutter(step.cutter)
        able = [
            c
            for c in self.hand.setup.cutters
            if c.kind in FLAT
            and c.kind not in ("surfacing", "roughing")
            and self.hand.family in c.feeds
            and c.reach >= depth
        ]
        other = min(able, key=lambda c: abs(c.diameter - (now.diameter if now else 6.0)), default=None)
        return self._step_remedy(name, step, f"Cut it with {other.name}", cutter=other.id) if other else ()

    def _clear(self, contour: Contour, inside: bool, off: float, radius: float):
        """May the cutter's middle be at these points: off the part, and no nearer to a neighbour than the
        spacing allows?
        """
        poly = Polygon(contour.points(CHORD)).buffer(0)
        solid = self.hand.shape.polygon
        prepare(solid)
        bounded = not inside or self.hand.setup.allow_in_holes

        def clear(points: list[tuple[float, float]]) -> bool:
            for p in points:
                at = Point(p)
                d = solid.distance(at)
                if d < off - CLOSE or (inside and not poly.contains(at)):
                    return False
                if bounded and d > self.hand.spacing - radius + CLOSE:
                    return False
            return True

        return clear

    def _smaller(
        self, name: str, contour: Contour, inside: bool, cutter: Cutter, depth: float
    ) -> tuple[Remedy, ...]:
        """Cutters of the setup that can enter, the largest first, and leaving the contour out."""
        out = []
        for other in sorted(self.hand.setup.cutters, key=lambda c: -c.diameter):
            fits = (
                other.kind in FLAT
                and other.diameter < cutter.diameter
                and self.hand.family in other.feeds
                and other.cutting_length >= depth
            )
            if fits and cutter_rings(contour, other.radius, inside):
                out.append(
                    Remedy(
                        label=f"Cut it with {other.name}",
                        command={
                            "kind": "set-contour",
                            "part": self.hand.part.id,
                            "contour": name,
                            "cutter": other.id,
                        },
                    )
                )
                break
        out.append(
            Remedy(
                label="Leave it out",
                command={"kind": "set-contour", "part": self.hand.part.id, "contour": name, "omit": True},
            )
        )
        return tuple(out)
