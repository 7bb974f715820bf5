"""What would this shop do by default? First proposals for a new setup, kind of feature by kind of feature."""

from __future__ import annotations

from collections.abc import Sequence

from venzo.core.cuts.operations import (
    Bore,
    Drill,
    Groove,
    On,
    Operation,
    Pocket,
    Profile,
    ReliefFinish,
    ReliefRough,
)
from venzo.core.cuts.profile import cutter_rings
from venzo.core.parts.shape import Shape
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import FLAT, Cutter

MILLS = tuple(k for k in FLAT if k not in ("surfacing", "roughing"))


DEEP_POCKET = 0.8
"""Share of the sheet that a pocketing cutter's edge should reach."""
PACKS = 2.5
"""Diameters deep in a slot from which a down-cut cutter packs its chips (common practice)."""


def propose_operations(
    cutters: Sequence[Cutter],
    material: Material,
    thickness: float,
    rules: HouseRules,
    machine: Machine,
    shapes: Sequence[Shape] = (),
) -> tuple[Operation, ...]:
    """Operations for every kind of feature that the cutters can make, each with the cutter a practitioner
    would reach for.

    Args:
        cutters: what the shop owns.
        material: what is cut.
        thickness: of the sheet, mm.
        rules: of the house.
        machine: its spindle and its magazine.
        shapes: parts, where they are known: holes get a cutter that enters all of them if there is one.

    Raises:
        BadInput: no cutter of the shop has feeds for this family of material.
    """
    kinds: tuple[On, ...] = ("pockets", "grooves", "engravings", "drillings", "holes", "outlines")
    found = tuple(
        o for on in kinds for o in propose_for(on, cutters, material, thickness, rules, machine, shapes)
    )
    if not any(o.on == "outlines" for o in found):
        raise BadInput(
            f"no cutter in the library has feeds for {material.family} that {machine.name} can turn; enter"
            " them first"
        )
    return found


def propose_for(
    on: On,
    cutters: Sequence[Cutter],
    material: Material,
    thickness: float,
    rules: HouseRules,
    machine: Machine,
    shapes: Sequence[Shape] = (),
) -> tuple[Operation, ...]:
    """Steps for one kind of feature; none where the shop has no cutter for it.

    Only cutters that the spindle can turn and, where the machine has a changer, that have a place in it,
    unless there is no other. Outlines: the largest cutter up to 8 mm whose edge is long enough; compression
    cutters first in wood. Holes: the same unless a cutter up to 6.5 mm does it, no larger than every hole
    takes. Pockets and grooves: an up-cut or single-flute cutter up to 6.5 mm, which lifts its chips, whose
    edge reaches most of the sheet. Engravings: the finest V bit or ball, else the smallest cutter.
    Drillings: every drill, and a bore for the sizes in between.
    """
    family = material.family
    able = [
        c for c in cutters if family in c.feeds and machine.rpm_min <= c.feeds[family].rpm <= machine.rpm_max
    ]
    able = [c for c in able if not machine.slots or c.number <= machine.slots] or able
    mills = [c for c in able if c.kind in MILLS]
    depth = thickness + rules.overshoot.get(family, 0.5)
    long_enough = [c for c in mills if c.reach >= depth] or sorted(mills, key=lambda c: -c.reach)[:1]
    direction = rules.finish_direction.get(family, "climb")

    def suits(c: Cutter) -> int:
        """What lifts chips out of a deep cut, or leaves both edges clean, comes first."""
        if family == "wood":
            return (
                2
                if c.kind == "compression"
                else 0
                if c.kind == "down-cut" and depth > PACKS * c.diameter
                else 1
            )
        return 2 if c.kind == "single-flute" else 1

    def rank(c: Cutter, upto: float) -> tuple:
        return (c.diameter <= upto, suits(c), c.diameter if c.diameter <= upto else -c.diameter)

    if on in ("outlines", "holes", "round holes") and long_enough:
        if on == "outlines":
            best = max(long_enough, key=lambda c: rank(c, 8.0))
        else:
            entering = [c for c in long_enough if all(enters(c, s) for s in shapes)] or long_enough
            best = max(
                entering,
                key=lambda c: (
                    c.diameter <= 6.5,
                    suits(c) > 0,
                    c.diameter if c.diameter <= 6.5 else -c.diameter,
                ),
            )
        if on == "round holes":
            return (Bore(id="round holes", on="round holes", cutter=best.id, direction=direction),)
        return (Profile(id=on, on=on, cutter=best.id, direction=direction),)
    if on in ("pockets", "grooves") and mills:
        clearing = (
            [c for c in mills if c.kind != "compression" and c.reach >= DEEP_POCKET * thickness]
            or [c for c in mills if c.kind != "compression"]
            or mills
        )
        best = max(
            clearing,
            key=lambda c: (
                c.diameter <= 6.5,
                c.kind in ("up-cut", "single-flute"),
                c.diameter if c.diameter <= 6.5 else -c.diameter,
            ),
        )
        pocket = Pocket(id=on, on=on, cutter=best.id, direction=direction)
        return (
            (pocket, Groove(id="groove lines", on="grooves", cutter=best.id))
            if on == "grooves"
            else (pocket,)
        )
    if on == "engravings":
        fine = [c for c in able if c.kind in ("v-bit", "ball", "tapered ball")] or mills
        if fine:
            best = min(fine, key=lambda c: (c.kind != "v-bit", c.diameter))
            return (Groove(id="engravings", on="engravings", cutter=best.id),)
    if on == "reliefs":
        return _relief_steps(able, mills)
    if on == "drillings":
        drills = [c for c in able if c.kind == "drill"]
        steps: list[Operation] = [
            Drill(id=f"drill {c.number}", on="drillings", cutter=c.id)
            for c in sorted(drills, key=lambda c: c.diameter)[:8]
        ]
        reach = [
            c
            for c in long_enough
            if c.kind in ("up-cut", "single-flute", "straight", "diamond-tipped", "down-cut")
        ] or long_enough
        steps += [
            Bore(id=f"bore {c.number}", on="drillings", cutter=c.id, direction=direction)
            for c in sorted(reach, key=lambda c: -c.diameter)[:3]
        ]
        return tuple(steps)
    return ()


def _relief_steps(able: Sequence[Cutter], mills: Sequence[Cutter]) -> tuple[Operation, ...]:
    """Rough with an end mill of 6 mm or nearest to it, finish with a ball or tapered ball, the finest that
    the shop has (common practice).
    """
    flat = [c for c in mills if c.kind not in ("compression", "down-cut")] or list(mills)
    round_ = [c for c in able if c.kind in ("ball", "tapered ball")] or [c for c in able if c.kind == "bowl"]
    if not flat or not round_:
        return ()
    first = min(flat, key=lambda c: (abs(c.diameter - 6.35), c.id))
    last = min(round_, key=lambda c: (c.tip or c.diameter, c.id))
    return (
        ReliefRough(id="relief rough", cutter=first.id),
        ReliefFinish(id="relief finish", cutter=last.id),
    )


def enters(cutter: Cutter, shape: Shape) -> bool:
    """Can a cutter get into every hole of a part?"""
    return all(cutter_rings(h, cutter.radius, True) for h in shape.region.holes)
