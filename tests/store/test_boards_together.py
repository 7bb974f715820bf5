"""Several boards in one program, on squares of the table's grid."""

from contextlib import closing

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, box

from tests.formats.test_papers import pages
from tests.support.library_shop import library_shop
from venzo.desk import board_programs, spoilboards
from venzo.formats.rs274 import interpret


def test_boards_in_one_program_are_planned_and_told_where_they_lie(tmp_path):
    """Two boards on squares, one half over a dead area of the table: what is said to stay uncut is what an
    independent sweep of the written program leaves, nothing is cut in the dead area, and X0 Y0 is the grid's
    corner wherever the grid begins.
    """
    with closing(library_shop(tmp_path / "shop")) as store:
        bench = next(m for m in store.library("machine") if m["id"] == "small-bench")
        grid = {"pitch": 300, "at": [40, 25], "columns": 4, "rows": 2}
        dead = [[840, 0, 900, 900]]
        store.put_library("machine", {**bench, "grid": grid, "dead_areas": dead})
        how = {"cutter": 30, "step_over": 0.5, "depth": 0.5, "overrun": 5}
        for name, square in (("a", 1), ("b", 3)):
            board = {"id": name, "name": f"board {name}", "kind": "board", "machine": "small-bench"}
            size = {"width": 220, "height": 140, "thickness": 30}
            spoilboards.put(
                store, {"id": name, "square": square, "board": {**board, **size}, "how": how, "pitch": 300}
            )
        found = board_programs.together(store, "a", ["b"])
        ((_name, text),) = board_programs.programs(store, "a", ["b"])
        moves = interpret(text, "p").moves
        xy = moves[:, [1, 2]] + (40, 25)  # on the table
        down = (moves[1:, 3] < -0.4) & (moves[:-1, 3] < -0.4)
        swept = shapely.union_all(
            [LineString([xy[k], xy[k + 1]]).buffer(15, quad_segs=32) for k in np.flatnonzero(down)]
        )
        assert not any(840 < x < 900 for x in xy[1:][moves[1:, 3] < 0][:, 0])
        for said, at in zip(found.boards, ((40, 25), (640, 25)), strict=True):
            board = box(at[0], at[1], at[0] + 220, at[1] + 140)
            left = board.difference(swept).area
            assert said.uncut == pytest.approx(left, abs=0.02 * 220 * 140)
        assert found.boards[0].uncut < 1 < found.boards[1].uncut
        assert any("board b stay uncut" in s.message for s in found.snags)
        text = " ".join(pages(board_programs.paper(store, "a", ["b"])[1]))
        assert "board b on square 3" in text and "lower left corner of square 1" in text
