"""Boards of a joint put together as they are cut: overlap 0 and gaps as stated within 0.02 mm for random
boxes, angles and cutters; what overlaps, against an independent Boolean of solids (manifold3d); joints
made for other boards or cutters are found, and one key mends them. Reliefs: the round cutter reaches every
corner.
"""

import math

import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from tests.support.library_shop import library_shop
from venzo.core.edits import SetStock
from venzo.core.edits.asks import Remake
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.parts.alter import Relief, alter
from venzo.core.parts.corners import corners, relieved
from venzo.core.parts.made import BoxSet, MortiseTenon
from venzo.core.parts.shape import Shape
from venzo.core.proof.assembled import as_cut, boards_of, fit_of, put_together
from venzo.core.snags import BadInput
from venzo.desk import drawings, jobs
from venzo.desk.remedies import offered

CUTTER = 8.0
"""The small bench's proposal cuts outlines with this, mm."""


@pytest.fixture(scope="module")
def shop(tmp_path_factory):

    store = library_shop(tmp_path_factory.mktemp("joints") / "shop")
    yield store
    store.close()


def job_of(store, recipe, thick):
    job = jobs.new_job(store, "joints", "small-bench", "birch-ply").plan.id
    sheet = store.get(job).plan.setups[0].stock[0].model_copy(update={"readings": (thick,)})
    store.apply(job, store.get(job).number, SetStock(setup="main", stock=sheet))
    return drawings.make_parts(store, job, store.get(job).number, "main", recipe)


def put(store, plan):
    """The boards of a plan's first drawing, how they fit, and what is said of them."""
    derived = jobs.derive(store, plan, hold=False)
    boards = boards_of(plan, plan.drawings[0], {i: d.cuts for i, d in derived.items()}, store.shapes)
    said = [s for s in derived["main"].snags if s.rule.startswith("joint.")]
    return boards, fit_of(plan.drawings[0].made, boards), said


@st.composite
def boxes(draw):
    thick = draw(st.floats(9, 22))
    joint = draw(st.sampled_from(["fingers", "dovetails"]))
    return BoxSet(
        length=draw(st.floats(200, 500)),
        width=draw(st.floats(150, 400)),
        height=draw(st.floats(110, 240)),
        joint=joint,
        front=thick,
        side=thick,
        count=draw(st.integers(1, 3)),
        angle=draw(st.floats(6, 16)),
        clearance=draw(st.floats(0.0, 0.5)),
        relief=draw(st.sampled_from(["dog-bone", "T-bone, short side"])),
        cutter=CUTTER,
        groove=draw(st.sampled_from([0.0, 4.0])),
    )


@settings(max_examples=10)
@given(boxes())
def test_a_box_goes_together_with_its_stated_gaps(shop, recipe):
    try:
        plan = job_of(shop, recipe, recipe.front).plan
    except BadInput:
        assume(False)
    boards, fit, said = put(shop, plan)
    assume(not any("does not enter" in n for n in recipe.make(None).notes))
    assert [b.thickness for b in boards] == pytest.approx([recipe.front] * 2)
    assert fit.overlap == 0 and fit.wide <= 0.02
    assert fit.gaps == pytest.approx((recipe.clearance,) * 2, abs=0.02)
    assert not [s for s in said if s.severity != "note"], [s.message for s in said]
    if recipe.joint == "dovetails":
        # by hand: every sloping wall is a wedge, the tails' growth over the board's thickness at its foot
        foot = recipe.side * math.tan(math.radians(recipe.angle))
        walls = 4 * recipe.count
        assert fit.walls == walls
        ideal = walls * foot * recipe.side / 2 * recipe.front
        # a relief takes no more of a wall than its mouth is wide, at the wedge's thick end: a like wedge
        # stands beyond. The clearance stands in every wall's face
        mouth = CUTTER * (math.sqrt(0.5) if recipe.relief == "dog-bone" else 1.0)
        beyond = max(0.0, 1 - 1.05 * mouth / recipe.side) ** 2
        assert 0.8 * beyond * ideal < fit.pare < ideal * 1.01


