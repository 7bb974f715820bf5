"""Drawings become clean, understood parts: healing that can be taken back, layers, judgement, alterations,
joints, revisions.
"""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon, box

from tests.conftest import MANY, dxf, panel
from venzo.core.edits import NotePart, SetContour
from venzo.core.edits.asks import AlterPart
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.regions import Region
from venzo.core.parts.alter import Fillets, Relief, Rounding, SlotWidth, alter
from venzo.core.parts.healing import deviation, heal
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.parts.joints import EdgeJoint, mortise
from venzo.core.parts.made import BoxSet, Inset, Lettering, MortiseTenon, Panel, Ring, Sources, Strip
from venzo.core.parts.measure import judge, narrowest, part_snags
from venzo.core.parts.shape import Shape
from venzo.core.snags import BadInput
from venzo.demo.drawings import AS_THEY_CAME
from venzo.demo.library import CUTTERS
from venzo.desk import drawings
from venzo.desk.jobs import derive, new_job
from venzo.formats.drawing_file import read_file
from venzo.formats.fonts import bundled


def found(data, name="x.dxf", how="auto"):
    return take_in(read_file(data, name), name, how)


def shape(outline, *holes):
    return Shape.of(
        Region(Contour.of(outline).oriented(True), tuple(Contour.of(h).oriented(False) for h in holes))
    )[0]


def rect(x, y, w, h):
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


# -- healing


@st.composite
def messy(draw):
    """A panel of loose lines with a hole: doubled, overlapped, cut up, with gaps under the join tolerance;
    and its clean area.
    """
    w, h = draw(st.integers(80, 400)), draw(st.integers(80, 400))
    chains, corners = [], rect(0, 0, w, h)
    for a, b in zip(corners, corners[1:] + corners[:1], strict=True):
        a, b = np.array(a, float), np.array(b, float)
        cuts = sorted(draw(st.lists(st.floats(0.1, 0.9), max_size=3)))
        stops = [0.0, *cuts, 1.0]
        gap = draw(st.floats(0, 0.03))
        for s, t in itertools.pairwise(stops):
            p, q = a + (b - a) * s, a + (b - a) * t
            if np.hypot(*(q - p)) > 3:
                chains.append(Contour.of([p, q - (b - a) / np.hypot(*(b - a)) * gap], False))
            else:
                chains.append(Contour.of([p, q], False))
        if draw(st.booleans()):
            chains.append(chains[-1] if draw(st.booleans()) else chains[-1].reversed())
        if draw(st.booleans()):
            s, t = sorted((draw(st.floats(0.05, 0.45)), draw(st.floats(0.55, 0.95))))
            chains.append(Contour.of([a + (b - a) * s, a + (b - a) * t], False))
    chains += [Contour.circle(w / 2, h / 2, 20)] * draw(st.integers(1, 3))
    chains.append(Contour.of([(5, 5), (5, 5)], False))
    return draw(st.permutations(chains)), w * h, w


@given(messy())
@settings(max_examples=60 * MANY)
def test_a_messy_panel_heals_to_its_outline_and_hole(case):
    chains, area, width = case
    h = heal(chains, 0.05, 0.005)
    areas = sorted((abs(c.area) for c in h.loops), reverse=True)
    assert (
        len(areas) == 2
        and areas[0] == pytest.approx(area, abs=0.1 * width)
        and areas[1] == pytest.approx(400 * math.pi)
    )
    assert all(line.count and line.says for line in h.lines)


