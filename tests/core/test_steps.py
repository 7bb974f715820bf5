"""Steps, recipes and what is said about them: one setup's, one part's, one contour's; files by Z zero;
remedies that mend what they say.
"""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import dxf
from venzo.core.cuts.operations import Bore, Chamfer, Groove, Pocket, Profile, RecipeSteps
from venzo.core.edits import (
    ChangeStock,
    SetContour,
    SetOperation,
    SetQuantity,
    SetSetup,
    SetSteps,
    read_command,
)
from venzo.core.order.of_sheet import plan_sheet
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter, Feeds
from venzo.demo.seed import nest_job
from venzo.desk import drawings, jobs, library
from venzo.desk.jobs import programs
from venzo.formats.gcode import read


def plate(m):
    """A plate with two holes, a pocket and a groove without a depth, engraving, and holes to drill."""
    for name in ("POCKET", "GROOVE 4mm", "ENGRAVE", "DRILL"):
        m.doc.layers.add(name)
    m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
    m.add_circle((30, 30), 8)
    m.add_circle((170, 30), 9)
    m.add_lwpolyline([(60, 40), (140, 40), (140, 80), (60, 80)], close=True, dxfattribs={"layer": "POCKET"})
    m.add_line((20, 100), (180, 100), dxfattribs={"layer": "GROOVE 4mm"})
    m.add_line((20, 110), (180, 110), dxfattribs={"layer": "ENGRAVE"})
    m.add_circle((30, 60), 2.5, dxfattribs={"layer": "DRILL"})
    m.add_circle((170, 60), 5, dxfattribs={"layer": "DRILL"})


class Job:
    def __init__(self, store):
        self.store = store
        self.job = jobs.new_job(store, "steps", "long-bed", "birch-ply").plan.id
        self.do(ChangeStock(setup="main", stock="ply-2440", fields={"readings": [17.6, 17.7, 17.5, 17.6]}))
        drawings.take_drawing(store, self.job, store.get(self.job).number, "main", "plate.dxf", dxf(plate))
        self.part = self.plan.parts[0].id
        self.do(SetQuantity(part=self.part, order="order-1", quantity=2))
        nest_job(store, self.job, "main", 1)

    plan = property(lambda self: self.store.get(self.job).plan)
    derived = property(lambda self: jobs.derive(self.store, self.plan)["main"])

    def do(self, command):
        return self.store.apply(self.job, self.store.get(self.job).number, command)

    def cuts(self, **want):
        d = self.derived
        return [c for s in d.sheets for c in s.cuts if all(getattr(c.cut, k) == v for k, v in want.items())]

    def features(self):
        return {
            c.contour: c for parts in self.derived.cuts.values() for pc in parts.values() for c in pc.contours
        }

    def said(self, rule):
        return [s for s in self.derived.snags if s.rule == rule]


@pytest.fixture
def job(store):
    return Job(store)


def test_a_missing_depth_stops_and_one_click_mends_it(job):
    (snag,) = job.said("cuts.no-depth")
    assert snag.severity == "stop" and any(
        "pocket 1" in w for pc in job.derived.cuts["ply-2440"].values() for w in pc.left_out
    )
    job.do(read_command(snag.remedies[0].command))
    assert not job.said("cuts.no-depth") and job.features()["pocket 1"].depth == pytest.approx(8.8)
    assert all(
        s.severity != "stop" for p in jobs.prove_setup(job.store, job.plan, job.derived) for s in p.snags
    )


def test_a_part_s_own_steps_become_the_setup_s_in_one_edit(job):
    own = (Profile(id="own", on="outlines", cutter="up-6", feed=1234.0),)
    job.do(SetSteps(part=job.part, on="outlines", steps=own))
    assert [c.on for c in job.plan.steps] == ["outlines"]
    setup = job.plan.setups[0].id
    job.do(SetSteps(setup=setup, on="outlines", steps=own, were_of=job.part))
    assert job.plan.steps == () and job.plan.setups[0].operations[-1].feed == 1234.0
    job.store.undo(job.job)
    assert job.plan.steps, "one edit, one undo"
    with pytest.raises(BadInput, match="no part"):
        job.do(SetSteps(setup=setup, on="outlines", steps=own, were_of="nobody"))


