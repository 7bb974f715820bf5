"""The stock at any moment is what a sweep of all before it leaves, however it is reached."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point

from venzo.core.body import moments
from venzo.core.body.across import across
from venzo.core.body.field import Box, StockBody
from venzo.core.body.moments import Moments, Stage, part_of
from venzo.core.body.picture import UNDER, painted, section
from venzo.core.cuts.moves import CCW, CW, LINE, RAPID, lengths, polyline, row
from venzo.core.tooling.cutter import Cutter

BOX = Box(0, 0, 120, 80)
MILL = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=20)
BALL = Cutter(id="b", number=2, name="8 mm", kind="ball", diameter=8, cutting_length=20)


def stages(seed: int, many: int = 6) -> list[Stage]:
    """Cuts one after the other, each with a travel before it, lines and half circles."""
    rng = np.random.default_rng(seed)
    out, clock = [], 0.0
    for k in range(many):
        x, y = rng.uniform(10, 110), rng.uniform(10, 70)
        moves = [row(RAPID, x, y, 3), row(LINE, x, y, -rng.uniform(1, 9))]
        for _ in range(rng.integers(2, 6)):
            z = -rng.uniform(1, 9)
            if rng.random() < 0.4:
                r = rng.uniform(3, 20)
                moves.append(row(CW if rng.random() < 0.5 else CCW, x + 2 * r, y, z, 900, x + r, y))
                x += 2 * r
            else:
                x, y = rng.uniform(10, 110), rng.uniform(10, 70)
                moves.append(row(LINE, x, y, z, 900))
        chain = np.array(moves)
        begins = clock + rng.uniform(0, 3)
        done = begins + np.cumsum(lengths(chain) / 15.0)
        out.append(Stage(chain, BALL if k % 2 else MILL, begins, done))
        clock = float(done[-1])
    return out


def plainly(all_stages: list[Stage], seconds: float) -> StockBody:
    """All moves that are done by then, and the share of the one under way, swept one after the other."""
    body = StockBody(BOX, 0.5)
    for s in all_stages:
        for k in range(1, len(s.moves)):
            if s.begins >= seconds or s.done[k - 1] >= seconds:
                break
            took = s.done[k] - s.done[k - 1]
            share = min(1.0, (seconds - s.done[k - 1]) / took) if took > 0 else 1.0
            body.cut(np.vstack([s.moves[k - 1], part_of(s.moves[k - 1], s.moves[k], share)]), s.cutter)
    return body


GRID = np.stack(np.meshgrid(np.arange(1, 120, 1.7), np.arange(1, 80, 1.7)), axis=-1).reshape(-1, 2)


@given(st.integers(0, 10_000), st.floats(0, 1.1), st.sampled_from([2_000, 20_000, 10**9]))
def test_any_moment_is_what_was_cut_by_then(seed, share, work):
    s = stages(seed)
    film = Moments(BOX, 0.5, s, work)
    assert (len(film.kept) > 0) == (work < 10**9)
    t = share * film.seconds
    away = np.abs(film.at(t).heights(GRID) - plainly(s, t).heights(GRID))
    # an arc that is cut off has its chords elsewhere: within their 0.02 mm, seen on a steep side
    assert np.quantile(away, 0.995) < 0.05 and (away > 0.3).mean() < 0.004


def test_asking_back_and_forth_changes_nothing():
    film = Moments(BOX, 0.5, stages(3), 5_000)
    asked = [0.9, 0.1, 0.5, 0.9, 0.0, 1.0, 0.1]
    seen = {a: [film.at(a * film.seconds).heights(GRID) for b in asked if a == b] for a in asked}
    assert all(np.array_equal(h, of[0]) for of in seen.values() for h in of)
    assert not seen[0.0][0].any()


def test_kept_moments_are_thinned_when_they_weigh_too_much(monkeypatch):
    s = stages(5, 12)
    plenty = Moments(BOX, 0.5, s, 2_000)
    monkeypatch.setattr(moments, "MOST_BYTES", plenty.used * 4 * 64 * 64 // 3)
    few = Moments(BOX, 0.5, s, 2_000)
    assert 0 < len(few.kept) < len(plenty.kept) and few.used <= plenty.used // 2
    for share in (0.2, 0.6, 0.95):
        t = share * few.seconds
        assert np.array_equal(few.at(t).heights(GRID), plenty.at(t).heights(GRID))


@given(st.integers(0, 10_000), st.floats(0.01, 0.99))
def test_a_part_of_a_move_ends_on_the_move(seed, share):
    rng = np.random.default_rng(seed)
    r, a, b = rng.uniform(2, 40), *rng.uniform(0, 2 * np.pi, 2)
    start = np.array(row(LINE, r * np.cos(a), r * np.sin(a), 2.0))
    move = np.array(row([LINE, CW, CCW][seed % 3], r * np.cos(b), r * np.sin(b), -4.0, 900, 0, 0))
    whole = float(lengths(np.vstack([start, move]))[1])
    part = part_of(start, move, share)
    assert float(lengths(np.vstack([start, part]))[1]) == pytest.approx(share * whole, rel=1e-6, abs=1e-6)
    on = polyline(np.vstack([start, move]), 1e-4)
    assert LineString(on).distance(Point(part[1:4])) < 0.01


def grooved() -> StockBody:
    """A 6 mm groove 5 deep along X, and one right through 20 mm beside it."""
    body = StockBody(BOX, 0.1)
    body.cut(np.array([row(RAPID, 10, 30, 3), row(LINE, 10, 30, -5), row(LINE, 110, 30, -5)]), MILL)
    body.cut(np.array([row(RAPID, 10, 50, 3), row(LINE, 10, 50, -18.2), row(LINE, 110, 50, -18.2)]), MILL)
    return body


def test_widths_and_webs_are_measured_across():
    body = grooved()
    assert across(body, 60, 31, -18) == pytest.approx((-5.0, 6.0), abs=0.21)
    assert across(body, 60, 49, -18) == pytest.approx((-18.0, 6.0), abs=0.21)
    assert across(body, 60, 40, -18) == pytest.approx((0.0, 14.0), abs=0.21), "what stands between the two"
    assert across(body, 60, 5, -18)[1] is None, "nothing on the other side"


def test_a_section_shows_floors_and_walls_where_they_are():
    line = section(grooved(), (60, 10), (60, 70))
    walls = [s for (s, h), (_s, g) in pairwise(line) if abs(h - g) > 1]
    assert walls == pytest.approx([17, 23, 37, 43], abs=0.21)
    assert set(line[:, 1].round(1)) == {0.0, -5.0, -18.2}


def test_the_picture_tells_faces_floors_and_what_is_cut_through():
    shown = painted(grooved(), 18.0, BOX, 240, 5.0).astype(int)
    face, floor, under = shown[80, 120], shown[100, 120], shown[60, 120]
    assert shown.shape == (160, 240, 3)
    assert face.sum() > floor.sum() > 250, "the deeper the darker"
    assert np.abs(under - UNDER).max() < 60
    column = shown[52:69, 120:128].reshape(-1, 3).sum(axis=1)
    assert column.max() - column.min() > 60, "hatched"


@given(st.integers(0, 10_000), st.floats(0.1, 1.1))
def test_a_small_area_looked_at_closely_is_the_same_sheet(seed, share):
    s = stages(seed)
    film = Moments(BOX, 0.1, s, 20_000)
    t = share * film.seconds
    area = Box(40, 20, 70, 45)
    spots = GRID[(GRID[:, 0] > 41) & (GRID[:, 0] < 69) & (GRID[:, 1] > 21) & (GRID[:, 1] < 44)]
    near, far = film.close(t, area, 0.1).heights(spots), film.at(t).heights(spots)
    assert (np.abs(near - far) > 0.4).mean() < 0.02 and np.median(np.abs(near - far)) < 0.02
