"""Pictures of heights, from outside: read by Pillow, held against cuts reckoned by hand (a pocket as deep as
it was asked, a hole through, an untouched face).
"""

import io

import numpy as np
import pytest
from PIL import Image

from tests.support.trial import TrialJob, rect
from venzo.desk import cut_stock
from venzo.desk.cut_stock import Framed, SheetAt

THICK = 17.6


@pytest.fixture
def job(store):
    return TrialJob(store, (rect(200, 120, ((50, 60, 20),), pocket=(140, 60, 25)), [(100, 100)]))


def heights(job, area=None, width=1200):
    at = SheetAt(setup="main", sheet="own")
    data = cut_stock.heights_png(job.store, job.plan, at, Framed(area, width))
    picture = Image.open(io.BytesIO(data))
    grey = np.asarray(picture).astype(float)
    return picture, grey / 65535 * float(picture.text["mm from black to white"]) - THICK


def test_depths_are_those_of_the_plan_and_places_those_of_the_sheet(job):
    picture, z = heights(job)
    assert picture.mode == "I;16" and picture.size == (1200, 800)
    per = float(picture.text["mm per pixel"])
    assert per == pytest.approx(600 / 1200)

    def at(x, y):
        return z[int((400 - y) / per), int(x / per)]

    assert at(20, 380) == pytest.approx(0, abs=0.001), "untouched"
    assert at(240, 160) == pytest.approx(-6, abs=0.01), "the pocket is 6 mm deep"
    assert at(150, 160 + 18) < -THICK + 0.01, "the hole's kerf goes through"
    assert at(98, 160) < -THICK + 0.01 and at(104, 160) == pytest.approx(0, abs=0.001), "beside the outline"
    # the pocket's area, within a row of pixels on its edge
    inside = np.isclose(z, -6, atol=0.02).sum() * per**2
    assert inside == pytest.approx(np.pi * 25**2, rel=0.05)


def test_a_detail_is_as_deep_as_the_whole_and_finer(job):
    picture, z = heights(job, (210, 130, 270, 190), 600)
    assert float(picture.text["mm per pixel"]) == pytest.approx(0.1)
    deep = np.isclose(z, -6, atol=0.02).sum() * 0.01
    assert deep == pytest.approx(np.pi * 25**2, rel=0.01)


def test_the_picture_is_what_the_screen_shows(job):
    at, framed = SheetAt(setup="main", sheet="own"), Framed(None, 400)
    made = [f(job.store, job.plan, at, framed) for f in (cut_stock.picture_png, cut_stock.picture)]
    png, webp = (np.asarray(Image.open(io.BytesIO(data)).convert("RGB")) for data in made)
    assert np.array_equal(png, webp)