def test_every_feature_is_cut_before_the_outline_and_drilled_or_bored_by_size(job):
    job.do(read_command(job.said("cuts.no-depth")[0].remedies[1].command))
    made = job.features()
    assert {n: c.steps[0].kind for n, c in made.items()} == {
        "pocket 1": "pocket",
        "groove 1": "groove",
        "engraving 1": "groove",
        "drilling 1": "drill",
        "drilling 2": "bore",
        "hole 1": "profile",
        "hole 2": "profile",
        "outline": "profile",
    }
    for sheet in job.derived.sheets:
        last = {}
        for i, c in enumerate(sheet.cuts):
            last.setdefault(c.piece.id, []).append((i, c.cut.contour))
        assert all(v[-1][1] == "outline" for v in last.values())


def test_one_part_or_one_contour_has_its_own_steps_and_gives_them_up_again(job):
    job.do(
        SetSteps(
            part=job.part,
            on="holes",
            steps=(Profile(id="own", on="holes", cutter="up-4", direction="conventional"),),
        )
    )
    made = job.features()
    assert made["hole 1"].cutter == made["hole 2"].cutter == "up-4" and made["hole 1"].own_steps
    job.do(
        SetSteps(
            part=job.part,
            on="holes",
            contour="hole 2",
            steps=(
                Chamfer(id="edge", on="holes", cutter="vee-60", width=0.6),
                Profile(id="through", on="holes", cutter="comp-8"),
            ),
        )
    )
    assert [s.kind for s in job.features()["hole 2"].steps] == ["chamfer", "profile"] and job.features()[
        "hole 1"
    ].cutter == "up-4"
    first, second = (
        next(
            i
            for i, c in enumerate(job.derived.sheets[0].cuts)
            if c.cut.contour == "hole 2" and c.cut.kind == k
        )
        for k in ("chamfer", "profile")
    )
    assert first < second, "steps of a feature keep their order"
    job.do(SetContour(part=job.part, contour="hole 2", automatic=("steps",)))
    job.do(SetSteps(part=job.part, on="holes", steps=()))
    assert job.features()["hole 2"].cutter == "up-6" and not job.plan.steps


def test_recipes_bring_their_cutters_say_where_steps_differ_and_count_versions(job):
    store = job.store
    tool = Cutter(
        id="up-3",
        number=40,
        name="3 mm up-cut",
        kind="up-cut",
        diameter=3,
        cutting_length=20,
        feeds={"wood": Feeds(rpm=20_000, feed=3000, plunge=900)},
    )
    library.put(store, "cutter", tool.model_dump(mode="json"))
    steps = (
        Profile(id="rough", on="outlines", cutter="up-6", side_allowance=1.0),
        Profile(id="finish", on="outlines", cutter="up-3", lead="arc", lead_length=2.0),
    )
    recipe = RecipeSteps(
        id="fine", name="fine edge", on="outlines", family="wood", steps=steps, why="a visible edge"
    )
    kept = library.put(store, "recipe", recipe.model_dump(mode="json"))
    assert kept.version == 1 and kept.rules == "Marram Works"
    job.do(read_command(library.apply_recipe(store, kept, "main")))
    s = job.plan.setups[0]
    assert (
        s.cutter("up-3")
        and [o.id for o in s.steps_on("outlines")] == ["rough", "finish"]
        and s.recipe("outlines").name == "fine edge"
    )
    rough, finish = job.features()["outline"].steps
    assert rough.passes == 2 and finish.passes == 1 and finish.width == pytest.approx(1.0, abs=0.1), (
        "the skim is exempt from the depth rule"
    )
    assert job.plan.spacing(s) == pytest.approx(6 + 1.0 + s.rules.web), (
        "the roughing kerf with its allowance sets the room between parts"
    )
    job.do(
        SetOperation(
            setup="main", operation=s.steps_on("outlines")[0].model_copy(update={"side_allowance": 0.5})
        )
    )
    from venzo.api.documents.job import _differs

    assert _differs(job.plan.setups[0])["outlines"] == ["rough: side allowance 0.5, the recipe says 1"]
    newer = library.put(store, "recipe", {**kept.model_dump(mode="json"), "why": "learned since"})
    assert newer.version == 2
    (news,) = [n for n in library.news(store, job.plan)["main"] if n.kind == "recipe"]
    job.do(read_command(news.command))
    assert job.plan.setups[0].steps_on("outlines")[0].side_allowance == 1.0
    with pytest.raises(BadInput, match="cuts with it"):
        library.remove(store, "cutter", "up-3")


