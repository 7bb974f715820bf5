"""What would this shop do by default? First proposals for a new setup, kind of feature by kind of feature."""

from __future__ import annotations

from collections.abc import Sequence

from venzo.core.cuts.operations import Bore, Drill, Groove, On, Operation, Pocket, Profile
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import FLAT, Cutter

MILLS = tuple(k for k in FLAT if k not in ("surfacing", "roughing"))


def propose_operations(cutters: Sequence[Cutter], material: Material, thickness: float, rules: HouseRules, machine: Machine) -> tuple[Operation, ...]:
    """Operations for every kind of feature that the cutters can make, each with the cutter a practitioner would reach for.

    Raises:
        BadInput: no cutter of the shop has feeds for this family of material.
    """
    kinds: tuple[On, ...] = ("pockets", "grooves", "engravings", "drillings", "holes", "outlines")
    found = tuple(o for on in kinds for o in propose_for(on, cutters, material, thickness, rules, machine))
    if not any(o.on == "outlines" for o in found):
        raise BadInput(f"no cutter in the library has feeds for {material.family} that {machine.name} can turn; enter them first")
    return found


def propose_for(on: On, cutters: Sequence[Cutter], material: Material, thickness: float, rules: HouseRules, machine: Machine) -> tuple[Operation, ...]:
    """Steps for one kind of feature; none where the shop has no cutter for it.

    Outlines: the largest cutter up to 8 mm whose edge is long enough and whose spindle speed the machine turns; compression cutters first in wood.
    Holes: the same unless a cutter up to 6.5 mm does it. Pockets and grooves: an up-cut or single-flute cutter up to 8 mm, which lifts its chips.
    Engravings: the finest V bit or ball, else the smallest cutter. Drillings: every drill, and a bore for the sizes in between.
    """
    family = material.family
    able = [c for c in cutters if family in c.feeds and machine.rpm_min <= c.feeds[family].rpm <= machine.rpm_max]
    mills = [c for c in able if c.kind in MILLS]
    depth = thickness + rules.overshoot.get(family, 0.5)
    long_enough = [c for c in mills if c.reach >= depth] or mills
    direction = rules.finish_direction.get(family, "climb")

    def rank(c: Cutter, upto: float) -> tuple:
        return (c.diameter <= upto, c.kind == "compression" if family == "wood" else c.kind in ("single-flute", "diamond-tipped"), c.diameter if c.diameter <= upto else -c.diameter)

    if on in ("outlines", "holes", "round holes") and long_enough:
        best = max(long_enough, key=lambda c: rank(c, 8.0) if on == "outlines" else rank(c, 6.5)[::2])
        if on == "round holes":
            return (Bore(id="round holes", on="round holes", cutter=best.id, direction=direction),)
        return (Profile(id=on, on=on, cutter=best.id, direction=direction),)
    if on in ("pockets", "grooves") and mills:
        clearing = [c for c in mills if c.kind != "compression"] or mills
        best = max(clearing, key=lambda c: (c.diameter <= 6.5, c.kind in ("up-cut", "single-flute", "diamond-tipped"), c.diameter if c.diameter <= 6.5 else -c.diameter))
        pocket = Pocket(id=on, on=on, cutter=best.id, direction=direction)
        return (pocket, Groove(id="groove lines", on="grooves", cutter=best.id)) if on == "grooves" else (pocket,)
    if on == "engravings":
        fine = [c for c in able if c.kind in ("v-bit", "ball", "tapered ball")] or mills
        if fine:
            best = min(fine, key=lambda c: (c.kind != "v-bit", c.diameter))
            return (Groove(id="engravings", on="engravings", cutter=best.id),)
    if on == "drillings":
        drills = [c for c in able if c.kind == "drill"]
        steps: list[Operation] = [Drill(id=f"drill {c.number}", on="drillings", cutter=c.id) for c in sorted(drills, key=lambda c: c.diameter)[:8]]
        reach = [c for c in long_enough if c.kind in ("up-cut", "single-flute", "straight", "diamond-tipped", "down-cut")] or long_enough
        steps += [Bore(id=f"bore {c.number}", on="drillings", cutter=c.id, direction=direction) for c in sorted(reach, key=lambda c: -c.diameter)[:3]]
        return tuple(steps)
    return ()
