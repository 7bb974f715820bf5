"""Big jobs: the same place sooner, tables given up and built again, several pieces at once, and a search that
goes back when the judge refuses.
"""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.check_layout import check
from benchmarks.nest_growth import twenty
from venzo.core.nesting import engine, improve
from venzo.core.nesting.arena import Arena
from venzo.core.nesting.engine import Search
from venzo.core.nesting.forms import make_forms
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.raster import Grid
from venzo.core.nesting.separate import overlaps
from venzo.core.nesting.verify import faults
from venzo.core.nesting.worth import Worth

pytestmark = pytest.mark.usefixtures("short_steps")

ELL = np.array([[0, 0], [60, 0], [60, 20], [20, 20], [20, 50], [0, 50.0]])


def box(x, y, w, h):
    return np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)


def first_by_trying(occupied, cells, most_x, most_y):
    """Leftmost, then lowest offset at which no cell of the shape is taken: every one tried."""
    for ix in range(most_x + 1):
        for iy in range(most_y + 1):
            if not occupied[cells[:, 0] + ix, cells[:, 1] + iy].any():
                return ix, iy
    return -1, -1


@given(
    st.lists(
        st.tuples(st.integers(0, 50), st.integers(0, 34), st.integers(1, 14), st.integers(1, 14)), max_size=9
    ),
    st.lists(st.tuples(st.integers(0, 5), st.integers(0, 8), st.integers(1, 9)), min_size=1, max_size=6),
)
def test_the_first_free_place_is_the_one_found_by_trying_all(taken, runs):
    """Columns without room enough are passed over at once; the answer is the same."""
    grid = Grid(60, 40, 1.0, 2)
    for x, y, w, h in taken:
        grid.fill([box(x, y, w, h)])
    columns = {c: (a, a + n) for c, a, n in runs}
    first = min(columns)
    pointer, lows, highs = [0], [], []
    for c in range(first, max(columns) + 1):
        if c in columns:
            lows.append(columns[c][0])
            highs.append(columns[c][1])
        pointer.append(len(lows))
    shape = (first, *(np.array(v, np.int32) for v in (pointer, lows, highs)))
    cells = np.array([(c + 2, y + 2) for c, (a, b) in columns.items() for y in range(a, b)])
    most_x, most_y = 60 - max(columns) - 1, 40 - max(highs)
    found = grid.fit(shape, 0, most_x, most_y)
    assert found == first_by_trying(grid.occupied.astype(bool), cells, most_x, most_y)


def test_tables_given_up_are_built_again_and_old_ones_still_serve_who_holds_them():
    part = {"id": "e", "outline": ELL.tolist(), "quantity": 2, "rotations": [0, 90, 180, 270]}
    sheet = {"id": "s", "width": 500, "height": 500}
    forms = make_forms(NestProblem.model_validate({"sheets": [sheet], "parts": [part], "spacing": 4}))
    wanted = Arena.tables(forms, [0], [])

    def depth(arena):
        arena.put(0, *forms.ways[0], 100.0, 100.0)
        arena.put(1, *forms.ways[1], 120.0, 110.0)
        return overlaps(0, arena.pose, arena.place, arena.depths, arena.reach, arena.address)

    forms.fields.ensure(wanted)
    old = Arena(forms, [0, 0], [], [(0, 0, 500, 500)])
    before = depth(old)
    forms.fields.forget()
    assert len(forms.fields.head) == 0 and depth(old) == before > 4
    assert depth(Arena(forms, [0, 0], [], [(0, 0, 500, 500)])) == 0  # nothing is known of any pair
    forms.fields.ensure(wanted)
    assert depth(Arena(forms, [0, 0], [], [(0, 0, 500, 500)])) == before


def nested(problem, steps, seed=1):
    search = Search(NestProblem.model_validate(problem), seed)
    while search.steps < steps and search.step():
        pass
    return search


@pytest.fixture
def few_tables(monkeypatch):
    """So few tables that one sheet's take nearly all of them."""
    monkeypatch.setattr(improve, "MOST_TABLES", 700)


def test_sheets_are_taken_in_hand_one_by_one_where_tables_are_few(few_tables):
    problem = twenty(120)
    problem["sheets"][0]["width"] = 900
    first, search = nested(problem, 4), nested(problem, 14)
    again = nested(problem, 14)
    assert search.improve.crowded and len(search.improve.forms.fields.head) <= 700
    assert check(problem, search.best.to_json())[0] == []
    assert search.key < first.key and search.best.placements == again.best.placements