@settings(max_examples=6)
@given(
    st.floats(12, 22),
    st.floats(40, 70),
    st.sampled_from([90.0, 75.0, 60.0]),
    st.booleans(),
    st.floats(0, 0.4),
)
def test_a_tenon_goes_through_its_mortise(shop, thick, tenon, lean, along, clearance):
    recipe = MortiseTenon(
        rail=thick,
        board=thick,
        tenon=tenon,
        lean=lean,
        leans="along" if along else "across",
        clearance=clearance,
        cutter=CUTTER,
    )
    _boards, fit, said = put(shop, job_of(shop, recipe, thick).plan)
    assert fit.overlap <= 1e-3 * thick and fit.wide <= 0.02
    assert fit.gaps == pytest.approx((clearance,) * 2, abs=0.02)
    assert not [s for s in said if s.severity != "note"]


def solid(board, thick, turn):
    """A cut board as a body, its width along Y; ``turn`` lays it along X or along Z."""
    loops = [np.asarray(r.coords)[:-1] for r in (board.exterior, *board.interiors)]
    flat = manifold3d.CrossSection([np.ascontiguousarray(k) for k in loops], manifold3d.FillRule.EvenOdd)
    return manifold3d.Manifold.extrude(flat, thick).transform(turn)


@pytest.mark.parametrize(
    ("recipe", "thick"),
    [
        (BoxSet(front=17.6, side=17.6, relief="none", cutter=CUTTER), 17.6),
        (BoxSet(front=12, side=12, cutter=6), 17.6),
        (BoxSet(front=17.6, side=17.6, joint="dovetails", cutter=CUTTER), 17.6),
    ],
)
def test_what_two_boards_both_want_is_what_a_boolean_of_solids_finds(shop, recipe, thick):
    boards, _fit, _said = put(shop, job_of(shop, recipe, thick).plan)
    front, side = (as_cut(b) for b in boards)
    right = shapely.transform(
        front, lambda p: np.column_stack([p[:, 0] - (recipe.length - recipe.side), p[:, 1]])
    )
    end = shapely.transform(
        side, lambda p: np.column_stack([p[:, 0] - (recipe.width - recipe.front), p[:, 1]])
    )
    got = put_together(right, end, thick, thick, recipe.height)
    # the front's face lies at z 0, its thickness upwards; the side stands on its shoulder, its face at x 0
    lying = np.array([[1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 1, 0]], dtype=float)
    standing = np.array([[0, 0, 1, 0], [0, 1, 0, 0], [1, 0, 0, 0]], dtype=float)
    common = solid(right, thick, lying) ^ solid(end, thick, standing)
    assert got.overlap > 1
    assert got.overlap == pytest.approx(abs(common.volume()), rel=0.02)


@pytest.mark.parametrize(
    ("recipe", "thick", "rules"),
    [
        (BoxSet(front=12, side=12, cutter=CUTTER), 17.6, {"joint.thickness"}),
        (BoxSet(front=12, side=12, cutter=3), 17.6, {"joint.thickness", "joint.cutter"}),
        (BoxSet(front=17.6, side=17.6, cutter=6), 17.6, {"joint.cutter"}),
        (BoxSet(front=17.6, side=17.6, relief="none", cutter=CUTTER), 17.6, {"joint.overlap"}),
        (MortiseTenon(rail=18, board=18, cutter=CUTTER), 17.6, {"joint.thickness"}),
        (MortiseTenon(rail=17.6, board=17.6, cutter=3), 17.6, {"joint.cutter"}),
        (MortiseTenon(rail=17.6, board=17.6, relief="none", cutter=CUTTER), 17.6, {"joint.overlap"}),
    ],
)
def test_a_joint_made_for_something_else_stops_and_one_key_mends_it(shop, recipe, thick, rules):
    revision = job_of(shop, recipe, thick)
    derived = jobs.derive(shop, revision.plan)
    said, complete = offered(shop, revision.plan, derived, 60)
    stops = [s for s in said["main"] if s.rule.startswith("joint.") and s.severity == "stop"]
    assert complete and {s.rule for s in stops} == rules
    first = stops[0]
    assert first.remedies, first.message
    ask = Remake.model_validate(first.remedies[0].command)
    after = drawings.remake(shop, revision.plan.id, revision.number, ask)
    _boards, fit, left = put(shop, after.plan)
    assert not [s for s in left if s.severity == "stop"], [s.message for s in left]
    assert fit.wide <= 0.02
    # what a person set stays: the same parts, by their ids
    assert [p.id for p in after.plan.parts] == [p.id for p in revision.plan.parts]


