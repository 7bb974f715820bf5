"""Kerf programs, read by another library and swept here, against the parts as they were to be.

Sources: the reader is the package gcodeparser, the sweep shapely; the lead of a round hole and the room of a
shared kerf by their own geometry; widths, leads and feeds of an arc (0.055 in, 0.1 in at 90 degrees, 150 and
50 in/min) and *a hole narrower than 1 to 1.5 thicknesses is pierced for the drill*: common practice.
"""

import math
import re

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon

from tests.support.kerf_sweep import swept
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.kerf.cut_up import before_outlines, cut_up_lines
from venzo.core.kerf.how import KerfHow, KerfTabs
from venzo.core.kerf.joined_rows import joined_to, rows_of
from venzo.core.kerf.kerf_cuts import kerf_cuts, pre_pierced
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.kerf_proof import against_run, against_world, taken_apart
from venzo.core.kerf.running import run
from venzo.desk import jobs, kerf_jobs
from venzo.formats.kerf_program import PLAIN, write_kerf
from venzo.formats.rs274 import interpret

CLOSE = 0.02
"""mm that a part may lose or keep."""
INCH = PLAIN.model_copy(update={"inch": True})


def made(bodies, how, plate=None, by="insides first", dialect=PLAIN):
    """A sheet's program with what it was made of; the house's own proof of it finds nothing."""
    planned = pre_pierced(kerf_cuts(bodies, how, plate), how)
    done = run(planned.cuts, bodies, how, by=by)
    text = write_kerf(done, how, ["test"], dialect)
    told = taken_apart(interpret(text, "t", dialect))
    found = [
        *told.snags,
        *against_run(told, done),
        *against_world(told, bodies, how, plate, planned.left_out, joined_to(planned.rows, bodies)),
    ]
    assert not found, found[0].message
    return planned, done, text


def box(w, h, x=0.0, y=0.0):
    return Contour.of([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])


def regular(n, r, turn=0.0):
    w = [turn + 2 * math.pi * k / n for k in range(n)]
    return Contour.of([(r * math.cos(a), r * math.sin(a)) for a in w])


def slot(w, r):
    return Contour.of([(-w / 2, -r, 0), (w / 2, -r, 1), (w / 2, r, 0), (-w / 2, r, 1)])


@st.composite
def shapes(draw):
    """A part of 40 to 90 mm about the origin: disc, polygon, rounded or notched plate, with holes that keep
    apart.
    """
    size = draw(st.floats(20, 45))
    kind = draw(st.sampled_from(["disc", "polygon", "plate", "rounded", "notched", "star"]))
    turn = draw(st.floats(0, 6.28))
    if kind == "disc":
        outline = Contour.circle(0, 0, size)
    elif kind == "polygon":
        outline = regular(draw(st.integers(3, 8)), size, turn)
    elif kind == "plate":
        outline = box(2 * size, 1.4 * size, -size, -0.7 * size).placed(0, 0, math.degrees(turn))
    elif kind == "rounded":
        r = draw(st.floats(3, 12))
        q = math.tan(math.pi / 8)
        a, b = size, 0.8 * size
        rows = [(-a + r, -b, 0), (a - r, -b, q), (a, -b + r, 0), (a, b - r, q)]
        outline = Contour.of(rows + [(-x, -y, k) for x, y, k in rows]).placed(0, 0, math.degrees(turn))
    elif kind == "notched":
        a, w = size, draw(st.floats(2, 14))
        outline = Contour.of(
            [(-a, -a), (a, -a), (a, a), (w / 2, a), (w / 2, a / 3), (-w / 2, a / 3), (-w / 2, a), (-a, a)]
        )
    else:
        w = np.arange(10) * math.pi / 5 + turn
        r = np.where(np.arange(10) % 2, size * 0.55, size)
        outline = Contour.of(np.column_stack([r * np.cos(w), r * np.sin(w)]))
    holes = []
    if draw(st.booleans()):
        r = draw(st.floats(1.2, 0.16 * size))
        holes.append(Contour.circle(0, -0.22 * size, r))
    if draw(st.booleans()):
        holes.append(slot(draw(st.floats(0.5, 0.3 * size)), draw(st.floats(1.0, 3.0))).moved(0, 0.08 * size))
    return Region(outline.oriented(True), tuple(h.oriented(False) for h in holes))


