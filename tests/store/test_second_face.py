"""A board's second face: what it takes, its program, what stands between the faces, what is booked of it."""

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, box

from tests.formats.test_papers import pages
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.ledger import Entry
from venzo.desk import board_documents, board_programs, spoilboards
from venzo.formats.rs274 import interpret

SECOND = {"how": {"cutter": 40, "step_over": 0.5, "depth": 1.0, "overrun": 6, "touch": "table"}}


@pytest.fixture
def plank(store):
    sizes = {"width": 500, "height": 150, "thickness": 32.0, "machine": "small-bench", "x": 100, "y": 100}
    board = {"id": "plank", "name": "ash plank", "kind": "board", **sizes}
    how = {"cutter": 40, "step_over": 0.5, "depth": 0.8, "passes": 2, "overrun": 6}
    data = {"id": "plank", "board": board, "how": how, "wanted": 27.0, "second": SECOND}
    return spoilboards.put(store, SurfaceSetup.model_validate(data).model_dump(mode="json"))


def view(store, board="plank"):
    return board_documents.view(store, spoilboards.surface_setup(store, board))


def cut(text):
    """Moves at feed, and the area that a 40 mm cutter sweeps at their lowest height, by shapely."""
    moves = interpret(text, "p").moves
    low = moves[1:, 3].min()
    at = np.flatnonzero((moves[1:, 3] < low + 1e-6) & (moves[:-1, 3] < low + 1e-6))
    lines = [LineString([moves[k, 1:3], moves[k + 1, 1:3] + 1e-9]) for k in at]
    return moves, low, shapely.union_all([g.buffer(20, quad_segs=32) for g in lines])


def test_both_faces_have_programs_and_the_second_ends_at_the_wanted_thickness(store, plank):
    (first, one), (second, two) = board_programs.programs(store, "plank")
    assert first.endswith("face-1.nc") and second.endswith("face-2.nc")
    _moves, low, area = cut(one)
    assert low == pytest.approx(-1.6) and area.buffer(0.05).covers(box(0, 0, 500, 150))
    moves, low, area = cut(two)
    assert low == pytest.approx(27.0), "Z 0 is the table: the last pass runs at the thickness"
    assert area.buffer(0.05).covers(box(0, 0, 500, 150))
    assert moves[moves[:, 0] == 0][:, 3].min() >= 32.0 - 1.6, "fast moves stay over the board"
    assert "second face" in two and "Z0 touched off on the table" in two
    found = view(store).second
    assert found.leaves == 27.0 and [x.depth for x in found.layers] == pytest.approx([0.85, 1.7, 2.55, 3.4])
    assert any("edge along X (the left end stays left)" in t for t in found.turning)
    text = " ".join(pages(board_programs.paper(store, "plank")[1]))
    assert "Then turned over" in text and "Z 27.00" in text and "face-2.nc" in text


def test_what_the_first_face_really_took_counts_for_the_second(store, plank):
    spoilboards.surfaced(store, "plank")
    assert view(store).faces.first == pytest.approx(1.6) and view(store).state.thickness == 30.4
    # another pass was needed: the second face has that much less to take
    spoilboards.book(store, "plank", Entry(kind="surfaced", removed=0.4, says="one more"))
    found = view(store)
    assert found.second.layers[-1].depth == pytest.approx(3.0) and found.second.leaves == 27.0
    spoilboards.surfaced(store, "plank", 2)
    found = view(store)
    assert found.state.thickness == pytest.approx(27.0) and found.second.booked == pytest.approx(3.0)
    # Z of the first face was not touched by it
    assert found.state.since_zero == pytest.approx(2.0)
    with pytest.raises(BadInput, match="booked already"):
        spoilboards.surfaced(store, "plank", 2)


