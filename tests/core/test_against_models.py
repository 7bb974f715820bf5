"""The sheet held against its reliefs at moments of the tape: before, roughed, finished; in sections too."""

import io
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.core.test_reliefs_on_parts import carved, reliefs
from venzo.core.relief.difference import BANDS, band_of, coloured
from venzo.desk import cut_stock
from venzo.desk.cut_stock import Framed, SheetAt


def over_model(job, seconds=None):
    """Heights above the model at the middles of the film's cells, over the relief."""
    at = SheetAt(setup="main", sheet="own", seconds=seconds)
    body, _stock = cut_stock._body(job.store, job.plan, at)
    xs, ys = np.meshgrid(np.arange(86, 174, 0.7), np.arange(81, 139, 0.7))
    grid = body.middles(np.column_stack([xs.ravel(), ys.ravel()]))
    left = body.heights(grid) - cut_stock.models_on(job.store, job.plan, at).heights(grid)
    return left[np.isfinite(left)]


def test_what_stands_over_a_model_before_roughed_and_finished(store):
    job = carved(store)
    rough, finish = reliefs(job)
    before = over_model(job, 0.0)
    assert 8.0 < before.max() <= 8.8 and before.min() >= 0  # the egg is steep at its rim
    roughed = over_model(job, rough.begins + rough.seconds)
    assert (
        np.median(roughed) < 3.5 and np.percentile(roughed[before > 2], 1) > 0.5
    )  # an allowance of a millimetre is left
    done = over_model(job, finish.begins + finish.seconds)
    assert done.min() > -0.02 and np.percentile(done, 90) < 0.1


def test_the_section_shows_the_relief_as_it_is_to_come_out(store):
    job = carved(store)
    at = SheetAt(setup="main", sheet="own")
    cut = cut_stock.section_of(store, job.plan, at, (60.0, 110.0), (200.0, 110.0))
    (model,) = cut.model
    s, z = np.array(model).T
    assert s[0] == pytest.approx(25, abs=0.5) and s[-1] == pytest.approx(115, abs=0.5)
    # the egg's middle: its top at the face
    assert z.max() == pytest.approx(0, abs=0.02) and z[0] == pytest.approx(-8.8, abs=2.5)
    made = np.interp(s, *np.array(cut.points).T)
    assert np.median(np.abs(made - z)) < 0.05
    beside = cut_stock.section_of(store, job.plan, at, (5.0, 5.0), (40.0, 5.0))
    assert beside.model == []
    there = cut_stock.under_pointer(store, job.plan, at, 130.0, 110.0)
    assert there.above_model == pytest.approx(0, abs=0.05)
    assert cut_stock.under_pointer(store, job.plan, at, 20.0, 20.0).above_model is None


def test_the_page_explains_the_bands_that_the_picture_has():
    """Limits, words and colours stand in the picture's room and on the page: they must be the same."""
    page = (Path(__file__).parents[2] / "web/src/stations/prove/ModelScale.tsx").read_text()
    told = re.findall(r'\[\s*(null|[0-9.]+),\s*"([^"]+)",\s*"(#[0-9a-f]{6})"', page)
    begins = [None, None, *(b.upto for b in BANDS[1:-1])]
    assert told == [
        ("null" if start is None else f"{start:g}", b.called, "#{:02x}{:02x}{:02x}".format(*b.colour))
        for start, b in zip(begins, BANDS, strict=True)
    ]


def test_the_picture_tells_bands_by_colour_and_by_pattern(store):
    grey = np.full((24, 24, 3), 225, dtype=np.uint8)
    left = np.full((24, 24), np.nan)
    left[:, :20] = np.repeat([-0.1, 0.0, 0.1, 0.5, 2.0], 4)
    seen = coloured(grey, left)
    assert (seen[:, 20:] == 225).all()
    tones = {tuple(seen[:, 4 * k : 4 * k + 4].reshape(-1, 3).mean(axis=0).round()) for k in range(5)}
    assert len(tones) == 5 and len({b.pattern for b in BANDS}) == 5
    assert band_of(np.array([-0.02, 0.05, 0.2, 1.0])).tolist() == [1, 2, 3, 4]
    job = carved(store)
    at = SheetAt(setup="main", sheet="own")
    framed = Framed((50, 50, 250, 200), 300)
    plain, held = (
        np.asarray(Image.open(io.BytesIO(f(store, job.plan, at, framed))).convert("RGB"), dtype=int)
        for f in (cut_stock.picture, cut_stock.difference)
    )
    assert plain.shape == held.shape
    other = (plain != held).any(axis=2)
    assert 0.05 < other.mean() < 0.5  # the relief is shown so, the rest of the sheet as it was