@st.composite
def nests(draw):
    """Up to six parts on a sheet, far enough apart for leads, in a sheet with a margin."""
    found = draw(st.lists(shapes(), min_size=1, max_size=6))
    bodies, gap = [], draw(st.floats(9, 16))
    x = y = row = 10.0
    for n, region in enumerate(found):
        x0, y0, x1, y1 = region.outline.bbox
        if x + x1 - x0 > 260:
            x, y = 10.0, row + gap
        bodies.append(Body(f"part {n + 1}", region.placed(x - x0, y - y0)))
        x += x1 - x0 + gap
        row = max(row, y + y1 - y0)
    return bodies, shapely.box(0, 0, 380, row + 10)


HOWS = st.fixed_dictionaries(
    {
        "kerf": st.floats(0.8, 2.2),
        "lead": st.floats(2.3, 4.0),
        "lead_kind": st.sampled_from(["straight", "arc"]),
        "lead_angle": st.sampled_from([45.0, 60.0, 90.0, 120.0]),
        "feed": st.just(3810.0),
        "lead_feed": st.just(1270.0),
        "hop": st.sampled_from([0.0, 60.0, 400.0]),
        "hop_feed": st.just(5000.0),
        "swirl": st.sampled_from(["right", "left"]),
        "corners": st.sampled_from(["through", "slow", "loop"]),
        "still": st.sampled_from([0.0, 4.0]),
        "lead_out": st.sampled_from(["none", "short", "overburn"]),
        "out_length": st.sampled_from([0.5, 2.0, 6.0]),
    }
)


def check_parts(bodies, how, plate, program, left_out):
    """No part loses or keeps more than CLOSE, leads lie in the waste."""
    areas = program.areas(how.kerf)
    cut = shapely.union_all(areas)
    rest = list(shapely.get_parts(plate.difference(cut)))
    for n, b in enumerate(bodies):
        true = b.region.polygon(0.0005)
        lost = true.intersection(cut)
        assert lost.is_empty or true.buffer(-CLOSE).intersection(cut).is_empty, b.name
        missed = {c for i, c in left_out if i == n}
        if "outline" in missed:
            continue
        whole = Polygon(b.region.outline.points(0.0005))
        holes = [
            Polygon(h.points(0.0005)) for k, h in enumerate(b.region.holes, 1) if f"hole {k}" not in missed
        ]
        # corners sharper than the kerf keep a fillet: the closing of the part by half a kerf
        fair = whole.difference(shapely.union_all(holes)).buffer(how.kerf / 2, quad_segs=64)
        fair = fair.buffer(-how.kerf / 2, quad_segs=64)
        piece = next(p for p in rest if p.contains(true.representative_point()))
        assert piece.difference(fair.buffer(CLOSE)).area < 0.05, b.name


def comes_out_as_drawn(nest, given, by):
    bodies, plate = nest
    how = KerfHow(**given)
    planned, done, text = made(bodies, how, plate, by)
    program = swept(text)
    assert len(program.burns) == done.pierces
    assert program.length == pytest.approx(done.cut_length, rel=1e-4)
    check_parts(bodies, how, plate, program, planned.left_out)
    cores = [b.polygon.buffer(-CLOSE) for b in bodies]
    for burn, cut in zip(program.burns, done.cuts, strict=True):
        assert plate.covers(Point(burn.points[0]))
        if cut.inside and cut.lead is not None:  # the whole lead in its hole or bay
            assert cut.area.buffer(0.01).covers(Point(burn.points[0]))
        elif cut.lead is not None:
            assert not any(c.contains(Point(burn.points[0])) for c in cores)
    check_hops(bodies, how, program)


ORDERS = st.sampled_from(["insides first", "piece by piece", "heat spread"])
SETTINGS = {
    "suppress_health_check": [HealthCheck.too_slow],
    "deadline": None,
    "phases": [Phase.explicit, Phase.generate],
}


@settings(max_examples=30, **SETTINGS)
@given(nest=nests(), given=HOWS, by=ORDERS)
def test_random_nests_come_out_as_drawn(nest, given, by):
    comes_out_as_drawn(nest, given, by)