def test_an_operation_with_its_own_z_zero_gets_its_own_file_that_says_so(job):
    job.do(read_command(job.said("cuts.no-depth")[0].remedies[1].command))
    s = job.plan.setups[0]
    job.do(
        SetOperation(setup="main", operation=s.steps_on("engravings")[0].model_copy(update={"z_zero": "bed"}))
    )
    files = programs(job.plan, job.derived)
    assert {f.z_zero for f in files} == {"top", "bed"} and all(
        ("z-bed" in f.name) == (f.z_zero == "bed") for f in files
    )
    bed = next(f for f in files if f.z_zero == "bed")
    assert "touch off again" in bed.text and read(bed.text).moves[:, 3].min() == pytest.approx(
        17.6 - 0.5, abs=1e-3
    )
    assert [x.severity for p in jobs.prove_setup(job.store, job.plan, job.derived) for x in p.snags] == [
        "note"
    ]


def test_inch_and_metric_programs_are_one_program(job):
    job.do(read_command(job.said("cuts.no-depth")[0].remedies[1].command))
    job.do(SetSteps(setup="main", on="round holes", steps=(Bore(id="b", on="round holes", cutter="up-6"),)))
    texts = {}
    for inch in (False, True):
        m = job.plan.setups[0].machine
        job.do(
            SetSetup(
                setup="main",
                machine=m.model_copy(update={"dialect": m.dialect.model_copy(update={"inch": inch})}),
                zones_on=job.plan.setups[0].zones_on,
            )
        )
        texts[inch] = [read(f.text) for f in programs(job.plan, job.derived)]
        assert all(
            x.severity == "note" for p in jobs.prove_setup(job.store, job.plan, job.derived) for x in p.snags
        )
    for a, b in zip(texts[False], texts[True], strict=True):
        assert not a.inch and b.inch
        assert a.moves.shape == b.moves.shape and (a.moves[:, 0] == b.moves[:, 0]).mean() > 0.999
        assert abs(a.moves[:, 1:4] - b.moves[:, 1:4]).max() <= 0.0005 + 0.000127 + 1e-9, (
            "three decimals of a millimetre against five of an inch"
        )
        assert (a.moves[:, 0] >= 2).sum() > 20, "arcs stay arcs"


