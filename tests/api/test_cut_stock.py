"""The stock as it is cut, over HTTP: pictures at a moment, points, sections; what is refused."""

from __future__ import annotations

import io

import pytest
from PIL import Image

from tests.support.trial import TrialJob, rect
from tests.support.web import web_over

THICK = 17.6


@pytest.fixture
def cut(store):
    """A panel of 300 x 200 at 100, 100 on its sheet, cut out; a client, and what names the sheet."""
    job = TrialJob(store, (rect(300, 200), [(100, 100)]))
    with web_over(store) as web:
        sheet = web.get(f"/api/jobs/{job.job}").json()["setups"][0]["sheets"][0]
        at = {"setup": "main", "sheet": sheet["sheet"], "copy_no": sheet["copy_no"]}
        yield web, f"/api/jobs/{job.job}/cut", at, sheet


def test_a_picture_goes_with_the_tape(cut):
    web, address, at, sheet = cut

    def seen(**more):
        answer = web.get(f"{address}.webp", params={**at, "px": 400, **more})
        assert answer.status_code == 200 and answer.headers["content-type"] == "image/webp"
        return Image.open(io.BytesIO(answer.content))

    whole, begun = seen(), seen(seconds=0)
    assert whole.size[0] == 400 and whole.size == begun.size
    assert len(begun.getcolors(100)) == 1, "nothing is cut yet"
    assert len(whole.getcolors(100_000)) > 3
    half = sheet["cuts"][0]["begins"] + sheet["cuts"][0]["seconds"] / 2
    assert seen(seconds=half).tobytes() not in (whole.tobytes(), begun.tobytes())
    assert seen(seconds=1e6).tobytes() == whole.tobytes()
    corner = seen(area="90,90,190,140")
    assert corner.size == (400, 200)


def test_a_point_of_the_sheet_is_told(cut):
    web, address, at, _sheet = cut

    def under(x, y, **more):
        return web.get(f"{address}/at", params={**at, **more, "x": x, "y": y}).json()

    kerf = under(250, 96)
    assert kerf["through"] and kerf["depth"] == THICK and 5 < kerf["across"] < 9
    assert under(250, 200)["depth"] == 0 and not under(250, 200)["through"]
    assert under(250, 96, seconds=0)["depth"] == 0
    assert under(-5, 96) is None, "beside the sheet"


def test_a_section_runs_through_both_sides_of_the_panel(cut):
    web, address, at, _sheet = cut
    line = {"x0": 250, "y0": 50, "x1": 250, "y1": 350}
    seen = web.get(f"{address}/section", params={**at, **line}).json()
    assert seen["length"] == pytest.approx(300) and seen["underside"] == -THICK
    through = [s for s, h in seen["points"] if h <= -THICK]
    assert min(through) < 50 and max(through) > 250
    assert all(not 52 < s < 248 for s in through), "the panel stands"


REFUSED = [
    (".webp", {"sheet": "nowhere"}, "no piece lies on sheet 'nowhere'"),
    (".webp", {"copy_no": 9}, "copy 9"),
    (".webp", {"setup": "other"}, "no setup 'other'"),
    (".webp", {"area": "1,2,3"}, "give x0,y0,x1,y1 in mm"),
    (".webp", {"area": "5,5,5,9"}, "is no picture"),
    (".webp", {"area": "nan,0,1,1"}, "give x0,y0,x1,y1 in mm"),
    ("/left", {"sheet": "nowhere"}, "no piece lies on sheet 'nowhere'"),
    (".webp", {"px": 2400, "area": "10,10,20,400"}, "is over 8,000,000 pixels"),
    ("/section", {"x0": 5, "y0": 5, "x1": 9000, "y1": 5}, "9000, 5 mm, lies beside the sheet"),
    ("/section", {"x0": 5, "y0": 5, "x1": 5, "y1": 5.1}, "shorter than 0.5 mm"),
]


def test_what_cannot_be_shown_is_refused_in_a_sentence(cut):
    web, address, at, _sheet = cut
    for path, wrong, says in REFUSED:
        answer = web.get(address + path, params={**at, **wrong})
        assert answer.status_code == 422 and says in answer.json()["detail"]


def test_a_plain_panel_leaves_nothing_standing(cut):
    web, address, at, _sheet = cut
    assert web.get(f"{address}/left", params=at).json() == []
