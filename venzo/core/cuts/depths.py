"""How many passes, and from which height? What earlier steps really took away, place by place, counts as air;
what they could not enter does not.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from venzo.core.body.engagement import Engagement, engage
from venzo.core.body.field import StockBody
from venzo.core.cuts.moves import LINE, RAPID, along, row
from venzo.core.geometry.contour import Array, Contour
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.rules.house import HouseRules
from venzo.core.tooling.cutter import Cutter

THIN = 0.5
"""Share of the diameter: a cut engaged less wide than this at full depth is a skim."""
MOSTLY = 0.6
"""Share of a path from which on closed stretches are not cut apart, but the whole path steps down."""
HAIR = 0.02
"""Share of a cutter's diameter that is left as not worth a run of its own."""
TRACE = 0.02
"""mm along the axis that is not called material."""


@dataclass(frozen=True)
class Stretch:
    """A run of a path, distances along it, that earlier steps did not open: it is cut in passes of its own
    (``depths``, from ``begins``) before the whole path is run.
    """

    start: float
    end: float
    depths: tuple[float, ...]
    begins: float


@dataclass(frozen=True)
class Levels:
    """Depths of the passes (negative, the last the deepest), the height already open (0 or negative), what
    the heaviest pass meets and the reason in words.

    ``engaged``: mm along the axis; ``width``: mm across; ``section``: largest chip section over the feed per
    tooth, mm, None: that of a straight wall; ``stretches``: what is cut first where earlier steps could not
    enter.
    """

    depths: tuple[float, ...]
    begins: float
    engaged: float
    width: float
    reason: str
    section: float | None = None
    stretches: tuple[Stretch, ...] = ()
    only: bool = False
    """Nothing but the stretches is cut."""

    @property
    def heaviest(self) -> float:
        """mm that its heaviest pass meets along the axis."""
        if self.stretches:
            return max(
                a - b
                for s in self.stretches
                for a, b in zip((s.begins, *s.depths[:-1]), s.depths, strict=True)
            )
        steps = [a - b for a, b in zip((self.begins, *self.depths[:-1]), self.depths, strict=True)]
        return min(max(steps, default=0.0), self.engaged) if self.engaged else 0.0


def pass_levels(depth: float, passes: int, begins: float = 0.0) -> tuple[float, ...]:
    """Depths of equal passes from ``begins`` (mm below the top), negative: ``pass_levels(18, 2) == (-9.0,
    -18.0)``.
    """
    return tuple(-(begins + (depth - begins) * (k + 1) / passes) for k in range(passes))


@dataclass(frozen=True)
class DepthRule:
    """What limits a pass: ``step`` mm at most by ``school`` (in words), the shop's accepted excess over it,
    and whether one pass was stated.
    """

    step: float
    school: str
    rules: HouseRules
    one_pass: bool = False

    @property
    def most(self) -> float:
        """Deepest a pass goes in full material, mm."""
        return self.step * (1 + self.rules.accepted_excess)

    def words(self) -> str:
        return f"at most {self.step:.2f} mm a pass ({self.school})"


def levels_in_full(depth: float, wide: float, rule: DepthRule) -> Levels:
    """Passes of a cut that nothing was opened for: the cutter's whole width ``wide`` (mm) meets material."""
    if rule.one_pass:
        return Levels((-depth,), 0.0, depth, wide, "one pass, as stated")
    n = rule.rules.passes(depth, rule.step)
    return Levels(pass_levels(depth, n), 0.0, depth, wide, rule.words())


def levels_in(
    body: StockBody,
    ring: Contour,
    cutter: Cutter,
    depth: float,
    rule: DepthRule,
    over: Sequence[tuple[float, float]] = (),
    rest: bool = False,
) -> Levels:
    """Passes along a ring through a body that earlier steps have cut into; ``rest``: only along what they
    left.

    Depth rules count engaged material (common practice), and what is engaged is measured: the ring is run
    once at full depth through a copy of the body. Where it meets nothing deeper than a pass may be, or no
    more of it than a sliver along the wall, one pass takes all (removing a skin; a finishing skim). Where it
    meets more, the earlier cutters could not enter: those stretches are cut apart in passes of their own
    first, or the whole ring steps down where they are most of it. ``over``: stretches (from, to along the
    ring) where it rises over tabs and meets what is meant to stay.
    """
    about = digest(
        body.story_after(lap(ring, depth), cutter),
        cutter.flutes,
        rule.step,
        rule.school,
        rule.rules.accepted_excess,
        rule.one_pass,
        [list(o) for o in over],
        rest,
    )
    if rest:
        return memo("levels", about, lambda: _rest_in(body, ring, cutter, depth, rule, over))
    return memo("levels", about, lambda: _levels_in(body, ring, cutter, depth, rule, over))


