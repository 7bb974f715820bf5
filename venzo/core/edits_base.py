"""What every command on the plan stands on: finding things, changing them, saying what is wrong in one line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from venzo.core.model import Value
from venzo.core.plan import Part, Plan, Setup
from venzo.core.snags import BadInput


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


def plain_error(e: ValidationError) -> str:
    """The first fault of a failed validation in one line."""
    first = e.errors()[0]
    where = " ".join(str(p) for p in first["loc"] if not isinstance(p, int))
    said = first.get("input")
    given = f" ({said!r} was given)" if isinstance(said, int | float | str) and len(str(said)) < 40 else ""
    return f"{where}: {first['msg'].removeprefix('Value error, ')}{given}".strip(": ")
