"""Steps on pockets, grooves, engravings and drillings, and on a part's whole face."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import unary_union

from venzo.core.body.engagement import body_around, cell_for, engage
from venzo.core.body.field import StockBody
from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import fold
from venzo.core.cuts.areas import Area, areas, polygons_in, region_of
from venzo.core.cuts.depths import DepthRule, levels_in, levels_in_full, line_moves
from venzo.core.cuts.follow import beside, follow_moves
from venzo.core.cuts.on_carvings import CarveSteps
from venzo.core.cuts.on_contours import CLOSE
from venzo.core.cuts.on_edges import closed_points
from venzo.core.cuts.operations import (
    FEATURE_ON,
    Bore,
    Chamfer,
    Drill,
    Face,
    Groove,
    On,
    Operation,
    Pocket,
    Profile,
    Step,
    VCarve,
    as_fields,
)
from venzo.core.cuts.planner import MOST_PASSES, StepPlan
from venzo.core.cuts.pocket import Lines, clear_area, lay_levels, swept_region
from venzo.core.cuts.profile import profile_moves
from venzo.core.cuts.rounds import FIT, circle_of, slender, slot_line
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points, signed_area
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Feature
from venzo.core.rules.house import ClosedLine
from venzo.core.snags import BadInput, Remedy, look, note, stop
from venzo.core.tolerances import CHORD
from venzo.core.tooling.cutter import FLAT, Cutter

LEAST_FLOOR, THIN_FLOOR = 0.3, 0.05
"""mm, and share of the sheet's thickness, that must stay under a pocket or groove without a word."""
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