def test_every_line_of_the_healing_list_can_be_taken_back():
    data = AS_THEY_CAME["box front x4.dxf"]
    clean = found(data)
    (part,) = clean.parts
    lines = {h.id: h for h in clean.healing}
    assert (
        {"text", "overlaps", "join", "refit"} <= set(lines)
        and lines["refit"].before == 180
        and lines["refit"].after == 2
        and 0 < lines["refit"].deviation <= 0.005
    )
    assert (
        "3 closed outlines before, 4 after" in lines["join"].says
        and "gaps up to 0.020 mm" in lines["join"].says
        and lines["join-twins"].count == 1
    )
    assert part.shape.region.area == pytest.approx(180 * 240 + 90 * 60 - 2 * 18 * 60 - math.pi * 256, abs=8)
    assert {(f.kind, f.depth) for f in part.shape.features} == {("pocket", 6.0), ("engraving", None)}
    back = found(data, how=HowRead(chosen={"refit": False}))
    assert len(max(back.parts[0].shape.region.holes, key=lambda c: len(c.vertices)).vertices) == 180
    tight = found(data, how=HowRead(join=0.001))
    assert not any(p.shape.size[0] > 100 for p in tight.parts) and "intake.open-around" in {
        s.rule for s in tight.snags
    }, "gaps of 0.02 mm stay open"
    assert any(
        f.kind == "engraving"
        for f in found(data, how=HowRead(chosen={"text": True, "open": True})).parts[0].shape.features
    )
    doubled = dxf(
        lambda m: (
            [m.add_circle((0, 0), 20) for _ in range(2)] + [m.add_circle((100, 0), 20) for _ in range(2)]
        )
    )
    line = next(h for h in found(doubled).healing if h.id == "twins")
    assert line.count == 2 and sum(p.quantity for p in found(doubled).parts) == 2
    one = found(doubled, how=HowRead(chosen={line.items[0].id: False}))
    assert next(h for h in one.healing if h.id == "twins").after == 3, (
        "one item brought back, the other stays dropped"
    )


def test_layers_mean_what_their_names_or_a_person_says():
    data = AS_THEY_CAME["box front x4.dxf"]
    i = found(data)
    role = {v.name: v.role for v in i.layers}
    assert role == {
        "OUTLINE": "cut",
        "POCKET 6mm": "pocket",
        "ENGRAVE": "engrave",
        "CONSTRUCTION": "leave out",
        "OUTLINE (broken lines)": "leave out",
    }
    through = found(data, how=HowRead(roles={"POCKET 6mm": "cut"}))
    assert len(through.parts[0].shape.region.holes) == len(i.parts[0].shape.region.holes) + 1
    framed = found(AS_THEY_CAME["box shelf x4.dxf"])
    snag = next(s for s in framed.snags if s.rule == "intake.frame")
    without = found(AS_THEY_CAME["box shelf x4.dxf"], how=HowRead(chosen=snag.remedies[0].command["chosen"]))
    assert (
        max(p.shape.size[0] for p in without.parts) == pytest.approx(320)
        and max(p.shape.size[0] for p in framed.parts) == 480
    )


@given(
    st.lists(st.tuples(st.floats(20, 60), st.floats(-0.6, 0.6)), min_size=4, max_size=9),
    st.sampled_from([0.005, 0.02, 0.1]),
)
@settings(max_examples=40 * MANY)
def test_a_refitted_curve_stays_within_its_tolerance(radii, tolerance):
    n = len(radii)
    c = Contour.of(
        [
            (r * math.cos(2 * math.pi * k / n), r * math.sin(2 * math.pi * k / n), b)
            for k, (r, b) in enumerate(radii)
        ]
    )
    drawn = Contour.of(c.points(0.001))
    new = fit(drawn.vertices[:, :2], True, tolerance)
    assert deviation(drawn, new) <= tolerance + 1e-4


def test_a_traced_curve_loses_nine_nodes_of_ten_and_circles_come_back():
    t = np.linspace(0, 2 * np.pi, 5000, endpoint=False)
    r = 100 + 12 * np.cos(3 * t) + 5 * np.sin(7 * t)
    traced = Contour.of(np.column_stack([r * np.cos(t), r * np.sin(t)]))
    h = heal([traced], 0.05, 0.02)
    assert len(h.loops[0].vertices) <= 500 and h.lines[-1].deviation <= 0.0201
    ring = (
        heal([Contour.of(np.column_stack([30 * np.cos(t), 30 * np.sin(t)]))], 0.05, 0.005)
        .loops[0]
        .simplified(1e-3)
    )
    assert len(ring.vertices) == 2 and ring.length == pytest.approx(60 * math.pi, abs=0.01)


