"""What one more part costs and which sheets are cheapest: equal to brute force where that can be had, never
falling with the quantity.
"""

import itertools
import json
import math
import random

import pytest
from typer.testing import CliRunner

from benchmarks.check_layout import check
from benchmarks.sheet_sets import SETS
from tests.conftest import MANY
from venzo.cli import app, nesting
from venzo.core.nesting.buying import as_many_as_wanted, by_steps, cheapest, cost_bound, order_curve
from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.worth import Worth
from venzo.core.snags import BadInput

pytestmark = pytest.mark.usefixtures("short_steps")

ELL = [[0, 0], [280, 0], [280, 70], [70, 70], [70, 240], [0, 240]]


def square(side, quantity=1, **more):
    return {
        "id": "sq",
        "outline": [[0, 0], [side, 0], [side, side], [0, side]],
        "quantity": quantity,
        "rotations": [0],
        **more,
    }


def sheet(name, width, height, cost, quantity):
    return {"id": name, "width": width, "height": height, "cost": cost, "quantity": quantity}


def holds(width, height, side, spacing):
    """Equal squares on a sheet: rows and columns (no square fits in what they leave, both sides being less
    than one).
    """
    return math.floor((width + spacing) / (side + spacing)) * math.floor(
        (height + spacing) / (side + spacing)
    )


def least(kinds, side, spacing, wanted):
    """The cheapest mix of sheets by trying all: infinite where all on hand are too few."""
    best = math.inf
    for counts in itertools.product(*(range(k["quantity"] + 1) for k in kinds)):
        room = sum(
            n * holds(k["width"], k["height"], side, spacing) for n, k in zip(counts, kinds, strict=True)
        )
        if room >= wanted:
            best = min(best, sum(n * k["cost"] for n, k in zip(counts, kinds, strict=True)))
    return best


@pytest.mark.parametrize("seed", range(4 if MANY == 1 else 12 * MANY))
def test_the_curve_and_the_cheapest_mix_are_those_of_brute_force(seed):
    r = random.Random(seed)
    side, spacing = r.randint(30, 60), r.choice([0, 5])
    sizes = [
        (r.randint(70, 190), r.randint(70, 130), r.randint(3, 20), r.randint(1, 3))
        for _ in range(r.randint(1, 2))
    ]
    kinds = [sheet(f"k{i}", w, h, cost, n) for i, (w, h, cost, n) in enumerate(sizes)]
    problem = NestProblem.model_validate({"sheets": kinds, "parts": [square(side)], "spacing": spacing})
    room = sum(k["quantity"] * holds(k["width"], k["height"], side, spacing) for k in kinds)
    if room < 2:
        pytest.skip("nothing to choose")
    curve = order_curve(problem, "sq", range(1, min(room, 12) + 1), by_steps(14))
    assert [o.cost for o in curve] == [least(kinds, side, spacing, o.quantity) for o in curve]
    for o in curve:
        own = problem.model_dump(by_alias=True)
        own["parts"][0]["quantity"] = o.quantity
        laid = {"placements": [pl.model_dump(by_alias=True) for pl in o.placements], "unplaced": []}
        assert check(own, laid)[0] == [] and len(o.placements) == o.quantity and not o.unplaced
    wanted = problem.model_copy(
        update={"parts": [problem.parts[0].model_copy(update={"quantity": min(room, 9)})]}
    )
    bought = cheapest(wanted, by_steps(14))
    assert bought.cost == least(kinds, side, spacing, min(room, 9)) >= bought.bound - 1e-9
    assert sum(bought.counts[k["id"]] * k["cost"] for k in kinds if k["id"] in bought.counts) == bought.cost


def test_cost_and_sheets_never_fall_and_a_rise_is_where_a_sheet_is_full():
    parts = [
        {"id": "ell", "outline": ELL, "quantity": 1, "rotations": [0, 90, 180, 270]},
        square(90, 5),
    ]
    problem = NestProblem.model_validate(
        {"sheets": [sheet("s", 760, 500, 30, 9)], "parts": parts, "spacing": 8}
    )
    curve = order_curve(problem, "ell", range(5, 11), by_steps(4))
    assert [o.quantity for o in curve] == list(range(5, 11))
    assert all(a.cost <= b.cost and a.sheets <= b.sheets for a, b in itertools.pairwise(curve))
    assert all(o.cost == 30 * o.sheets for o in curve) and curve[-1].sheets > curve[0].sheets
    few = range(6, 8)
    assert order_curve(problem, "ell", few, by_steps(3)) == order_curve(problem, "ell", few, by_steps(3))


def test_more_than_the_sheets_on_hand_hold_is_said():
    problem = NestProblem.model_validate({"sheets": [sheet("s", 100, 100, 5, 2)], "parts": [square(45)]})
    curve = order_curve(problem, "sq", range(7, 11), by_steps(4))
    assert "no room left" in curve[-1].why and not curve[0].why
    assert [(o.sheets, o.cost, o.unplaced) for o in curve] == [(2, 10, 0), (2, 10, 0), (2, 10, 1), (2, 10, 2)]


def test_locked_pieces_stay_and_set_the_least_quantity():
    lock = {"part": "sq", "copy": 2, "sheet": "s", "sheet_copy": 1, "x": 50, "y": 50}
    problem = NestProblem.model_validate(
        {"sheets": [sheet("s", 100, 100, 5, 4)], "parts": [square(45, 3)], "locked": [lock]}
    )
    with pytest.raises(BadInput, match="piece 3 is locked, so its least quantity is 3"):
        order_curve(problem, "sq", range(2, 5), by_steps(2))
    for o in order_curve(problem, "sq", range(3, 8), by_steps(4)):
        assert any((pl.copy_, pl.sheet_copy, pl.x, pl.y) == (2, 1, 50, 50) for pl in o.placements)
        assert sorted(pl.copy_ for pl in o.placements) == list(range(o.quantity))