@pytest.mark.long
@settings(max_examples=400, **SETTINGS)
@given(nest=nests(), given=HOWS, by=ORDERS)
def test_hundreds_of_random_nests_come_out_as_drawn(nest, given, by):
    comes_out_as_drawn(nest, given, by)


def check_hops(bodies, how, program):
    """No way with the head down over what is loose: every component of the sheet that is cut off by then."""
    if not any(program.hops):
        return
    plate = shapely.union_all([b.polygon for b in bodies]).envelope.buffer(60)
    rim = Point(plate.exterior.coords[0])
    areas = program.areas(how.kerf)
    for k, ways in enumerate(program.hops):
        if not ways:
            continue
        left = shapely.get_parts(plate.difference(shapely.union_all(areas[:k])))
        loose = [p for p in left if p.distance(rim) > 1e-6]
        for way in ways:
            for p in loose:
                assert p.buffer(-CLOSE).intersection(way).length < 1e-3


@settings(max_examples=40, deadline=None, phases=[Phase.explicit, Phase.generate])
@given(
    many=st.tuples(st.integers(1, 4), st.integers(1, 4)),
    size=st.tuples(st.floats(15, 70), st.floats(15, 70)),
    kerf=st.floats(0.6, 2.0),
    brick=st.booleans(),
    hop=st.sampled_from([0.0, 300.0]),
)
def test_common_lines_are_cut_once_and_all_pieces_are_free(many, size, kerf, brick, hop):
    (nx, ny), (w, h) = many, size
    bodies = [
        Body(f"p{i}{j}", Region(box(w, h, i * (w + kerf) + (j % 2) * brick * w / 2, j * (h + kerf)), ()))
        for i in range(nx)
        for j in range(ny)
    ]
    how = KerfHow(kerf=kerf, lead=2.5, feed=3000, common_line=True, hop=hop)
    plate = shapely.box(-20, -20, nx * (w + kerf) + w + 20, ny * (h + kerf) + 20)
    planned, done, text = made(bodies, how, plate)
    program = swept(text)
    check_parts(bodies, how, plate, program, planned.left_out)
    check_hops(bodies, how, program)
    lines = [shapely.LineString(b.points) for b in program.burns]
    # nowhere is a way gone twice: crossings are points
    for i, a in enumerate(lines):
        for b in lines[:i]:
            assert a.intersection(b).length < 0.01
    single = sum(
        shapely.LinearRing(b.polygon.buffer(kerf / 2, join_style="mitre").exterior.coords).length
        for b in bodies
    )
    shared = (nx - 1) * ny * h + (ny - 1) * sum(
        _overlap(i, k, w, kerf, brick, j) for j in range(ny - 1) for i in range(nx) for k in range(nx)
    ) / max(1, ny - 1)
    leads = sum(c.lead.length for c in done.cuts if c.lead)
    assert done.cut_length - leads <= single - shared + 0.01 * single


def _overlap(i, k, w, kerf, brick, j):
    """mm that brick i of row j shares with brick k of the row above."""
    a, b = i * (w + kerf) + (j % 2) * brick * w / 2, k * (w + kerf) + ((j + 1) % 2) * brick * w / 2
    return max(0.0, min(a, b) + w - max(a, b))


def test_shared_length_is_the_length_of_the_shared_edge():
    kerf = 1.4
    two = [Body("a", Region(box(60, 40), ())), Body("b", Region(box(50, 40, 60 + kerf), ()))]
    one = KerfHow(kerf=kerf, lead=2.5, feed=3000, common_line=True)
    planned = kerf_cuts(two, one)
    # CHECK-VALUES: the length saved is the shared edge, here with the sharp ends of the shared line
    assert planned.common.saved == pytest.approx(40 + kerf, abs=0.01)


