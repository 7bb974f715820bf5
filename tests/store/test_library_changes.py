"""The library under many hands: nothing is lost, everything can be read and taken back."""

from concurrent.futures import ThreadPoolExecutor
from typing import get_args

import pytest
from pydantic import BaseModel

from tests.support.trial import TrialJob as Job
from tests.support.trial import rect
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.feeds.windows import window
from venzo.core.field_units import UNIT_OF, said
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.stock.material import Material
from venzo.core.surfacing.board import Board, SurfaceSetup
from venzo.desk import library, library_past, spoilboards
from venzo.store.store import NotFound, Store


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


def _number_fields(model, name=""):
    """Names of all fields that hold numbers, as deep as a model goes."""
    if inner := get_args(model):
        return {n for a in inner for n in _number_fields(a, name)}
    if isinstance(model, type) and issubclass(model, BaseModel):
        return {n for f, info in model.model_fields.items() for n in _number_fields(info.annotation, f)}
    return {name} if model in (int, float) and name else set()


def test_every_number_of_the_library_is_said_in_its_unit():
    """A field that nobody gave a unit would be shown as a bare number, and be read in the wrong one."""
    fields = {n for model in (*library.KINDS.values(), HouseRules) for n in _number_fields(model)}
    assert fields == set(UNIT_OF)


def test_a_change_of_the_library_is_looked_at_and_brought_back(store):
    mill = library.cutters(store)[0]
    family = next(iter(mill.feeds))
    feed = mill.feeds[family].feed
    fields = {"stick_out": 41.0, "feeds": {family: {"feed": feed + 100}}}
    library.change(store, "cutter", mill.id, fields)
    number = library.history(store)[0].number
    library.change(store, "cutter", mill.id, {"note": "reground"})
    seen = library_past.compared(store, number)
    assert {(d.field, d.one, d.other) for d in seen.differs} == {
        ("stick out", said("stick_out", mill.stick_out), "41 mm"),
        (f"feeds, {family}, feed", f"{feed:g} mm/min", f"{feed + 100:g} mm/min"),
    }
    assert seen.sides[0].outline and seen.sides[0].edge == mill.cutting_length
    assert "note" in {d.field for d in library_past.compared(store, number, "before", "now").differs}
    library.book_wear(store, mill.id, 12.0)
    worn = next(c.metres for c in library.cutters(store) if c.id == mill.id)
    assert library_past.bring_back(store, number, "before").endswith(f"as it was before change {number}")
    now = next(c for c in library.cutters(store) if c.id == mill.id)
    assert now.model_copy(update={"metres": 0}) == mill.model_copy(update={"metres": 0})
    assert now.metres == worn, "wear is what the runs come to, whatever is brought back"
    with pytest.raises(BadInput, match="so already"):
        library_past.bring_back(store, number, "before")
    library.undo(store)
    assert next(c for c in library.cutters(store) if c.id == mill.id).note == "reground"


def test_what_was_removed_comes_back_and_what_was_not_there_goes(store):
    holder = store.library("holder")[0]
    library.remove(store, "holder", holder["id"])
    number = library.history(store)[0].number
    assert not library_past.compared(store, number).sides[1].there
    library_past.bring_back(store, number, "before")
    assert holder in store.library("holder")
    library_past.bring_back(store, number, "after")
    assert holder not in store.library("holder")
    with pytest.raises(BadInput, match="was not in the library"):
        library_past.bring_back(store, number, "after")
    with pytest.raises(NotFound, match="no change 99999"):
        library_past.compared(store, 99999)
    with pytest.raises(BadInput, match="itself"):
        library_past.compared(store, number, "now", "now")


def test_a_cutter_is_not_brought_back_onto_a_number_that_is_taken(store):
    first = library.cutters(store)[0]
    library.change(store, "cutter", first.id, {"number": 77})
    number = library.history(store)[0].number
    other = library.cutters(store)[1]
    library.change(store, "cutter", other.id, {"number": first.number})
    with pytest.raises(BadInput, match=f"T{first.number} is {other.name}"):
        library_past.bring_back(store, number, "before")
    assert next(c for c in library.cutters(store) if c.id == first.id).number == 77


def test_house_rules_and_recipes_are_brought_back(store):
    before = library.rules(store)
    library.change(store, "rules", "house", {"web": 9.0, "hold": {"margin": 3.0}})
    number = library.history(store)[0].number
    assert {d.field for d in library_past.compared(store, number).differs} == {"web", "hold, margin"}
    library_past.bring_back(store, number, "before")
    assert library.rules(store) == before
    library.starter_recipes(store)
    recipe = store.library("recipe")[0]
    library.put(store, "recipe", {**recipe, "why": "another reason"})
    number = library.history(store)[0].number
    library_past.bring_back(store, number, "before")
    now = next(r for r in store.library("recipe") if r["id"] == recipe["id"])
    assert now["why"] == recipe["why"] and now["version"] == recipe["version"] + 2
