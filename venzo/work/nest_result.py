"""What becomes of a search's result: the better layout is taken, and both are offered where a person asked
for one from scratch.
"""

from __future__ import annotations

from venzo.core.edits import AcceptNest, KeepLayout
from venzo.core.nesting.layout import accepted, placement
from venzo.core.nesting.problem import VERSION, NestProblem, NestResult, Placement
from venzo.core.nesting.verify import faults
from venzo.core.nesting.worth import Worth
from venzo.core.plan import AcceptedNest, Setup
from venzo.core.snags import BadInput
from venzo.store.store import Revision, Store


def legal_now(problem: NestProblem, setup: Setup) -> list[Placement]:
    """The pieces of the layout there is, if they still make a layout of this problem; none where they do
    not.
    """
    there = [placement(q) for q in setup.nest.pieces] if setup.nest else []
    known = all(
        p.part in {x.id for x in problem.parts} and p.sheet in {x.id for x in problem.sheets} for p in there
    )
    return there if there and known and not faults(problem, there) else []


def settle_nest(
    store: Store, now: Revision, setup: Setup, problem: NestProblem, best: NestResult, afresh: bool
) -> tuple[str, str]:
    """Accept a result, or keep it beside a better layout; the search's state and what there is to say.

    Raises:
        Conflict: the layout was changed in this moment.
    """
    job, new, worth = now.plan.id, accepted(best, problem, VERSION), Worth(problem)
    there = legal_now(problem, setup)
    says = ""
    if there and setup.nest is not None:
        old_yield, new_yield = worth.material_yield(worth.uses(there)), worth.material_yield(best.sheets)
        if worth.key(there) < worth.key(best.placements):
            words = f"the layout there was is better ({old_yield:.1%} against {new_yield:.1%}) and stays"
            return "kept", words + (
                _keep(store, now, setup, f"started afresh, {new_yield:.1%}", new) if afresh else ""
            )
        if afresh:
            says = f"the new layout is better ({new_yield:.1%} against {old_yield:.1%})" + _keep(
                store, now, setup, f"before starting afresh, {old_yield:.1%}", setup.nest
            )
    store.apply(job, now.number, AcceptNest(setup=setup.id, nest=new))
    return "accepted", says


def _keep(store: Store, now: Revision, setup: Setup, name: str, nest: AcceptedNest) -> str:
    """Lay a layout aside if there is room for it; what to say of it."""
    taken = {k.id for k in setup.kept}
    name_id = next(f"kept-{n}" for n in range(1, 1000) if f"kept-{n}" not in taken)
    try:
        store.apply(now.plan.id, now.number, KeepLayout(setup=setup.id, id=name_id, name=name, nest=nest))
    except BadInput as e:
        return f"; the other could not be kept beside it: {e}"
    return "; the other is kept beside it"
