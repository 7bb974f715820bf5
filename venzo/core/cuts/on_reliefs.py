"""Roughing and finishing steps on a part's reliefs."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import shapely

from venzo.core.cuts.areas import Area
from venzo.core.cuts.depths import Levels
from venzo.core.cuts.in_hand import Doing, PartInHand
from venzo.core.cuts.operations import Operation, ReliefFinish, ReliefRough
from venzo.core.cuts.planned import StepPlan
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Feature
from venzo.core.relief.block import Block, Relief, on_face, placed_at
from venzo.core.relief.finishing import Finish, Pace, ReliefPass, above_edge, finish
from venzo.core.relief.kept_surface import OUTLINE, mesh_of
from venzo.core.relief.left_on import bites_of, stock_after
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.roughing import Rough, rough
from venzo.core.relief.tip import Tip
from venzo.core.snags import BadInput, look, note, stop
from venzo.core.tooling.cutter import Cutter
from venzo.core.voice import counted

VERSION = "relief-2"
CHORD = 0.002
"""mm; arcs of a field become chords within this."""
SELDOM = 0.01
"""Share of a way on which a tip may take more than its rule before it is said."""


class ReliefSteps:
    """Plans reliefs: rough, then finish, each with its own cutter."""

    def __init__(self, hand: PartInHand) -> None:
        self.hand = hand

    def plan(self, f: Feature, steps: Sequence[Operation], own: bool) -> None:
        """Plan the steps on one relief."""
        hand = self.hand
        mesh = mesh_of(f, hand.surfaces)
        label, where = hand.label(f.name), hand.where(f.name)
        if mesh is None:
            hand.say(stop("relief.gone", f"{label}: its model is not there any more; set it anew", where))
            return
        if f.depth and f.depth > hand.thickness + 1e-6:
            hand.say(
                stop(
                    "relief.deeper",
                    f"{label} is {f.depth:.2f} mm deep and the sheet {hand.thickness:.2f} mm thick; make it"
                    " lower, or take a thicker sheet",
                    where,
                )
            )
            return
        # what is wrong with the model itself, as it lies
        relief = relief_of(f, mesh, hand.thickness, hand.mirrored)
        faults = () if f.formed else relief.mesh.faults()
        for s in (*faults, *relief.snags):
            hand.say(s.model_copy(update={"message": f"{label}: {s.message}", "where": where}))
        plans = []
        self.done: list[ReliefPass] = []
        for k, step in enumerate(steps):
            if not isinstance(step, ReliefRough | ReliefFinish):
                hand.say(
                    stop(
                        "relief.step-kind",
                        f"{label}: a {step.kind} step makes no relief; take roughing and finishing steps",
                        where,
                    )
                )
                continue
            made = self._step(f, mesh, step, k, any(p.kind == "rough" for p in self.done))
            if made is not None:
                plans.append(made)
        if plans:
            # the middle of a cutter goes to the boundary, its edge half a cutter further
            used = [hand.setup.cutter(s.cutter) for s in steps if isinstance(s, ReliefRough | ReliefFinish)]
            wide = f.margin + max(c.radius for c in used if c is not None)
            # its contour has fewer corners than the model's outline
            hair = 0.02 + OUTLINE * max(
                f.contour.bbox[2] - f.contour.bbox[0], f.contour.bbox[3] - f.contour.bbox[1]
            )
            area = shapely.Polygon(f.contour.points(0.01)).buffer(wide + hair, quad_segs=32)
            hand.areas[f.name] = Area(f.name, f.depth or 0.0, area, area, ())
            self._beyond(f, area)
        hand.finish(f.name, "reliefs", True, plans, own)

    def _beyond(self, f: Feature, area: shapely.Polygon) -> None:
        """Say where cutters on a relief's rim come beyond the part's edge or over a hole."""
        over = area.difference(self.hand.shape.polygon.buffer(0.05)).area
        if over > 1.0:
            self.hand.say(
                note(
                    "relief.edge",
                    f"{self.hand.label(f.name)}: on its rim the cutters reach beyond the part's edge or over"
                    f" a hole ({over:.0f} mm2)",
                    self.hand.where(f.name),
                )
            )

    def _step(
        self, f: Feature, mesh: Mesh, step: ReliefRough | ReliefFinish, k: int, roughed: bool
    ) -> StepPlan | None:
        hand = self.hand
        cutter = hand.tool(step, f.name)
        if cutter is None:
            return None
        label, where = hand.label(f.name), hand.where(f.name)
        try:
            tip = Tip.of(cutter)
            largest, by = hand.step_down(step, cutter)
            depth = (
                min(f.depth or 0.0, largest) if isinstance(step, ReliefRough) else self._thin(f, tip, roughed)
            )
            a = hand.numbers(step, cutter, max(depth, 0.05), max(0.05, _apart(tip, step)))
            done = _passed(
                f, mesh, hand, step, cutter, largest, Pace(feed=a.feed, plunge=a.plunge), self.done
            )
        except BadInput as e:
            hand.say(stop("relief.refused", f"{label}: {e}", where))
            return None
        if not len(done.moves):
            hand.say(
                look(
                    "relief.nothing",
                    f"{label}: {cutter.name} finds nothing to do in its {step.kind} step: the relief is no"
                    " deeper than the allowance, the cutter is too wide for where it may go, or the steps"
                    " before left nothing",
                    where,
                )
            )
            return None
        if isinstance(step, ReliefFinish):
            self._bites(f, mesh, done, largest, by)
        if done.kept_off > 0.001:
            hand.say(
                look(
                    "relief.shank",
                    f"{label}: on {100 * done.kept_off:.1f} % of its way shank or nut of {cutter.name} keep"
                    " its tip off the surface; what it cannot reach stays: clamp it further out, or take a"
                    " longer or tapered one",
                    where,
                )
            )
        self.done.append(done)
        levels = done.levels or (done.lowest,)
        doing = Doing(f.name, step, k, cutter, a)
        hand.add(doing, done.moves, f.contour, levels, trace=(f.contour,))
        cusp = tip.cusp(done.step)
        why = [
            ("depth", f"the relief's lowest place lies {f.depth or 0.0:.2f} mm below the face"),
            ("entry", "down along its own way" if isinstance(step, ReliefRough) else "straight down"),
            (
                "step-over",
                f"{done.step:.2f} mm between ways in plan"
                + (f", ridges {cusp:.3f} mm on a flat floor" if isinstance(step, ReliefFinish) else ""),
            ),
        ]
        told = (
            f"{counted(len(done.levels), 'level')} of at most {largest:g} mm ({by})"
            if isinstance(step, ReliefRough)
            else "one pass over the surface"
        )
        lv = Levels(tuple(levels), 0.0, -done.lowest, done.step, told)
        return hand.step_plan(doing, lv, [done.moves], "ramp", why)

    def _bites(self, f: Feature, mesh: Mesh, done: ReliefPass, largest: float, by: str) -> None:
        """Say where a finishing pass takes more at once than the rule lets it, by what stands there when it
        begins: a roughing step may have come nowhere near.
        """
        most = largest * (1 + self.hand.rules.accepted_excess)
        if -done.lowest <= most:
            return
        relief = relief_of(f, mesh, self.hand.thickness, self.hand.mirrored)
        key = digest(VERSION, done.key, [p.key for p in self.done], f.surface, f.contour.rows(), f.depth)
        stood = memo("relief-bites", key, lambda: bites_of(stock_after(relief, self.done), done))
        over, deepest = float((stood > most).mean()), float(stood.max(initial=0.0))
        if deepest <= most or (self.done and over <= SELDOM):
            return
        label, where = self.hand.label(f.name), self.hand.where(f.name)
        words = (
            f"{label}: {done.cutter.name} would take up to {deepest:.1f} mm at once, more than {most:.1f} mm"
            f" on {100 * over:.0f} % of its way ({by})"
        )
        if self.done:
            mend = "roughing did not come there: give a wider margin, or rough with a smaller cutter"
            self.hand.say(look("relief.bite", f"{words}; {mend}", where))
        else:
            self.hand.say(
                stop("relief.step", f"{words}; put a roughing step that finds room before it", where)
            )

    def _thin(self, f: Feature, tip: Tip, roughed: bool) -> float:
        """What finishing takes at once, mm: the allowance of the steps before, else all of it."""
        if not roughed:
            return f.depth or 0.0
        steps, _own = self.hand.steps_of(f.name, "reliefs")
        left = [s.allowance for s in steps if isinstance(s, ReliefRough)]
        return min(max(left, default=1.0), tip.radius)


def _apart(tip: Tip, step: ReliefRough | ReliefFinish) -> float:
    """mm between ways, in plan."""
    if isinstance(step, ReliefFinish) and step.cusp:
        return tip.step_for(step.cusp)
    return tip.across * step.step_over


def relief_of(f: Feature, mesh: Mesh, thickness: float, mirrored: bool = False) -> Relief:
    """A part's relief in the part's frame, as it is to come out, Z 0 at the face; remembered."""
    key = digest(VERSION, f.surface, f.contour.rows(), f.depth, f.sits, f.margin, thickness, mirrored)
    return memo("relief-ground", key, partial(_set, f, mesh, thickness, mirrored))


def _set(f: Feature, mesh: Mesh, thickness: float, mirrored: bool) -> Relief:
    x0, y0, x1, y1 = f.contour.bbox
    if mirrored:
        low, high = mesh.box
        flipped = mesh.points * (-1.0, 1.0, 1.0) + (low[0] + high[0], 0.0, 0.0)
        mesh = Mesh(mesh.name, flipped, np.ascontiguousarray(mesh.faces[:, ::-1]))
    placed = placed_at(mesh, (x0, y0, x1, y1), -f.sits, -(f.depth or 0.0))
    covers = shapely.Polygon(f.contour.points(CHORD)).buffer(0) if f.formed else None
    return on_face(placed, Block(width=20_000, height=20_000, thickness=thickness), f.margin, covers)


def _passed(
    f: Feature,
    mesh: Mesh,
    hand: PartInHand,
    step: ReliefRough | ReliefFinish,
    cutter: Cutter,
    largest: float,
    pace: Pace,
    before: Sequence[ReliefPass],
) -> ReliefPass:
    """A step's moves; remembered by all that they follow from, of a step for the rest the passes before."""
    rest = isinstance(step, ReliefFinish) and step.over is not None
    key = digest(
        VERSION,
        f.surface,
        f.contour.rows(),
        [f.depth, f.sits, f.margin, hand.thickness, hand.mirrored, largest, pace.feed, pace.plunge],
        step.model_dump(mode="json", exclude={"id", "note", "rpm", "feed", "plunge", "feed_share"}),
        cutter.model_dump(mode="json", include={"kind", "diameter", "tip", "corner_radius", "angle"}),
        hand.setup.machine.retract,
        above_edge(hand.setup.assembly(cutter)),
        [p.key for p in before] if rest else [],
    )
    retract = hand.setup.machine.retract
    relief = relief_of(f, mesh, hand.thickness, hand.mirrored)

    above = above_edge(hand.setup.assembly(cutter))

    def make() -> ReliefPass:
        if isinstance(step, ReliefRough):
            how = Rough(
                allowance=step.allowance,
                level=largest,
                step_over=step.step_over,
                angle=step.angle,
                pattern=step.pattern,
                round_last=step.round_last,
                retract=retract,
            )
            return rough(relief, cutter, how, pace, above)
        return finish(
            relief,
            cutter,
            Finish(
                step_over=step.step_over,
                pattern=step.pattern,
                angle=step.angle,
                cusp=step.cusp,
                ways=step.ways,
                retract=retract,
                over=step.over,
            ),
            pace,
            above,
            stock_after(relief, before) if rest else None,
        )

    return memo("relief-pass", key, make)