class FeatureSteps(CarveSteps):
    """Plans the steps on what is cut into a part but not through it."""

    def _features(self) -> None:
        lines = {
            f.name: self._line_meant(f)
            for f in self.shape.features
            if f.kind == "groove" and f.contour.closed
        }
        closed = [
            f
            for f in self.shape.features
            if f.contour.closed and (f.kind == "pocket" or lines.get(f.name) == "clear")
        ]
        depths: dict[str, float] = {}
        for f in closed:
            d = self._feature_depth(f)
            if d:
                depths[f.name] = d
        closed = [f for f in closed if f.name in depths]
        waste = max(0.1, min(self.spacing - 0.05, max((c.diameter for c in self.setup.cutters), default=6.0)))
        found = areas(self.shape, closed, depths, waste)
        carved = self.carvings()
        for f in self.shape.features:
            on = FEATURE_ON[f.kind]
            if f.name in carved or self.omit(f.name, True, on):
                continue
            label, where = self.label(f.name), self.where(f.name)
            steps, own = self.steps_of(f.name, on)
            if not steps:
                add = self._proposal(on)
                self.say(
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
                                "part": self.part.id,
                                "contour": f.name,
                                "omit": True,
                            },
                        ),
                    )
                )
                self.left_out.append(f"{label}: no operation")
                continue
            made = len(self.cuts)
            if f.name in lines and lines[f.name] is None:
                self._ask_line(f)
                continue
            an_area = f.contour.closed and (f.kind == "pocket" or lines.get(f.name) == "clear")
            if an_area:
                if f.name not in depths:
                    self._no_depth(f, steps)
                    continue
                if f.name in found:
                    self._area(f, found[f.name], steps, own, on)
                    self.areas[f.name] = found[f.name]
            elif f.kind == "drilling":
                self._drilling(f, steps, own)
            else:
                self._line(f, steps, own, on, lines.get(f.name) or "on line")
            if len(self.cuts) == made and f.name in (found if an_area else [f.name]):
                said = next(
                    (
                        s.message
                        for s in reversed(self.snags)
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
                            "part": self.part.id,
                            "contour": f.name,
                            "omit": True,
                        },
                    )
                    self.say(stop("cuts.not-cut", said, where, leave))
                self.left_out.append(f"{label}: {said.removeprefix(label + ': ')}")

    def _line_meant(self, f: Feature) -> ClosedLine | None:
        """What a closed groove line means: by hand, by steps of its own that clear, by house rule, by its own
        form; None: nobody said.
        """
        choice = self.choices.get(f.name)
        if choice and choice.line:
            return choice.line
        steps, own = self.steps_of(f.name, "grooves")
        if own and any(isinstance(s, Pocket) for s in steps):
            return "clear"
        return self.rules.closed_grooves or ("clear" if slender(f.contour) else None)

    def _ask_line(self, f: Feature) -> None:
        label = self.label(f.name)
        ways = (
            ("Run on the line", "on line"),
            ("Run inside it", "inside"),
            ("Run outside it", "outside"),
            ("Clear it", "clear"),
        )
        remedies = (
            Remedy(
                label=words,
                command={"kind": "change-setup", "setup": self.setup.id, "rules": {"closed_grooves": way}},
            )
            for words, way in ways
        )
        words = (
            f"{label}: a closed line on a groove layer; say whether the cutter runs on it, inside or outside"
            " of it, or clears what it encloses"
        )
        self.say(stop("cuts.closed-line", words, self.where(f.name), *remedies))
        self.left_out.append(f"{label}: a closed line, and nobody said what it means")

    def _feature_depth(self, f: Feature) -> float | None:
        steps, _own = self.steps_of(f.name, FEATURE_ON[f.kind])
        skin = next((s.skin for s in steps if isinstance(s, Groove) and s.skin), None)
        if skin:
            return max(0.01, self.thickness - skin)
        given = next((s.depth for s in steps if s.depth and not isinstance(s, VCarve)), None)
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
        remedies = [
            Remedy(
                label=f"{d:g} mm deep",
                command={
                    "kind": "set-steps",
                    "part": self.part.id,
                    "on": FEATURE_ON[f.kind],
                    "contour": f.name,
                    "steps": [{**s.model_dump(mode="json"), "depth": d} for s in steps],
                },
            )
            for d in (half, 6.0)
            if d < self.thickness
        ]
        self.say(
            stop(
                "cuts.no-depth",
                f"{label}: neither the drawing nor its operation says how deep; half the sheet is"
                f" {half:g} mm",
                self.where(f.name),
                *remedies,
            )
        )
        self.left_out.append(f"{label}: no depth given")

    def _proposal(self, on: On) -> tuple[Remedy, ...]:
        from venzo.core.rules.propose import propose_for

        found = propose_for(
            on, self.setup.cutters, self.setup.material, self.thickness, self.rules, self.setup.machine
        )
        return (
            (
                Remedy(
                    label=f"Add {on} by house rule",
                    command={
                        "kind": "set-steps",
                        "setup": self.setup.id,
                        "on": on,
                        "steps": [s.model_dump(mode="json") for s in found],
                    },
                ),
            )
            if found
            else ()
        )

    def _area(self, f: Feature, area: Area, steps: Sequence[Operation], own: bool, on: On) -> None:
        plans: list[StepPlan] = []
        done: list[Cleared] = []
        self._floor_left(f.name, area.depth)
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

    def _clear_pocket(
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
            self.say(
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
                self.say(
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
            return self._follow(
                name,
                [slot],
                Groove(**as_fields(step, Groove, on="grooves")),
                k,
                depth,
            )
        lv = levels_in_full(depth, cutter.diameter, DepthRule(largest, school, self.rules))
        if len(lv.depths) > MOST_PASSES:
            self.say(
                stop(
                    "cuts.absurd",
                    f"{label}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per pass",
                    where,
                )
            )
            return None
        bowl = self.setup.cutter(step.bowl) if step.bowl else None
        width_share = share * (floor_radius / radius) if 0 < floor_radius < radius else share
        levels: list[tuple[float, Lines]] = []
        cache: dict[float, Lines] = {}
        try:
            for z in lv.depths:
                inset = bowl.radius - bowl.radius_at(depth + step.floor_allowance + z) if bowl else 0.0
                if inset not in cache:
                    args = (
                        radius,
                        step.side_allowance + inset,
                        width_share,
                        step.pattern,
                        step.angle,
                        step.wall_pass,
                        step.direction == "climb",
                    )
                    key = digest(
                        area.loops_key,
                        area.target.wkb_hex if area.open_sided else "",
                        opened.wkb_hex if opened is not None else "",
                        list(args),
                    )
                    cache[inset] = memo("pocket", key, partial(clear_area, area, *args, opened))
                if cache[inset].paths:
                    levels.append((z, cache[inset]))
        except BadInput as e:
            self.say(stop("cuts.absurd", f"{label}: {e}", where))
            return None
        if not levels:
            if opened is not None:
                self.say(
                    note(
                        "cuts.rest",
                        f"{label}: the cutters before left nothing that {cutter.name} reaches",
                        where,
                    )
                )
            else:
                b = area.target.bounds
                self.say(
                    stop(
                        "cuts.too-small",
                        f"{label}: {b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm cannot be entered by the"
                        f" {cutter.diameter:g} mm cutter; choose a smaller cutter, or leave it out",
                        where,
                        *self._smaller_pocket(name, area, cutter, depth),
                    )
                )
            return None
        per_pass = max(a - b for a, b in zip((0.0, *lv.depths[:-1]), lv.depths, strict=True))
        width, section = self._met(levels[0][1], cutter, done if opened is not None else [])
        lv = replace(lv, width=width)
        a = self.numbers(stated, cutter, per_pass, width, section * per_pass)
        track = Track(self.setup.machine.retract, a.feed, a.plunge)
        lay_levels(
            levels,
            begins,
            track,
            entry,
            ramp,
            radius,
            self.rules.wall_feed if step.pattern == "raster" and step.wall_pass else 1.0,
        )
        moves = track.array()
        last = levels[-1][1]
        path = max(last.paths, key=lambda p: p.length)
        closed = path if path.closed else Contour.of(path.points(0.1).tolist(), False)
        self.add(
            name, stated, cutter, k, moves, closed, [z for z, _l in levels], a, (), True, False, last.paths
        )
        left, largest_patch = (
            self._left_over(area, last, radius, step) if opened is None else (last.left, 0.0)
        )
        if left > max(0.6 * radius * radius, 0.5) and not any(
            isinstance(s, Pocket) and s.rest for s in self.steps_of(name, stated.on)[0]
        ):
            square = (
                largest_patch <= 0.25 * radius * radius
            )  # what a right angle keeps of a round cutter: (1 - pi/4) r^2
            words = (
                f"{label}: the {cutter.diameter:g} mm cutter leaves {left:.1f} mm2 of its floor uncut, in"
                f" {'square ' if square else ''}corners it cannot enter"
            )
            words += (" and along the walls" if last.left else "") + "; a smaller cutter can take the rest"
            self.say(
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
        return self.step_plan(stated, cutter, lv, a, [moves], entry, 0.0, left, why)

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
        steps, _own = self.steps_of(name, stated.on)
        for other in sorted(self.setup.cutters, key=lambda c: -c.diameter):
            if (
                other.kind in FLAT
                and other.diameter <= cutter.diameter * 0.67
                and self.family in other.feeds
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
                        command={"kind": "set-steps", "part": self.part.id, "on": stated.on, "steps": more},
                    ),
                )
        return ()

    def _smaller_pocket(self, name: str, area: Area, cutter: Cutter, depth: float) -> tuple[Remedy, ...]:
        out = []
        for other in sorted(self.setup.cutters, key=lambda c: -c.diameter):
            if (
                other.kind in FLAT
                and other.diameter < cutter.diameter
                and self.family in other.feeds
                and other.reach >= depth
                and area.centres(other.radius)
            ):
                out.append(
                    Remedy(
                        label=f"Cut it with {other.name}",
                        command={
                            "kind": "set-contour",
                            "part": self.part.id,
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
                command={"kind": "set-contour", "part": self.part.id, "contour": name, "omit": True},
            ),
        )

    def _wall(self, name: str, area: Area, step: Profile, k: int, done: list[Cleared]) -> StepPlan | None:
        """The closing pass along a pocket's walls and islands, an operation of its own at its own feed."""
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        depth = step.depth or max(0.01, area.depth - step.floor_allowance)
        self.deep_enough(name, cutter, depth)
        loops = area.centres(cutter.radius + step.side_allowance)
        if not loops:
            self.say(
                stop(
                    "cuts.too-small",
                    f"{self.label(name)}: the {cutter.diameter:g} mm cutter cannot run along its walls",
                    self.where(name),
                )
            )
            return None
        largest, school = self.step_down(step, cutter)
        rule = DepthRule(largest, school, self.rules, step.one_pass)
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
        a = self.numbers(step, cutter, lv.heaviest or 0.01, lv.width or 0.05, lv.section)
        entry, ramp, entry_why = self.entry(step, cutter, name)
        centres = region_of(loops)

        def clear(points: list[tuple[float, float]]) -> bool:
            return all(centres.buffer(CLOSE).covers(Point(p)) for p in points)

        all_moves = []
        lead_used = 0.0
        for p, ring, levels in zip(loops, rings, by_ring, strict=True):
            island = signed_area(p) < 0
            s = self.path_settings(step, cutter.radius, True, levels, a, entry, ramp)
            moves, lead = profile_moves(ring, not island, [], s, None, clear if step.lead != "none" else None)
            lead_used = max(lead_used, lead.length if lead else 0.0)
            self.add(name, step, cutter, k, moves, ring, levels.depths, a, (), True, False)
            all_moves.append(moves)
        return self.step_plan(
            step,
            cutter,
            lv,
            a,
            all_moves,
            "lead" if lead_used else entry,
            lead_used,
            0.0,
            (("depth", f"{depth:.2f} mm along the walls"), ("entry", entry_why)),
        )

    def _drilling(self, f: Feature, steps: Sequence[Operation], own: bool) -> None:
        label, where = self.label(f.name), self.where(f.name)
        circle = circle_of(f.contour)
        if circle is None:
            self.say(
                stop(
                    "cuts.not-round",
                    f"{label}: it is on a drilling layer but not round; call its layer a pocket, or leave"
                    " it out",
                    where,
                )
            )
            return
        given = next((s.depth for s in steps if s.depth), None) or f.depth
        through = given is None or given >= self.thickness - 1e-6
        fitting = self._fitting(steps, circle[2], f.name)
        if not fitting:
            sizes = ", ".join(c.name for s in steps if (c := self.setup.cutter(s.cutter)))
            able = [
                c
                for c in self.setup.cutters
                if self.family in c.feeds
                and (
                    abs(c.diameter - 2 * circle[2]) <= FIT
                    if c.kind == "drill"
                    else c.kind in FLAT
                    and c.diameter * 1.02 < 2 * circle[2] <= c.diameter * self.rules.bore_upto
                )
            ]
            able.sort(key=lambda c: (c.kind != "drill", -c.diameter))
            remedy = [
                Remedy(
                    label=f"{'Drill' if c.kind == 'drill' else 'Bore'} with {c.name}",
                    command={
                        "kind": "set-steps",
                        "part": self.part.id,
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
            self.say(
                stop(
                    "cuts.drill-size",
                    f"{label}: {2 * circle[2]:.2f} mm across; {sizes or 'no cutter'} cannot make it (a drill"
                    f" its own size, a bore up to {self.rules.bore_upto:g} diameters)",
                    where,
                    *remedy,
                )
            )
            return
        plans = []
        for k, step in enumerate(fitting):
            depth = (
                self.thickness + self._overshoot(step)
                if through and isinstance(step, Drill | Bore)
                else given or self.thickness
            )
            if isinstance(step, Drill):
                plan = self._drill(f.name, circle, step, k, depth, through)
            elif isinstance(step, Bore):
                plan = self._bore(f.name, circle, step, k, depth, through)
                cutter = self.setup.cutter(step.cutter)
                if plan and cutter and not through and 2 * circle[2] > 2 * cutter.diameter + 0.01:
                    self.say(
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
                plan = self._clear_pocket(
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
        reach = max((-c.levels[-1] for c in self.cuts if c.contour == f.name), default=0.0)
        self.areas[f.name] = Area(f.name, reach, target, target, (f.contour,))
        self.finish(f.name, "drillings", True, plans, own)

    def _floor_left(self, name: str, depth: float) -> None:
        """Say where a pocket or groove goes through the sheet, or nearly."""
        left = self.thickness - depth
        label, where = self.label(name), self.where(name)
        if left <= 1e-6:
            words = (
                f"{label}: {depth:g} mm deep goes through the {self.thickness:.2f} mm sheet, and what it cuts"
                " off is not held"
            )
            self.say(
                stop(
                    "cuts.deep-pocket",
                    f"{words}; draw it as a hole and profile it, or give it less depth",
                    where,
                    *self._shallower(name),
                )
            )
        elif left < max(LEAST_FLOOR, THIN_FLOOR * self.thickness):
            words = (
                f"{label}: only {left:.2f} mm stay under its {depth:g} mm in a sheet of {self.thickness:.2f}"
                " mm: it breaks through where the sheet is thin or the board not flat"
            )
            self.say(
                look(
                    "cuts.thin-floor",
                    f"{words}; give it less depth, or profile it through",
                    where,
                    *self._shallower(name),
                )
            )

    def _shallower(self, name: str) -> tuple[Remedy, ...]:
        """A feature's own steps with as much left under them as a floor needs."""
        feature = next((f for f in self.shape.features if f.name == name), None)
        if feature is None:
            return ()
        on = FEATURE_ON[feature.kind]
        depth = round(self.thickness - max(LEAST_FLOOR, THIN_FLOOR * self.thickness) - 0.01, 2)
        steps = [{**s.model_dump(mode="json"), "depth": depth} for s in self.steps_of(name, on)[0]]
        command = {"kind": "set-steps", "part": self.part.id, "on": on, "contour": name, "steps": steps}
        return (Remedy(label=f"{depth:g} mm deep", command=command),) if depth > 0.1 and steps else ()

    def _line(
        self, f: Feature, steps: Sequence[Operation], own: bool, on: On, way: ClosedLine = "on line"
    ) -> None:
        """An open groove, an engraving, or a closed groove line with the cutter's middle on it, inside or
        outside.
        """
        label, where = self.label(f.name), self.where(f.name)
        depth = self._feature_depth(f)
        if depth is None:
            self._no_depth(f, steps)
            return
        if not any(isinstance(s, Groove) and s.skin for s in steps):
            self._floor_left(f.name, depth)
        plans = []
        if on == "engravings":  # beside carved shapes lines are engraved with the same bit
            steps = [
                Groove(**as_fields(s, Groove, depth=None)) if isinstance(s, VCarve) else s for s in steps
            ]
        for k, step in enumerate(steps):
            if not isinstance(step, Groove):
                continue
            cutter = self.setup.cutter(step.cutter)
            lines = (
                [f.contour]
                if way == "on line" or not cutter
                else self._beside_line(f, cutter, way, step.depth or depth)
            )
            if not lines:
                self.say(
                    stop(
                        "cuts.too-small",
                        f"{label}: {cutter.name if cutter else step.cutter} does not fit inside the line;"
                        " take a smaller cutter, or run on the line",
                        where,
                    )
                )
                continue
            if step.width and cutter and step.width > cutter.diameter + FIT:
                if f.contour.closed:
                    self.say(
                        stop(
                            "cuts.groove-width",
                            f"{label}: a closed line cannot be widened to {step.width:g} mm; take a cutter of"
                            " that width",
                            where,
                        )
                    )
                    continue
                try:
                    lines = beside(
                        f.contour, step.width, cutter.diameter, self.rules.step_over * cutter.diameter
                    )
                except ValueError as e:
                    self.say(
                        stop(
                            "cuts.groove-width", f"{label}: {e}; take a cutter {step.width:g} mm wide", where
                        )
                    )
                    continue
            plan = self._follow(f.name, lines, step, k, step.depth or depth)
            if plan:
                plans.append(plan)
        if not plans and not any(isinstance(s, Groove) for s in steps):
            self.say(
                stop(
                    "cuts.open-line",
                    f"{label}: an open line; it needs a groove operation, not a pocket",
                    where,
                    *self._proposal(on),
                )
            )
        self.finish(f.name, on, True, plans, own)

    def _beside_line(self, f: Feature, cutter: Cutter, way: ClosedLine, depth: float) -> list[Contour]:
        """Where the cutter's middle runs so that its edge touches a closed line from within or without."""
        radius = min(cutter.radius, cutter.radius_at(depth))
        shift = radius if way == "outside" else -radius
        return [fit(p) for p in offset_points([f.contour.oriented(True).points(CHORD)], shift)]

    def _follow(self, name: str, lines: list[Contour], step: Groove, k: int, depth: float) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        self.deep_enough(name, cutter, depth)
        largest, school = self.step_down(step, cutter)
        lv = levels_in_full(depth, cutter.diameter, DepthRule(largest, school, self.rules))
        if len(lv.depths) > MOST_PASSES:
            self.say(
                stop(
                    "cuts.absurd",
                    f"{self.label(name)}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth per"
                    " pass",
                    self.where(name),
                )
            )
            return None
        entry, ramp, entry_why = self.entry(step, cutter, name)
        wide = 2 * cutter.radius_at(depth)
        a = self.numbers(step, cutter, lv.engaged / len(lv.depths), min(wide, cutter.diameter))
        moves = follow_moves(
            lines, lv.depths, entry, ramp, Track(self.setup.machine.retract, a.feed, a.plunge)
        )
        self.add(name, step, cutter, k, moves, lines[0], lv.depths, a, (), True, False, lines, True)
        touched = unary_union(
            [LineString(closed_points(c)).buffer(wide / 2 + 0.01, quad_segs=24) for c in lines]
        )
        self.areas[f"{name} line {k}"] = Area(name, depth, touched, touched, tuple(lines))
        why = [("depth", f"{depth:.2f} mm, {wide:.2f} mm wide at the surface"), ("entry", entry_why)]
        if step.skin:
            why.append(self._fold(name, step, cutter))
        return self.step_plan(step, cutter, lv, a, [moves], entry, 0.0, 0.0, why)

    def _fold(self, name: str, step: Groove, cutter: Cutter) -> tuple[str, str]:
        """What a folding groove does to the sheet."""
        try:
            f = fold(self.thickness, step.skin or 0.0, step.fold, Bit.of(cutter))
        except BadInput as e:
            self.say(stop("cuts.fold", f"{self.label(name)}: {e}", self.where(name)))
            return "fold", str(e)
        if f.closes < step.fold - 1:
            self.say(look("cuts.fold", f"{self.label(name)}: {f.says}", self.where(name)))
        words = f"{step.fold:g} degrees over {step.skin:g} mm of skin: bend allowance {f.allowance:.2f} mm"
        return (
            "fold",
            (
                f"{words}, the flat blank is {f.deduction:.2f} mm shorter than the outer sides together;"
                f" {f.says}"
            ),
        )

    def face(self, name: str, contour: Contour, step: Face, k: int) -> StepPlan | None:
        cutter = self.tool(step, name)
        if cutter is None:
            return None
        target = Polygon(contour.points(CHORD)).buffer(0)
        waste = min(self.spacing - 0.05, cutter.diameter)
        loops = tuple(fit(p) for p in offset_points([contour.oriented(True).points(CHORD)], waste))
        area = Area(
            f"{name} face", step.depth, target, region_of([c.points(CHORD) for c in loops]), loops, True
        )
        self.areas[f"{name} face {k}"] = area
        pocket = Pocket(**as_fields(step, Pocket, on="pockets"))
        return self._clear_pocket(name, area, pocket, k, step, [], "face")