def test_a_four_inch_disc_with_small_shapes():
    inch = 25.4
    holes = [
        Contour.circle(20, 20, 0.25 * inch),
        Contour.circle(-20, 20, 0.1 * inch),
        slot(0.4 * inch, 0.06 * inch).moved(0, -25),
        Contour.circle(0, 30, 0.047 * inch),
    ]
    disc = Body("disc", Region(Contour.circle(0, 0, 2 * inch), tuple(h.oriented(False) for h in holes)))
    how = KerfHow(
        kerf=0.055 * inch,
        lead=0.1 * inch,
        feed=150 * inch,
        lead_feed=50 * inch,
        hop=200,
        hop_feed=150 * inch,
    )
    planned = kerf_cuts([disc], how)
    refused = [s for s in planned.snags if s.severity == "stop"]
    assert [s.rule for s in refused] == ["kerf.no-lead"]
    assert "hole 4" in refused[0].message and "0.99" in refused[0].message and "1.40" in refused[0].message
    done = run(planned.cuts, [disc], how)
    program = swept(write_kerf(done, how, [], INCH))
    assert done.cuts[-1].contour == "outline" and done.pierces == 4
    for burn, cut in zip(program.burns, done.cuts, strict=True):
        assert burn.feeds[0][1] == pytest.approx(50 * inch) and burn.feeds[1][1] == pytest.approx(150 * inch)
        assert burn.feeds[0][0] == pytest.approx(cut.lead.length, abs=0.01)
        loop = shapely.LinearRing(burn.points[1:])
        # right-hand swirl, the good edge at the right: outsides clockwise, holes counter-clockwise
        assert loop.is_ccw == cut.inside
    check_parts([disc], how, Point(0, 0).buffer(80), program, planned.left_out)


@pytest.mark.parametrize(("diameter", "becomes"), [(6.0, 2.54), (3.6, None), (2.9, "stop"), (1.2, "narrow")])
def test_leads_in_round_holes(diameter, becomes):
    """CHECK-VALUES: a straight lead at 90 degrees fits while its length <= diameter - kerf - margin."""
    body = Body("plate", Region(box(60, 60), (Contour.circle(30, 30, diameter / 2).reversed(),)))
    planned = kerf_cuts([body], KerfHow(kerf=1.4, lead=2.54, feed=3000))
    said = {s.rule: s for s in planned.snags}
    hole = next((c for c in planned.cuts if c.inside), None)
    if becomes == "narrow":
        assert "kerf.narrow" in said and hole is None
    elif becomes == "stop":
        # 1.5 mm are left inside the kerf, less a tenth of a kerf beside the pierce
        assert (
            hole is not None and hole.lead.length == pytest.approx(1.4, abs=0.01)
        ) or "kerf.no-lead" in said
    elif becomes is None:
        assert said["kerf.lead"].severity == "look"
        assert 1.4 <= hole.lead.length <= diameter - 1.4
    else:
        assert not said and hole.lead.length == becomes


def test_holes_by_the_thickness_of_the_sheet():
    holes = [Contour.circle(20 * k, 30, r).reversed() for k, r in ((1, 2.6), (2, 4.0), (3, 8.0))]
    body = Body("plate", Region(box(90, 60), tuple(holes)))
    how = KerfHow(kerf=1.4, lead=2.0, feed=3000, thickness=6.0)
    planned, done, text = made([body], how)
    by = {c.contour: c for c in done.cuts}
    assert by["hole 1"].spot and by["hole 1"].length == 0  # 5.2 mm in 6 mm: pierced for the drill
    assert max(f for _d, f in swept(text).burns[done.cuts.index(by["hole 2"])].feeds[1:]) == 1800
    assert max(f for _d, f in swept(text).burns[done.cuts.index(by["hole 3"])].feeds[1:]) == 3000
    assert {s.rule for s in planned.snags} == {"kerf.drill"}


@pytest.mark.parametrize("count", [1, 2, 5])
def test_tabs_leave_the_metal_that_was_asked_for(count):
    body = Body("p", Region(box(70, 50), ()))
    how = KerfHow(kerf=1.4, lead=2.54, feed=3000, tabs=KerfTabs(count=count, width=0.4))
    _planned, done, text = made([body], how)
    assert done.pierces == count
    cut = shapely.union_all(swept(text).areas(1.4))
    line = shapely.LinearRing(body.region.polygon().buffer(0.7, quad_segs=64).exterior.coords)
    metal = line.difference(cut)
    pieces = [p for p in shapely.get_parts(shapely.line_merge(metal)) if p.length > 1e-3]
    ring = sum(p.length for p in pieces)
    assert ring == pytest.approx(count * 0.4, abs=0.02)
    # held: the part and the rest of the sheet are one
    sheet = shapely.box(-20, -20, 90, 70).difference(cut)
    assert next(p for p in shapely.get_parts(sheet) if p.contains(Point(35, 25))).contains(Point(-15, -15))