def test_a_face_that_stands_proud_is_cut_from_its_highest_place(store, plank):
    spoilboards.change(store, "plank", {"second": {"stands": 1.2}})
    found = view(store).second
    assert found.bench.board.thickness == pytest.approx(31.6) and found.deepest == pytest.approx(4.6)
    spoilboards.surfaced(store, "plank")
    spoilboards.surfaced(store, "plank", 2)
    assert view(store).state.thickness == pytest.approx(27.0)


def test_a_board_too_thin_for_its_second_face_says_so_and_gives_no_program(store, plank):
    spoilboards.change(store, "plank", {"wanted": 30.0})
    found = view(store)
    assert found.second is None and "30.00 mm are wanted" in found.faces.wrong
    with pytest.raises(BadInput, match=r"30\.00 mm are wanted"):
        board_programs.programs(store, "plank")
    # its paper still comes, without files
    assert "face-1" not in " ".join(pages(board_programs.paper(store, "plank")[1]))


def test_two_boards_share_a_program_for_each_face(store, plank):
    """Different thicknesses lie side by side: each is cut to its own, Z of both from the table."""
    whole = spoilboards.surface_setup(store, "plank").model_dump(mode="json")
    small = {"id": "two", "name": "two", "width": 200, "thickness": 29.0}
    thin = {**whole, "id": "two", "board": {**whole["board"], **small}, "wanted": 25.5}
    spoilboards.put(store, thin)
    for name, square in (("plank", 1), ("two", 7)):
        spoilboards.change(store, name, {"square": square})
    programs = dict(board_programs.programs(store, "plank", ["two"]))
    assert len(programs) == 2
    moves = interpret(programs["surface_plank_face-2.nc"], "p").moves
    down = moves[1:][moves[1:, 0] != 0]
    assert down[down[:, 1] < 560][:, 3].min() == pytest.approx(27.0)
    assert down[down[:, 1] > 560][:, 3].min() == pytest.approx(25.5)
    found = board_programs.together(store, "plank", ["two"], 2)
    assert [b.name for b in found.boards] == ["ash plank", "two"] and found.seconds > 60


def test_z_set_anew_starts_at_nothing(store, plank):
    spoilboards.surfaced(store, "plank")
    assert spoilboards.surface_setup(store, "plank").how.start == 1.6
    spoilboards.book(store, "plank", Entry(kind="zero", says="touched off anew"))
    assert spoilboards.surface_setup(store, "plank").how.start == 0
    assert not [s for s in view(store).snags if s.rule == "ledger.start"]
    assert [x.depth for x in view(store).layers] == pytest.approx([0.8, 1.6])


def test_z_of_a_first_face_is_never_taken_from_the_table(store, plank):
    with pytest.raises(BadInput, match="touched off on the board itself"):
        spoilboards.change(store, "plank", {"how": {"touch": "table"}})
    assert spoilboards.surface_setup(store, "plank").how.touch == "high spot"


def test_so_many_passes_that_nobody_runs_them_are_refused(store, plank):
    with pytest.raises(BadInput, match=r"over the limit of 200; take more a pass"):
        spoilboards.change(store, "plank", {"second": {"how": {"depth": 0.001}}})
    assert view(store).second.bench.how.passes == 4


def test_a_board_thicker_than_the_one_touched_off_is_not_run_into(store, plank):
    """One Z for all, taken on the first board: a thicker one beside it would be met by fast moves."""
    whole = spoilboards.surface_setup(store, "plank").model_dump(mode="json")
    thick = {
        **whole,
        "id": "thick",
        "board": {**whole["board"], "id": "thick", "name": "thick", "thickness": 36.0},
    }
    thick["board"]["width"] = 200
    spoilboards.put(store, thick)
    for name, square in (("plank", 1), ("thick", 7)):
        spoilboards.change(store, name, {"square": square, "second": None})
    with pytest.raises(BadInput, match=r"thick is 4\.00 mm thicker than ash plank.*start from thick"):
        board_programs.programs(store, "plank", ["thick"])
    assert board_programs.programs(store, "thick", ["plank"])
