"""What an order could be otherwise: the questions that are made of a plan, what their answers come to, and
how they are asked, watched, stopped and put away.
"""

import pytest
from fastapi import FastAPI
from starlette.testclient import TestClient

from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.api.routes import what_ifs as routes
from venzo.core.edits import ChangeStock, SetQuantity, SetSetup
from venzo.core.nesting.questions import answer
from venzo.core.snags import BadInput
from venzo.core.yields.costing import CostRules
from venzo.desk import rack
from venzo.desk.asking import MOST, WhatIfs
from venzo.desk.rack import NewLot
from venzo.desk.what_ifs import Breaks, OneMore, OutOfRack, Spoilt, WhichSheets, on_machines, outcome, pose
from venzo.desk.yields import job_use
from venzo.store.store import NotFound
from venzo.work.executor import Task

pytestmark = pytest.mark.usefixtures("short_steps")


class Now:
    """Answers at once, or never: ``waits`` are left as they are until they are stopped."""

    def __init__(self, waits=False):
        self.waits, self.closed = waits, False

    def submit(self, asked):
        task = Task(1, asked)
        if not self.waits:
            try:
                task.end(answer(asked.model_copy(update={"steps": 3, "seconds": None})))
            except BadInput as e:
                task.end(None, str(e))
        return task

    def stop(self, task):
        task.end(answer(task.asked.model_copy(update={"steps": 1, "seconds": None}), lambda: True))

    def close(self):
        self.closed = True


@pytest.fixture
def trial(store):
    """Twelve squares of 150 on sheets of 620 x 420: six to a sheet, so two sheets."""
    t = TrialJob(store, (rect(150, 150), [(20, 20)]), sheet=(620, 420), screwed=False)
    t.do(SetQuantity(part=t.part(), order="order-1", quantity=10))
    stock = t.setup.stock[0]
    t.do(ChangeStock(setup="main", stock=stock.id, fields={"quantity": 4, "price": 12.0}))
    return t


def asked(trial, what, steps=4):
    posed = pose(trial.store, trial.plan, "main", what, 30.0, steps)
    return posed, outcome(posed, [answer(q) for q in posed.asked])


def test_the_curve_says_up_to_how_many_cost_the_same(trial):
    _posed, found = asked(trial, OneMore(part=trial.part(), last=14))
    assert [(q.quantity, q.sheets, q.cost) for q in found.curve] == [
        *((n, 2, 24.0) for n in (10, 11, 12)),
        (13, 3, 36.0),
        (14, 3, 36.0),
    ]
    assert found.says == "up to 12 take no more material than 10; number 13 takes 12.00 of material more"


def test_the_cheapest_sheets_are_those_of_the_market_list(trial):
    library = trial.store
    small = {**trial.setup.stock[0].model_dump(mode="json"), "material": "birch-ply", "price": 13.0}
    library.put_library("stock", {**small, "id": "long", "name": "long", "width": 940, "height": 420})
    posed, found = asked(trial, WhichSheets())
    assert "long" in {s.id for s in posed.kinds} and "own" not in {s.id for s in posed.kinds}
    assert found.lines[0].counts == {"long": 1} and found.lines[0].material == 13.0, "ten fit on one"
    assert found.bound == 13.0 and len(found.layout) == 10
    assert found.says == "buy 1 x long"


def test_remnants_are_held_against_new_sheets(trial):
    fields = {"material": "birch-ply", "width": 620, "height": 210, "nominal": 17.6, "remnant": True}
    with pytest.raises(BadInput, match="no remnant of it about as thick"):
        for s in rack.standing(trial.store).values():
            rack.do(trial.store, s.lot.id, rack.ScrapIt(count=s.on_hand))
        asked(trial, OutOfRack())
    rack.receive(trial.store, NewLot(**fields, count=2, price=4.0, margin=5))
    _posed, found = asked(trial, OutOfRack(), 8)
    new, old = found.lines
    assert (new.sheets, new.material) == (2, 24.0) and old.material == pytest.approx(20.0)
    assert found.says == "with remnants at what they are worth: 4.00 of material less"


def test_sets_share_the_set_up_and_the_rest_grows_with_them(trial):
    rules = trial.setup.rules.model_copy(
        update={"costs": CostRules(labour_per_hour=60, setup_minutes=30, sheet_minutes=5, spoilt_share=0.0)}
    )
    cutters = tuple(c.model_copy(update={"price": 40.0, "life": 1000.0}) for c in trial.setup.cutters)
    machine = trial.setup.machine.model_copy(update={"rate_per_hour": 36.0})
    trial.do(SetSetup(setup="main", rules=rules, cutters=cutters, machine=machine))
    _posed, found = asked(trial, Breaks(times=(1, 3)))
    by = {line.of: line.sum for line in job_use(trial.store, trial.plan).setups[0].cost.lines}
    one, three = found.lines
    grows = by["machine"] + by["cutters"] + by["by hand"]
    assert (one.sheets, three.sheets) == (2, 5)
    assert one.total == pytest.approx(24 + 30 + 2 * 5 + grows) and one.each == one.total
    assert three.total == pytest.approx(60 + 30 + 5 * 5 + 3 * grows)
    assert three.each == pytest.approx(three.total / 3)
    trial.do(SetQuantity(part=trial.part(), order="order-1", quantity=30))
    with pytest.raises(BadInput, match="30000 pieces, more than the limit of 20000"):
        pose(trial.store, trial.plan, "main", Breaks(times=(1, 1000)), 1.0)


