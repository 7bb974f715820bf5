"""Nearly full sheets: pieces cut by straight lines go together again, and what just fits is let in."""

import json

import numpy as np
import pytest

from benchmarks.check_layout import check
from benchmarks.sheet_sets import jigsaw
from venzo.core.nesting.engine import Search
from venzo.core.nesting.jigsaw import Jigsaw, snug
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.worth import Worth

pytestmark = pytest.mark.usefixtures("short_steps")


def together(problem, steps=600):
    p = NestProblem.model_validate(problem)
    puzzle = Jigsaw(p, Worth(p))
    assert puzzle.able
    for _ in range(steps):
        if not puzzle.step(lambda: False):
            break
    return puzzle


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("pieces", [18, 36])
def test_a_sheet_cut_by_straight_lines_goes_together_again(seed, pieces):
    problem = jigsaw(seed, pieces)
    puzzle = together(problem)
    assert puzzle.done and len(puzzle.fullest) == pieces
    result = {"placements": [pl.model_dump(by_alias=True) for pl in puzzle.fullest], "unplaced": []}
    assert check(problem, result)[0] == []


def test_the_search_puts_a_jigsaw_together_and_stops_there():
    problem = jigsaw(3, 20)
    search = Search(NestProblem.model_validate(problem))
    while search.steps < 200 and search.step():
        pass
    best = search.best
    assert search.steps < 200 and not best.unplaced and best.sheets[0].utilisation == pytest.approx(1.0)
    assert check(problem, json.loads(json.dumps(best.to_json())))[0] == []


def test_turned_over_pieces_go_together_where_they_may():
    problem = jigsaw(1, 12)
    for k, p in enumerate(problem["parts"]):
        if k % 3 == 0:
            ring = np.array(p["outline"]) * (-1, 1)
            p["outline"], p["mirror"] = (ring - ring.min(0))[::-1].tolist(), True
    puzzle = together(problem)
    assert puzzle.done and any(pl.mirrored for pl in puzzle.fullest)


@pytest.mark.parametrize(
    "change",
    [
        lambda p: p["parts"][0].update(rotations="free"),
        lambda p: p["parts"][0].update(group="g"),
        lambda p: p["parts"].pop(0),
        lambda p: p["sheets"].append({"id": "more", "width": 500, "height": 500}),
        lambda p: p["parts"][0].update(quantity=70),
    ],
)
def test_other_jobs_are_no_jigsaw(change):
    problem = jigsaw(0, 20)
    change(problem)
    p = NestProblem.model_validate(problem)
    assert not Jigsaw(p, Worth(p)).able


FRAME = {
    "id": "frame",
    "outline": [[0, 0], [380, 0], [380, 380], [0, 380]],
    "holes": [[[90, 90], [290, 90], [290, 290], [90, 290]]],
    "quantity": 2,
    "rotations": [0],
}


def framed(size, quantity=2, **more):
    square = {"id": "sq", "outline": [[0, 0], [size, 0], [size, size], [0, size]], "quantity": quantity}
    sheet = {"id": "s", "width": 400, "height": 400, "quantity": 4, "margin": 10}
    return {"sheets": [sheet], "parts": [FRAME, square], "spacing": 5, **more}


def sheets_for(problem, steps=40):
    search = Search(NestProblem.model_validate(problem))
    while search.steps < steps and search.step():
        pass
    best = search.best
    assert check(problem, best.to_json())[0] == [] and not best.unplaced
    return len(best.sheets)


def test_a_square_goes_into_a_hole_that_is_larger_by_the_spacing_alone():
    assert sheets_for(framed(190)) == 2
    assert sheets_for(framed(190.2)) == 4
    assert sheets_for(framed(190, part_in_hole=False)) == 4


def test_a_keepout_in_the_hole_stays_clear():
    problem = framed(190)
    problem["sheets"][0] |= {"width": 700, "keepouts": [[[195, 195], [205, 195], [205, 205], [195, 205]]]}
    assert sheets_for(problem) == 2  # a square beside each frame, none in it


def test_a_part_as_large_as_the_sheet_lies_around_what_stands_on_it():
    post = {"shape": [[195, 195], [205, 195], [205, 205], [195, 205]]}
    problem = framed(120, 1)
    problem["sheets"][0]["keepouts"] = [post]
    search = Search(NestProblem.model_validate(problem))
    while search.steps < 20 and search.step():
        pass
    best = search.best
    assert check(problem, best.to_json())[0] == [] and sum(pl.part == "frame" for pl in best.placements) == 2


def test_locked_pieces_and_groups_stay_where_they_are():
    p = NestProblem.model_validate(
        framed(190, 1, locked=[{"part": "sq", "sheet": "s", "sheet_copy": 2, "x": 10, "y": 10}])
    )
    lying = [
        Placement(part="frame", copy=0, sheet="s", sheet_copy=0, x=10, y=10),
        Placement(part="frame", copy=1, sheet="s", sheet_copy=1, x=10, y=10),
        *p.locked,
    ]
    assert snug(p, Worth(p), lying) is None
    free = p.model_copy(update={"locked": []})
    moved = snug(free, Worth(free), lying)
    assert moved is not None and {(pl.sheet_copy, pl.x, pl.y) for pl in moved if pl.part == "sq"} == {
        (0, 105, 105)
    }