def test_islands_are_told_and_held_by_bridges():
    data = dxf(
        lambda m: (
            m.add_lwpolyline(rect(0, 0, 200, 100), close=True),
            m.add_lwpolyline(rect(40, 20, 120, 60), close=True),
            m.add_circle((70, 50), 15),
            m.add_lwpolyline(rect(110, 35, 30, 30), close=True),
        )
    )
    i = found(data)
    assert len(i.parts) == 3 and "fall" in next(s.message for s in i.snags if s.rule == "intake.stencil")
    held = found(data, how=HowRead(bridge=6))
    (part,) = held.parts
    whole = part.shape.polygon
    assert whole.is_valid and whole.geom_type == "Polygon"
    assert whole.area > 200 * 100 - 120 * 60 + math.pi * 225 + 900
    assert narrowest(whole, 20).width == pytest.approx(6, abs=0.3)


# -- judgement


@given(st.floats(0.8, 12), st.floats(2, 30))
@settings(max_examples=25 * MANY)
def test_narrow_webs_and_slots_are_measured(web, slot):
    s = shape(rect(0, 0, 200, 150), rect(20, 20, 120, slot), rect(20, 20 + slot + web, 120, 40))
    j = judge(s, CUTTERS[:3])
    assert j.web.width == pytest.approx(web, abs=max(0.03, 0.04 * web))
    assert j.slot.width == pytest.approx(slot, abs=max(0.03, 0.04 * slot))
    assert j.inside_radius == 0 and j.sharp_inside == 8
    for r in j.reaches:
        if abs(slot - r.diameter) < 0.02:
            continue  # as wide as the cutter: either answer is right
        assert (len(r.blocked) > 0) == (slot < r.diameter)
        if not r.blocked:
            assert r.left_over == pytest.approx(8 * (1 - math.pi / 4) * (r.diameter / 2) ** 2, rel=0.1), (
                "eight square corners"
            )


def test_fillets_slots_and_slivers_are_said_with_what_mends_them():
    s = found(AS_THEY_CAME["box shelf x4.dxf"], how=HowRead(chosen={"frame:0": True})).parts[0].shape
    fillet = next(
        x for x in part_snags("p", "shelf", s, CUTTERS[:1], [], 0.15, 3) if x.rule == "parts.fillet"
    )
    change = fillet.remedies[0].command["add"]
    mended, lost, _r = alter(s, [Fillets(**change)])
    assert not lost and not [
        x for x in part_snags("p", "shelf", mended, CUTTERS[:1], [], 0.15, 3) if x.rule == "parts.fillet"
    ]
    front = found(AS_THEY_CAME["box front x4.dxf"]).parts[0].shape
    slot = next(
        x
        for x in part_snags("p", "front", front, CUTTERS[:1], [("ply", 17.6)], 0.15, 3)
        if x.rule == "parts.slot"
    )
    assert "0.40 mm loose" in slot.message
    fixed, lost, removed = alter(front, [SlotWidth(**c) for c in slot.remedies[0].command["add"]])
    assert not lost and removed == pytest.approx([-0.25 * 60] * 2)
    assert not part_snags("p", "front", fixed, CUTTERS[:1], [("ply", 17.6)], 0.15, 3)
    thin = shape(rect(0, 0, 300, 0.8))
    assert "parts.sliver" in {x.rule for x in part_snags("p", "shim", thin, CUTTERS[:1], [], 0.15, 3)}


# -- corner relief: a square-cornered mate seats after the cutter has been there


@given(
    st.sampled_from(["dog-bone", "T-bone, long side", "T-bone, short side"]),
    st.floats(1.5, 6.0),
    st.floats(0, 0.2),
    st.floats(30, 90),
    st.floats(25, 60),
    st.floats(0, 359),
)
@settings(max_examples=40 * MANY)
def test_a_square_corner_seats_in_a_relieved_one(style, cutter, allowance, w, h, turn):
    mate = shapely.affinity.rotate(box(60, 40, 60 + w, 40 + h), turn, origin=(90, 70))
    hole = list(mate.exterior.coords)[:-1]
    s = shape(rect(-100, -100, 400, 350), hole)
    new, lost, removed = alter(s, [Relief(style=style, radius=cutter + allowance)])
    assert not lost and removed[0] > 0
    own = shapely.affinity.translate(mate, 100, 100)
    waste = Polygon(new.region.holes[0].points(0.0005))
    cut = waste.buffer(-cutter + 0.002, quad_segs=128).buffer(cutter, quad_segs=128)
    assert own.difference(cut.buffer(0.004)).area < 1e-3, "the mate fits into what the cutter cleared"
    r, sector = cutter + allowance, (1 - math.pi / 4) * cutter**2
    assert own.difference(
        Polygon(s.region.holes[0].points(0.001)).buffer(-cutter, quad_segs=64).buffer(cutter, quad_segs=64)
    ).area == pytest.approx(4 * sector, rel=0.05), "without relief it does not"
    each = {"dog-bone": (math.pi / 2 - 1) * r * r}.get(style, math.pi / 2 * r * r)
    assert removed[0] == pytest.approx(4 * each, rel=1e-3), (
        "half discs for a T-bone, half discs less their square for a dog-bone"
    )