def test_enough_where_one_in_five_fails(trial):
    posed, found = asked(trial, Spoilt(one_in=5))
    assert posed.title == "enough where 1 in 5 fails: 3 pieces more"  # 10 / (1 - 1/5) = 12.5
    assert [x.sheets for x in found.lines] == [2, 3]
    assert found.says == "with 3 pieces to spare: 12.00 of material more"


def test_without_prices_sheets_are_told_and_no_sum(trial):
    trial.do(ChangeStock(setup="main", stock="own", fields={"price": None}))
    trial.do(SetSetup(setup="main", material=trial.setup.material.model_copy(update={"price_m2": 0.0})))
    _posed, found = asked(trial, Spoilt(one_in=5))
    assert all(x.material is None for x in found.lines)
    assert found.says == "with 3 pieces to spare: 1 sheet more"


def test_questions_that_cannot_be_asked_are_refused_in_words(trial):
    for what, fault, words in (
        (OneMore(part="none", last=20), NotFound, "no part 'none'"),
        (OneMore(part=trial.part(), last=3), BadInput, "10 are wanted now"),
        (OneMore(part=trial.part(), last=5000), BadInput, "more than the limit of 200"),
    ):
        with pytest.raises(fault, match=words):
            pose(trial.store, trial.plan, "main", what, 1.0)
    with pytest.raises(NotFound, match="no setup"):
        pose(trial.store, trial.plan, "other", WhichSheets(), 1.0)


def test_the_same_order_on_other_machines(trial):
    found = on_machines(trial.store, trial.plan, "main")
    assert found[0].now and found[0].machine == trial.setup.machine.id
    assert found[0].seconds == pytest.approx(trial.derived.yields.seconds)
    assert {m.machine for m in found} == {m["id"] for m in trial.store.library("machine")}
    assert all(m.seconds > 0 or m.stops for m in found)


def questions_over(store, executor):
    app = FastAPI()
    app.include_router(routes.routes(store, WhatIfs(lambda: executor)))
    return TestClient(app, base_url="http://testserver", raise_server_exceptions=True)


def test_asked_watched_and_put_away(trial):
    web = questions_over(trial.store, Now())
    at = f"/api/jobs/{trial.job}/what-ifs"
    made = web.post(at, json={"setup": "main", "what": {"kind": "spoilt", "one_in": 5}}).json()
    assert made["state"] == "done" and made["outcome"]["lines"] and not made["outdated"]
    trial.do(SetQuantity(part=trial.part(), order="order-1", quantity=11))
    (now,) = web.get(f"{at}?setup=main").json()
    assert now["outdated"], "the order is another since"
    assert web.delete(f"{at}/{now['id']}").json() == []
    with pytest.raises(NotFound, match="ask again"):
        web.post(f"{at}/{now['id']}/stop")


def test_what_waits_is_asked_once_and_stops_with_the_best_there_is(trial):
    executor = Now(waits=True)
    asks = WhatIfs(lambda: executor)
    posed = pose(trial.store, trial.plan, "main", Spoilt(one_in=5), 1.0)
    first = asks.ask(trial.job, "spoilt", posed, "x")
    assert asks.ask(trial.job, "spoilt", posed, "x") is first and not first.over and first.outcome() is None
    for n in range(2, MOST + 1):
        other = pose(trial.store, trial.plan, "main", Spoilt(one_in=5 + n), 1.0)
        asks.ask(trial.job, "spoilt", other, "x")
    with pytest.raises(BadInput, match="wait already"):
        asks.ask(trial.job, "spoilt", pose(trial.store, trial.plan, "main", Spoilt(one_in=99), 1.0), "x")
    asks.stop(first)
    assert first.over and first.state == "stopped"
    asks.close()
    assert executor.closed


def test_a_cluster_that_is_away_is_told_and_the_rest_works(trial, monkeypatch):
    monkeypatch.setenv("VENZO_DASK", "tcp://127.0.0.1:9")
    monkeypatch.setattr("venzo.work.executor.CONNECT", 0.5)
    with web_over(trial.store) as web:
        answer = web.post(
            f"/api/jobs/{trial.job}/what-ifs", json={"setup": "main", "what": {"kind": "spoilt"}}
        )
        assert answer.status_code == 422 and "no scheduler answers there" in answer.json()["detail"]
        assert web.get(f"/api/jobs/{trial.job}").status_code == 200
