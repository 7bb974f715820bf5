"""What does it cost to run a sheet on a kerf table: the hour, gas or abrasive, and consumables by starts?"""

from __future__ import annotations

from dataclasses import dataclass

from venzo.core.plan import Setup


@dataclass(frozen=True)
class KerfCost:
    """In the shop's currency. ``consumables`` is 0 where nobody has said what a set costs and lasts."""

    machine: float
    gas: float
    consumables: float
    abrasive: float
    abrasive_kg: float
    water_l: float

    @property
    def total(self) -> float:
        """All of it."""
        return self.machine + self.gas + self.consumables + self.abrasive


def kerf_cost(setup: Setup, seconds: float, head_on: float, pierces: int) -> KerfCost:
    """The cost of a run of so many seconds, so many with the head on, with so many pierces: machine by the
    hour, gas or power by the hour with the head on, nozzle and electrode by starts, abrasive by the minute.
    """
    table, head = setup.machine.head, setup.head
    if table is None:
        return KerfCost(seconds / 3600 * setup.machine.rate_per_hour, 0, 0, 0, 0, 0)
    kg = table.abrasive * head_on / 60
    a_start = head.price / head.starts if head and head.price and head.starts else 0.0
    return KerfCost(
        seconds / 3600 * setup.machine.rate_per_hour,
        head_on / 3600 * table.gas_per_hour,
        pierces * a_start,
        kg * table.abrasive_price,
        kg,
        table.water * head_on / 60,
    )