def test_corners_round_and_refuse_where_there_is_no_room():
    s = shape(rect(0, 0, 100, 60))
    _new, lost, removed = alter(s, [Rounding(radius=10)])
    assert not lost and removed[0] == pytest.approx(4 * (100 - 25 * math.pi))
    assert (
        "no room" in alter(s, [Rounding(radius=40)])[1][0]
        and "no longer has" in alter(s, [Fillets(radius=3, to=4)])[1][0]
    )


# -- joints: the boards as they meet


@given(
    st.floats(60, 400),
    st.integers(1, 8),
    st.floats(4, 22),
    st.floats(4, 22),
    st.floats(0, 14),
    st.floats(0, 0.5),
)
@settings(max_examples=60 * MANY)
def test_jointed_boards_meet_with_the_stated_clearance_at_every_depth(edge, count, a, b, angle, clearance):
    slope = math.tan(math.radians(angle)) if angle > 2 else 0.0
    j = EdgeJoint(edge, a, b, count, slope, clearance)
    try:
        j.check()
    except BadInput:
        return
    for depth in (0.0, 0.3, 1.0):
        tails = shapely.union_all([box(p, 0, q, b) for p, q in j.solid("A", depth)])
        pins = shapely.union_all([box(p, 0, q, b) for p, q in j.solid("B", depth)])
        assert tails.intersection(pins).area < 1e-9
        gaps = [q - p for p, q in _between(j.solid("A", depth), j.solid("B", depth))]
        assert gaps == pytest.approx([clearance] * len(gaps), abs=1e-9) and len(gaps) == 2 * count
    for board, reach in (("A", a), ("B", b)):
        p = Polygon([(0, -5), *j.profile(board), (edge, -5)])
        assert p.is_valid and p.bounds[3] == pytest.approx(reach)
    tips = Polygon([(0, -5), *j.profile("A"), (edge, -5)])
    for depth in (0.01, 0.5, 0.99):  # what is drawn is what was reckoned
        line = shapely.LineString([(-1, a * depth), (edge + 1, a * depth)]).intersection(tips)
        assert line.length == pytest.approx(sum(q - p for p, q in j.solid("A", depth)), abs=1e-6)


def _between(one, two):
    marks = sorted([(p, q, 0) for p, q in one] + [(p, q, 1) for p, q in two])
    return [(x[1], y[0]) for x, y in itertools.pairwise(marks) if x[2] != y[2]]


@given(st.floats(6, 30), st.floats(20, 90), st.floats(6, 30), st.floats(0, 0.5), st.floats(35, 90))
@settings(max_examples=40 * MANY)
def test_a_leaning_tenon_passes_its_upright_mortise_with_the_clearance(
    thick, width, through, clearance, lean
):
    long, _w = mortise(thick, width, through, clearance, lean)
    w = math.radians(lean)
    # the section along the lean: a slab of the tenon's width crossing the board between 0 and its thickness
    d = np.array([math.cos(w), math.sin(w)])
    n = np.array([-d[1], d[0]]) * width / 2
    slab = Polygon([n - d * 500, -n - d * 500, -n + d * 500, n + d * 500]).intersection(
        box(-1000, 0, 1000, through)
    )
    span = slab.bounds[2] - slab.bounds[0]
    assert long == pytest.approx(span + clearance, abs=1e-6)