def grid_of(nx, ny, gap, w=60.0, h=40.0):
    return [
        Body(f"p{i}{j}", Region(box(w, h, 20 + i * (w + gap), 20 + j * (h + gap)), ()))
        for i in range(nx)
        for j in range(ny)
    ]


@pytest.mark.parametrize("cut_up", ["remnant", "skeleton"])
def test_what_is_cut_beside_the_parts(cut_up):
    how = KerfHow(kerf=1.4, lead=3.0, feed=3000, cut_up=cut_up, cut_up_every=90.0, hop=60.0)
    bodies, plate = grid_of(4, 2, 14.0), shapely.box(0, 0, 420, 160)
    lines = cut_up_lines(bodies, how, plate, 1000)
    kinds = {"remnant line"} | ({"skeleton line"} if cut_up == "skeleton" else set())
    assert {c.contour for c in lines} == kinds
    planned = before_outlines(kerf_cuts(bodies, how, plate, beside=[c.line for c in lines]), lines)
    done = run(planned.cuts, bodies, how)
    text = write_kerf(done, how, [])
    told = taken_apart(interpret(text, "t", PLAIN))
    assert not [*told.snags, *against_run(told, done), *against_world(told, bodies, how, plate)]
    program = swept(text)
    check_parts(bodies, how, plate, program, planned.left_out)
    rest = shapely.get_parts(plate.difference(shapely.union_all(program.areas(how.kerf))))
    far = next(p for p in rest if p.contains(Point(410, 80)))
    right = max(b.region.outline.bbox[2] for b in bodies)
    assert far.bounds[0] > right, "the remnant is parted off"
    assert done.cuts[-1].contour == "remnant line"
    waste = [p for p in rest if p is not far and not any(p.contains(b.polygon.centroid) for b in bodies)]
    if cut_up == "skeleton":
        assert len(waste) == 4  # cut at 90, 180 and 270 mm, and the remnant's line
        assert not any(w.down for w in done.ways)


@pytest.mark.parametrize(("gap", "count", "w", "h"), [(5.0, 4, 20.0, 20.0), (7.0, 6, 12.0, 30.0)])
def test_turns_of_tabs_that_are_only_tried_take_no_room(gap, count, w, h):
    """Once their leads kept those of later turns and of the parts beside them off: 7 of these 9 outlines
    found no lead at 5 mm apart, and 14 leads were changed without need at 7 mm.
    """
    how = KerfHow(kerf=1.4, lead=2.54, feed=3000, tabs=KerfTabs(count=count, width=0.4))
    bodies = grid_of(3, 3, gap, w, h)
    planned, done, text = made(bodies, how)
    rules = {s.rule for s in planned.snags}
    assert "kerf.no-lead" not in rules and not planned.left_out
    assert gap < 7 or not rules
    assert done.pierces == 9 * count
    assert not against_world(taken_apart(interpret(text, "t", PLAIN)), bodies, how, None)


def test_tabs_come_by_the_way_where_that_makes_more():
    body = Body("p", Region(box(70, 50), ()))
    how = KerfHow(kerf=1.4, lead=2.54, feed=3000, tabs=KerfTabs(count=1, width=0.4, every=60))
    _planned, done, _text = made([body], how)
    assert done.pierces == 4  # 243 mm round


@pytest.mark.parametrize("job", ["hide-ironmongery-2-mm-steel", "bench-feet-6-mm-steel"])
def test_the_demo_s_sheets_come_out_as_drawn(demo, job):
    plan = demo.get(job).plan
    derived = jobs.derive(demo, plan)["main"]
    for sheet in derived.kerf:
        program = swept(kerf_jobs.program(plan, derived, sheet).text)
        assert len(program.burns) == sheet.run.pierces
        cut = shapely.union_all(program.areas(sheet.how.kerf))
        for b in sheet.bodies:
            assert b.region.polygon(0.0005).buffer(-CLOSE).intersection(cut).is_empty, b.name
        if not sheet.how.tabs.count:
            check_parts(sheet.bodies, sheet.how, sheet.plate, program, sheet.planned.left_out)
        for burn in program.burns:
            assert sheet.plate.covers(Point(burn.points[0]))


