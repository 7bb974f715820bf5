"""Carving as a step of a job: planned per part, held against the program that is read back, with lettering
that is set as its font says.
"""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from venzo.core.carving.bit import Bit
from venzo.core.cuts.operations import Groove, VCarve
from venzo.core.edits import AcceptNest, SetContour, SetPart, SetStock, read_command
from venzo.core.geometry.regions import regions
from venzo.core.nesting.engine import Search
from venzo.core.nesting.layout import accepted, nest_problem
from venzo.core.parts.lettering import set_in_box, set_lines
from venzo.core.parts.made import LetteredBoard, Sources
from venzo.core.proof.check import prove
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter
from venzo.desk import drawings, jobs
from venzo.desk.jobs import programs
from venzo.formats.fonts import bundled
from venzo.formats.gcode import read

SOURCES = Sources(lambda d: None, bundled)


def job(store, text="Hide & Co", steps=(), width=300.0, grain=None, readings=(20.0, 20.0), **board):
    revision = jobs.new_job(store, "sign", "small-bench", "oak-board")
    recipe = LetteredBoard(text=text, width=width, height=90, margin=15, **board)
    drawings.make_parts(store, "sign", revision.number, "main", recipe)
    now = store.get("sign")
    part = now.plan.parts[0]
    store.apply("sign", now.number, SetPart(part=part.id, grain=grain, rotations=(0.0,)))
    stock = store.get("sign").plan.setups[0].stock[0].model_copy(update={"readings": readings})
    store.apply("sign", store.get("sign").number, SetStock(setup="main", stock=stock))
    if steps:
        store.apply(
            "sign",
            store.get("sign").number,
            read_command(
                {
                    "kind": "set-steps",
                    "setup": "main",
                    "on": "engravings",
                    "steps": [s.model_dump(mode="json") for s in steps],
                }
            ),
        )
    now = store.get("sign")
    problem = nest_problem(now.plan, now.plan.setups[0], store.shapes)
    search = Search(problem, 1)
    search.step()
    store.apply("sign", now.number, AcceptNest(setup="main", nest=accepted(search.best, problem, "test")))
    return store.get("sign").plan


def derived(store, plan):
    return jobs.derive(store, plan, hold=False)["main"]


def test_a_board_is_carved_as_one_and_proven(store):
    plan = job(store, steps=[VCarve(id="carve", cutter="vee-60")])
    d = derived(store, plan)
    carved = [c for s in d.sheets for c in s.cuts if c.cut.kind == "v-carve"]
    assert len(carved) == 1 and d.sheets[0].cuts[0] is carved[0], "all letters in one cut, before the outline"
    names = {
        c.contour
        for c in next(iter(d.cuts["oak-700"].values())).contours
        if c.steps and c.steps[0].kind == "v-carve"
    }
    assert len(names) == len([f for f in store.shapes[plan.parts[0].shape].features if f.contour.closed])
    assert not [s for s in d.snags if s.severity == "stop" and s.rule != "holding.sheet"]
    proof = jobs.prove_setup(store, plan, d)[0]
    assert {s.rule for s in proof.snags} == {"proof.clear"}


