"""An answer carries what changed since the one its asker holds: put together again it is the whole answer."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support.library_shop import library_shop
from tests.support.trial import TrialJob, disc, rect
from tests.support.web import web_over
from venzo.api.held import Answers


def ordered(names, came, was, name):
    things = {name(t): t for t in (*was, *came)}
    return [things[n] for n in names]


def named(names, came, was):
    return {n: came[n] if n in came else was[n] for n in names}


def filled(answer, held):
    """The whole answer, as the screen puts it together."""
    if answer["rest"] is None:
        return answer
    names, before = answer["rest"]["names"], held[answer["rest"]["since"]]
    setups = []
    for s in answer["setups"]:
        was = next((x for x in before["setups"] if x["id"] == s["id"]), None)
        was = was or {"pieces": [], "sheets": [], "contours": {}, "paths": {}}
        lists = {
            "pieces": ordered(names[f"{s['id']}/pieces"], s["pieces"], was["pieces"], lambda p: p["id"]),
            "sheets": ordered(
                names[f"{s['id']}/sheets"],
                s["sheets"],
                was["sheets"],
                lambda x: f"{x['sheet']}/{x['copy_no']}",
            ),
            "contours": named(names[f"{s['id']}/contours"], s["contours"], was["contours"]),
            "paths": {
                stock: named(names[f"{s['id']}/paths/{stock}"], paths, was["paths"].get(stock, {}))
                for stock, paths in s["paths"].items()
            },
        }
        setups.append({**s, **lists})
    parts = ordered(names["parts"], answer["parts"], before["parts"], lambda p: p["id"])
    return {**answer, "rest": None, "parts": parts, "setups": setups}


class Asker:
    """Whoever holds what it was answered, and says so."""

    def __init__(self, web, job):
        self.web, self.job, self.held, self.tag = web, job, {}, ""
        self.bytes = 0

    def take(self, answer):
        assert answer.status_code < 300, answer.text
        self.bytes = len(answer.content)
        whole = filled(answer.json(), self.held)
        self.tag = whole["tag"]
        self.held[self.tag] = whole
        return whole

    def headers(self):
        return {"x-holds": self.tag} if self.tag else {}

    def read(self):
        """The job, once everything of it is worked out."""
        for _ in range(30):
            whole = self.take(self.web.get(f"/api/jobs/{self.job}", headers=self.headers()))
            if not whole["untried"]:
                return whole
        raise AssertionError("its remedies are never all tried")

    def do(self, way, body=None):
        return self.take(self.web.post(f"/api/jobs/{self.job}/{way}", json=body, headers=self.headers()))


def commands(whole):
    """One edit of each sort that changes one of the lists, on what is there."""
    piece, part = whole["setups"][0]["pieces"][-1], whole["parts"][0]["id"]
    at = {k: piece[k] for k in ("part", "copy_no", "sheet", "sheet_copy", "y", "rotation")}
    return {
        "move": {"kind": "move-piece", "setup": "main", **at, "x": piece["x"] + 1.5},
        "tabs": {"kind": "set-contour", "part": part, "contour": "outline", "tab_count": 5},
        "more": {"kind": "change-quantity", "part": part, "order": whole["orders"][0]["id"], "more": 1},
        "name": {"kind": "rename-job", "name": whole["name"] + "!"},
        "feed": {
            "kind": "change-steps",
            "setup": "main",
            "on": "outlines",
            "change": [{"id": whole["setups"][0]["operations"][-1]["id"], "fields": {"feed": 3210.0}}],
        },
    }


def alike(a, b):
    return {k: v for k, v in a.items() if k not in ("tag", "rest")} == {
        k: v for k, v in b.items() if k not in ("tag", "rest")
    }


@pytest.fixture(scope="module")
def told(tmp_path_factory):
    store = library_shop(tmp_path_factory.mktemp("held"))
    trial = TrialJob(
        store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), (disc(30), [(20, 150), (120, 150)])
    )
    trial.outline({})
    with web_over(store) as web:
        yield web, trial.job
    store.close()


@settings(max_examples=8, deadline=None)
@given(edits=st.lists(st.sampled_from(["move", "tabs", "more", "name", "feed", "undo", "redo"]), max_size=5))
def test_what_changed_put_to_what_is_held_is_the_whole_answer(told, edits):
    web, job = told
    mine, other = Asker(web, job), Asker(web, job)
    whole = mine.read()
    for edit in edits:
        if edit in ("undo", "redo"):
            if whole[f"can_{edit}"]:
                mine.do(edit)
        else:
            mine.do("commands", {"base": whole["revision"], "command": commands(whole)[edit]})
        whole = mine.read()
        other.tag = ""  # holds nothing, and is told everything
        assert alike(whole, other.read()), edit
    assert not edits or mine.web.get(f"/api/jobs/{job}", headers=mine.headers()).json()["parts"] == []


def test_an_edit_answers_with_what_it_changed(told):
    web, job = told
    mine = Asker(web, job)
    whole = mine.read()
    everything = mine.bytes
    answer = web.post(
        f"/api/jobs/{job}/commands",
        json={"base": whole["revision"], "command": commands(whole)["move"]},
        headers=mine.headers(),
    ).json()
    setup = answer["setups"][0]
    assert [p["id"] for p in setup["pieces"]] == [whole["setups"][0]["pieces"][-1]["id"]]
    assert answer["parts"] == [] and setup["contours"] == {} and len(setup["sheets"]) == 1
    mine.read()
    # a setup's own fields, with its machine, cutters and rules, are in every answer: most of so small a job
    assert mine.bytes < 0.8 * everything


@pytest.mark.parametrize("tag", ["", "never given", "é" * 90, "0" * 24])
def test_who_holds_nothing_that_is_known_is_told_everything(told, tag):
    web, job = told
    got = web.get(f"/api/jobs/{job}", headers={"x-holds": tag.encode().hex()[:200]}).json()
    assert got["rest"] is None and len(got["parts"]) == 2


def test_a_changed_thing_that_goes_and_comes_back_is_sent_again(told):
    """The tag held decides, not what was ever sent."""
    web, job = told
    mine = Asker(web, job)
    first = mine.read()
    moved = mine.do("commands", {"base": first["revision"], "command": commands(first)["move"]})
    back = web.post(f"/api/jobs/{job}/undo", headers={"x-holds": moved["tag"]}).json()
    assert [p["id"] for p in back["setups"][0]["pieces"]] == [first["setups"][0]["pieces"][-1]["id"]]


def test_what_was_given_longest_ago_is_forgotten(told):
    from venzo.api.documents.job import JobDocument

    web, job = told
    whole = JobDocument.model_validate(Asker(web, job).read())
    few = Answers(most=30)
    assert few.answer(whole).tag and few._given.currsize <= 30
    assert Answers(most=2).answer(whole).rest is None, "an answer larger than all that is remembered"
    assert json.loads(few.answer(whole).model_dump_json(by_alias=True))["rest"] is None


def test_a_piece_that_lies_twice_is_shown_twice(told):
    """Nothing of a faulty layout may be lost on the way to the screen."""
    web, job = told
    mine = Asker(web, job)
    whole = mine.read()
    kept = ("part", "copy_no", "sheet", "sheet_copy", "x", "y", "rotation", "mirrored", "locked")
    pieces = [{k: p[k] for k in kept} for p in whole["setups"][0]["pieces"]]
    nest = {"pieces": [*pieces, {**pieces[0], "x": pieces[0]["x"] + 40}], "inputs": "by hand"}
    command = {"kind": "accept-nest", "setup": "main", "nest": nest}
    mine.do("commands", {"base": whole["revision"], "command": command})
    again = mine.read()
    assert len(again["setups"][0]["pieces"]) == len(pieces) + 1
    assert again["setups"][0]["layout"]["state"] == "at fault"
    mine.do("undo")