@pytest.mark.parametrize(
    ("part", "quantities", "words"),
    [
        ("nut", range(1, 3), "its parts are sq"),
        ("sq", range(0, 3), "at least 1"),
        ("sq", range(3, 3), "at least 1"),
        ("sq", range(1, 400), "more than the limit of 200"),
        ("sq", range(19_990, 20_002), "more than the limit of 20000"),
    ],
)
def test_impossible_quantities_are_refused_by_name(part, quantities, words):
    problem = NestProblem.model_validate({"sheets": [sheet("s", 100, 100, 5, 2)], "parts": [square(45)]})
    with pytest.raises(BadInput, match=words):
        order_curve(problem, part, quantities, by_steps(1))


def test_no_choice_of_sheets_beats_the_bound():
    problem = NestProblem.model_validate(SETS["priced_panels"]())
    bound = cost_bound(problem, Worth(problem))
    assert 150 < bound <= 216
    none = problem.model_copy(
        update={"sheets": [s.model_copy(update={"quantity": 1}) for s in problem.sheets[:1]]}
    )
    assert math.isinf(cost_bound(none, Worth(none)))


def test_a_bound_over_many_kinds_priced_by_area_is_had_at_once():
    """Every mix is as good as any other by area: millions of them, and the area alone is the bound."""
    kinds = [sheet(f"k{k}", 900 + 37 * k, 800, (900 + 37 * k) * 8.0, 400) for k in range(8)]
    problem = NestProblem.model_validate({"sheets": kinds, "parts": [square(300, 1500)]})
    bound = cost_bound(problem, Worth(problem))
    area = 1500 * 300 * 300 / 100
    assert area * (1 - 1e-9) <= bound <= area * 1.01


def test_kinds_without_a_quantity_can_be_had_as_often_as_wanted():
    problem = NestProblem.model_validate({"sheets": [sheet("s", 100, 100, 5, 1)], "parts": [square(45, 9)]})
    assert cheapest(problem, by_steps(3)).unplaced == 5
    assert cheapest(as_many_as_wanted(problem, ["s"]), by_steps(3)).counts == {"s": 3}


# -- the commands -----------------------------------------------------------------


def called(tmp_path, problem, *words):
    path = tmp_path / "p.json"
    path.write_text(json.dumps(problem))
    return CliRunner().invoke(app, [words[0], str(path), *words[1:]])


def test_the_order_command_writes_the_contracts_document(tmp_path):
    problem = {"sheets": [sheet("s", 100, 100, 5, 2)], "parts": [square(45)], "spacing": 0, "steps": 3}
    done = called(tmp_path, problem, "order", "--part", "sq", "--from", "3", "--to", "6", "--json")
    assert done.exit_code == 0
    assert json.loads(done.stdout) == {
        "curve": [{"quantity": q, "sheets": n, "cost": 5.0 * n} for q, n in [(3, 1), (4, 1), (5, 2), (6, 2)]]
    }
    timed = called(
        tmp_path, problem, "order", "--part", "sq", "--from", "3", "--to", "6", "--seconds", "600", "--json"
    )
    assert timed.stdout == done.stdout  # steps hold beside a time that is never reached
    short = called(tmp_path, problem, "order", "--part", "sq", "--from", "8", "--to", "9", "--json")
    assert short.exit_code == 1 and len(json.loads(short.stdout)["curve"]) == 2
    assert "from 9 on there is no place for all, 1 piece left: no room left on the sheets" in short.stderr
    wrong = called(tmp_path, problem, "order", "--part", "nut", "--from", "1", "--to", "2")
    assert isinstance(wrong.exception, BadInput) and "its parts are sq" in str(wrong.exception)


def test_no_first_layout_is_cut_short_while_there_is_time(monkeypatch):
    """A search that has a hundredth of the time: its first step may take half of all, its second no more."""
    clock = [1000.0]
    monkeypatch.setattr(nesting.time, "time", lambda: clock[0])
    asked = []

    class Slow:
        steps = 0

        def step(self, stop, progress):
            clock[0] = 1050.0 + self.steps
            asked.append(stop())
            self.steps += 1
            return True

    nesting._within(1000.0, 100.0, None)(Slow(), 99)
    assert asked == [False]
    clock[0] = 1000.0
    nesting._within(1000.0, 40.0, None)(Slow(), 99)
    assert asked == [False, True]  # the whole time is over


def test_the_cheapest_command_writes_the_contracts_document(tmp_path):
    kind = sheet("big", 200, 100, 9, 1) | {"margin": 0}
    small = {k: v for k, v in sheet("small", 100, 100, 5, 1).items() if k != "quantity"}
    problem = {"sheets": [kind, small], "parts": [square(45, 13)], "spacing": 0, "steps": 12}
    done = called(tmp_path, problem, "cheapest", "--json")
    found = json.loads(done.stdout)
    assert done.exit_code == 0 and set(found) == {"buy", "cost", "bound", "placements"}
    assert found["buy"] == [{"sheet": "big", "count": 1}, {"sheet": "small", "count": 2}]
    assert found["cost"] == 19 and len(found["placements"]) == 13 and found["bound"] <= 19
    no_price = {**problem, "sheets": [{k: v for k, v in small.items() if k != "cost"}]}
    wrong = called(tmp_path, no_price, "cheapest")
    assert isinstance(wrong.exception, BadInput) and "give each kind its price" in str(wrong.exception)
