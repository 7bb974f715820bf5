"""Steps that clear an area: pockets, what is left for a smaller cutter, their walls, a part's whole face."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from shapely.geometry import Point, Polygon
from shapely.ops import unary_union

from venzo.core.body.engagement import body_around, cell_for, engage
from venzo.core.body.field import StockBody
from venzo.core.cuts.areas import Area, polygons_in, region_of
from venzo.core.cuts.depths import DepthRule, levels_in, levels_in_full, line_moves
from venzo.core.cuts.in_hand import (
    CLOSE,
    MOST_PASSES,
    Doing,
    PartInHand,
)
from venzo.core.cuts.on_lines import LineSteps
from venzo.core.cuts.operations import (
    Face,
    Groove,
    Pocket,
    Profile,
    Step,
    as_fields,
)
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.pocket import Clearing, Lines, clear_area, lay_levels, swept_region
from venzo.core.cuts.profile import (
    profile_moves,
)
from venzo.core.cuts.rounds import slot_line
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points, signed_area
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.snags import BadInput, Remedy, look, note, stop
from venzo.core.tolerances import CHORD
from venzo.core.tooling.cutter import FLAT, Cutter

POCKET_CELLS = 2_000_000
"""Cells in which a pocket's engagement is measured."""


@dataclass(frozen=True, eq=False)
class Cleared:
    """What one step has cleared of an area: its lines by level (negative), the cutter and what it left along
    the walls, mm.
    """

    levels: tuple[tuple[float, Lines], ...]
    cutter: Cutter
    allowance: float

    @property
    def lines(self) -> Lines:
        """Of the deepest level."""
        return self.levels[-1][1]

    def into(self, body: StockBody) -> None:
        """Take it out of a body."""
        for z, lines in self.levels:
            body.cut(line_moves(lines.paths, -z), self.cutter)