def test_a_board_measured_again_is_asked_about_again(shop):
    recipe = BoxSet(front=17.6, side=17.6, cutter=CUTTER)
    revision = job_of(shop, recipe, 17.6)
    assert not [s for s in put(shop, revision.plan)[2] if s.severity == "stop"]
    sheet = revision.plan.setups[0].stock[0]
    thicker = sheet.model_copy(update={"readings": (17.9, 17.94)})
    later = shop.apply(revision.plan.id, revision.number, SetStock(setup="main", stock=thicker))
    (snag,) = [s for s in put(shop, later.plan)[2] if s.severity == "stop"]
    assert snag.rule == "joint.thickness" and "17.92 mm" in snag.message
    hair = sheet.model_copy(update={"readings": (17.62,)})
    later = shop.apply(revision.plan.id, later.number, SetStock(setup="main", stock=hair))
    assert not [s for s in put(shop, later.plan)[2] if s.severity == "stop"], "0.02 mm is how well one reads"


def test_remaking_what_cannot_be_is_refused_and_changes_nothing(shop):
    revision = job_of(shop, BoxSet(front=12, side=12), 12.0)
    for fields, words in (
        ({"front": 900}, "less than or equal to 100"),
        ({"colour": "red"}, "has no 'colour'"),
        ({"length": 20}, "too small"),
        ({"groove": 11}, "leaves less than 2 mm"),
    ):
        ask = Remake(drawing=revision.plan.drawings[0].id, fields=fields)
        with pytest.raises(BadInput, match=words):
            drawings.remake(shop, revision.plan.id, revision.number, ask)
    assert shop.head(revision.plan.id) == revision.number


@pytest.mark.parametrize("joint", ["fingers", "dovetails"])
def test_a_bottom_s_groove_shows_at_no_end(joint):
    recipe = BoxSet(front=15, side=15, groove=6, joint=joint)
    made = recipe.make(None)
    grooved = [p for p in made.parts if any(f.kind == "groove" for f in p.shape.features)]
    assert len(grooved) == (2 if joint == "fingers" else 1)
    for p in grooved:
        (groove,) = [f for f in p.shape.features if f.kind == "groove"]
        x0, _y0, x1, _y1 = groove.contour.bbox
        long = p.shape.size[0]
        assert x0 == pytest.approx(15 - 6) and long - x1 == pytest.approx(15 - 6)
    # the bottom reaches as deep into all four boards as the groove: 400 - 30 + 12
    assert any(f"{recipe.length - 30 + 12:.1f} x {recipe.width - 30 + 12:.1f} mm" in n for n in made.notes)


def test_wedges_are_told_with_angle_length_and_volume():
    """A rail of 18 mm leaning at 60 degrees through 18 mm: 18 / tan 60 = 10.39 mm at the thick end; along its
    width a wedge is as wide as the mortise, 18.15 mm: 18 x 10.39 x 18.15 / 2 = 1.70 cm3.
    """
    notes = MortiseTenon(lean=60).make(None).notes
    assert any(
        "30 degrees, 18 mm long, 10.39 mm at the thick end, 18.15 mm wide, 1.70 cm3" in n for n in notes
    )