def test_the_proof_finds_a_carving_that_was_tampered_with(store):
    plan = job(store, steps=[VCarve(id="carve", cutter="vee-60")])
    d = derived(store, plan)
    files = programs(plan, d)

    def proven(change):
        subject = jobs.subject_of(store, plan, d, d.sheets[0])
        return {
            s.rule
            for s in prove(
                subject, [jobs.as_program(subject, f, read(change(f.text, f.name), f.name)) for f in files]
            ).snags
        }

    assert proven(lambda t, n: t) == {"proof.clear"}
    lines = next(f.text for f in files if "_t7" in f.name).splitlines()
    cutting = [k for k, line in enumerate(lines) if line[:1] in "XYZ" and " Z-" in line]
    deeper = "\n".join(
        line if k != cutting[len(cutting) // 2] else line.split(" Z-")[0] + " Z-9.5"
        for k, line in enumerate(lines)
    )
    assert "proof.gouge" in proven(lambda t, n: deeper if "_t7" in n else t)
    shallow = "\n".join(
        line if k not in cutting[40:90] else line.split(" Z-")[0] + " Z-0.01" for k, line in enumerate(lines)
    )
    assert proven(lambda t, n: shallow if "_t7" in n else t) == {"proof.plan", "proof.uncut"}


def test_floors_counters_and_own_choices(store):
    plan = job(store, "BOO", steps=[VCarve(id="carve", cutter="vee-90", depth=1.5, clear="up-4", ridge=0.2)])
    d = derived(store, plan)
    cuts = [c.cut for c in d.sheets[0].cuts if c.cut.kind == "v-carve"]
    assert {c.cutter for c in cuts} == {"up-4", "vee-90"} and min(min(c.levels) for c in cuts) == -1.5
    order = [c.cut.cutter for c in d.sheets[0].cuts]
    assert order.index("up-4") < order.index("vee-90"), "floors first, then the bit on walls and corners"
    proof = jobs.prove_setup(store, plan, d)[0]
    assert {s.rule for s in proof.snags} == {"proof.clear"}
    # a letter left out is not carved; its counter stays a shape of its own
    shape = store.shapes[plan.parts[0].shape]
    first = shape.features[0].name
    store.apply("sign", store.get("sign").number, SetContour(part=plan.parts[0].id, contour=first, omit=True))
    d = derived(store, store.get("sign").plan)
    left = next(c for pc in d.cuts["oak-700"].values() for c in pc.contours if c.contour == first)
    assert left.omitted and any(first in w for w in next(iter(d.cuts["oak-700"].values())).left_out)


def test_what_a_carver_would_say(store):
    thick = job(
        store,
        "IIII",
        font="plain",
        steps=[VCarve(id="carve", cutter="vee-90")],
        grain=0,
        readings=(20.0, 20.6),
    )
    rules = {s.rule: s for s in derived(store, thick).snags}
    assert rules["carve.tear"].severity == "look" and "across the grain" in rules["carve.tear"].message
    assert (
        "0.60 mm" in rules["carve.flat"].message and "2.00 mm per mm of height" in rules["carve.flat"].message
    )
    step = thick.setups[0].operations
    light = [
        s if s.kind != "v-carve" else s.model_copy(update={"step_down": 1.0})
        for s in step
        if s.on == "engravings"
    ]
    store.apply(
        "sign",
        store.get("sign").number,
        read_command(
            {
                "kind": "set-steps",
                "setup": "main",
                "on": "engravings",
                "steps": [s.model_dump(mode="json") for s in light],
            }
        ),
    )
    assert {s.rule: s for s in derived(store, store.get("sign").plan).snags}[
        "carve.tear"
    ].severity == "note", "a light last pass answers it"
    wrong = VCarve(id="carve", cutter="up-4")
    store.apply(
        "sign",
        store.get("sign").number,
        read_command(
            {
                "kind": "set-steps",
                "setup": "main",
                "on": "engravings",
                "steps": [wrong.model_dump(mode="json")],
            }
        ),
    )
    refused = [s for s in derived(store, store.get("sign").plan).snags if s.severity == "stop"]
    assert any("needs a V bit" in s.message for s in refused)


def test_the_material_limits_a_pass(store):
    plan = job(store, "IO", font="plain", steps=[VCarve(id="carve", cutter="vee-90")])
    d = derived(store, plan)
    deep = next(c.cut for c in d.sheets[0].cuts if c.cut.kind == "v-carve")
    assert 4 < -deep.levels[-1] < 6 and len(deep.levels) == 1, (
        "wood takes up to 6 mm in one pass by house rule"
    )
    rules = plan.setups[0].rules.model_copy(update={"carve_step": {"wood": 2.0}})
    store.apply(
        "sign",
        store.get("sign").number,
        read_command({"kind": "set-setup", "setup": "main", "rules": rules.model_dump(mode="json")}),
    )
    d = derived(store, store.get("sign").plan)
    assert len(next(c.cut for c in d.sheets[0].cuts if c.cut.kind == "v-carve").levels) == 4, (
        "three passes of at most 2 mm, then a light one"
    )


def test_a_groove_for_folding_takes_its_depth_from_the_skin(store):
    plan = job(store, "I", steps=[VCarve(id="carve", cutter="vee-60")])
    part = plan.parts[0].id
    groove = Groove(id="fold", on="engravings", cutter="vee-90", skin=12.0, fold=90)
    store.apply(
        "sign",
        store.get("sign").number,
        read_command(
            {"kind": "set-steps", "part": part, "on": "engravings", "steps": [groove.model_dump(mode="json")]}
        ),
    )
    d = derived(store, store.get("sign").plan)
    plans = [
        s for pc in d.cuts["oak-700"].values() for c in pc.contours for s in c.steps if s.operation == "fold"
    ]
    assert plans and plans[0].depth == pytest.approx(8.0) and "bend allowance" in dict(plans[0].why)["fold"]


def test_the_library_bit_and_the_carving_bit_agree():
    for fields in ({"tip": 0.0}, {"tip": 0.4}, {"corner_radius": 0.6}):
        c = Cutter(
            id="v", number=1, name="v", kind="v-bit", diameter=12, cutting_length=12, angle=70, **fields
        )
        b = Bit.of(c)
        for h in (0.05, 0.3, 1.0, 4.0, 7.0):
            assert c.radius_at(h) == pytest.approx(float(b.radius(h)), abs=1e-9)
            assert float(b.depth(float(b.radius(h)))) == pytest.approx(h, abs=1e-6)


@settings(max_examples=25)
@given(
    st.sampled_from(["Quay", "Ta", "AVA", "fjord & fen"]),
    st.sampled_from(["plain", "serif", "mono"]),
    st.floats(5, 80),
    st.sampled_from([0.0, 300.0, -300.0]),
)
def test_letters_keep_their_size_and_their_order(text, font, cap, curve):
    if curve and cap > 30:
        curve *= 4
    straight, _ = set_lines([text], bundled(font), cap)
    bent, _ = set_lines([text], bundled(font), cap, curve=curve)
    a, b = (sum(r.area for r in regions(c)) for c in (straight, bent))
    assert a == pytest.approx(b, rel=1e-3), "turned, never stretched"
    if curve:
        far = [np.hypot((c.bbox[0] + c.bbox[2]) / 2, (c.bbox[1] + c.bbox[3]) / 2 + curve) for c in bent]
        assert max(abs(f - abs(curve)) for f in far) < 1.6 * cap, "every letter stands on the arc"


def test_kerning_boxes_and_refusals():
    # the pair A V is set closer than its letters' advances: the font's own kerning
    pair, _a, _m = bundled("serif").letters("AV", 100)
    alone = sum(bundled("serif").letters(x, 100)[1] for x in "AV")
    assert bundled("serif").letters("AV", 100)[1] < alone - 1 and pair[1].x < pair[0].advance + 1e-9
    found, cap, _ = set_in_box(["Venzo", "of the Marr"], bundled("plain"), 200, 60)
    b = np.array([c.bbox for c in found])
    w, h = b[:, 2].max() - b[:, 0].min(), b[:, 3].max() - b[:, 1].min()
    assert max(w / 200, h / 60) == pytest.approx(1, abs=1e-4) and cap > 5
    with pytest.raises(BadInput, match="too tight"):
        set_lines(["a long line of words"], bundled("plain"), 40, curve=50)
    with pytest.raises(BadInput, match="has room for"):
        LetteredBoard(text="far too many letters for this", setting="by cap height", cap_height=80).make(
            SOURCES
        )
    with pytest.raises(BadInput, match="border"):
        LetteredBoard(border=40, margin=20).make(SOURCES)
    board = LetteredBoard(text="A / B", border=3).make(SOURCES).parts[0].shape
    area = shapely.union_all([r.polygon() for r in regions([f.contour for f in board.features])])
    assert board.polygon.contains(area)


def test_open_lines_beside_letters_are_engraved_and_what_a_carving_meets_is_said(store):
    import ezdxf

    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = 4
    m = doc.modelspace()
    m.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True, dxfattribs={"layer": "OUTLINE"})
    m.add_lwpolyline([(20, 20), (60, 20), (60, 60), (20, 60)], close=True, dxfattribs={"layer": "ENGRAVE"})
    m.add_line((20, 80), (180, 80), dxfattribs={"layer": "ENGRAVE"})
    m.add_lwpolyline([(50, 30), (90, 30), (90, 50), (50, 50)], close=True, dxfattribs={"layer": "POCKET 3"})
    import io

    out = io.StringIO()
    doc.write(out)
    jobs.new_job(store, "mixed", "small-bench", "oak-board")
    drawings.take_drawing(store, "mixed", 1, "main", "mixed.dxf", out.getvalue().encode())
    step = VCarve(id="carve", cutter="vee-60", depth=2.0)
    store.apply(
        "mixed",
        store.get("mixed").number,
        read_command(
            {
                "kind": "set-steps",
                "setup": "main",
                "on": "engravings",
                "steps": [step.model_dump(mode="json")],
            }
        ),
    )
    d = derived(store, store.get("mixed").plan)
    cuts = next(iter(next(iter(d.cuts.values())).values()))
    kinds = sorted(c.kind for c in cuts.cuts if c.operation == "carve")
    assert kinds == ["groove", "v-carve"], "the square is carved, the line engraved with the same bit"
    assert next(
        -c.levels[-1] for c in cuts.cuts if c.kind == "groove" and c.operation == "carve"
    ) == pytest.approx(0.5), "by house rule for engraving"
    met = next(s for s in cuts.snags if s.rule == "carve.under")
    assert "pocket 1" in met.message and met.severity == "look"


