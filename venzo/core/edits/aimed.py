"""Where a command goes that is given on a turn of stock which has most of what it is from another: a step
that is changed while the first face is up once more is the step with which that face was roughed.
"""

from __future__ import annotations

from typing import Protocol, Self, TypeVar, runtime_checkable

from venzo.core.faces.seen import OWN_WHEN_TURNED_BACK, face_before, first_face, seen
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput


@runtime_checkable
class OnSetup(Protocol):
    """A command on a setup."""

    setup: str

    def apply(self, plan: Plan) -> Plan: ...

    def model_copy(self, *, update: dict[str, str]) -> Self: ...


class OnPlan(Protocol):
    """A command on a plan."""

    def apply(self, plan: Plan) -> Plan: ...


Given = TypeVar("Given", bound=OnPlan)


def aimed(plan: Plan, command: Given) -> Given:
    """The command, on the first face where it changes what the first face has once more."""
    if not isinstance(command, OnSetup) or not command.setup:
        return command
    asked = plan.setup(command.setup)
    if asked is None or asked.turned_back is None:
        return command
    try:
        first = first_face(plan, face_before(plan, asked))
        whole, now = seen(plan, asked)
        after = command.apply(whole).setup(asked.id)
    except BadInput:
        return command  # its own words say why it cannot be
    if after is None or all(getattr(now, k) == getattr(after, k) for k in SHARED):
        return command
    return command.model_copy(update={"setup": first.id})


SHARED = tuple(k for k in Setup.model_fields if k not in OWN_WHEN_TURNED_BACK)
"""What a first face has once more of itself."""


def applied_to(plan: Plan, command: OnPlan) -> Plan:
    """The plan with a command applied where it belongs.

    Raises:
        BadInput: as the command's.
    """
    return aimed(plan, command).apply(plan)
