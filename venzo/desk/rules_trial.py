"""What would change in a job if it took the shop's rules as they are now? Tried, not done."""

from __future__ import annotations

from venzo.core.derive import DerivedSetup, derive
from venzo.core.model import Document
from venzo.core.plan import Plan
from venzo.core.rules.house import HouseRules
from venzo.desk.compared import RevisionFigures, figures_of
from venzo.desk.jobs import followed
from venzo.desk.library import rules as house_rules
from venzo.store.store import Revision, Store

MOST_SAID = 20


class RulesTrial(Document):
    """A job as it is and as it would be. ``differ``: rules that are not as the job's, by name; ``gone`` and
    ``new``: what would no longer be said, and what would be.
    """

    job: str
    name: str
    differ: list[str]
    now: RevisionFigures
    then: RevisionFigures
    gone: list[str]
    new: list[str]


def rules_trial(store: Store, job: str) -> RulesTrial:
    """Plan a job with the shop's rules beside the rules it keeps; nothing is stored.

    Raises:
        NotFound: no such job.
    """
    revision = store.get(job)
    plan, rules = revision.plan, house_rules(store)
    other = _with(plan, rules)
    now = dict(followed(store, revision))
    then = derive(other, store.shapes, False)
    before, after = _said(now), _said(then)
    return RulesTrial(
        job=plan.id,
        name=plan.name,
        differ=_differ(plan, rules),
        now=figures_of(store, revision, now),
        then=figures_of(store, Revision(revision.number, other, revision.says, False, False), then),
        gone=[m for m in before if m not in after][:MOST_SAID],
        new=[m for m in after if m not in before][:MOST_SAID],
    )


def _with(plan: Plan, rules: HouseRules) -> Plan:
    setups = tuple(s.model_copy(update={"rules": rules}) for s in plan.setups)
    return plan.model_copy(update={"setups": setups})


def _differ(plan: Plan, rules: HouseRules) -> list[str]:
    names = [n for n in HouseRules.model_fields if n != "name"]
    return [n for n in names if any(getattr(s.rules, n) != getattr(rules, n) for s in plan.setups)]


def _said(derived: dict[str, DerivedSetup]) -> list[str]:
    return list(dict.fromkeys(s.message for d in derived.values() for s in d.snags if s.severity != "note"))
