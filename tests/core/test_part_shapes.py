"""Shapes of parts as they are moved, turned, stored, relieved, bridged and edited: properties over random
ones.
"""

import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon, box

from tests.conftest import MANY, dxf
from venzo.core.edits import NotePart, SetContour, SetQuantity
from venzo.core.edits.asks import AlterPart
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.loops import join
from venzo.core.geometry.many import measure, polygons, simplified
from venzo.core.geometry.regions import Region
from venzo.core.parts.alter import Relief, Rounding, SlotWidth, alter, slots, widened
from venzo.core.parts.bridges import bridge, inside_of
from venzo.core.parts.corners import corners, fillets, refilleted, relieved, rounded
from venzo.core.parts.healing import heal
from venzo.core.parts.match import align, rename
from venzo.core.parts.measure import reach
from venzo.core.parts.shape import Feature, Shape, alike
from venzo.core.snags import BadInput
from venzo.demo.library import CUTTERS
from venzo.desk import drawings
from venzo.desk.jobs import new_job


def rect(x, y, w, h):
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


@st.composite
def parts(draw):
    """A part with bulged sides, up to three round or square holes, an engraving and a pocket."""
    n = draw(st.integers(4, 9))
    radii = [draw(st.floats(70, 110)) for _ in range(n)]
    outline = Contour.of(
        [
            (
                r * math.cos(2 * math.pi * k / n),
                r * math.sin(2 * math.pi * k / n),
                draw(st.sampled_from([0.0, 0.0, 0.12, -0.08])),
            )
            for k, r in enumerate(radii)
        ]
    )
    holes, marks = [], []
    for k in range(draw(st.integers(0, 3))):
        x, y = 30 * math.cos(2.1 * k + 0.3), 30 * math.sin(2.1 * k + 0.3)
        size = draw(st.floats(2, 8))
        holes.append(
            (
                Contour.circle(x, y, size)
                if draw(st.booleans())
                else Contour.of(rect(x - size, y - size / 2, 2 * size, size))
            ).oriented(False)
        )
    if draw(st.booleans()):
        marks.append(Feature("engraving", "engraving 1", Contour.of([(-5, 3), (4, 5), (6, -2)], False)))
    if draw(st.booleans()):
        marks.append(
            Feature("pocket", "pocket 1", Contour.of(rect(-3, -52, 9, 7)), draw(st.sampled_from([None, 6.0])))
        )
    return Region(outline, tuple(holes)), marks


def moved(r, marks, x, y, turn, mirrored=False):
    return r.placed(x, y, turn, mirrored), [
        f.changed(lambda c: c.placed(x, y, turn, mirrored)) for f in marks
    ]


@given(parts(), st.floats(-500, 500), st.floats(-500, 500), st.floats(0, 360))
@settings(max_examples=60 * MANY)
def test_a_copy_is_known_wherever_and_however_turned_and_a_changed_one_is_not(part, x, y, turn):
    r, marks = part
    copy, copied = moved(r, marks, x, y, turn)
    assert alike(r, copy, marks, copied)
    wider = Region(r.outline.scaled(1.004), r.holes)
    assert not alike(r, moved(wider, marks, x, y, turn)[0], marks, copied)
    if marks:
        assert not alike(r, copy, marks, copied[1:]), "an engraving less is another part"
        deeper = [Feature(f.kind, f.name, f.contour, 9.0) for f in copied]
        assert not alike(r, copy, marks, deeper), "so is one of another depth"


@given(parts())
@settings(max_examples=40 * MANY)
def test_a_stored_shape_comes_back_as_it_was(part):
    r, marks = part
    s, _at = Shape.of(r, features=marks)
    back = Shape.from_json(s.to_json())
    assert (
        back.digest == s.digest
        and back.names == s.names
        and [(f.kind, f.name, f.depth, f.contour.closed) for f in back.features]
        == [(f.kind, f.name, f.depth, f.contour.closed) for f in s.features]
    )
    assert back.region.area == pytest.approx(r.area, abs=1e-3) and min(
        back.region.outline.bbox[:2]
    ) == pytest.approx(0, abs=1e-6)


