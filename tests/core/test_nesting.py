"""The nest: always legal by an outside judge, complete where there is room, told where there is none,
repeatable.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.check_layout import check
from tests.conftest import MANY
from venzo.core.nesting.engine import Search
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.verify import faults_between
from venzo.core.snags import BadInput

pytestmark = pytest.mark.usefixtures("short_steps")

ELL = [[0, 0], [80, 0], [80, 25], [25, 25], [25, 70], [0, 70]]
RING = {"outline": [[60, 0, 1], [-60, 0, 1]], "holes": [[[42, 0, 1], [-42, 0, 1]]]}


def solve(problem: dict, steps: int = 4, seed: int = 1) -> dict:
    search = Search(NestProblem.model_validate(problem), seed)
    for _ in range(steps):
        if not search.step():
            break
    return search.best.to_json()


@st.composite
def problems(draw):
    def ring(size):
        kind = draw(st.sampled_from(["box", "ell", "disc", "star"]))
        w, h = draw(st.floats(10, size)), draw(st.floats(10, size))
        if kind == "disc":
            return [[w / 2, 0, 1], [-w / 2, 0, 1]]
        if kind == "ell":
            return [[0, 0], [w, 0], [w, h / 3], [w / 3, h / 3], [w / 3, h], [0, h]]
        if kind == "star":
            return [
                [
                    (w if k % 2 else w / 2.5) * math.cos(k * math.pi / 5),
                    (w if k % 2 else w / 2.5) * math.sin(k * math.pi / 5),
                ]
                for k in range(10)
            ]
        return [[0, 0, draw(st.sampled_from([0, 0.2, -0.15]))], [w, 0], [w, h], [0, h]]

    parts = [
        {
            "id": f"p{k}",
            "outline": ring(160),
            "quantity": draw(st.integers(1, 5)),
            "rotations": draw(st.sampled_from([[0], [0, 180], [0, 90, 180, 270], [0, 45], "free"])),
            "mirror": draw(st.booleans()),
            "grain": draw(st.sampled_from([None, None, 0])),
        }
        for k in range(draw(st.integers(1, 4)))
    ]
    if draw(st.booleans()):
        parts.append({"id": "hoop", **RING, "quantity": 2, "rotations": [0]})
    sheets = [
        {
            "id": "full",
            "width": 500,
            "height": 300,
            "quantity": 2,
            "margin": draw(st.sampled_from([0, 8])),
            "grain": draw(st.sampled_from([None, 0, 90])),
            "keepouts": [
                {
                    "shape": [[240, 140], [260, 140], [260, 160], [240, 160]],
                    "clearance": draw(st.sampled_from([0, 3, 12])),
                }
            ],
        }
    ]
    if draw(st.booleans()):
        sheets.append(
            {
                "id": "rest",
                "width": 260,
                "height": 260,
                "quantity": 1,
                "outline": [[0, 0], [260, 0], [260, 110], [120, 260], [0, 260]],
            }
        )
    return {
        "sheets": sheets,
        "parts": parts,
        "spacing": draw(st.sampled_from([0, 1, 6.5])),
        "part_in_hole": draw(st.booleans()),
    }


@settings(max_examples=16 * MANY)
@given(problems())
def test_every_layout_passes_the_outside_judge(problem):
    """benchmarks/check_layout.py uses shapely alone and shares nothing with the search."""
    result = solve(problem, 2)
    faults, _figures = check(problem, result)
    assert faults == []
    for pl in result["placements"]:  # grain is not the outside judge's business
        part, sheet = (
            next(x for x in problem[k] if x["id"] == pl[v])
            for k, v in (("parts", "part"), ("sheets", "sheet"))
        )
        if part.get("grain") is not None and sheet.get("grain") is not None:
            off = (part["grain"] + pl["rotation"] - sheet["grain"]) % 180
            assert min(off, 180 - off) < 1e-3


@settings(max_examples=25 * MANY)
@given(problems(), st.data())
def test_what_is_remembered_of_a_sheet_is_what_is_found_anew(problem, data):
    asked = NestProblem.model_validate({**problem, "steps": 1})
    lying = [Placement.model_validate(p) for p in solve(problem, 1)["placements"]]
    for _ in range(4):
        if lying:  # a piece goes elsewhere, and may lie on another or off the sheet
            k = data.draw(st.integers(0, len(lying) - 1))
            moved = {"x": data.draw(st.floats(-50, 500)), "y": data.draw(st.floats(-50, 300))}
            lying[k] = lying[k].model_copy(update=moved)
        assert faults_between(asked, lying, remembered=True) == faults_between(asked, lying)


def test_caps_go_into_hoops_and_stay_out_when_told():
    problem = {
        "sheets": [{"id": "s", "width": 260, "height": 128, "quantity": 1}],
        "spacing": 4,
        "parts": [
            {"id": "hoop", **RING, "quantity": 2},
            {"id": "cap", "outline": [[30, 0, 1], [-30, 0, 1]], "quantity": 2},
        ],
    }
    assert solve(problem)["unplaced"] == []
    assert sum(u["quantity"] for u in solve({**problem, "part_in_hole": False})["unplaced"]) == 2


def test_same_seed_and_steps_repeat_a_run_and_more_steps_are_never_worse():
    problem = {
        "sheets": [{"id": "s", "width": 600, "height": 300}],
        "spacing": 5,
        "parts": [{"id": "l", "outline": ELL, "quantity": 12, "rotations": [0, 90, 180, 270]}],
    }
    a, b = solve(problem, 12, 3), solve(problem, 12, 3)
    assert a["placements"] == b["placements"]
    assert solve(problem, 24, 3)["sheets"][0]["used_length"] <= a["sheets"][0]["used_length"]


def test_what_cannot_be_placed_is_told_with_the_missing_length():
    result = solve(
        {
            "sheets": [{"id": "s", "width": 300, "height": 200, "margin": 10}],
            "parts": [{"id": "a", "outline": [[0, 0], [282, 0], [282, 50], [0, 50]]}],
        }
    )
    assert result["unplaced"] == [
        {"part": "a", "quantity": 1, "reason": "2.0 mm too long for sheet s inside its margins"}
    ]


SQUARE = [[0, 0], [100, 0], [100, 100], [0, 100]]


@pytest.mark.parametrize(
    ("sheet", "part", "reason"),
    [
        ({"quantity": 0}, {}, "no sheet is on hand"),
        ({"width": 205}, {"quantity": 3}, "no room left on the sheets in stock"),
        (
            {"outline": [[0, 0], [300, 0], [300, 60], [60, 60], [60, 200], [0, 200]]},
            {},
            "no place for it even on an empty sheet: its outline, or what stands on it, is in the way",
        ),
        (
            {"keepouts": [[[140, 90], [160, 90], [160, 110], [140, 110]]], "margin": 40},
            {},
            "no place for it even on an empty sheet: its outline, or what stands on it, is in the way",
        ),
        (
            {"grain": 90},
            {"outline": [[0, 0], [150, 0], [150, 100], [0, 100]], "grain": 0, "rotations": [0, 180]},
            "none of its allowed rotations lies along the grain of sheet s",
        ),
        (
            {"width": 210, "height": 110, "quantity": 2},
            {"fill": True, "quantity": 4},
            "a fill piece opens no sheet of its own, and the open ones have no room for it",
        ),
    ],
)
def test_why_a_piece_waits_is_said_as_it_is(sheet, part, reason):
    """'No room left' is said only where room is what is missing."""
    result = solve(
        {
            "sheets": [{"id": "s", "width": 300, "height": 200, **sheet}],
            "parts": [
                {"id": "p", "outline": SQUARE, **part},
                *([{"id": "q", "outline": SQUARE, "quantity": 1}] if part.get("fill") else []),
            ],
            "spacing": 4,
        }
    )
    assert {u["reason"] for u in result["unplaced"]} == {reason}


def test_a_part_that_just_fits_is_placed_and_locked_pieces_stay():
    square = [[0, 0], [100, 0], [100, 100], [0, 100]]
    lock = {
        "part": "a",
        "copy": 1,
        "sheet": "s",
        "sheet_copy": 0,
        "x": 150,
        "y": 0,
        "rotation": 0,
        "mirrored": False,
    }
    problem = {
        "sheets": [{"id": "s", "width": 250, "height": 100, "quantity": 1}],
        "parts": [{"id": "a", "outline": square, "quantity": 2}],
        "spacing": 10,
        "locked": [lock],
    }
    result = solve(problem)
    assert lock in result["placements"] and len(result["placements"]) == 2
    assert check(problem, result)[0] == []


@pytest.mark.parametrize(
    ("change", "word"),
    [
        ({"parts": [{"id": "a", "outline": ELL}, {"id": "a", "outline": ELL}]}, "twice"),
        ({"parts": [{"id": "a", "outline": [[0, 0], [5, 5]]}]}, "no area"),
        ({"locked": [{"part": "x", "sheet": "s", "x": 0, "y": 0}]}, "no such part"),
        ({"locked": [{"part": "a", "sheet": "s", "x": 900, "y": 0}]}, "in each other's way"),
    ],
)
def test_impossible_problems_are_refused_by_name(change, word):
    base = {
        "sheets": [{"id": "s", "width": 300, "height": 200}],
        "parts": [{"id": "a", "outline": ELL}],
        "spacing": 5,
    }
    with pytest.raises(BadInput, match=word):
        solve({**base, **change})