def test_a_dropped_logo_is_carved_into_a_board(store):
    from tests.reference.test_open_drawings import ICONS

    data = (ICONS[0].parent / "flower1.svg").read_bytes()
    jobs.new_job(store, "logo", "small-bench", "oak-board")
    drawings.take_drawing(store, "logo", 1, "main", "flower1.svg", data)
    plan = store.get("logo").plan
    before = {p.id for p in plan.parts}
    drawings.read_again(store, "logo", store.get("logo").number, plan.drawings[0].id, {"board": 12.0})
    drawings.scale_to(store, "logo", store.get("logo").number, plan.drawings[0].id, width=164.0)
    plan = store.get("logo").plan
    assert {p.id for p in plan.parts} <= before and len(plan.parts) == 1, (
        "the part it was, carved instead of cut out"
    )
    shape = store.shapes[plan.parts[0].shape]
    x0, y0, x1, y1 = (
        min(f.contour.bbox[0] for f in shape.features),
        min(f.contour.bbox[1] for f in shape.features),
        max(f.contour.bbox[2] for f in shape.features),
        max(f.contour.bbox[3] for f in shape.features),
    )
    assert (
        shape.size[0] == pytest.approx(164)
        and (x0, y0, x1) == pytest.approx((12, 12, 152), abs=1e-4)
        and y1 < shape.size[1] - 11.9
    )
    step = VCarve(id="carve", cutter="vee-90")
    store.apply(
        "logo",
        store.get("logo").number,
        read_command(
            {
                "kind": "set-steps",
                "setup": "main",
                "on": "engravings",
                "steps": [step.model_dump(mode="json")],
            }
        ),
    )
    d = derived(store, store.get("logo").plan)
    cuts = next(iter(next(iter(d.cuts.values())).values())).cuts
    assert [c.kind for c in cuts] == ["v-carve", "profile"]
    with pytest.raises(BadInput, match="leave nothing"):
        drawings.scale_to(store, "logo", store.get("logo").number, plan.drawings[0].id, width=20.0)
    drawings.read_again(store, "logo", store.get("logo").number, plan.drawings[0].id, {"board": None})
    assert not any(
        f.kind == "engraving" for p in store.get("logo").plan.parts for f in store.shapes[p.shape].features
    )
