"""Sheets that differ in cost: what the whole costs is what counts, in whatever order they are listed."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from venzo.core.nesting.engine import Search
from venzo.core.nesting.improve import Improve
from venzo.core.nesting.mixes import Mixes, cheaper
from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.verify import faults
from venzo.core.nesting.worth import Worth

pytestmark = pytest.mark.usefixtures("short_steps")

BRACKET = [[0, 0], [300, 0], [300, 70], [70, 70], [70, 240], [0, 240]]
"""Not a rectangle: those go another way first."""


def sheet(name, width, height, cost, quantity=1, **more):
    return {"id": name, "width": width, "height": height, "cost": cost, "quantity": quantity, **more}


def part(outline, quantity, turns=(0, 90, 180, 270)):
    return {"id": "p", "outline": outline, "quantity": quantity, "rotations": list(turns)}


def cost_of(sheets, parts, steps, spacing=5):
    problem = NestProblem.model_validate({"sheets": sheets, "parts": parts, "spacing": spacing})
    search = Search(problem)
    while search.steps < steps and search.step():
        pass
    best = search.best
    assert best is not None and faults(problem, best.placements) == []
    price = {s["id"]: s["cost"] for s in sheets}
    return sum(price[u.sheet] for u in best.sheets), sum(u.quantity for u in best.unplaced), best


def test_one_piece_goes_on_the_cheapest_sheet_that_takes_it():
    # by area the dear one is the cheaper
    sheets = [sheet("large", 2440, 1220, 65), sheet("small", 320, 260, 60), sheet("tiny", 100, 100, 1)]
    for listed in itertools.permutations(sheets):
        assert cost_of(list(listed), [part(BRACKET, 1)], 12)[:2] == (60, 0)


def test_a_cheap_remnant_that_makes_the_whole_dearer_is_left_where_it_is():
    """Ten brackets go on the two middle sheets for 80; with the remnant, which takes three of them for 20,
    seven are left, for which a full sheet of 100 is opened."""
    sheets = [
        sheet("full", 1300, 700, 100, 2),
        sheet("middle", 700, 620, 40, 2),
        sheet("remnant", 640, 330, 20),
    ]
    cost, left, best = cost_of(sheets, [part(BRACKET, 8)], 60)
    assert left == 0 and cost <= 80
    assert {u.sheet for u in best.sheets} == {"middle"}


@pytest.mark.long
@settings(max_examples=4)
@given(st.permutations(range(3)), st.integers(3, 9))
def test_the_order_in_the_file_changes_nothing(order, count):
    sheets = [
        sheet("a", 900, 600, 50, 2),
        sheet("b", 640, 500, 22, 2),
        sheet("c", 600, 420, 21, outline=[[0, 0], [600, 0], [600, 200], [300, 420], [0, 420]]),
    ]
    one = cost_of(sheets, [part(BRACKET, count)], 10)
    other = cost_of([sheets[i] for i in order], [part(BRACKET, count)], 10)
    assert one[0] == other[0] and one[2].placements == other[2].placements


@settings(max_examples=6)
@given(
    st.lists(st.tuples(st.integers(1, 3), st.integers(10, 90)), min_size=2, max_size=3),
    st.integers(1, 6),
)
def test_squares_cost_no_more_than_the_cheapest_choice_of_all(kinds, count):
    """Brute force: sheets that take one, two or three squares with a notch, at any price."""
    square = [[0, 0], [100, 0], [100, 60], [90, 60], [90, 100], [0, 100]]
    sheets = [
        sheet(f"s{k}", 105 * holds + 30, 115, price, quantity=3) for k, (holds, price) in enumerate(kinds)
    ]
    cheapest = min(
        (
            sum(n * kinds[k][1] for k, n in enumerate(counts))
            for counts in itertools.product(range(4), repeat=len(kinds))
            if sum(n * kinds[k][0] for k, n in enumerate(counts)) >= count
        ),
        default=None,
    )
    cost, left, _best = cost_of(sheets, [part(square, count, turns=(0,))], 30)
    if cheapest is not None:
        assert (cost, left) == (cheapest, 0)


def test_a_group_is_never_parted_to_be_cheaper():
    """Two brackets of a group go on one sheet of 60, though two of 20 would take one each."""
    sheets = [sheet("both", 640, 520, 60), sheet("one", 330, 260, 20, 2)]
    pair = {**part(BRACKET, 2), "group": "pair"}
    cost, left, best = cost_of(sheets, [pair], 24)
    assert (cost, left) == (60, 0) and {u.sheet for u in best.sheets} == {"both"}
    assert cost_of(sheets, [part(BRACKET, 2)], 24)[:2] == (40, 0)


def test_of_many_kinds_and_sheets_only_mixes_with_room_are_listed():
    """Eight kinds of a hundred each: the list is not used up by mixes that are far too many or too few."""
    sheets = [sheet(f"s{k}", 700 + 90 * k, 600, 40 + 7 * k, 100) for k in range(8)]
    problem = NestProblem.model_validate({"sheets": sheets, "parts": [part(BRACKET, 30)], "spacing": 5})
    worth = Worth(problem)
    start = Search(problem)
    start.step()
    mixes = Mixes(problem, worth, 0, Improve(problem, worth, start.best.placements, 0).forms)
    listed = cheaper(mixes.problem, mixes._rooms, mixes.need, start.key.cost)
    assert listed and all(m.cost < start.key.cost and m.share <= 1 for m in listed)
    assert len({m.cost for m in listed}) > 3


def test_mixes_are_cheaper_and_have_room():
    sheets = [sheet("a", 900, 600, 50, 4), sheet("b", 640, 500, 22, 3)]
    problem = NestProblem.model_validate({"sheets": sheets, "parts": [part(BRACKET, 14)], "spacing": 5})
    worth = Worth(problem)
    start = Search(problem)
    start.step()
    forms = Improve(problem, worth, start.best.placements, 0).forms
    mixes = Mixes(problem, worth, 0, forms)
    listed = cheaper(mixes.problem, mixes._rooms, mixes.need, 110.0)
    assert listed and all(m.cost < 110 and 0 < m.share <= 1 for m in listed)
    shares = [round(m.share, 3) for m in listed]
    assert shares == sorted(shares), "the roomiest first"
    assert not Mixes(problem.model_copy(update={"repeat": True}), worth, 0, forms).able