def test_compression_lip_plunge_and_depth_are_judged(job):
    s = job.plan.setups[0]
    outline = s.steps_on("outlines")[0]
    job.do(SetOperation(setup="main", operation=outline.model_copy(update={"step_down": 5.0})))
    (snag,) = job.said("cuts.compression")
    job.do(read_command(snag.remedies[0].command))
    assert not job.said("cuts.compression") and job.features()["outline"].passes == 1
    ball = next(c for c in job.store.library("cutter") if c["kind"] == "ball")
    job.do(SetOperation(setup="main", operation=outline.model_copy(update={"cutter": ball["id"]})))
    (lip,) = job.said("cuts.lip")
    # [EX] R - sqrt(2 R h - h^2) with R = 3 and h = 0.75: 1.02 mm
    assert "1.02 mm wide" in lip.message
    job.do(read_command(lip.remedies[0].command))
    assert not job.said("cuts.lip")
    job.do(
        SetSetup(
            setup="main",
            cutters=tuple(
                c.model_copy(update={"centre_cutting": False}) if c.id == "up-6" else c
                for c in job.plan.setups[0].cutters
            ),
        )
    )
    job.do(
        SetSteps(
            setup="main", on="pockets", steps=(Pocket(id="p", cutter="up-6", entry="plunge", depth=6.0),)
        )
    )
    assert job.said("cuts.plunge") and job.features()["pocket 1"].steps[0].entry == "ramp"
    for depth, severity in ((20.0, None), (22.0, "look"), (40.0, "stop")):  # 17.6 mm sheet
        job.do(SetSteps(setup="main", on="grooves", steps=(Groove(id="g", cutter="up-6", depth=depth),)))
        assert [s.severity for s in job.said("cuts.below")] == ([severity] if severity else [])
    assert job.said("cuts.too-deep")
    assert [s.severity for s in job.said("cuts.unreached")] == ["note"], (
        "the square corners of a pocket are a note, with a remedy"
    )
    job.do(read_command(job.said("cuts.unreached")[0].remedies[0].command))
    assert not job.said("cuts.unreached") and [s.kind for s in job.features()["pocket 1"].steps] == [
        "pocket",
        "pocket",
    ]


@given(
    st.sampled_from(["v-bit", "rounded v-bit", "ball", "tapered ball"]),
    st.floats(0.0, 1.0),
    st.floats(20.0, 120.0),
)
def test_a_line_s_width_says_how_deep_a_pointed_cutter_goes(kind, share, angle):
    point = {"v-bit": {"tip": 0.2}, "rounded v-bit": {"corner_radius": 0.3}, "tapered ball": {"tip": 1.0}}
    form = kind.removeprefix("rounded ")
    if form == "tapered ball":
        angle /= 8
    cutter = Cutter(
        id="c",
        number=1,
        name="c",
        kind=form,
        diameter=6,
        cutting_length=12,
        angle=angle,
        **point.get(kind, {}),
    )
    least, most = 2 * cutter.radius_at(0.0) + 0.01, min(2 * cutter.radius_at(cutter.reach), 5.9)
    width = least + share * (most - least)
    assert cutter.deeper_is_wider(width)
    depth = cutter.height_at(width / 2)
    # the section of the cutter itself, walked up from its point in hundredths of a millimetre
    heights = np.arange(0.0, depth + 0.02, 0.01)
    wide = np.array([2 * cutter.radius_at(h) for h in heights])
    assert wide[heights <= depth].max() <= width + 1e-6 and wide[-1] >= width - 1e-6


def engraved(job, width, cutter="vee-60", **more):
    job.do(
        SetSteps(
            setup="main",
            on="engravings",
            steps=(Groove(id="line", on="engravings", cutter=cutter, width=width, **more),),
        )
    )
    return next((c for c in job.features().values() if c.on == "engravings"), None)


def test_an_engraving_is_as_wide_as_asked_or_says_why_not(job):
    # 60 degrees included, a flat of 0.2 mm: (w - 0.2) / 2 / tan 30, whatever depth was said before
    for width in (0.5, 1.0, 2.4):
        step = engraved(job, width, depth=3.0).steps[0]
        assert step.depth == pytest.approx((width - 0.2) / 2 / math.tan(math.pi / 6), abs=1e-6)
        assert "line width" in dict(step.why) and f"{width:.2f} mm wide" in dict(step.why)["depth"]
        (cut, *_) = job.cuts(contour="engraving 1")
        assert min(cut.cut.levels) == pytest.approx(-step.depth)
    for width, cutter, words in (
        (0.2, "vee-60", "sharper"),
        (11.9, "vee-60", "wider one"),  # its edge of 10 mm leaves 11.75
        (2.0, "up-4", "more than the 2 mm asked"),
    ):
        engraved(job, width, cutter)
        (snag,) = job.said("cuts.groove-width")
        assert snag.severity == "stop" and words in snag.message
        assert not job.cuts(contour="engraving 1"), "nothing is cut along a line that cannot be as asked"
        job.do(read_command(snag.remedies[0].command))
        assert not job.said("cuts.groove-width") and job.cuts(contour="engraving 1")
        job.store.undo(job.job)