def _rest_in(
    body: StockBody,
    ring: Contour,
    cutter: Cutter,
    depth: float,
    rule: DepthRule,
    over: Sequence[tuple[float, float]],
) -> Levels:
    """Runs along a ring where earlier steps left more than a hair; in passes where they left much."""
    met = measured(body, ring, cutter, depth, rule.most).without(over, ring.length).met
    left = (met.depth > TRACE) & (met.width > max(HAIR * cutter.diameter, 1.5 * body.cell))
    if not len(met.s) or not left.any():
        return Levels((-depth,), 0.0, 0.0, 0.0, "the steps before left nothing here", 0.0, (), True)
    thick = met.thick > THIN * cutter.diameter
    passes = pass_levels(depth, rule.rules.passes(depth, rule.step))
    runs = []
    for a, b in met.stretches(left, 0.75 * cutter.diameter, ring.length):
        inside = ((met.s - a) % ring.length) <= b - a
        runs.append(Stretch(a, b, passes if thick[inside].any() and not rule.one_pass else (-depth,), 0.0))
    if sum(s.end - s.start for s in runs) > ring.length:
        return _levels_in(body, ring, cutter, depth, rule, over)
    length, n = sum(s.end - s.start for s in runs), len(runs)
    why = f"only what the steps before left: {n} stretch{'es' * (n != 1)}, {length:.0f} mm; {rule.words()}"
    return Levels((-depth,), 0.0, depth, float(met.width[left].max()), why, None, tuple(runs), True)


def _levels_in(
    body: StockBody,
    ring: Contour,
    cutter: Cutter,
    depth: float,
    rule: DepthRule,
    over: Sequence[tuple[float, float]],
) -> Levels:
    run = measured(body, ring, cutter, depth, rule.most).without(over, ring.length)
    met = run.met
    if not len(met.s):
        return levels_in_full(depth, cutter.diameter, rule)
    width, engaged, section = met.worst()
    if engaged <= TRACE:
        return Levels((-depth,), -depth, 0.0, 0.0, "open already: a spring pass", 0.0)
    begins = min(0.0, float(run.high.max()))
    begins = 0.0 if begins > -TRACE else max(begins, -depth)
    if rule.one_pass:
        return Levels((-depth,), begins, engaged, width, "one pass, as stated", section)
    closed = met.thick > THIN * cutter.diameter
    if not closed.any():
        if met.thick.max() <= 0:
            return Levels(
                (-depth,),
                begins,
                engaged,
                width,
                f"{engaged:.2f} mm left under the steps before; {rule.words()}",
                section,
            )
        sliver = float(met.thick.max())
        return Levels(
            (-depth,),
            0.0,
            engaged,
            sliver,
            f"a skim {sliver:.2g} mm wide, measured: one pass, the depth rule counts engaged material",
            section,
        )
    share = float(np.diff(met.s, prepend=0.0)[closed].sum() / met.s[-1])
    if share > MOSTLY:
        n = rule.rules.passes(depth + begins, rule.step)
        why = (
            f"the steps before opened only {1 - share:.0%} of it; {rule.words()}"
            if share < 1
            else rule.words()
        )
        why = (
            f"{depth + begins:.2f} mm left under the steps before; {rule.words()}"
            if begins and share == 1
            else why
        )
        return Levels(pass_levels(depth, n, -begins), begins, depth + begins, cutter.diameter, why)
    own = pass_levels(depth, rule.rules.passes(depth, rule.step))
    stretches = tuple(
        Stretch(a, b, own, 0.0) for a, b in met.stretches(closed, 0.75 * cutter.diameter, ring.length)
    )
    length = sum(s.end - s.start for s in stretches)
    n = len(stretches)
    why = (
        f"{n} stretch{'es' * (n != 1)}, {length:.0f} mm, that the steps before could not enter"
        f" {'are' if n != 1 else 'is'} cut first; {rule.words()}; then one pass over all"
    )
    return Levels((-depth,), 0.0, depth, cutter.diameter, why, None, stretches)


@dataclass(frozen=True, eq=False)
class Lap:
    """One lap of a ring at full depth: what the cutter meets, and the highest that stood under it at each
    step before it came, mm.
    """

    met: Engagement
    high: Array

    def without(self, over: Sequence[tuple[float, float]], total: float) -> Lap:
        """The lap outside some stretches (from, to) of a closed path ``total`` mm long."""
        keep = self.met.outside(over, total)
        return Lap(self.met.at_steps(keep), self.high[keep])


def measured(body: StockBody, ring: Contour, cutter: Cutter, depth: float, limit: float) -> Lap:
    """What one lap of a ring at full depth meets in a body, which stays as it is."""

    def run() -> Lap:
        met = engage(body.copy(), lap(ring, depth), cutter, limit)
        return Lap(met, body.highest(met.at[:, :2], cutter.radius - 1.5 * body.cell))

    return memo("lap", f"{body.story_after(lap(ring, depth), cutter)}/{cutter.flutes}/{limit!r}", run)


def lap(ring: Contour, depth: float) -> Array:
    """Once round a path at a depth, as moves."""
    return line_moves([ring], depth)


def line_moves(lines: Sequence[Contour], depth: float) -> Array:
    """Lines run one after the other at a depth, straight over from one to the next, as moves."""
    rows = []
    for line in lines:
        x, y = line.at(0.0)[:2]
        rows.append(row(RAPID, x, y, -depth))
        rows += [along(s, -depth, 1.0) for s in line.segments()]
    return np.array(rows) if rows else np.array([row(LINE, 0.0, 0.0, 0.0)])