@given(st.lists(parts(), min_size=1, max_size=4))
@settings(max_examples=40 * MANY)
def test_many_contours_measured_at_once_measure_as_one_by_one(found):
    loops = [c for r, _m in found for c in r.loops]
    loops += [c.reversed() for c in loops] + [Contour.of([(0, 0), (3, 4, 0.5), (9, 9)], False)]
    alone = [Contour(c.vertices.copy(), c.closed) for c in loops]
    fresh = [Contour(c.vertices.copy(), c.closed) for c in loops]
    measure(fresh)
    for a, b in zip(alone, fresh, strict=True):
        assert (
            b.area == pytest.approx(a.area, abs=1e-6)
            and b.length == pytest.approx(a.length)
            and b.bbox == pytest.approx(a.bbox, abs=1e-9)
        )
    closed = [c for c in fresh if c.closed]
    assert [p.area for p in polygons(closed, 0.001)] == pytest.approx(
        [abs(Polygon(c.points(0.001)).area) for c in closed], rel=1e-9
    )
    assert [len(c.vertices) for c in simplified(closed, 1e-4)] == [
        len(c.simplified(1e-4).vertices) for c in closed
    ]


@given(parts(), st.randoms(use_true_random=False))
@settings(max_examples=40 * MANY)
def test_healing_finds_nothing_more_in_what_it_has_healed(part, random):
    r, _marks = part
    pieces = []
    for c in r.loops:
        rows = [Contour.of([(s.x0, s.y0, s.bulge), (s.x1, s.y1)], False) for s in c.segments()]
        pieces += [q.reversed() if random.random() < 0.5 else q for q in rows]
    random.shuffle(pieces)
    once = heal([*pieces, pieces[0]], 0.05, 0.005)
    assert sum(abs(c.area) for c in once.loops) == pytest.approx(
        sum(abs(c.area) for c in r.loops), rel=1e-6
    ) and len(once.loops) == len(r.loops)
    again = heal(once.loops, 0.05, 0.005)
    assert not again.lines and len(again.loops) == len(once.loops)
    assert not join(pieces, 0.05).branches


@given(
    st.floats(35, 145),
    st.sampled_from(["dog-bone", "T-bone, long side", "T-bone, short side"]),
    st.floats(1.0, 4.0),
    st.booleans(),
)
@settings(max_examples=60 * MANY)
def test_any_inside_corner_is_relieved_up_to_its_point(angle, style, radius, clockwise):
    w = math.radians(angle)
    hole = Contour.of([(0, 0), (60, 0), (60 * math.cos(w), 60 * math.sin(w))])
    hole = hole.reversed() if clockwise else hole
    k = next(c for c in corners(hole, True) if abs(c.x) + abs(c.y) < 1e-6)
    assert k.inside and k.angle == pytest.approx(angle, abs=1e-6)
    new = relieved(hole, k, radius, style)
    assert new is not None
    waste = Polygon(new.points(0.0005))
    assert waste.is_valid and waste.area > abs(hole.area)
    cleared = waste.buffer(-(radius - 0.05), quad_segs=64).buffer(radius - 0.05, quad_segs=64)
    assert cleared.distance(shapely.Point(0, 0)) < 0.01, "the cutter reaches the corner"
    near = Polygon(hole.points()).intersection(shapely.Point(0, 0).buffer(radius / 2))
    assert near.difference(cleared.buffer(0.01)).area < 5e-3


@given(st.floats(2, 12), st.floats(0.5, 1.8), st.floats(40, 140))
def test_fillets_are_found_and_change_their_radius(radius, factor, angle):
    w = math.radians(angle)
    sharp = Contour.of([(0, 0), (200, 0), (200 * math.cos(w), 200 * math.sin(w))])
    room = 200 - max(radius, radius * factor) / math.tan(w / 2)
    c = rounded(sharp, 0, radius)
    if c is None or room < 1:
        return
    f = next(f for f in fillets(c, True) if abs(f.radius - radius) < 1e-6)
    assert f.inside
    back = refilleted(c, f.index, radius * factor)
    if back is not None:
        assert any(abs(g.radius - radius * factor) < 1e-6 for g in fillets(back, True))
        assert abs(back.area) == pytest.approx(
            abs(sharp.area) - (radius * factor) ** 2 * (1 / math.tan(w / 2) - (math.pi - w) / 2), rel=1e-6
        )