def test_a_fold_s_skin_says_the_depth_before_width_and_depth(job):
    step = engraved(job, 1.0, "vee-90", skin=14.0, depth=1.0).steps[0]
    assert step.depth == pytest.approx(3.6) and "fold" in dict(step.why)


@pytest.mark.parametrize(
    ("cutter", "before", "said"),
    [("vee-60", {"width": 1.0}, "width"), ("vee-90", {"skin": 14.0}, "skin")],
)
def test_a_depth_said_takes_the_place_of_what_said_it_before(job, cutter, before, said):
    engraved(job, before.get("width"), cutter, **{k: v for k, v in before.items() if k != "width"})
    deeper = {
        "kind": "change-steps",
        "setup": "main",
        "on": "engravings",
        "change": [{"id": "line", "fields": {"depth": 1.7}}],
    }
    job.do(read_command(deeper))
    (step,) = job.plan.setups[0].steps_on("engravings")
    assert getattr(step, said) is None and step.depth == 1.7
    assert min(job.cuts(contour="engraving 1")[0].cut.levels) == pytest.approx(-1.7)
    job.store.undo(job.job)
    assert getattr(job.plan.setups[0].steps_on("engravings")[0], said) == before[said]


def test_a_depth_leaves_alone_a_width_that_says_none(job):
    # two runs of a straight cutter side by side
    engraved(job, 6.0, "up-4", depth=1.0)
    deeper = {
        "kind": "change-steps",
        "setup": "main",
        "on": "engravings",
        "change": [{"id": "line", "fields": {"depth": 1.7}}],
    }
    job.do(read_command(deeper))
    assert job.plan.setups[0].steps_on("engravings")[0].width == 6.0


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (
            {
                "setup": "main",
                "on": "holes",
                "steps": [{"kind": "profile", "id": "a", "on": "outlines", "cutter": "comp-8"}],
            },
            "on outlines, not on holes",
        ),
        (
            {
                "setup": "main",
                "on": "holes",
                "steps": [{"kind": "profile", "id": "a", "on": "holes", "cutter": "nothing"}],
            },
            "no cutter 'nothing'",
        ),
        (
            {
                "setup": "main",
                "on": "holes",
                "steps": [{"kind": "profile", "id": "a", "on": "holes", "cutter": "comp-8"}] * 2,
            },
            "same id",
        ),
        (
            {
                "setup": "main",
                "on": "holes",
                "steps": [{"kind": "carve", "id": "a", "on": "holes", "cutter": "comp-8"}],
            },
            "carve",
        ),
        ({"part": "nobody", "on": "holes", "steps": []}, "nobody"),
        (
            {
                "setup": "main",
                "on": "pockets",
                "steps": [{"kind": "pocket", "id": "a", "on": "pockets", "cutter": "up-6", "step_over": 1.2}],
            },
            "step_over",
        ),
    ],
)
def test_wrong_steps_are_refused_in_one_line(job, command, words):
    before = job.plan
    with pytest.raises(BadInput) as e:
        job.do(read_command({"kind": "set-steps", **command}))
    assert words in str(e.value).replace("step over", "step_over") and "\n" not in str(e.value)
    assert job.plan == before


def test_an_edit_leaves_other_parts_and_orders_as_they_are(job):
    before = job.derived
    job.do(
        SetSteps(
            part=job.part,
            on="engravings",
            steps=(Groove(id="deep", on="engravings", cutter="vee-60", depth=0.8),),
        )
    )
    after = job.derived
    assert [c.cut.contour for s in before.sheets for c in s.cuts] == [
        c.cut.contour for s in after.sheets for c in s.cuts
    ]
    assert (
        plan_sheet(
            job.plan,
            job.plan.setups[0],
            after.sheets[0].sheet,
            0,
            job.store.shapes,
            after.cuts[after.sheets[0].sheet],
            after.own,
        )
        is after.sheets[0]
    )