def test_pressed_sheets_take_what_the_emptiest_has(monkeypatch):
    """Wedges with much air between them on three sheets and a few on a fourth, which comes to be needless."""
    wedge = {"id": "w", "outline": [[0, 0], [150, 0], [0, 120]], "quantity": 15, "rotations": [0, 180]}
    sheet = {"id": "s", "width": 900, "height": 130, "quantity": 9}
    problem = NestProblem.model_validate({"sheets": [sheet], "parts": [wedge], "spacing": 4})
    start = [
        Placement(part="w", copy=4 * s + k, sheet="s", sheet_copy=s, x=40 + 210 * k, y=5)
        for s in range(4)
        for k in range(4 if s < 3 else 3)
    ]
    worth = Worth(problem)
    monkeypatch.setattr(improve.Improve, "_movable", lambda self: False)  # nothing else brings pieces over
    search = improve.Improve(problem, worth, start, 1)
    for _ in range(12):
        search.step(lambda: False, None)
    laid = search.placements()
    assert not faults(problem, laid) and len({pl.sheet_copy for pl in laid}) == 3
    assert len({pl.copy_ for pl in laid}) == 15


def test_of_many_pieces_several_come_at_once():
    """Half a sheet stands empty: six discs of the emptied one come in a single try, and none is lost."""
    disc = {"id": "d", "outline": [[-20, 0, 1], [20, 0, 1]], "quantity": 24, "rotations": [0]}
    problem = NestProblem.model_validate(
        {"sheets": [{"id": "s", "width": 600, "height": 100, "quantity": 3}], "parts": [disc], "spacing": 4}
    )
    spots = [(22 + 46 * (k // 2), 26 + 48 * (k % 2)) for k in range(12)]
    start = [
        Placement(part="d", copy=12 * s + k, sheet="s", sheet_copy=s, x=x, y=y)
        for s in range(2)
        for k, (x, y) in enumerate(spots)
    ]
    search = improve.Improve(problem, Worth(problem), start, 1)
    for laid in search.laid_sheets:
        laid.appetite = 6
    came = []
    apply = search._apply
    search._apply = lambda task, done: (came.append(len(task.names)), apply(task, done))
    for _ in range(6):
        search._move(lambda: False)
    laid = search.placements()
    assert max(came) == 6 and not faults(problem, laid)
    assert sorted(pl.copy_ for pl in laid) == list(range(24))


def test_what_a_closed_sheet_had_is_laid_once():
    """The last piece leaves and what only fills up goes to those that wait: a try of the other thread that
    counts on it comes too late.
    """
    parts = [
        {"id": "a", "outline": ELL.tolist(), "quantity": 2, "rotations": [0]},
        {"id": "f", "outline": ELL.tolist(), "quantity": 1, "rotations": [0], "fill": True},
    ]
    sheet = {"id": "s", "width": 400, "height": 200, "quantity": 3}
    problem = NestProblem.model_validate({"sheets": [sheet], "parts": parts, "spacing": 4})
    start = [
        Placement(part="a", copy=0, sheet="s", sheet_copy=0, x=0, y=0),
        Placement(part="a", copy=1, sheet="s", sheet_copy=1, x=0, y=0),
        Placement(part="f", copy=0, sheet="s", sheet_copy=1, x=100, y=0),
    ]
    search = improve.Improve(problem, Worth(problem), start, 1)
    victim = next(b for b in search.laid_sheets if b.copy == 1)
    full = next(b for b in search.laid_sheets if b.copy == 0)
    tasks = [
        improve.Try(full, [name], [search.kind(name[0], "s")], [], victim, seed)
        for seed, name in enumerate([("a", 1), ("f", 0)])
    ]
    search.forms.fields.ensure(Arena.tables(search.forms, [0, 1], []))
    done = [search._try(t) for t in tasks]
    for task, found in zip(tasks, done, strict=True):
        search._apply(task, found)
    laid = [(pl.part, pl.copy_) for pl in search.placements()]
    assert sorted(laid + search.waiting) == [("a", 0), ("a", 1), ("f", 0)]


def test_the_search_goes_back_to_what_the_judge_takes(monkeypatch):
    """A search that builds on overlaps is set back within so many steps; what it gives is always legal."""
    monkeypatch.setattr(engine, "JUDGED_EVERY", 8)
    problem = twenty(60)
    plain = improve.Improve.placements
    spoilt = []

    def placements(self):
        out = plain(self)
        if len(spoilt) < 5:  # two pieces on top of each other
            spoilt.append(1)
            out[1] = out[1].model_copy(update={"x": out[0].x, "y": out[0].y, "sheet_copy": out[0].sheet_copy})
            out = [pl.model_copy(update={"x": min(pl.x, 400.0)}) for pl in out]
        return out

    monkeypatch.setattr(improve.Improve, "placements", placements)
    search = nested(problem, 40)
    assert spoilt and check(problem, search.best.to_json())[0] == []
    assert search.key == search.worth.key(search.best.placements)
