"""Which remedies are tried, and in what order, when there are more than there is time for."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from venzo.core.edits.job import RenameJob
from venzo.core.plan import Plan
from venzo.core.snags import Remedy, look, note, stop
from venzo.desk import remedies
from venzo.desk.remedies import Trial


def _proposals(label: str, many: int) -> list[Remedy]:
    return [
        Remedy(label=f"{label} {k}", command=RenameJob(name=f"{label} {k}").model_dump(mode="json"))
        for k in range(many)
    ]


@pytest.fixture
def proposed(monkeypatch):
    """A derived job that proposes 30 remedies a severity, and what of them was tried, in order."""
    tried: list[str] = []

    def trial(_store, _plan, _derived, _snag, remedy):
        tried.append(remedy.label)
        return Trial(True)

    monkeypatch.setattr(remedies, "try_remedy", trial)
    snags = (
        note("t.note", "a note", {}, *_proposals("note", 30)),
        look("t.look", "a look", {}, *_proposals("look", 30)),
        stop("t.stop", "a stop", {}, *_proposals("stop", 30)),
    )
    return {"main": SimpleNamespace(snags=snags)}, tried


def test_what_stops_a_job_is_tried_first_and_sixty_are_tried_however_often_it_is_read(proposed, request):
    derived, tried = proposed
    plan = Plan(id=request.node.name[:60], name="n")
    for _ in range(3):
        offered, complete = remedies.offered(None, plan, derived, 60.0)
    assert complete
    assert tried == [f"stop {k}" for k in range(30)] + [f"look {k}" for k in range(30)]
    assert [len(s.remedies) for s in offered["main"]] == [0, 30, 30], "in the snags' own order"


def test_only_what_is_known_is_offered_where_no_time_is_given(proposed, request):
    derived, tried = proposed
    plan = Plan(id=request.node.name[:60], name="n")
    offered, complete = remedies.offered(None, plan, derived, 0.0)
    assert not complete and not tried and not any(s.remedies for s in offered["main"])


def test_trying_ends_when_a_plan_has_had_its_seconds(proposed, request, monkeypatch):
    derived, tried = proposed
    plan = Plan(id=request.node.name[:60], name="n")
    monkeypatch.setattr(remedies, "SPENT", 0.0)
    offered, complete = remedies.offered(None, plan, derived, 60.0)
    assert complete and not tried and not any(s.remedies for s in offered["main"])
