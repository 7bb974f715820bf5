"""The rack's arithmetic: on hand is the sum of movements, never below nothing, and what fits really fits."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.affinity import rotate, translate
from shapely.geometry import Polygon, box

from venzo.core.rack.fits import Wanted, fit, fits
from venzo.core.rack.lots import (
    READ,
    Changed,
    Counted,
    Lot,
    Received,
    Reserved,
    Returned,
    Scrapped,
    SetFree,
    Taken,
)
from venzo.core.rack.on_hand import Shelf, moved, shelves
from venzo.core.snags import BadInput


def lot(key="a", **fields):
    return Lot(
        **{
            "id": key,
            "label": key.upper(),
            "name": "ply",
            "material": "birch-ply",
            "width": 800,
            "height": 500,
            "nominal": 18,
            **fields,
        }
    )


JOBS = st.sampled_from(["j1", "j2", "j3"])
N = st.integers(1, 6)
MOVES = st.one_of(
    st.builds(lambda n: Received(lot=lot(), count=n), N),
    st.builds(lambda j, n: Reserved(lot="a", job=j, count=n), JOBS, N),
    st.builds(lambda j, n: SetFree(lot="a", job=j, count=n), JOBS, N),
    st.builds(
        lambda j, n, r: Taken(lot="a", job=j, count=n, from_reserved=min(n, r)), JOBS, N, st.integers(0, 6)
    ),
    st.builds(lambda n: Returned(lot="a", count=n), N),
    st.builds(lambda n: Scrapped(lot="a", count=n), N),
    st.builds(lambda n: Counted(lot="a", found=n, was=0), st.integers(0, 9)),
    st.just(Changed(lot="a", place="bay 2")),
)


@given(st.lists(MOVES, max_size=60))
def test_on_hand_is_the_sum_of_what_was_taken_in_and_never_below_nothing(asked):
    """Every movement that is not refused counts; one that is refused changes nothing."""
    shelf, on_hand, done = None, 0, []
    for m in asked:
        try:
            shelf = moved(shelf, m)
        except BadInput as e:
            assert str(e).strip() and shelf == shelves(done).get("a")
            continue
        done.append(m)
        sign = {"received": 1, "returned": 1, "taken": -1, "scrapped": -1}.get(m.kind, 0)
        on_hand = m.found if m.kind == "counted" else on_hand + sign * getattr(m, "count", 0)
        assert shelf.on_hand == on_hand >= 0
        assert all(n > 0 for n in shelf.reserved.values())
        assert READ.validate_python(m.model_dump(mode="json")) == m, "kept as it was"


def test_what_others_reserved_is_not_free():
    shelf = shelves([Received(lot=lot(), count=5), Reserved(lot="a", job="j1", count=3)])["a"]
    assert shelf.free == 2 and shelf.for_job("j1") == 5 and shelf.for_job("j2") == shelf.for_job(None) == 2
    for m in (Reserved(lot="a", job="j2", count=3), Scrapped(lot="a", count=3)):
        with pytest.raises(BadInput, match="2 of 5 are free"):
            moved(shelf, m)
    with pytest.raises(BadInput, match="has 0 reserved"):
        moved(shelf, SetFree(lot="a", job="j2", count=1))
    with pytest.raises(BadInput, match="no lot 'b'"):
        moved(None, Reserved(lot="b", job="j1", count=1))


def test_a_count_below_what_is_reserved_shows_as_such_and_loses_nothing():
    found = shelves(
        [Received(lot=lot(), count=5), Reserved(lot="a", job="j1", count=4), Counted(lot="a", found=2, was=5)]
    )["a"]
    assert found.on_hand == 2 and found.free == -2 and found.reserved == {"j1": 4}


def test_lots_that_cannot_be_are_refused():
    for outline in (
        [(0, 0), (10, 0)],
        [(0, 0), (800, 500), (800, 0), (0, 500)],
        [(0, 0), (900, 0), (0, 500)],
    ):
        with pytest.raises(ValueError, match="outline"):
            lot(outline=outline)


@pytest.mark.parametrize("seed", range(10))
def test_a_piece_that_is_said_to_fit_lies_within_the_sheet_clear_of_its_flaws(seed):
    rng = random.Random(seed)
    ell = [(0, 0), (800, 0), (800, 200), (300, 200), (300, 500), (0, 500)]
    flaw = {"x": rng.uniform(50, 600), "y": rng.uniform(20, 120), "width": 40, "height": 30, "clearance": 4}
    board = lot(outline=ell, flaws=[flaw], remnant=True)
    w, h = rng.uniform(60, 420), rng.uniform(60, 300)
    found = fit(board, Wanted.size(w, h))
    inner = Polygon(ell).buffer(-board.margin, join_style="mitre")
    blocked = box(flaw["x"], flaw["y"], flaw["x"] + 40, flaw["y"] + 30).buffer(4)
    if found is None:
        # by brute force on a raster of places nothing fits either
        for a, b in ((w, h), (h, w)):
            spots = [box(x, y, x + a, y + b) for x in range(0, 800, 8) for y in range(0, 500, 8)]
            assert not any(inner.covers(s) and s.intersection(blocked).area < 1e-9 for s in spots)
        return
    piece = translate(rotate(box(0, 0, w, h), found.rotation, origin=(0, 0)), found.x, found.y)
    assert inner.buffer(0.02).covers(piece) and piece.intersection(blocked.buffer(-0.05)).area < 0.1
    assert found.share == pytest.approx(w * h / Polygon(ell).area)


def test_remnants_come_before_sheets_and_the_smallest_first():
    big, small, sheet = (
        lot("big", remnant=True),
        lot("small", remnant=True, width=400),
        lot("sheet", width=300, height=300),
    )
    other = lot("other", material="acrylic", width=260, height=260)
    every = [Shelf(x, 1) for x in (sheet, big, small, other)] + [Shelf(lot("gone"), 0)]
    found = fits(every, Wanted.size(250, 200), "birch-ply")
    assert [f.lot.id for f in found] == ["small", "big", "sheet"]


def test_grain_and_mirror_are_kept():
    along = Wanted([(0, 0), (700, 0), (700, 300), (0, 300)], (0.0, 90.0), grain=0)
    assert fit(lot(grain=0), along) and fit(lot(grain=90), along) is None
