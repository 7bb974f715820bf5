"""By which names is a job known and found?"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Annotated

from pydantic import Field

from venzo.core.model import Document
from venzo.core.plan import Plan

LONGEST_WORDS = 20_000
"""Characters that a job is found by; a job of more names than that is found by its first."""


class PlanNames(Document):
    """Names that stand on a job's card, and how many parts it cuts."""

    orders: list[str]
    machines: list[str]
    materials: list[str]
    parts: Annotated[int, Field(ge=0)]


def plan_names(plan: Plan) -> PlanNames:
    """Names on the card, each once."""
    return PlanNames(
        orders=[o.name for o in plan.orders],
        machines=list(dict.fromkeys(s.machine.name for s in plan.setups)),
        materials=list(dict.fromkeys(s.material.name for s in plan.setups)),
        parts=sum(line.quantity for p in plan.parts for line in p.lines),
    )


def words_of(plan: Plan) -> str:
    """All that a job is found by, in small letters: names of job, orders, machines, materials, cutters in use
    and parts.
    """
    used = {(s.id, o.cutter) for s in plan.setups for o in s.operations}
    cutters = [c.name for s in plan.setups for c in s.cutters if (s.id, c.id) in used]
    names = plan_names(plan)
    parts = [p.name for p in plan.parts]
    said = [plan.name, *names.orders, *names.machines, *names.materials, *cutters, *parts]
    return "\n".join(dict.fromkeys(n.lower() for n in said))[:LONGEST_WORDS]


VERSION = re.compile(r"^(.*), version (\d+)$")


def next_version(name: str) -> str:
    """The name of a job's next version.

    >>> next_version("Gate"), next_version("Gate, version 2")
    ('Gate, version 2', 'Gate, version 3')
    """
    found = VERSION.match(name)
    return f"{found[1]}, version {int(found[2]) + 1}" if found else f"{name}, version 2"


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """An id like ``wanted`` that nothing has yet.

    >>> free_id("gate", ["gate", "gate-2"])
    'gate-3'
    """
    known = set(taken)
    if wanted not in known:
        return wanted
    return next(f"{wanted}-{n}" for n in range(2, len(known) + 3) if f"{wanted}-{n}" not in known)
