"""The library under many hands: nothing is lost, everything can be read and taken back."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from venzo import benches, library
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import Bench, Board
from venzo.store.store import Store


def test_two_hundred_parallel_bookings_are_all_there(store):
    """31 of 40 were lost before: each read the cutter, added, and wrote it over the others."""
    before = library.cutters(store)[0]
    with ThreadPoolExecutor(16) as pool:
        list(pool.map(lambda _k: library.book_wear(store, before.id, 0.5), range(200)))
    assert next(c for c in library.cutters(store) if c.id == before.id).metres == pytest.approx(before.metres + 100)
    assert len(library.history(store)) == 200


def test_fields_changed_at_once_keep_each_other(store):
    mill = library.cutters(store)[0]
    fields = {"name": "renamed", "stick_out": 41.0, "note": "sharp", "max_depth": 33.0, "life": 900.0}
    with ThreadPoolExecutor(5) as pool:
        list(pool.map(lambda f: library.change(store, "cutter", mill.id, {f[0]: f[1]}), fields.items()))
    now = next(c for c in library.cutters(store) if c.id == mill.id)
    assert {k: getattr(now, k) for k in fields} == fields and now.feeds == mill.feeds
    family = next(iter(mill.feeds))
    library.change(store, "cutter", mill.id, {"feeds": {family: {"feed": 1234.0}}})
    now = next(c for c in library.cutters(store) if c.id == mill.id)
    assert now.feeds[family].feed == 1234.0 and now.feeds[family].rpm == mill.feeds[family].rpm and now.feeds.keys() == mill.feeds.keys()


def test_the_house_rules_are_never_reset_by_leaving_them_out(store):
    library.change(store, "rules", "house", {"web": 7.5, "hold": {"margin": 3.0}})
    with pytest.raises(BadInput, match="not named"):
        library.put(store, "rules", {})
    kept = library.rules(store)
    assert kept.web == 7.5 and kept.hold.margin == 3.0 and kept.name == "Marram Works"
    with pytest.raises(BadInput, match="has no 'wep'"):
        library.change(store, "rules", "house", {"wep": 1})


def test_every_change_is_taken_back_one_by_one(store, tmp_path):
    kinds = library.SHOWN
    start = {k: store.library(k) for k in kinds}
    mill = library.cutters(store)[0]
    library.change(store, "cutter", mill.id, {"note": "first"})
    library.book_wear(store, mill.id, 12)
    library.put(store, "holder", {"id": "new", "name": "Chuck", "nose": 40, "length": 60, "collets": [6]})
    library.change(store, "rules", "house", {"web": 9.0})
    library.remove(store, "holder", "new")
    words = [c["says"] for c in library.history(store)]
    assert words == ["Chuck taken out", "house rules: web changed", "Chuck: added", f"{mill.name}: 12 m booked", f"{mill.name}: note changed"]
    again = Store(store.folder)
    assert [library.undo(again) for _ in words] == [f"undone: {w}" for w in words]
    again.close()
    store._library.clear()
    assert {k: store.library(k) for k in kinds} == start
    with pytest.raises(BadInput, match="nothing to undo"):
        library.undo(store)
    assert sum(c["undone"] for c in library.history(store)) == 5 and len(library.history(store)) == 10


def test_a_board_changes_field_by_field_and_back(store):
    board = Board(id="b", name="Board", kind="spoilboard", machine="long-bed", width=900, height=600, thickness=18)
    first = benches.put(store, Bench(id="b", board=board).model_dump(mode="json"))
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(lambda f: benches.change(store, "b", f), [{"how": {"feed": 3210.0}}, {"how": {"rpm": 15_000.0}}, {"board": {"width": 850.0}}, {"pitch": 90.0}]))
    now = benches.bench(store, "b")
    assert (now.how.feed, now.how.rpm, now.board.width, now.pitch) == (3210.0, 15_000.0, 850.0, 90.0)
    with pytest.raises(BadInput, match="width"):
        benches.change(store, "b", {"board": {"width": -4}})
    for _ in range(4):
        benches.undo(store, "b")
    assert benches.bench(store, "b") == first