@given(
    st.floats(4, 30),
    st.floats(2.5, 6),
    st.floats(0, 180),
    st.sampled_from(["square", "round", "filleted", "notch"]),
    st.floats(0.7, 1.5),
)
@settings(max_examples=60 * MANY)
def test_slots_are_known_in_any_direction_and_open_to_a_width(width, ratio, turn, ends, factor):
    long = width * ratio
    r = width / 2
    if ends == "round":
        c = Contour.of([(r, 0, 0), (long - r, 0, 1), (long - r, width, 0), (r, width, 1)])
    else:
        c = Contour.of(rect(0, 0, long, width))
        if ends == "filleted":
            for i in (3, 2, 1, 0):
                c = rounded(c, i, width / 5)
        if ends == "notch":
            c = Contour.of(
                [
                    (-200, -200),
                    (200, -200),
                    (200, long),
                    (width, long),
                    (width, 0),
                    (0, 0),
                    (0, long),
                    (-200, long),
                ]
            )
    c = c.placed(13, -7, turn).oriented(ends == "notch")
    (s,) = slots(c, ends != "notch")
    assert s.width == pytest.approx(width, abs=1e-6)
    new = widened(c, s, width * factor)
    (again,) = slots(new, ends != "notch")
    assert (
        again.width == pytest.approx(width * factor, abs=1e-6)
        and math.dist(again.at, s.at) < 1e-6
        and Polygon(new.points()).is_valid
    )


@given(st.integers(1, 4), st.floats(1.5, 5), st.integers(0, 359))
@settings(max_examples=30 * MANY)
def test_bridged_islands_hang_on_what_is_around_them(count, width, turn):
    hole = Contour.of(rect(20, 20, 60 * count, 70)).oriented(False)
    islands = [
        Region(
            Contour.of(rect(-12, -9, 24, 18)).placed(50 + 60 * k, 55, turn + 40 * k).oriented(True),
            (Contour.circle(50 + 60 * k, 55, 4).oriented(False),),
        )
        for k in range(count)
    ]
    host = Region(Contour.of(rect(0, 0, 60 * count + 40, 110)).oriented(True), (hole,))
    found = [host, *islands]
    assert inside_of(found) == [None] + [(0, 0)] * count
    new, done = bridge(found, width)
    assert done == count and len(new) == 1
    solid = new[0].polygon(0.005)
    assert solid.is_valid and solid.geom_type == "Polygon"
    for i in islands:
        assert i.polygon(0.005).difference(solid.buffer(0.02)).area < 0.05, "every island is in it"
    assert solid.buffer(-0.4 * width).geom_type == "Polygon", (
        "the bridges are as wide as asked: thinned by less than half of it, all still hangs together"
    )


@given(parts(), st.floats(-30, 30), st.floats(-30, 30), st.floats(0, 6))
@settings(max_examples=30 * MANY)
def test_a_newer_drawing_is_laid_over_the_old_one_and_contours_keep_their_names(part, x, y, grown):
    r, marks = part
    old, at = Shape.of(r, features=marks)
    new = Region(r.outline.scaled(1 + grown / 200), r.holes[::-1]).placed(x, y)
    fx, fy, share = align(old, new, (at[0] + x, at[1] + y))
    assert share > 0.8
    named = rename(old, new, [f.changed(lambda c: c.moved(x, y)) for f in marks], (fx, fy))
    assert set(named.names) == set(old.names) and [f.name for f in named.features] == [
        f.name for f in old.features
    ]
    if math.dist((fx, fy), (at[0] + x, at[1] + y)) < 0.5:
        for name, c in old.contours:
            if name != "outline":
                assert abs(named.contour(name).area) == pytest.approx(
                    abs(c.area), abs=1e-3
                ) and named.contour(name).bbox == pytest.approx(c.bbox, abs=1.0)


