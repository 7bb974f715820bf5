"""What every command on the plan stands on: finding things, changing them, saying what is wrong in one
line.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from venzo.core.holding.vacuum import zones_under
from venzo.core.model import Value
from venzo.core.plan import Part, Plan, Setup
from venzo.core.rules.propose import propose_operations
from venzo.core.snags import BadInput, plain_error
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Machine
from venzo.core.stock.sheet import Stock


def swapped(items: tuple, new: Any, key: Callable = lambda v: v.id) -> tuple:
    """``items`` with the one of the same key replaced, or ``new`` added at the end."""
    if any(key(i) == key(new) for i in items):
        return tuple(new if key(i) == key(new) else i for i in items)
    return (*items, new)


def setup_of(plan: Plan, setup_id: str) -> Setup:
    """The setup with an id; BadInput where there is none."""
    found = plan.setup(setup_id)
    if found is None:
        raise BadInput(f"the plan has no setup {setup_id!r}; it may have been removed")
    return found


def laid_setup(plan: Plan, setup_id: str) -> Setup:
    """The setup with an id, which has stock and a layout of its own.

    Raises:
        BadInput: there is none, or it is another turn of one, from which both follow.
    """
    found = setup_of(plan, setup_id)
    if not found.follows:
        return found
    over = plan.setup(found.turned_back.after) if found.turned_back else found
    first = plan.setup(over.other_face.of) if over and over.other_face else None
    raise BadInput(
        f"{found.name} has no stock and no layout of its own: it is {first.name if first else 'a setup'}"
        " turned over; change that one"
    )


def part_of(plan: Plan, part_id: str) -> Part:
    """The part with an id; BadInput where there is none."""
    found = plan.part(part_id)
    if found is None:
        raise BadInput(f"the plan has no part {part_id!r}; it may have been removed")
    return found


def with_fields(plan: Plan, **fields: Any) -> Plan:
    """The plan with fields changed."""
    return plan.model_copy(update=fields)


def with_setup(plan: Plan, setup: Setup, **fields: Any) -> Plan:
    """The plan with fields of a setup changed, validated."""
    try:
        new = Setup.model_validate({**setup.model_dump(), **{k: _dump(v) for k, v in fields.items()}})
    except ValidationError as e:
        raise BadInput(plain_error(e)) from e
    return with_fields(plan, setups=swapped(plan.setups, new))


def _dump(v: Any) -> Any:
    if isinstance(v, Value):
        return v.model_dump()
    return [_dump(x) for x in v] if isinstance(v, list | tuple) else v


def default_zones(machine: Machine, stock: Stock, lies: Lying) -> tuple[str, ...]:
    """Vacuum zones that are on where nobody has said otherwise: those that the sheet covers."""
    return zones_under([(z.id, z.rect) for z in machine.zones], lies.bounds(stock.width, stock.height))


def followed(before: Setup, after: Setup) -> Setup:
    """What was never chosen follows a change of sheet, place or machine: the zones that are on, and the
    operations proposed.
    """
    if not after.stock or not before.stock:
        return after
    if before.zones_on == default_zones(before.machine, before.stock[0], before.lying):
        after = after.model_copy(
            update={"zones_on": default_zones(after.machine, after.stock[0], after.lying)}
        )
    if (
        after.machine.head is None
        and before.as_proposed
        and after.stock[0].thickness != before.stock[0].thickness
    ):
        try:
            after = after.with_proposal(
                propose_operations(
                    after.cutters, after.material, after.stock[0].thickness, after.rules, after.machine
                )
            )
        except BadInput:
            return after
    return after