def test_what_is_made_here_is_sound_and_says_what_cannot_be():
    sources = Sources({"s": shape(rect(0, 0, 100, 60))}.__getitem__, bundled)
    recipes = [
        Panel(),
        Panel(corner="clipped"),
        Panel(corner="notched"),
        Ring(holes=8),
        Ring(inner=0),
        Strip(),
        Strip(opening="slots", ends="round"),
        BoxSet(groove=4),
        BoxSet(joint="dovetails"),
        MortiseTenon(),
        MortiseTenon(lean=60),
        MortiseTenon(lean=60, leans="across"),
        Lettering(text="Öland 4"),
        Inset(source="s", distance=-8),
        Inset(source="s", distance=8, corners="sharp"),
    ]
    for r in recipes:
        m = r.make(sources)
        assert (
            m.parts and m.dimensions and all(p.shape.polygon.is_valid and p.quantity > 0 for p in m.parts)
        ), r
    assert "tapered cutter" in BoxSet(joint="dovetails").make(sources).notes[-1]
    assert Inset(source="s", distance=-8, round_to=5).make(sources).parts[
        0
    ].shape.region.area == pytest.approx(84 * 44 - (100 - 25 * math.pi), abs=0.1)
    for bad in (
        Panel(size=300),
        Ring(inner=400),
        Strip(openings=100),
        BoxSet(count=40),
        Inset(source="s", distance=-40),
        Lettering(font="none"),
        MortiseTenon(tenon=200),
    ):
        with pytest.raises(BadInput) as e:
            bad.make(sources)
        assert len(str(e.value)) > 20


# -- in the plan


def test_a_newer_drawing_is_compared_adopted_part_by_part_and_keeps_alterations_notes_and_versions(store):
    job = new_job(store, "job").plan.id

    def now():
        return store.get(job)

    two = dxf(
        lambda m: (
            [m.add_lwpolyline(rect(x, 0, 200, 100), close=True) for x in (0, 300)]
            + [m.add_lwpolyline(rect(40, 30, 60, 18), close=True), m.add_circle((360, 50), 20)]
        )
    )
    drawings.take_drawing(store, job, 1, "main", "pair.dxf", two)
    slotted, round_ = sorted(now().plan.parts, key=lambda p: p.origin)
    bone = {"kind": "relief", "style": "dog-bone", "radius": 3.05}
    drawings.alter_part(store, job, now().number, AlterPart(part=slotted.id, add=bone))
    store.apply(job, now().number, NotePart(part=slotted.id, note="slot too tight"))
    store.apply(job, now().number, SetContour(part=slotted.id, contour="outline", tab_count=3))
    wider = dxf(
        lambda m: (
            [m.add_lwpolyline(rect(x, 0, 210, 100), close=True) for x in (0, 300)]
            + [m.add_lwpolyline(rect(40, 30, 60, 19), close=True), m.add_circle((360, 50), 25)]
        )
    )
    c = drawings.compare(store, now().plan, "main", "pair.dxf", wider)
    assert [p.state for p in c.parts] == ["changed", "changed"] and c.effects[0].layout == ("none", "none")
    drawings.take_drawing(store, job, now().number, "main", "pair.dxf", wider, adopt=[slotted.id])
    parts = {p.id: p for p in now().plan.parts}
    new = parts[slotted.id]
    assert parts[round_.id].shape == round_.shape, "the other part was not adopted"
    assert (
        store.shapes[new.shape].size[0] == pytest.approx(210)
        and len(store.shapes[new.shape].region.holes[0].vertices) == 12
    ), "relieved again in the wider slot"
    assert (
        new.versions[0].note == "slot too tight"
        and new.note == ""
        and now().plan.choice(slotted.id, "outline").tab_count == 3
    )
    gone = dxf(lambda m: [m.add_lwpolyline(rect(0, 0, 210, 100), close=True), m.add_circle((70, 40), 20)])
    drawings.take_drawing(store, job, now().number, "main", "pair.dxf", gone)
    stops = [s for s in derive(store, now().plan)["main"].snags if s.severity == "stop"]
    assert {"parts.alteration", "parts.missing"} <= {s.rule for s in stops}
    drop = next(s for s in stops if s.rule == "parts.alteration").remedies[0].command
    drawings.alter_part(store, job, now().number, AlterPart.model_validate(drop))
    assert "parts.alteration" not in {s.rule for s in derive(store, now().plan)["main"].snags}