def test_a_loop_keeps_a_sharp_corner_and_lies_in_the_waste():
    body = Body("p", Region(box(70, 50), ()))
    how = KerfHow(kerf=1.4, lead=2.54, feed=3000, corners="loop", loop=3.0)
    _planned, done, text = made([body], how, shapely.box(-20, -20, 90, 70))
    assert done.cut_length > 2 * (70 + 50) + 4 * 2 * math.pi * 3 * 0.7
    check_parts([body], how, shapely.box(-20, -20, 90, 70), swept(text), frozenset())


def test_nothing_is_pierced_over_a_hole_of_a_remnant():
    plate = shapely.box(0, 0, 200, 120).difference(
        shapely.union_all([Point(100, 115).buffer(30), Point(10, 60).buffer(8)])
    )
    body = Body("p", Region(box(70, 50, 20, 30), ()))
    for x, y in ((55.0, 85.0), (15.0, 60.0), (95.0, 60.0)):
        near = Body("p", body.region, starts={"outline": (x, y)})
        how = KerfHow(kerf=1.4, lead=6.0, feed=3000)
        _planned, done, _text = made([near], how, plate)
        assert plate.buffer(-0.7).covers(Point(done.cuts[0].pierce))


@settings(max_examples=30, deadline=None, phases=[Phase.explicit, Phase.generate])
@given(
    kind=st.sampled_from(["box", "disc", "hexagon"]),
    many=st.tuples(st.integers(1, 4), st.integers(1, 3)),
    size=st.floats(24, 60),
    gap=st.floats(4.5, 9),
    bridge=st.floats(1.0, 4.0),
    most=st.integers(2, 12),
    corners=st.sampled_from(["through", "slow", "loop"]),
)
def test_rows_come_off_in_one_piece_with_one_pierce(kind, many, size, gap, bridge, most, corners):
    (nx, ny), r = many, size / 2
    one = {
        "box": box(size, size, -r, -r),
        "disc": Contour.circle(0, 0, r).oriented(True),
        "hexagon": regular(6, r),
    }[kind]
    hole = Contour.circle(0, 0, 5).oriented(False)
    bodies = [
        Body(f"p{i}{j}", Region(one, (hole,)).placed(i * (size + gap), j * (size + gap)))
        for i in range(nx)
        for j in range(ny)
    ]
    how = KerfHow(
        kerf=1.4, lead=2.5, feed=3000, bridge=bridge, bridge_reach=gap + 2, bridge_most=most, corners=corners
    )
    plate = shapely.box(-60, -60, nx * (size + gap) + 60, ny * (size + gap) + 60)
    planned, done, text = made(bodies, how, plate)
    alone = len(bodies) - sum(len(w.bodies) for w in planned.rows)
    assert done.pierces == len(bodies) + len(planned.rows) + alone  # every hole, every row or lone part
    assert all(len(w.bodies) <= most for w in planned.rows)
    if nx * ny > 1 and kind == "box":
        assert planned.rows
    cut = shapely.union_all(swept(text).areas(how.kerf))
    rest = list(shapely.get_parts(plate.difference(cut)))
    for w in planned.rows:
        spots = [bodies[n].polygon.representative_point() for n in w.bodies]
        mine = [p for p in rest if any(p.contains(q) for q in spots)]
        assert len(mine) == 1, "a row comes off in one piece"
        metal = sum(bodies[n].polygon.area for n in w.bodies)
        extra = mine[0].area - metal
        # the bridges, and what the round end of a kerf leaves beside them
        strip = (len(w.bodies) - 1) * ((bridge + how.kerf) * (gap + size * (0.3 if kind != "box" else 0.02)))
        assert 0 < extra < strip + len(bodies) * size * 4 * CLOSE
    for b in bodies:
        assert b.polygon.buffer(-CLOSE).intersection(cut).is_empty


