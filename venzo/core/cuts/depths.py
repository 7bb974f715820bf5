"""How many passes, and from which height? What earlier steps have opened counts as air."""

from __future__ import annotations

from dataclasses import dataclass

from venzo.core.rules.house import HouseRules

THIN = 0.5
"""Share of the diameter: a cut engaged less wide than this at full depth is a skim."""


@dataclass(frozen=True)
class Opened:
    """What a step left behind along a wall: down to ``depth`` mm, the kerf runs from ``near`` to ``far`` mm off the contour; ``family`` of cutter aside."""

    depth: float
    near: float
    far: float


@dataclass(frozen=True)
class Levels:
    """Depths of the passes (negative, the last the deepest), the height already open (0 or negative), width engaged (mm) and the reason in words."""

    depths: tuple[float, ...]
    begins: float
    engaged: float
    width: float
    reason: str


def pass_levels(depth: float, passes: int, begins: float = 0.0) -> tuple[float, ...]:
    """Depths of equal passes from ``begins`` (mm below the top), negative: ``pass_levels(18, 2) == (-9.0, -18.0)``."""
    return tuple(-(begins + (depth - begins) * (k + 1) / passes) for k in range(passes))


def levels_for(depth: float, near: float, diameter: float, step: float, rules: HouseRules, opened: list[Opened], one_pass: bool = False, school: str = "") -> Levels:
    """Passes for a cut whose kerf runs from ``near`` to ``near + diameter`` mm off the contour.

    Depth rules count engaged material (common practice): where earlier steps opened the whole kerf down to some depth, passes begin there
    (removing a skin); where they opened all but a sliver to the full depth, one pass takes it (a finishing skim).
    """
    far = near + diameter
    begins = max((o.depth for o in opened if o.near <= near + 1e-6 and o.far >= far - 0.05), default=0.0)
    begins = min(begins, depth)
    skim = [o for o in opened if o.far >= far - 0.05 and near < o.near < near + THIN * diameter]
    sliver = min((o.near - near for o in skim if o.depth >= depth - 1e-6), default=None)
    if sliver is None:  # roughed to a skin: the wall's sliver and the floor's skin go in one
        sliver = min((o.near - near for o in skim if depth - o.depth <= step * (1 + rules.accepted_excess)), default=None)
    engaged = depth - begins
    if sliver is not None:
        return Levels((-depth,), 0.0, depth, sliver, f"a skim {sliver:.2g} mm wide: one pass, the depth rule counts engaged material")
    if one_pass:
        return Levels((-depth,), -begins if begins < depth else 0.0, engaged, diameter, "one pass, as stated")
    n = rules.passes(engaged, step)
    if begins and engaged <= 1e-9:
        return Levels((-depth,), -begins, 0.0, 0.0, "open already: a spring pass")
    words = f"at most {step:.2f} mm a pass ({school})"
    if begins:
        words = f"{engaged:.2f} mm left under the steps before; {words}"
    return Levels(pass_levels(depth, n, begins), -begins, engaged, diameter, words)