def test_what_is_refused_of_a_newer_drawing_stays_refused_when_it_is_read_in_another_way(store):
    """A refused groove and a refused part came in silently, and a part that was to stay went missing, when
    the drawing was read again.
    """
    job = new_job(store, "job").plan.id

    def now():
        return store.get(job)

    def sheet(groove, extra, gone):
        def do(m):
            m.doc.layers.add("GROOVE 4mm")
            m.add_lwpolyline(rect(0, 0, 200, 100), close=True)
            if groove:
                m.add_line((20, 50), (180, 50), dxfattribs={"layer": "GROOVE 4mm"})
            if not gone:
                m.add_lwpolyline(rect(300, 0, 120, 80), close=True)
            for k in range(extra):
                m.add_lwpolyline(rect(600, 100 * k, 400 + 100 * k, 12 + 2 * k), close=True)

        return dxf(do)

    drawings.take_drawing(store, job, 1, "main", "set.dxf", sheet(False, 0, False))
    first = {p.name: p for p in now().plan.parts}
    newer = sheet(True, 2, True)
    shown = drawings.compare(store, now().plan, "main", "set.dxf", newer).parts
    assert sorted(p.state for p in shown) == ["changed", "missing", "new", "new"]
    assert next(p for p in shown if p.state == "changed").added == ["groove 1"]
    wanted = next(p for p in shown if p.state == "new" and p.area_mm2[1] > 6000)
    drawings.take_drawing(store, job, now().number, "main", "set.dxf", newer, adopt=[wanted.id])

    def check():
        parts = now().plan.parts
        assert len(parts) == 3 and not any(p.missing for p in parts)
        assert {p.shape for p in first.values()} <= {p.shape for p in parts}, (
            "kept as they were: no groove came in, none went"
        )
        assert max(store.shapes[p.shape].region.area for p in parts) == pytest.approx(20_000)

    check()
    for patch in ({"join": 0.1}, {"refit": 0.02}, {"join": 0.05}):
        drawings.read_again(store, job, now().number, now().plan.drawings[0].id, patch)
        check()
    drawings.read_again(store, job, now().number, now().plan.drawings[0].id, {"scale": 2.0})
    assert sorted(round(store.shapes[p.shape].region.area) for p in now().plan.parts) == [
        28_000,
        38_400,
        80_000,
    ]
    number = now().number
    drawings.take_drawing(store, job, number, "main", "set.dxf", newer)
    assert len(now().plan.parts) == 4 and [p.missing for p in now().plan.parts].count(True) == 1, (
        "taken as a whole after all"
    )
    number = now().number
    revision, _intake = drawings.take_drawing(store, job, number, "main", "set.dxf", newer)
    assert revision.number == number == now().number, "the same file once more is no new version"


def test_scaling_cut_lists_and_made_parts_are_edits_like_others(store):
    job = new_job(store, "job").plan.id
    drawings.take_drawing(
        store,
        job,
        1,
        "main",
        "leaf.svg",
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><path d="M0 10C10 0 30 0 40 10C30 20 10'
        b' 20 0 10z"/></svg>',
    )
    drawings.take_drawing(store, job, 2, "main", "panel.dxf", panel(300, 200, ()))
    leaf, board = store.get(job).plan.parts
    drawings.scale_to(store, job, 3, leaf.drawing, width=120)
    assert store.shapes[store.get(job).plan.part(leaf.id).shape].size[0] == pytest.approx(120, abs=0.01)
    drawings.scale_to(store, job, 4, leaf.drawing, inside=board.id, margin=10)
    assert store.shapes[store.get(job).plan.part(leaf.id).shape].size[0] == pytest.approx(280, abs=1)
    store.undo(job)
    assert store.shapes[store.get(job).plan.part(leaf.id).shape].size[0] == pytest.approx(120, abs=0.01)
    _r, said = drawings.take_cut_list(
        store,
        job,
        store.get(job).number,
        "main",
        "list.csv",
        b"Part;Qty;Material;Grain;Face\nleaf;12;Birch plywood;along;either\nPANEL.dxf;3;Oak;;\ndoor;2;;;\n",
    )
    p = {x.name: x for x in store.get(job).plan.parts}
    assert (
        (p["leaf"].quantity, p["leaf"].grain, p["leaf"].mirror, p["panel"].quantity) == (12, 0, True, 3)
        and "door" in said[-1]
        and "Oak" in said[0]
    )
    for bad in (b"", b"a;b\n1;2\n", b"name,quantity\nleaf,many\n", b"name,quantity\nnobody,3\n"):
        with pytest.raises(BadInput, match=r"list\.csv"):
            drawings.take_cut_list(store, job, store.get(job).number, "main", "list.csv", bad)
    drawings.make_parts(store, job, store.get(job).number, "main", BoxSet())
    made = [x for x in store.get(job).plan.parts if x.name in ("front and back", "side")]
    store.apply(job, store.get(job).number, SetContour(part=made[0].id, contour="outline", tab_count=5))
    drawings.make_parts(store, job, store.get(job).number, "main", BoxSet(length=500), made[0].drawing)
    again = store.get(job).plan.part(made[0].id)
    assert (
        store.shapes[again.shape].size[0] == pytest.approx(500)
        and again.quantity == 2
        and store.get(job).plan.choice(again.id, "outline").tab_count == 5
    )