def test_bridges_leave_out_what_lies_in_a_hole_is_not_cut_or_was_tabbed_by_hand():
    ring = Region(box(80, 80), (box(50, 50, 15, 15).oriented(False),))
    inner = Region(box(30, 30, 25, 25), ())
    how = KerfHow(kerf=1.4, lead=2.5, feed=3000, bridge=2, bridge_reach=12)
    assert not rows_of([Body("ring", ring), Body("inner", inner)], how)[0]
    beside = Body("beside", Region(box(40, 80, 88, 0), ()))
    assert [r.bodies for r in rows_of([Body("ring", ring), beside, Body("inner", inner)], how)[0]] == [(0, 1)]
    for held in ({"omit": frozenset({"outline"})}, {"tabs": {"outline": ((128.0, 40.0),)}}):
        assert not rows_of([Body("ring", ring), Body("b", beside.region, **held)], how)[0]


def test_a_bridge_finds_no_room_past_another_part():
    left, right = Body("l", Region(box(40, 40), ())), Body("r", Region(box(40, 40, 60, 0), ()))
    between = Body("m", Region(box(8, 40, 46, 0), ()))
    how = KerfHow(kerf=1.4, lead=2.5, feed=3000, bridge=2, bridge_reach=25, bridge_most=2)
    rows, _said = rows_of([left, right, between], how)
    assert [r.bodies for r in rows] == [(0, 2)]
    wide = KerfHow(kerf=1.4, lead=2, feed=1, bridge=45, bridge_reach=25)
    rows, said = rows_of([left, right], wide)
    assert not rows and [s.rule for s in said] == ["kerf.bridge"]


@settings(max_examples=15, **SETTINGS)
@given(nest=nests(), given=HOWS, sense=st.booleans())
def test_everything_is_pierced_before_anything_is_cut(nest, given, sense):
    bodies, plate = nest
    dialect = PLAIN.model_copy(update={"sense": ("M71",) if sense else ()})
    how = KerfHow(**given, pierce=0.8, pre_pierce=True)
    _planned, done, text = made(bodies, how, plate, dialect=dialect)
    program = swept(text)
    only = [k for k, b in enumerate(program.burns) if not b.feeds]
    cuts = [k for k, b in enumerate(program.burns) if b.feeds]
    assert not only or max(only) < min(cuts)
    assert len(only) == len(cuts) == done.pierces
    holes = {tuple(np.round(program.burns[k].points[0], 3)) for k in only}
    assert holes == {tuple(np.round(program.burns[k].points[0], 3)) for k in cuts}
    if sense:  # off the hole that is open already
        spots, at = [], (0.0, 0.0)
        for line in text.splitlines():
            x, y = (re.search(rf"{w}(-?[0-9.]+)", line) for w in "XY")
            if line.startswith(("G", "X", "Y")):
                at = (float(x[1]) if x else at[0], float(y[1]) if y else at[1])
            if line == "M71":
                spots.append(at)
        late = spots[len(only) :]
        assert len(late) == len(cuts)
        for spot in late:
            assert min(math.dist(spot, h) for h in holes) > how.kerf / 2
    planted = text.replace("M5", "M5\nM3\nM5", 1)
    assert any(
        s.rule in ("kerf.count", "kerf.pierce")
        for s in against_run(taken_apart(interpret(planted, "t", dialect)), done)
    )


def test_a_lead_that_finds_no_room_is_told_as_it_was_asked_for():
    plate = Body(
        "plate", Region(box(60, 60), (Contour.circle(30, 30, 4).reversed(), slot(1, 0.9).moved(9, 9)))
    )
    planned = kerf_cuts([plate], KerfHow(kerf=1.4, lead=90.0, feed=3000))
    by = {m.name: m for m in planned.misfits}
    round_hole, outline = by["plate, hole 1"], by.get("plate, outline")
    assert round_hole.cut and round_hole.lead.length == 90.0 and outline is None
    cut = next(c for c in planned.cuts if c.contour == "hole 1")
    assert cut.lead.length < 8 and math.dist(round_hole.lead.pierce, cut.pierce) > 80
    lost = by["plate, hole 2"]
    assert not lost.cut and lost.lead.length == 90.0
