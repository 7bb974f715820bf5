"""The numbered grid: what is marked on the table is what zeros and boards use, to 0.001 mm, from every home;
no line enters a dead area; what cannot be marked is refused.
"""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, box

from venzo.core.cuts.moves import RAPID, X, Y, Z
from venzo.core.snags import BadInput
from venzo.core.stock.grid import Grid, grid_lines
from venzo.core.stock.machine import Machine
from venzo.core.stock.zeros import SquareZero, on_table
from venzo.core.tooling.cutter import Cutter
from venzo.desk.grids import Marker, grid_program
from venzo.formats.rs274 import interpret

CORNERS = ("lower left", "lower right", "upper left", "upper right")
BIT = Cutter(
    id="v",
    name="V bit",
    number=3,
    kind="v-bit",
    angle=60,
    diameter=6,
    cutting_length=12,
    feeds={"wood": {"rpm": 16000, "feed": 2400, "plunge": 800}},
)


def machine(grid, **fields):
    return Machine(id="m", name="table", width=1300, height=900, grid=grid, **fields)


def marked(text, home):
    """Lines marked by a program, on the table, by plain geometry."""
    moves = interpret(text, "grid").moves
    at = np.array([1300.0 * home.endswith("right"), 900.0 * home.startswith("upper")])
    xy = moves[:, [X, Y]] + at
    below = (moves[1:, Z] < 0) & (moves[:-1, Z] < 0) & (moves[1:, 0] != RAPID)
    return [LineString([xy[k], xy[k + 1]]) for k in np.flatnonzero(below)]


@given(
    st.sampled_from(CORNERS),
    st.floats(60, 200),
    st.tuples(st.floats(0, 100), st.floats(0, 100)),
    st.integers(1, 6),
    st.integers(1, 4),
    st.booleans(),
)
def test_a_square_s_zero_is_where_the_marked_lines_cross(home, pitch, at, columns, rows, inch):
    grid = Grid(pitch=pitch, at=at, columns=columns, rows=rows)
    m = machine(grid, home=home)
    m = m.model_copy(update={"dialect": m.dialect.model_copy(update={"inch": inch})})
    _name, text = grid_program(m, Marker(BIT))
    lines = marked(text, home)
    room = box(0, 0, 1300, 900)
    for column in range(1, columns + 1):
        for row in range(1, rows + 1):
            x, y = on_table(SquareZero(column=column, row=row), m)
            if not room.contains(shapely.Point(x, y)):
                continue
            here = shapely.Point(x, y)
            upright = [
                k
                for k in lines
                if k.distance(here) <= 0.001 and abs(k.coords[0][0] - k.coords[-1][0]) < 0.002
            ]
            level = [
                k
                for k in lines
                if k.distance(here) <= 0.001 and abs(k.coords[0][1] - k.coords[-1][1]) < 0.002
            ]
            assert upright and level, (column, row)
    assert "machine home" in text and text.isascii()


@pytest.mark.parametrize("number", [1, 7, 12, 35])
def test_a_number_names_one_square(number):
    grid = Grid(pitch=100, at=(3, 4), columns=7, rows=5)
    column, row = grid.square(number)
    assert grid.number(column, row) == number
    assert grid.corner(column, row) == (3 + 100 * (column - 1), 4 + 100 * (row - 1))


def test_lines_stay_on_the_table_and_out_of_dead_areas():
    grid = Grid(pitch=150, at=(-50, 20), columns=12, rows=8)
    m = machine(grid, dead_areas=((0, 0, 80, 900), (600, 300, 700, 420)))
    radius = BIT.diameter / 2
    for marker, clear in ((Marker(BIT), radius), (Marker(), 0.0)):
        lines = marked(grid_program(m, marker)[1], "lower left")
        every = shapely.union_all(lines)
        assert box(0, 0, 1300, 900).buffer(0.002).covers(every)
        for d in m.dead_areas:
            assert every.distance(box(*d)) >= clear - 0.002
        # and what could be marked is
        whole = shapely.union_all([LineString(k) for k in grid_lines(grid)[: 13 + 9]])
        free = box(0, 0, 1300, 900).difference(
            shapely.union_all([box(*d).buffer(clear, join_style="mitre") for d in m.dead_areas])
        )
        assert shapely.intersection(whole, free).difference(every.buffer(0.01)).length < 13 + 9


def test_a_pen_is_moved_with_the_spindle_standing_and_no_change():
    _name, text = grid_program(machine(Grid()), Marker())
    words = {w for t in text.splitlines() if not t.startswith("(") for w in t.split()}
    assert not {w for w in words if w in ("M3", "M6") or w.startswith("S")}
    assert "sprung pen" in text


@pytest.mark.parametrize(
    ("grid", "fields", "marker", "words"),
    [
        (None, {}, Marker(), "no numbered grid"),
        (Grid(pitch=10), {}, Marker(), "too small"),
        (Grid(pitch=30, columns=50, rows=50), {}, Marker(), "over the limit of 2000"),
        (Grid(at=(5000, 0)), {}, Marker(), "nothing of the grid"),
        (Grid(), {}, Marker(BIT.model_copy(update={"feeds": {}})), "no feeds for wood"),
        (Grid(), {"rpm_min": 100, "rpm_max": 200}, Marker(BIT), "beyond the spindle"),
        (Grid(), {}, Marker(depth=7.0), "up to 5 mm"),
    ],
)
def test_what_cannot_be_marked_is_refused(grid, fields, marker, words):
    with pytest.raises(BadInput, match=words):
        grid_program(machine(grid, **fields), marker)


def test_a_grid_has_no_square_beyond_its_last():
    with pytest.raises(BadInput, match="no square 36"):
        Grid(columns=7, rows=5).square(36)
    with pytest.raises(BadInput, match="7 columns and 5 rows"):
        Grid(columns=7, rows=5).corner(8, 1)