@given(
    st.floats(20, 150),
    st.floats(1.5, 6),
    st.sampled_from(["dog-bone", "T-bone, long side", "T-bone, short side"]),
    st.booleans(),
    st.floats(0, 360),
)
def test_a_relief_is_reached_whole_by_its_cutter_and_seats_the_corner(angle, radius, style, longer, turn):
    """What a round cutter reaches of an opening is its opening by a disc (Serra): all of the relief but a
    hair, and all of the wedge's point, so that a sharp mate seats.
    """
    t, long = math.radians(angle), 60.0
    ends = (long * (1.3 if longer else 1.0), long)
    opening = Contour.of([(0, 0), (ends[0], 0), (ends[1] * math.cos(t), ends[1] * math.sin(t))]).placed(
        3, 5, turn
    )
    k = min(corners(opening.oriented(False), True), key=lambda c: math.hypot(c.x - 3, c.y - 5))
    got = relieved(opening.oriented(False), k, radius * 1.02, style)
    assume(got is not None)
    area, wedge = Polygon(got.points(0.002)), Polygon(opening.points(0.002))
    assert area.is_valid
    reached = area.buffer(-radius, quad_segs=64).buffer(radius, quad_segs=64)
    near = Point(3, 5).buffer(radius / math.sin(min(t, math.pi - t) / 2) * 1.2)
    assert area.difference(reached.buffer(0.01)).intersection(near).area < 1e-3
    point = wedge.intersection(Point(3, 5).buffer(radius / 2))
    assert point.difference(reached.buffer(0.03 * radius)).area < 1e-6
    assert wedge.difference(area.buffer(0.005)).area < 1e-3, "nothing of the opening is given back"


@given(
    st.floats(6.2, 40),
    st.sampled_from(["dog-bone", "T-bone, long side", "T-bone, short side"]),
    st.floats(0, 360),
    st.booleans(),
)
def test_every_inside_corner_of_a_slot_is_relieved_however_narrow_it_is(wide, style, turn, notch):
    """A slot or notch that the 6 mm cutter enters at all: all of its corners, no more than the reliefs."""
    slot = Contour.of([(0, 0), (60, 0), (60, wide), (0, wide)]).placed(200, 150, turn)
    if notch:
        points = [(0, 0), (300, 0), (300, 200), (150 + wide, 200), (150 + wide, 140), (150, 140), (150, 200)]
        outline = Contour.of([*points, (0, 200)]).placed(0, 0, turn)
        shape, name, count = Shape(Region(outline.oriented(True), ()), ("outline",), ()), "outline", 2
    else:
        board = Contour.of([(-500, -500), (900, -500), (900, 900), (-500, 900)])
        shape = Shape(Region(board.oriented(True), (slot.oriented(False),)), ("outline", "hole 1"), ())
        name, count = "hole 1", 4
    before = dict(shape.contours)[name]
    inside = [(k.x, k.y) for k in corners(before, name != "outline") if k.inside]
    out, lost, _removed = alter(shape, [Relief(style=style, radius=3.05, contours=(name,))])
    assert len(inside) == count and not lost
    after = dict(out.contours)[name]
    free = Polygon(after.points(0.002))
    was = Polygon(before.points(0.002))
    assert free.is_valid
    waste = free if name != "outline" else was.convex_hull.buffer(20).difference(free)
    reached = waste.buffer(-3.0, quad_segs=64).buffer(3.0, quad_segs=64)
    assert all(reached.distance(Point(*k)) < 0.01 for k in inside)
    changed = free.symmetric_difference(was)
    assert changed.area < count * math.pi * 3.05**2
    grown = free.difference(was) if name != "outline" else was.difference(free)
    assert changed.difference(grown.buffer(0.005)).area < 1e-3, "nothing of the opening is given back"


def test_boards_that_leave_room_overlap_nothing_and_those_that_do_not_by_their_block():
    """By hand: two ends of 12 mm whose fingers want the same 3 mm of a 40 mm edge: 3 x 12 x 12 mm3."""
    a, b = box(0, 0, 12, 20), box(0, 17, 12, 40)
    got = put_together(a, b, 12.0, 12.0, 40.0)
    assert got.overlap == pytest.approx(3 * 12 * 12, rel=0.02) and got.wide == pytest.approx(3, abs=0.06)
    assert got.gaps == pytest.approx((-3, -3))
    assert put_together(a, box(0, 20.2, 12, 40), 12.0, 12.0, 40.0).gaps == pytest.approx((0.2, 0.2))