def test_reading_again_drops_parts_nobody_worked_on_and_keeps_the_rest_as_missing(store):
    job = new_job(store, "job").plan.id
    drawings.take_drawing(store, job, 1, "main", "box shelf x4.dxf", AS_THEY_CAME["box shelf x4.dxf"])
    plan = store.get(job).plan
    frame = next(p for p in plan.parts if store.shapes[p.shape].size[0] == 480)
    drawings.read_again(store, job, 2, frame.drawing, {"chosen": {"frame:0": True}})
    after = store.get(job).plan.parts
    assert (
        [p.missing for p in after] == [False] * len(after)
        and {p.quantity for p in after} == {4}
        and max(store.shapes[p.shape].size[0] for p in after) == pytest.approx(320)
    )
    store.undo(job)
    store.apply(job, store.get(job).number, SetContour(part=frame.id, contour="outline", tab_count=2))
    drawings.read_again(store, job, store.get(job).number, frame.drawing, {"chosen": {"frame:0": True}})
    assert store.get(job).plan.part(frame.id).missing, "work on a part does not vanish"


def test_a_newer_file_is_read_with_what_was_said_about_the_older_one(store):
    job = new_job(store, "job").plan.id

    def gapped(size):
        ends = rect(0, 0, size, 100)
        return dxf(
            lambda m: (
                [
                    m.add_line(a, (b[0] + 0.3 * (k == 0), b[1]))
                    for k, (a, b) in enumerate(zip(ends, ends[1:] + ends[:1], strict=True))
                ]
                + [m.add_circle((50, 50), 10) for _ in range(2)]
            )
        )

    drawings.take_drawing(store, job, 1, "main", "g.dxf", gapped(200), join=0.5)
    part = next(p for p in store.get(job).plan.parts if store.shapes[p.shape].size[0] > 150)
    drawings.read_again(store, job, 2, part.drawing, {"chosen": {"twins:5": False, "refit": False}})
    seen = drawings.compare(store, store.get(job).plan, "main", "g.dxf", gapped(210))
    drawings.take_drawing(store, job, 3, "main", "g.dxf", gapped(210))
    drawing = store.get(job).plan.drawings[0]
    assert drawing.how.join == 0.5 and drawing.how.chosen == {"refit": False}, (
        "choices for single items belong to the older file"
    )
    assert store.shapes[store.get(job).plan.part(part.id).shape].region.area == pytest.approx(
        seen.parts[0].area_mm2[1]
    ), "what was shown is what is taken"
    more = dxf(
        lambda m: [
            m.add_lwpolyline(rect(0, 0, 210, 100), close=True),
            m.add_circle((50, 50), 10),
            m.add_lwpolyline(rect(400, 0, 50, 50), close=True),
        ]
    )
    before = store.get(job).plan
    drawings.take_drawing(store, job, 4, "main", "g.dxf", more, adopt=[part.id])
    assert len(store.get(job).plan.parts) == len(before.parts)
    store.undo(job)
    drawings.take_drawing(store, job, 6, "main", "g.dxf", more, adopt=["new"])
    after = store.get(job).plan
    assert (
        len(after.parts) == len(before.parts) + 1 and after.part(part.id).shape == before.part(part.id).shape
    )
