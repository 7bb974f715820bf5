"""What would this shop do by default? First proposals for a new setup."""

from __future__ import annotations

from collections.abc import Sequence

from venzo.core.cuts.operations import Operation, Profile
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import Cutter


def propose_operations(cutters: Sequence[Cutter], material: Material, thickness: float, rules: HouseRules, machine: Machine) -> tuple[Operation, ...]:
    """Holes and outlines as profiles, each with the cutter a practitioner would reach for.

    Outlines: the largest cutter up to 8 mm whose edge is long enough and whose spindle speed the machine turns; compression cutters first in wood. Holes: the same
    unless a cutter up to 6 mm does it.

    Raises:
        BadInput: no cutter of the shop has feeds for this family of material.
    """
    depth = thickness + rules.overshoot.get(material.family, 0.5)
    able = [c for c in cutters if material.family in c.feeds and machine.rpm_min <= c.feeds[material.family].rpm <= machine.rpm_max]
    if not able:
        raise BadInput(f"no cutter in the library has feeds for {material.family} that {machine.name} can turn; enter them first")
    long_enough = [c for c in able if c.cutting_length >= depth] or able

    def rank(c: Cutter, upto: float) -> tuple:
        return (c.diameter <= upto, c.kind == "compression" if material.family == "wood" else c.kind == "single-flute", c.diameter if c.diameter <= upto else -c.diameter)

    outline = max(long_enough, key=lambda c: rank(c, 8.0))
    hole = max(long_enough, key=lambda c: rank(c, 6.5)[::2])
    return (Profile(id="holes", on="holes", cutter=hole.id), Profile(id="outlines", on="outlines", cutter=outline.id))