class PocketSteps:
    """Plans the steps that clear areas."""

    def __init__(self, hand: PartInHand, lines: LineSteps) -> None:
        self.hand, self.lines = hand, lines

    def clear(
        self,
        name: str,
        area: Area,
        step: Pocket,
        k: int,
        stated: Step,
        done: list[Cleared],
        what: str,
        contour: Contour | None = None,
    ) -> StepPlan | None:
        label, where = self.hand.label(name), self.hand.where(name)
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        depth = max(0.01, area.depth - step.floor_allowance)
        self.hand.deep_enough(name, cutter, depth)
        largest, school = self.hand.step_down(step, cutter)
        entry, ramp, entry_why = self.hand.entry(step, cutter, name)
        share = step.step_over or self.hand.rules.step_over
        if cutter.kind in ("v-bit", "drill", "roundover", "point roundover"):
            self.hand.say(
                stop(
                    "cuts.kind",
                    f"{label}: a {cutter.kind} does not leave a flat floor; choose an end mill",
                    where,
                )
            )
            return None
        radius = cutter.radius
        floor_radius = cutter.radius_at(0.0) if cutter.kind in ("ball", "tapered ball", "bowl") else radius
        opened = None
        begins = 0.0
        if step.rest:
            if not done:
                self.hand.say(
                    note("cuts.rest", f"{label}: nothing was cleared before, so the whole is cut", where)
                )
            else:
                # what was cleared is the opening of where each cutter's middle could be; a raster without its
                # wall pass left scallops
                opened = unary_union(
                    [
                        (
                            swept_region(c.lines.paths, c.cutter.radius)
                            if c.lines.left
                            else c.lines.centres.buffer(c.cutter.radius, quad_segs=24)
                        )
                        for c in done
                    ]
                )
        if slot := (
            slot_line(contour, cutter.diameter)
            if contour is not None and what == "groove" and not step.side_allowance
            else None
        ):
            return self.lines.follow(
                name,
                [slot],
                Groove(**as_fields(step, Groove, on="grooves")),
                k,
                depth,
            )
        lv = levels_in_full(depth, cutter.diameter, DepthRule(largest, school, self.hand.rules))
        if len(lv.depths) > MOST_PASSES:
            self.hand.say(
                stop(
                    "cuts.absurd",
                    f"{label}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass",
                    where,
                )
            )
            return None
        bowl = self.hand.setup.cutter(step.bowl) if step.bowl else None
        width_share = share * (floor_radius / radius) if 0 < floor_radius < radius else share
        levels: list[tuple[float, Lines]] = []
        cache: dict[float, Lines] = {}
        try:
            for z in lv.depths:
                inset = bowl.radius - bowl.radius_at(depth + step.floor_allowance + z) if bowl else 0.0
                if inset not in cache:
                    sizes = (radius, step.side_allowance + inset, width_share)
                    climb = step.direction == "climb"
                    how = Clearing(step.pattern, step.angle, step.wall_pass, climb)
                    key = digest(
                        area.loops_key,
                        area.target.wkb_hex if area.open_sided else "",
                        opened.wkb_hex if opened is not None else "",
                        [*sizes, *vars(how).values()],
                    )
                    cache[inset] = memo("pocket", key, partial(clear_area, area, *sizes, how, opened))
                if cache[inset].paths:
                    levels.append((z, cache[inset]))
        except BadInput as e:
            self.hand.say(stop("cuts.absurd", f"{label}: {e}", where))
            return None
        if not levels:
            if opened is not None:
                self.hand.say(
                    note(
                        "cuts.rest",
                        f"{label}: the cutters before left nothing that {cutter.name} reaches",
                        where,
                    )
                )
            else:
                b = area.target.bounds
                self.hand.say(
                    stop(
                        "cuts.too-small",
                        f"{label}: {b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm cannot be entered by the"
                        f" {cutter.diameter:g} mm cutter; choose a smaller cutter, or leave it out",
                        where,
                        *self._smaller(name, area, cutter, depth),
                    )
                )
            return None
        per_pass = max(a - b for a, b in zip((0.0, *lv.depths[:-1]), lv.depths, strict=True))
        width, section = self._met(levels[0][1], cutter, done if opened is not None else [])
        lv = replace(lv, width=width)
        a = self.hand.numbers(stated, cutter, per_pass, width, section * per_pass)
        doing = Doing(name, stated, k, cutter, a)
        track = Track(self.hand.setup.machine.retract, a.feed, a.plunge)
        lay_levels(
            levels,
            begins,
            track,
            entry,
            ramp,
            radius,
            self.hand.rules.wall_feed if step.pattern == "raster" and step.wall_pass else 1.0,
        )
        moves = track.array()
        last = levels[-1][1]
        path = max(last.paths, key=lambda p: p.length)
        closed = path if path.closed else Contour.of(path.points(0.1).tolist(), False)
        self.hand.add(doing, moves, closed, [z for z, _l in levels], trace=last.paths)
        left, largest_patch = (
            self._left_over(area, last, radius, step) if opened is None else (last.left, 0.0)
        )
        if left > max(0.6 * radius * radius, 0.5) and not any(
            isinstance(s, Pocket) and s.rest for s in self.hand.steps_of(name, stated.on)[0]
        ):
            square = (
                largest_patch <= 0.25 * radius * radius
            )  # what a right angle keeps of a round cutter: (1 - pi/4) r^2
            words = (
                f"{label}: the {cutter.diameter:g} mm cutter leaves {left:.1f} mm2 of its floor uncut, in"
                f" {'square ' if square else ''}corners it cannot enter"
            )
            words += (" and along the walls" if last.left else "") + "; a smaller cutter can take the rest"
            self.hand.say(
                (note if square else look)(
                    "cuts.unreached", words, where, *self._rest_remedy(name, area, cutter, depth, stated)
                )
            )
        why = [
            (
                "depth",
                f"{depth:.2f} mm"
                + (f", {step.floor_allowance:g} left for a later step" if step.floor_allowance else ""),
            ),
            ("entry", entry_why),
            (
                "step-over",
                f"{share:.0%} of the diameter"
                + ("" if step.step_over else " by house rule")
                + ", "
                + (
                    "rings from the middle out"
                    if step.pattern == "offset"
                    else f"rows at {step.angle:g} degrees"
                ),
            ),
        ]
        done.append(Cleared(tuple(levels), cutter, step.side_allowance))
        return self.hand.step_plan(doing, lv, [moves], entry, why, left=left)

    def _met(self, lines: Lines, cutter: Cutter, done: Sequence[Cleared]) -> tuple[float, float]:
        """The widest (mm) that the cutter meets anywhere along lines, and its largest chip section a mm of
        depth; ``done``: cleared before.
        """
        key = digest(
            hashlib.sha256(b"|".join(p.vertices.tobytes() for p in lines.paths)).hexdigest(),
            cutter.radius,
            cutter.flutes,
            [c.cutter.radius for c in done],
        )

        def measure() -> tuple[float, float]:
            paths = [p.points(0.1) for p in lines.paths]
            (x0, y0), (x1, y1) = np.vstack(paths).min(axis=0), np.vstack(paths).max(axis=0)
            cell = max(
                cell_for(cutter, 32),
                math.sqrt((x1 - x0 + cutter.diameter) * (y1 - y0 + cutter.diameter) / POCKET_CELLS),
            )
            body = body_around(paths, 2 * cutter.diameter, cell)
            for c in done:
                Cleared(((-1.0, c.lines),), c.cutter, 0.0).into(body)
            width, _depth, section = engage(body, line_moves(lines.paths, 1.0), cutter).worst()
            return max(width, 0.05), max(section, 0.01)

        return memo("pocket-met", key, measure)

    def _left_over(self, area: Area, lines: Lines, radius: float, step: Pocket) -> tuple[float, float]:
        """mm2 of the target that no pass reaches, beyond the allowance left on purpose, and of its largest
        patch.
        """
        want = area.target.buffer(-step.side_allowance) if step.side_allowance else area.target
        patches = [
            p.area
            for p in polygons_in(want.difference(lines.centres.buffer(radius, quad_segs=24).buffer(0.02)))
        ]
        return sum(patches) + lines.left, max([*patches, lines.left])

    def _rest_remedy(
        self, name: str, area: Area, cutter: Cutter, depth: float, stated: Step
    ) -> tuple[Remedy, ...]:
        """One step more, with the largest cutter of at most two thirds of the diameter that reaches."""
        steps, _own = self.hand.steps_of(name, stated.on)
        for other in sorted(self.hand.setup.cutters, key=lambda c: -c.diameter):
            if (
                other.kind in FLAT
                and other.diameter <= cutter.diameter * 0.67
                and self.hand.family in other.feeds
                and other.reach >= depth
                and isinstance(stated, Pocket)
            ):
                more = [
                    *(s.model_dump(mode="json") for s in steps),
                    {
                        "kind": "pocket",
                        "id": f"rest {other.number}",
                        "on": stated.on,
                        "cutter": other.id,
                        "rest": True,
                        "direction": stated.direction,
                    },
                ]
                return (
                    Remedy(
                        label=f"Take the rest with {other.name}",
                        command={
                            "kind": "set-steps",
                            "part": self.hand.part.id,
                            "on": stated.on,
                            "steps": more,
                        },
                    ),
                )
        return ()

    def _smaller(self, name: str, area: Area, cutter: Cutter, depth: float) -> tuple[Remedy, ...]:
        out = []
        for other in sorted(self.hand.setup.cutters, key=lambda c: -c.diameter):
            if (
                other.kind in FLAT
                and other.diameter < cutter.diameter
                and self.hand.family in other.feeds
                and other.reach >= depth
                and area.centres(other.radius)
            ):
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
        return (
            *out,
            Remedy(
                label="Leave it out",
                command={"kind": "set-contour", "part": self.hand.part.id, "contour": name, "omit": True},
            ),
        )

    def wall(self, name: str, area: Area, step: Profile, k: int, done: list[Cleared]) -> StepPlan | None:
        """The closing pass along a pocket's walls and islands, an operation of its own at its own feed."""
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        depth = step.depth or max(0.01, area.depth - step.floor_allowance)
        self.hand.deep_enough(name, cutter, depth)
        loops = area.centres(cutter.radius + step.side_allowance)
        if not loops:
            self.hand.say(
                stop(
                    "cuts.too-small",
                    f"{self.hand.label(name)}: the {cutter.diameter:g} mm cutter cannot run along its walls",
                    self.hand.where(name),
                )
            )
            return None
        largest, school = self.hand.step_down(step, cutter)
        rule = DepthRule(largest, school, self.hand.rules, step.one_pass)
        rings = [fit(p, True).simplified(1e-4).oriented(True) for p in loops]
        body = None
        if done:
            paths = [np.vstack([p, p[:1]]) for p in loops]
            body = body_around(paths, 2 * cutter.diameter, cell_for(cutter)).watch(
                paths, 1.5 * cutter.diameter
            )
            for c in done:
                c.into(body)
        by_ring = [
            (
                levels_in(body, r, cutter, depth, rule)
                if body is not None
                else levels_in_full(depth, cutter.diameter, rule)
            )
            for r in rings
        ]
        lv = max(by_ring, key=lambda v: (v.width, v.heaviest, len(v.depths)))
        a = self.hand.numbers(step, cutter, lv.heaviest or 0.01, lv.width or 0.05, lv.section)
        doing = Doing(name, step, k, cutter, a)
        entry, ramp, entry_why = self.hand.entry(step, cutter, name)
        centres = region_of(loops)

        def clear(points: list[tuple[float, float]]) -> bool:
            return all(centres.buffer(CLOSE).covers(Point(p)) for p in points)

        all_moves = []
        lead_used = 0.0
        for p, ring, levels in zip(loops, rings, by_ring, strict=True):
            island = signed_area(p) < 0
            s = self.hand.path_settings(step, cutter.radius, True, levels, a, entry, ramp)
            moves, lead = profile_moves(ring, not island, [], s, None, clear if step.lead != "none" else None)
            lead_used = max(lead_used, lead.length if lead else 0.0)
            self.hand.add(doing, moves, ring, levels.depths)
            all_moves.append(moves)
        return self.hand.step_plan(
            doing,
            lv,
            all_moves,
            "lead" if lead_used else entry,
            (("depth", f"{depth:.2f} mm along the walls"), ("entry", entry_why)),
            lead=lead_used,
        )

    def face(self, name: str, contour: Contour, step: Face, k: int) -> StepPlan | None:
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        target = Polygon(contour.points(CHORD)).buffer(0)
        waste = min(self.hand.spacing - 0.05, cutter.diameter)
        loops = tuple(fit(p) for p in offset_points([contour.oriented(True).points(CHORD)], waste))
        area = Area(
            f"{name} face", step.depth, target, region_of([c.points(CHORD) for c in loops]), loops, True
        )
        self.hand.areas[f"{name} face {k}"] = area
        pocket = Pocket(**as_fields(step, Pocket, on="pockets"))
        return self.clear(name, area, pocket, k, step, [], "face")
