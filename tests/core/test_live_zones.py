"""Vacuum zones and the nest: pieces lie over those that are on where it costs no sheet, small ones first, and
what is off is said before.
"""

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import box

from benchmarks.check_layout import check
from tests.support.trial import TrialJob, rect
from venzo.core.nesting.engine import Search
from venzo.core.nesting.live import dead, pieces_of, share_off
from venzo.core.nesting.problem import NestProblem, SheetKind
from venzo.core.nesting.zones import fewer_zones, live_areas, zones_covered
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Machine, Zone
from venzo.core.stock.sheet import Stock

pytestmark = pytest.mark.usefixtures("short_steps")

ELL = [[0, 0], [90, 0], [90, 30], [30, 30], [30, 80], [0, 80]]


def area(x0, y0, x1, y1):
    return {"shape": [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]}


def job(quantity, *firm, **more):
    sheet = {"id": "s", "width": 1000, "height": 500, "quantity": 3, "margin": 5, "firm": list(firm)}
    part = {"id": "ell", "outline": ELL, "quantity": quantity, "rotations": [0, 90, 180, 270]}
    return {"sheets": [sheet], "parts": [part], "spacing": 5, **more}


def nested(problem, steps=20):
    search = Search(NestProblem.model_validate(problem), 1)
    while search.steps < steps and search.step(progress=search.steps / steps):
        pass
    assert check(problem, search.best.to_json())[0] == []
    return search


def off(search):
    return [
        share_off(search.worth.sheets[pl.sheet], search.worth.regions[pl.part], pl)
        for pl in search.best.placements
    ]


def test_all_pieces_lie_over_the_zone_that_is_on_wherever_it_is():
    search = nested(job(30, area(520, 0, 1000, 500)))
    assert len(off(search)) == 30 and max(off(search)) < 1e-6 and len(search.best.sheets) == 1
    left = nested(job(30))  # without zones they lie at the left
    assert left.best.sheets[0].used_length < 520


def test_no_sheet_more_is_used_for_it():
    """They need two thirds of the sheet, half of it holds: one sheet all the same, as many as can over it."""
    search = nested(job(60, area(520, 0, 1000, 500)))
    over = sum(share < 0.01 for share in off(search))
    assert len(search.best.sheets) == 1 and len(off(search)) == 60 and over >= 34


def test_small_pieces_come_before_large_ones():
    problem = job(16, area(0, 0, 420, 500))
    problem["parts"].append(
        {
            "id": "wide",
            "outline": [[0, 0], [300, 0], [290, 240], [0, 240]],
            "quantity": 3,
            "rotations": [0, 180],
        }
    )
    search = nested(problem, 40)
    small = [s for s, pl in zip(off(search), search.best.placements, strict=True) if pl.part == "ell"]
    assert len(search.best.sheets) == 1 and len(small) == 16 and max(small) < 0.01


def test_locked_pieces_stay_beside_it_and_the_others_go_over_it():
    lock = {"part": "ell", "copy": 0, "sheet": "s", "x": 100, "y": 100, "rotation": 0}
    search = nested(job(20, area(520, 0, 1000, 500), locked=[lock]))
    assert sorted(off(search))[-2:] == pytest.approx([0, 1], abs=1e-6)


def test_a_fixture_board_draws_small_pieces_and_keeps_none_away():
    board = {**area(500, 0, 900, 500), "firmness": 0.9}
    search = nested(job(4, board))
    assert search.key.off_live == 0 and not search._lives


def test_what_lies_beside_the_zones_is_cut_into_plain_rings():
    sheet = SheetKind.model_validate(
        {"id": "s", "width": 600, "height": 400, "firm": [area(200, 100, 400, 300)]}
    )
    rest = dead(sheet)
    assert rest.area == pytest.approx(600 * 400 - 200 * 200) and rest.interiors
    parts = pieces_of(rest)
    assert not any(p.interiors for p in parts)
    assert shapely.union_all(parts).symmetric_difference(rest).area == pytest.approx(0, abs=1e-6)


# -- zones of a table -----------------------------------------------------------


def table(columns, rows, size=400.0, seam=0.0, gap=20.0):
    zones = tuple(
        Zone(
            id=f"{r}{c}",
            rect=(c * size + seam, r * size + seam, (c + 1) * size - gap, (r + 1) * size - gap),
        )
        for r in range(rows)
        for c in range(columns)
    )
    return Machine(id="m", name="m", width=columns * size, height=rows * size, zones=zones)


@pytest.fixture
def trial(store):
    return TrialJob(store, (rect(80, 60), [(60, 60)]), machine="long-bed", sheet=(1400, 500), screwed=False)


def test_zones_off_under_the_sheet_are_said_with_a_remedy_and_seams_between_live_ones_hold(trial):
    every = [z.id for z in trial.setup.machine.zones]
    stock = trial.setup.stock[0]
    trial.zones(*every)
    assert live_areas(trial.setup, stock) == []
    trial.zones(every[0])
    areas = live_areas(trial.setup, stock)
    zone = trial.setup.lying.rect_on_sheet(trial.setup.machine.zones[0].rect)
    held = shapely.union_all([shapely.Polygon(f.shape) for f in areas])
    assert held.symmetric_difference(zone.intersection(box(0, 0, stock.width, stock.height))).area < 1.0
    said = [s for s in trial.derived.layout.snags if s.rule == "nest.zones-off"]
    assert len(said) == 1 and said[0].severity == "note" and "off under" in said[0].message
    assert set(said[0].remedies[0].command["zones_on"]) > {every[0]}
    trial.zones()
    assert not [s for s in trial.derived.layout.snags if s.rule == "nest.zones-off"]  # not held by air at all


@given(
    st.integers(1, 4),
    st.integers(1, 3),
    st.floats(150, 900),
    st.floats(150, 900),
    st.floats(0, 600),
    st.floats(0, 600),
)
def test_a_place_over_fewer_zones_is_better_than_now_and_no_tried_one_beats_it(columns, rows, w, h, x, y):
    machine = table(columns, rows)
    stock = Stock(id="s", name="s", width=w, height=h, nominal=18)
    if x + w > machine.width or y + h > machine.height:
        return
    now = zones_covered(machine, (x, y, x + w, y + h))
    found = fewer_zones(machine, stock, Lying((x, y)))
    live = shapely.union_all([box(*z.rect) for z in machine.zones])

    def carried(at):
        return box(*at, at[0] + w, at[1] + h).intersection(live).area

    tried = [
        (u, v)
        for u in range(0, int(machine.width - w) + 1, 20)
        for v in range(0, int(machine.height - h) + 1, 20)
        if carried((u, v)) >= carried((x, y)) - 1
    ]
    least = min((zones_covered(machine, (u, v, u + w, v + h)) for u, v in tried), default=now)
    if found is None:
        assert least >= now
    else:
        at, count, said = found
        assert said == now > count and count <= least
        assert (
            count == zones_covered(machine, (*at, at[0] + w, at[1] + h))
            and carried(at) >= carried((x, y)) - 1
        )


def test_a_crooked_sheet_is_left_where_it_lies():
    stock = Stock(id="s", name="s", width=300, height=300, nominal=18)
    assert fewer_zones(table(3, 2), stock, Lying((250, 250), 0.01)) is None
    assert fewer_zones(table(3, 2), stock, Lying((250, 250))) is not None
