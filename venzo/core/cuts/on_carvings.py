"""V-carving steps: all closed shapes of a part that share them are one carving, counters and all, in an order
without air moves."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import shapely

from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Carving, Depths, carve, judged
from venzo.core.carving.medial import CHORD
from venzo.core.carving.toolpath import bit_moves, chained, mill_moves
from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import AreaCut
from venzo.core.cuts.depths import Levels
from venzo.core.cuts.in_hand import (
    Doing,
    PartInHand,
)
from venzo.core.cuts.moves import Z
from venzo.core.cuts.operations import (
    FEATURE_ON,
    Operation,
    VCarve,
)
from venzo.core.cuts.over_reliefs import OverReliefs
from venzo.core.cuts.planned import StepPlan
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import regions
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Feature
from venzo.core.snags import BadInput, Where, look, note, stop
from venzo.core.tooling.cutter import FLAT, Cutter
from venzo.core.voice import counted

VERSION = "carve-5"
HOP = 0.3
"""s that starting, stopping and a short fast move take beside the plunge."""
ACROSS = 0.35
"""Share of a carving's length across the grain from which torn edges are spoken of."""


class CarveSteps:
    """Plans carvings."""

    def __init__(self, hand: PartInHand) -> None:
        self.hand, self.over = hand, OverReliefs(hand)

    def plan(self) -> set[str]:
        """Plan every carving; the features that belong to one."""
        groups: dict[str, list[Feature]] = {}
        steps_of: dict[str, tuple[list[Operation], bool]] = {}
        for f in self.hand.shape.features:
            on = FEATURE_ON[f.kind]
            if not f.contour.closed or on not in ("engravings", "pockets"):
                continue
            steps, own = self.hand.steps_of(f.name, on)
            if not any(isinstance(s, VCarve) for s in steps) or self.hand.omit(f.name, True, on):
                if any(isinstance(s, VCarve) for s in steps):
                    groups.setdefault("", []).append(f)
                continue
            key = digest(on, [s.model_dump(mode="json") for s in steps])
            groups.setdefault(key, []).append(f)
            steps_of[key] = (steps, own)
        for key, features in groups.items():
            if key:
                self._carving(features, *steps_of[key])
        return {f.name for features in groups.values() for f in features}

    def _carving(self, features: Sequence[Feature], steps: Sequence[Operation], own: bool) -> None:
        first = features[0].name
        where = self.hand.where(first)
        label = f"{self.hand.part.name}, carving"
        plans: list[StepPlan] = []
        made = len(self.hand.cuts)
        for k, step in enumerate(steps):
            if not isinstance(step, VCarve):
                self.hand.say(
                    stop(
                        "cuts.carve-mixed",
                        f"{label}: a {step.kind} step stands beside a carving; give those shapes steps of"
                        " their own",
                        where,
                    )
                )
                continue
            plan = self._carve_step(first, label, features, step, 2 * k)
            if plan:
                plans.append(plan)
        for f in features:
            self.hand.finish(f.name, FEATURE_ON[f.kind], True, plans, own)
        if len(self.hand.cuts) == made:
            said = next(
                (
                    s.message
                    for s in reversed(self.hand.snags)
                    if s.rule.startswith("carve.") or s.rule.startswith("cuts.")
                ),
                "nothing to carve",
            )
            self.hand.left_out.append(f"{label}: {said.removeprefix(label + ': ')}")

    def _carve_step(
        self, name: str, label: str, features: Sequence[Feature], step: VCarve, k: int
    ) -> StepPlan | None:
        where = self.hand.where(name)
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        mill = self.hand.setup.cutter(step.clear) if step.clear else None
        if step.clear and (mill is None or mill.kind not in FLAT or self.hand.family not in mill.feeds):
            self.hand.say(
                stop(
                    "cuts.no-cutter",
                    f"{label}: the end mill that clears its floor is not in the setup, or has no feeds for"
                    f" {self.hand.family}; choose another",
                    where,
                )
            )
            return None
        largest = step.step_down or self.hand.rules.carve_step.get(self.hand.family, 6.0)
        by = "set by hand" if step.step_down else f"house rule for a V bit in {self.hand.family}"
        try:
            bit = Bit.of(cutter)
            depths = Depths(
                None,
                step.depth,
                mill.diameter if mill and step.depth else None,
                step.below,
                largest,
                step.finish,
                step.ridge,
            )
            contours = [f.contour for f in features]
            lift = self._lift(step, cutter)
            key = digest(VERSION, [c.rows() for c in contours], vars(bit), vars(depths), lift)
            c: Carving = memo("carving", key, partial(_planned, contours, bit, depths, lift))
        except BadInput as e:
            self.hand.say(stop("carve.refused", f"{label}: {e}", where))
            return None
        # a relief's surface is cut: it lies as deep everywhere, however thick the sheet is
        on_relief = step.follow_relief and self.over.under.laid
        spread = max(
            (
                s.spread
                for s in self.hand.setup.stock
                if not on_relief and abs(s.thickness - self.hand.thickness) < 1e-3
            ),
            default=0.0,
        )
        for s in judged(c, self.hand.thickness, spread, family=self.hand.family):
            self.hand.say(
                s.model_copy(
                    update={"message": f"{label}: {s.message}", "where": {**where, **(s.where or {})}}
                )
            )
        self._tear_out(label, c, cutter, where)
        self._run_into(label, c, {f.name for f in features}, where)
        if mill and not step.depth:
            self.hand.say(
                note(
                    "carve.floor-depth",
                    f"{label}: without a depth there is no flat floor for {mill.name} to clear",
                    where,
                )
            )
        if mill and step.follow_relief and self.over.under.laid:
            self.hand.say(
                stop(
                    "carve.floor-on-relief",
                    f"{label}: {mill.name} cannot clear a floor that follows a relief: its flat end leaves"
                    " steps on slopes; take it off, the bit clears the floor itself",
                    where,
                )
            )
            return None
        retract = self.hand.setup.machine.retract
        target = shapely.union_all(list(c.polygons))
        path = Contour.of(max(c.polygons, key=lambda p: p.area).exterior.coords[:-1])
        if mill and c.cleared:
            b = self.hand.numbers(
                step.model_copy(
                    update={
                        "id": f"{step.id} floor",
                        "rpm": None,
                        "feed": None,
                        "plunge": None,
                        "feed_share": 1.0,
                    }
                ),
                mill,
                min(c.floor_depth or 1.0, mill.radius),
                0.45 * mill.diameter,
            )
            milled = mill_moves(
                c,
                retract,
                b.feed,
                b.plunge,
                self.hand.rules.largest_step(self.hand.family, mill.diameter, mill.kind),
            )
            floor_step = step.model_copy(update={"cutter": mill.id})
            for m, lines in zip(milled, c.cleared, strict=True):
                self.hand.add(
                    Doing(name, floor_step, k, mill, b),
                    m,
                    path,
                    (-(c.floor_depth or 0.0),),
                    trace=lines.paths,
                    made=AreaCut,
                )
        wide = 2 * float(bit.radius(c.deepest))
        a = self.hand.numbers(step, cutter, max(0.05, c.deepest / max(1, len(c.levels))), max(0.1, wide / 2))
        doing = Doing(name, step, k + 1, cutter, a)
        passes = bit_moves(c, retract, a.feed, a.plunge)
        if not passes:
            return None
        drawn = tuple(
            Contour.of(w.points[:, :2].tolist(), False)
            for w in (*c.walks, *c.rows)
            if np.ptp(w.points[:, :2], axis=0).max() > 1e-6
        )
        (moves,) = self.over.follow(name, step, cutter, [chained(passes, retract)], a.plunge)
        lowest = max(c.deepest, -float(moves[:, Z].min()))
        depths_of = (*(v for v in c.levels), -lowest)
        self.hand.add(doing, moves, path, depths_of, trace=drawn)
        area = target.buffer(step.below * bit.tan + 0.02, quad_segs=24)
        self.hand.areas[f"{name} carving {k}"] = Area(
            f"{name} carving", c.deepest, area, area, (), pointed=True, follows=step.follow_relief
        )
        if c.cleared and c.floor_depth:
            self.hand.areas[f"{name} floor {k}"] = Area(f"{name} floor", c.floor_depth, c.floor, c.floor, ())
        again = sum(w.again for w in c.walks)
        lifts = len(c.walks) + len(c.rows) - 1
        why = [
            (
                "depth",
                f"{c.deepest:.2f} mm where strokes are widest, {c.widest:.2f} mm"
                + (f"; flat floor at {c.floor_depth:.2f} mm by the {c.limited_by}" if c.floor_depth else ""),
            ),
            ("entry", "at corners, where the bit comes up to the surface"),
            (
                "order",
                (
                    f"{lifts} lift{'s' * (lifts != 1)} for {len(c.polygons)}"
                    f" shape{'s' * (len(c.polygons) != 1)}; {again / 1000:.2f} m of {c.length / 1000:.2f} m"
                    " run back along what is carved"
                ),
            ),
        ]
        if c.by_bit:
            why.append(("floor", f"{c.by_bit / 1000:.2f} m of rows by the bit, ridges {c.ridge:g} mm"))
        reason = (
            f"{counted(len(c.levels), 'pass')} of at most {largest:g} mm ({by}), then a light one"
            if c.levels
            else f"one pass: no deeper than {largest:g} mm ({by})"
        )
        lv = Levels(depths_of, 0.0, c.deepest, c.widest, reason)
        return self.hand.step_plan(doing, lv, [moves], "corner", why)

    def _lift(self, step: VCarve, cutter: Cutter) -> float:
        """mm of feed travel that lifting, moving over and going down again costs."""
        own = cutter.feeds.get(self.hand.family)
        feed = step.feed or (own.feed if own else 3000.0)
        plunge = step.plunge or (own.plunge if own else 1000.0)
        return round(feed / 60 * (2 * self.hand.setup.machine.retract / (plunge / 60) + HOP), 1)

    def _run_into(self, label: str, c: Carving, own: set[str], where: Where) -> None:
        """Other cuts that a carving meets: the part's edge, its holes, pockets, grooves and drillings."""
        area = shapely.union_all(list(c.polygons)).buffer(c.depths.below * c.bit.tan)
        body = self.hand.shape.polygon
        shapely.prepare(area)
        over = area.difference(body).area
        if over > 0.05:
            self.hand.say(
                look(
                    "carve.edge",
                    f"{label}: {over:.1f} mm2 of it lie beyond the part's edge or over a hole, where thin"
                    " wood breaks away",
                    where,
                )
            )
        for f in self.hand.shape.features:
            if f.name in own or f.kind in ("engraving", "relief") or not f.contour.closed:
                continue
            other = shapely.Polygon(f.contour.points(CHORD)).buffer(0)
            if area.intersects(other) and area.intersection(other).area > 0.05:
                depth = f" ({f.depth:g} mm deep)" if f.depth else ""
                self.hand.say(
                    look(
                        "carve.under",
                        f"{label}: it meets {f.name}{depth}; what lies under or beside it there is cut away"
                        " twice",
                        where,
                    )
                )

    def _tear_out(self, label: str, c: Carving, cutter: Cutter, where: Where) -> None:
        """Strokes across the grain tear on the side where the edge leaves the wood."""
        if self.hand.family != "wood" or self.hand.part.grain is None:
            return
        d = (
            np.concatenate([np.diff(w.points[:, :2], axis=0) for w in c.walks])
            if c.walks
            else np.empty((0, 2))
        )
        if not len(d):
            return
        size = np.hypot(*d.T)
        along = d[:, 0] if self.hand.part.grain == 0 else d[:, 1]
        across = float(size[np.abs(along) < 0.5 * np.maximum(size, 1e-12)].sum() / max(size.sum(), 1e-9))
        if across > ACROSS:
            self.hand.say(
                look(
                    "carve.tear",
                    f"{label}: {across:.0%} of its strokes run across the grain, where edges tear out; a"
                    " sharp bit and a light last pass (a depth per pass) keep them clean",
                    where,
                )
                if not c.levels
                else note(
                    "carve.tear",
                    f"{label}: {across:.0%} of its strokes run across the grain; its last pass is light, keep"
                    " the bit sharp",
                    where,
                )
            )


def _planned(contours: Sequence[Contour], bit: Bit, depths: Depths, lift: float) -> Carving:
    return carve(
        [r.polygon(CHORD).buffer(0) for r in regions([c.oriented(True) for c in contours])], bit, depths, lift
    )