@given(st.floats(1, 15), st.floats(20, 60))
def test_what_a_cutter_leaves_equals_the_waste_less_its_opening(radius, size):
    s, _at = Shape.of(
        Region(
            Contour.of(rect(0, 0, 200, 120)).oriented(True),
            (Contour.of(rect(40, 30, size, 40)).oriented(False),),
        )
    )
    cutter = CUTTERS[0].model_copy(update={"diameter": 2 * radius})
    found = reach(s, cutter)
    if abs(2 * radius - min(size, 40)) < 0.02:
        return  # as wide as the cutter: either answer is right
    if 2 * radius > min(size, 40):
        assert found.blocked == ("hole 1",)
        return
    hole = box(40, 30, 40 + size, 70)
    assert (
        found.left_over
        == pytest.approx(
            hole.difference(hole.buffer(-radius, quad_segs=64).buffer(radius, quad_segs=64)).area,
            rel=0.05,
            abs=0.2,
        )
        and not found.blocked
    )


def test_edits_of_parts_undo_to_the_same_plan_in_any_order(store):
    """Every kind of edit this room has, applied one after the other; undo walks back through the very same
    plans, redo forward.
    """
    job = new_job(store, "job").plan.id

    def now():
        return store.get(job)

    def shape(m):
        m.add_lwpolyline(rect(0, 0, 200, 100), close=True)
        m.add_lwpolyline(rect(40, 40, 60, 18), close=True)
        m.add_lwpolyline(rect(20, 10, 30, 8), close=True, dxfattribs={"layer": "pocket"})
        m.add_line((120, 20), (180, 20))

    seen = [now().plan]
    drawings.take_drawing(store, job, 1, "main", "a.dxf", dxf(shape))
    seen.append(now().plan)
    part = now().plan.parts[0]

    def alter(**ask):
        return drawings.alter_part(store, job, now().number, AlterPart(part=part.id, **ask))

    steps = [
        lambda: alter(add={"kind": "relief", "radius": 3.05}),
        lambda: alter(add={"kind": "rounding", "radius": 8}),
        lambda: drawings.read_again(store, job, now().number, part.drawing, {"roles": {"pocket": "cut"}}),
        lambda: drawings.read_again(store, job, now().number, part.drawing, {"chosen": {"open": True}}),
        lambda: store.apply(job, now().number, SetQuantity(part=part.id, order="order-1", quantity=7)),
        lambda: store.apply(job, now().number, SetContour(part=part.id, contour="hole 1", tab_count=2)),
        lambda: drawings.scale_to(store, job, now().number, part.drawing, height=150),
        lambda: store.apply(job, now().number, NotePart(part=part.id, note="fits")),
        lambda: drawings.take_cut_list(store, job, now().number, "main", "l.csv", b"name,qty\na,9\n"),
        lambda: alter(alterations=[]),
    ]
    for step in steps:
        step()
        seen.append(now().plan)
        assert (
            len({p.id for p in now().plan.parts}) == len(now().plan.parts)
            and store.shapes[now().plan.part(part.id).shape].polygon.is_valid
        )
    assert len({p.model_dump_json() for p in seen}) == len(seen), "every step changed something"
    for want in seen[-2::-1]:
        assert store.undo(job).plan == want
    for want in seen[1:]:
        assert store.redo(job).plan == want
    with pytest.raises(BadInput):
        alter(add={"kind": "slot-width", "contour": "outline", "at": [0, 0], "width": 5})


def test_alterations_report_what_they_take_kind_by_kind():
    s, _at = Shape.of(
        Region(
            Contour.of(rect(0, 0, 200, 100)).oriented(True),
            (Contour.of(rect(40, 40, 60, 18)).oriented(False),),
        )
    )
    new, lost, removed = alter(
        s,
        [
            Relief(radius=3, style="dog-bone"),
            Rounding(radius=10),
            SlotWidth(contour="hole 1", at=(70, 49), width=20),
        ],
    )
    assert (
        not lost
        and removed == pytest.approx([4 * (math.pi / 2 - 1) * 9, 400 - 100 * math.pi, 2 * (60 - 0)], rel=0.15)
        and sum(removed) == pytest.approx(s.region.area - new.region.area)
    )
