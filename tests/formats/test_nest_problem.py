"""Nest problems as files: what is wrong in them is told by part or sheet, field and remedy."""

import copy
import json
import subprocess
import sys
import time

import pytest

from venzo.core.nesting.engine import Search
from venzo.core.snags import BadInput
from venzo.formats.nest_problem import read_problem

SQUARE = [[0, 0], [50, 0], [50, 50], [0, 50]]
PROBLEM = {
    "sheets": [{"id": "s", "width": 200, "height": 100, "quantity": 2}],
    "parts": [
        {"id": "a", "outline": SQUARE, "quantity": 2},
        {"id": "b", "outline": [[0, 0], [30, 0], [0, 30]]},
    ],
    "spacing": 2,
}


def changed(**places):
    """The problem with some fields set or, None, taken away: part_..., sheet_..., others of the problem."""
    p = copy.deepcopy(PROBLEM)
    for k, v in places.items():
        where, _, key = k.partition("_") if k.startswith(("part_", "sheet_")) else ("", "", k)
        thing = {"part": p["parts"][0], "sheet": p["sheets"][0], "": p}[where]
        thing[key] = v
    return p


def read(problem):
    return read_problem(json.dumps(problem).encode(), "p.json")


@pytest.mark.parametrize(
    ("problem", "words"),
    [
        (
            {**PROBLEM, "parts": [{"id": "a", "outline": SQUARE, "qty": 3}]},
            r"p\.json: part 'a': 'qty' is not known there; write 'quantity'",
        ),
        (changed(part_rotation=[0]), "part 'a': 'rotation' is not known there; write 'rotations'"),
        (changed(part_mirored=True), "part 'a': 'mirored' is not known there; write 'mirror'"),
        (changed(sheet_price=4), "sheet 's': 'price' is not known there; write 'cost'"),
        (changed(objectve="x"), "the problem: 'objectve' is not known there; write 'objective'"),
        (changed(objective="least cost"), "objective 'least cost' is not known; write 'sheets-then-remnant'"),
        (changed(part_rotations=[]), "part 'a': rotations is empty; give the angles"),
        (changed(part_outline=[[0, 0], [9, 9]]), "part 'a': outline: a ring needs at least three points"),
        (changed(part_outline=[[0, 0], [9, 0], [9, 0], [0, 0]]), "at least three points, it has 2"),
        (changed(part_outline=[[0, 0], [9, 0], [18, 0]]), "part 'a': outline: the ring encloses no area"),
        (
            changed(part_outline=[[0, 0], [10, 10], [10, 0], [0, 10]]),
            "part 'a': outline: the ring crosses itself at 5, 5; draw it as one loop",
        ),
        (changed(part_holes=[[[40, 40], [60, 40], [60, 45]]]), "hole 1 reaches beyond the outline"),
        (
            changed(part_holes=[[[9, 9], [20, 9], [20, 20]], [[10, 9], [20, 9], [20, 20]]]),
            "part 'a': holes 1 and 2 overlap; make them one",
        ),
        (changed(sheet_cost=1e9), "sheet 's': cost: Input should be less than or equal to 1000000"),
        (changed(part_quantity=-1), "part 'a': quantity: Input should be greater than or equal to 0"),
        (changed(part_quantity="many"), "part 'a': quantity: .*'many' was given"),
        (
            changed(sheet_outline=[[0, 0], [9, 9], [9, 0], [0, 9]]),
            "sheet 's': outline: the ring crosses itself",
        ),
        (changed(sheet_keepouts=[[[0, 0], [9, 9]]]), "sheet 's': keepout"),
        (changed(sheets=[]), "sheets"),
        ([1, 2], "one object with sheets and parts"),
    ],
)
def test_what_is_wrong_is_told_with_its_thing_and_remedy(problem, words):
    with pytest.raises(BadInput, match=words):
        read(problem)


def test_text_that_is_no_problem_is_told_by_its_place():
    with pytest.raises(BadInput, match="line 2, column 1"):
        read_problem(b'{"sheets": [],\n', "p.json")
    with pytest.raises(BadInput, match=r"byte 12 is no UTF-8"):
        read_problem(b'{"sheets": "\xff\xfe"}', "p.json")
    with pytest.raises(BadInput, match="nested too deep"):
        read_problem(b"[" * 200_000, "p.json")


def test_what_is_odd_but_clear_is_taken():
    """A byte-order mark, no pieces wanted, a ring that touches itself, keys of somebody's own."""
    problem, notes = read_problem(b"\xef\xbb\xbf" + json.dumps(PROBLEM).encode(), "p.json")
    assert len(problem.parts) == 2 and not notes
    problem, notes = read(changed(part_colour="red", comment="x"))
    assert [n.split(" is not")[0] for n in notes] == ["the problem: 'comment'", "part 'a': 'colour'"]
    pinched = [[0, 0], [20, 0], [10, 10], [20, 20], [0, 20], [10, 10]]
    assert read(changed(part_outline=pinched))[0].parts[0].outline == pinched
    none, _notes = read(changed(part_quantity=0))
    search = Search(none, 1)
    while search.step() and search.steps < 3:
        pass
    assert [p.part for p in search.best.placements] == ["b"] and not search.best.unplaced


def nest(tmp_path, problem, *more):
    (tmp_path / "p.json").write_text(json.dumps(problem))
    return subprocess.run(
        [sys.executable, "-m", "venzo.cli", "nest", str(tmp_path / "p.json"), *more],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )


def test_steps_and_seconds_are_both_kept(tmp_path):
    """With both, whichever comes first; a run cut short by time says so, one by its steps repeats."""
    many = nest(tmp_path, changed(steps=10_000_000, part_quantity=30), "--seconds", "2", "--json")
    assert "cut short by time after" in many.stderr and many.returncode == 1
    # ten million steps would take days; how late it is hangs on what else the machine does
    assert json.loads(many.stdout)["seconds"] < 90
    few = [nest(tmp_path, changed(steps=4), "--json") for _ in range(2)]
    one, two = ({**json.loads(f.stdout), "seconds": 0} for f in few)
    assert one == two and one["steps"] <= 4 and not few[0].stderr


def test_a_spacing_wider_than_the_sheet_leaves_one_piece_a_sheet():
    problem, _notes = read(changed(spacing=5000))
    search = Search(problem, 1)
    while search.step() and search.steps < 4:
        pass
    best = search.best
    assert sorted(p.sheet_copy for p in best.placements) == [0, 1]
    assert sum(u.quantity for u in best.unplaced) == 1
    assert search.problem.spacing == pytest.approx((200**2 + 100**2) ** 0.5 + 1)


def test_a_time_limit_counts_from_when_the_process_really_began():
    """In whole seconds a process seemed to have begun up to a second too early, and small problems were cut
    short before anything was tried.
    """
    ask = "import time, venzo.cli.shared as s; print(s.started(), time.time())"
    offs = []
    for _ in range(3):
        before = time.time()
        told = subprocess.run([sys.executable, "-c", ask], capture_output=True, text=True, check=True)
        began, now = map(float, told.stdout.split())
        assert before - 0.05 <= began <= now
        offs.append(began - before)
    assert min(offs) < 0.3
