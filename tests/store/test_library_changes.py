"""The library under many hands: nothing is lost, everything can be read and taken back."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.support.trial import TrialJob as Job
from tests.support.trial import rect
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.feeds.windows import window
from venzo.core.snags import BadInput
from venzo.core.stock.material import Material
from venzo.core.surfacing.board import Board, SurfaceSetup
from venzo.desk import library, spoilboards
from venzo.store.store import Store


def test_two_hundred_parallel_bookings_are_all_there(store):
    """31 of 40 were lost before: each read the cutter, added, and wrote it over the others."""
    before = library.cutters(store)[0]
    with ThreadPoolExecutor(16) as pool:
        list(pool.map(lambda _k: library.book_wear(store, before.id, 0.5), range(200)))
    assert next(c for c in library.cutters(store) if c.id == before.id).metres == pytest.approx(
        before.metres + 100
    )
    assert len([k for k in store.runs() if k.record.cutter == before.id]) >= 200


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
    assert (
        now.feeds[family].feed == 1234.0
        and now.feeds[family].rpm == mill.feeds[family].rpm
        and now.feeds.keys() == mill.feeds.keys()
    )


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
    library.put(store, "holder", {"id": "new", "name": "Chuck", "nose": 40, "length": 60, "collets": [6]})
    library.change(store, "rules", "house", {"web": 9.0})
    library.remove(store, "holder", "new")
    words = [c.says for c in library.history(store)]
    assert words == [
        "Chuck taken out",
        "house rules: web changed",
        "Chuck: added",
        f"{mill.name}: note changed",
    ]
    again = Store(store.folder)
    assert [library.undo(again) for _ in words] == [f"undone: {w}" for w in words]
    again.close()
    store._library.clear()
    assert {k: store.library(k) for k in kinds} == start
    with pytest.raises(BadInput, match="nothing to undo"):
        library.undo(store)
    assert sum(c.undone for c in library.history(store)) == 4 and len(library.history(store)) == 8


def test_a_board_changes_field_by_field_and_back(store):
    board = Board(
        id="b", name="Board", kind="spoilboard", machine="long-bed", width=900, height=600, thickness=18
    )
    first = spoilboards.put(store, SurfaceSetup(id="b", board=board).model_dump(mode="json"))
    with ThreadPoolExecutor(4) as pool:
        list(
            pool.map(
                lambda f: spoilboards.change(store, "b", f),
                [
                    {"how": {"feed": 3210.0}},
                    {"how": {"rpm": 15_000.0}},
                    {"board": {"width": 850.0}},
                    {"pitch": 90.0},
                ],
            )
        )
    now = spoilboards.surface_setup(store, "b")
    assert (now.how.feed, now.how.rpm, now.board.width, now.pitch) == (3210.0, 15_000.0, 850.0, 90.0)
    with pytest.raises(BadInput, match="width"):
        spoilboards.change(store, "b", {"board": {"width": -4}})
    for _ in range(4):
        spoilboards.undo(store, "b")
    assert spoilboards.surface_setup(store, "b") == first


def test_a_cutter_of_the_shop_comes_into_a_job_with_the_step_that_needs_it(store):
    """Imported cutters had no feeds and so never appeared: feeds are proposed for all in one go, and the step
    brings the cutter along.
    """
    b = Job(store, (rect(200, 120), [(100, 100)])).outline({})
    csv = "kind,name,number,diameter,cutting length,flutes\nup-cut,5 mm up-cut of long reach,77,5,30,2\n"
    library.import_cutters(store, csv.encode(), "new.csv", True)
    proposed = library.propose_feeds(store)
    (new,) = [c for c, families in proposed if c.number == 77]
    assert (
        set(new.feeds) >= {"wood", "plastic"}
        and all("proposed" in f.source for f in new.feeds.values())
        and not library.propose_feeds(store)
    )
    jet = csv + "plasma torch,torch,78,1.4,20,1\n"
    with pytest.raises(BadInput, match="'plasma torch' is not a kind of cutter"):
        library.import_cutters(store, jet.encode(), "jet.csv", True)
    for family, f in new.feeds.items():
        material = next(
            Material.model_validate(m) for m in store.library("material") if m["family"] == family
        )
        low, high = window(new, material).chip
        assert low <= f.feed / f.rpm / new.flutes <= high
    before = [c.id for c in b.setup.cutters]
    change = {
        "kind": "change-steps",
        "setup": "main",
        "on": "outlines",
        "change": [{"id": "step0", "fields": {"cutter": new.id}}],
    }
    with pytest.raises(BadInput, match="no cutter"):
        b.do(change)
    b.do({**change, "cutters": [new.model_dump(mode="json")]})
    assert [c.id for c in b.setup.cutters] == [*before, new.id] and b.setup.operations[-1].cutter == new.id
    assert {c.cut.cutter for c in b.sheet.cuts} == {new.id} and not b.said("cuts.no-feeds")
    clash = new.model_copy(update={"id": "clash"})
    with pytest.raises(BadInput, match="both T77"):
        b.do(
            {
                **change,
                "change": [{"id": "step0", "fields": {"cutter": "clash"}}],
                "cutters": [clash.model_dump(mode="json")],
            }
        )


def test_a_feed_typed_by_hand_is_not_called_the_middle_of_the_window(store):
    mill = next(c for c in library.cutters(store) if c.feeds.get("wood"))
    wood = next(Material.model_validate(m) for m in store.library("material") if m["family"] == "wood")
    for cutter in (mill, mill.model_copy(update={"feeds": {}})):
        assert advise(cutter, wood, library.rules(store), None, CutNumbers(feed=2500.0)).source.startswith(
            "feed set by hand"
        )
        assert advise(cutter, wood, library.rules(store), None, CutNumbers(rpm=15_000.0)).source.startswith(
            "speed set by hand"
        )
