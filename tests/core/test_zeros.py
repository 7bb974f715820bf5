"""Zeros: for every kind, home corner and place of the sheet the program's moves, put back by the touch-off,
are the plan's to 0.001 mm; a zero that cannot be touched stops; older plans read as they were.
"""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.support.library_shop import library_shop
from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import KIND, X, Y
from venzo.core.edits import AcceptNest, ChangeSetup, SetQuantity, SetSetup, SetStock, read_command
from venzo.core.motion.time import path_time
from venzo.core.plan import AcceptedNest, Piece, Setup
from venzo.core.proof.check import prove
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Grid, Jig, Machine
from venzo.core.stock.zeros import CentreZero, CornerZero, HomeZero, JigZero, MarkZero, SquareZero
from venzo.desk import jobs
from venzo.formats.rs274 import interpret, read

CORNERS = ("lower left", "lower right", "upper left", "upper right")
WIDE, HIGH = 600.0, 400.0
AT = (130.0, 70.0)
"""Where the sheet lies on the table, mm."""


@pytest.fixture(scope="module")
def job(tmp_path_factory):

    store = library_shop(tmp_path_factory.mktemp("zeros") / "shop")
    job = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60), (320, 200)]), at=AT)
    yield job
    store.close()


def machine(**fields):
    return Machine(id="m", name="m", width=1000, height=800, **fields)


@st.composite
def zeros(draw):
    """A zero, a machine's home, and where the zero is on the table by plain geometry, mm."""
    home = draw(st.sampled_from(CORNERS))
    kind = draw(st.sampled_from(["corner", "centre", "mark", "square", "jig", "home"]))
    spot = (draw(st.floats(0, WIDE)), draw(st.floats(0, HIGH)))
    grid = Grid(
        pitch=draw(st.floats(20, 200)), at=(draw(st.floats(0, 90)), draw(st.floats(0, 90))), columns=9, rows=8
    )
    jig = Jig(id="j", name="fence", at=(draw(st.floats(0, 1000)), draw(st.floats(0, 800))))
    column, row = draw(st.integers(1, 9)), draw(st.integers(1, 8))
    corner = draw(st.sampled_from(CORNERS))
    side = lambda c, w, h: (w if c.endswith("right") else 0.0, h if c.startswith("upper") else 0.0)  # noqa: E731
    on_sheet = {"corner": side(corner, WIDE, HIGH), "centre": (WIDE / 2, HIGH / 2), "mark": spot}
    on_table = {
        "square": (grid.at[0] + grid.pitch * (column - 1), grid.at[1] + grid.pitch * (row - 1)),
        "jig": jig.at,
        "home": side(home, 1300.0, 900.0),
    }
    zero = {
        "corner": CornerZero(corner=corner),
        "centre": CentreZero(),
        "mark": MarkZero(what=draw(st.sampled_from(["pencilled point", "hole", "cross"])), at=spot),
        "square": SquareZero(column=column, row=row),
        "jig": JigZero(jig="j"),
        "home": HomeZero(),
    }[kind]
    turn = draw(st.sampled_from([0.0, 0.0, 0.01, -0.013, 0.35, -0.5]))
    where = on_table.get(kind) or tuple(laid(np.array(on_sheet[kind]), turn))
    return zero, {"home": home, "grid": grid, "jigs": (jig,)}, where, turn


def laid(xy, turn):
    """Points of the sheet on the table, by plain geometry."""
    c, s = math.cos(turn), math.sin(turn)
    return np.stack([c * xy[..., 0] - s * xy[..., 1], s * xy[..., 0] + c * xy[..., 1]], axis=-1) + AT


def read_turned(plan, turn):
    """The plan with a second point of the sheet's edge read."""
    edge = tuple(float(v) for v in laid(np.array([590.0, 0.0]), turn))
    return ChangeSetup(setup="main", edge=edge).apply(plan) if turn else plan


@given(zeros(), st.booleans())
def test_moves_put_back_by_the_touch_off_are_the_plan_s(job, drawn, inch):
    zero, of_machine, where, turn = drawn
    setup = job.setup
    dialect = setup.machine.dialect.model_copy(update={"inch": inch})
    machine = setup.machine.model_copy(update={**of_machine, "dialect": dialect})
    plan = read_turned(SetSetup(setup="main", machine=machine, datum=zero).apply(job.plan), turn)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    wanted = laid(np.vstack([c.moves[c.moves[:, KIND] != 0][:, [X, Y]] for c in d.sheets[0].cuts]), turn)
    files = jobs.programs(plan, d)
    made = np.vstack([m[m[:, KIND] != 0][:, [X, Y]] for f in files for m in [read(f.text).moves]]) + where
    near = np.abs(wanted[:, None, :] - made[None]).max(axis=2).min(axis=1)
    assert near.max() <= 0.001 + 1e-9
    line = next(t for t in files[0].text.splitlines() if "X0 Y0" in t)
    assert len(line) <= 112 and line.isascii()


def test_machine_home_far_right_puts_the_work_at_negative_coordinates(job):
    machine = job.setup.machine.model_copy(update={"home": "upper right"})
    plan = SetSetup(setup="main", machine=machine, datum=HomeZero()).apply(job.plan)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    for f in jobs.programs(plan, d):
        moves = read(f.text).moves
        assert (moves[:-1, [X, Y]] < 0).all() and "machine home" in f.text  # it ends at home, 0 0
    assert not [
        s.message for p in jobs.prove_setup(job.store, plan, d) for s in p.snags if s.severity == "stop"
    ]


def test_a_sawn_corner_and_a_point_beside_the_sheet_stop(store):
    job = TrialJob(store, (rect(200, 120), [(60, 60)]))
    sawn = job.setup.stock[0].model_copy(
        update={"outline": ((0, 0), (600, 0), (600, 300), (500, 400), (0, 400))}
    )
    job.do(SetStock(setup="main", stock=sawn))
    assert not job.said("zero.off-sheet")
    job.do(SetSetup(setup="main", datum=CornerZero(corner="upper right")))
    (snag,) = job.said("zero.off-sheet")
    # the corner is 100 / sqrt 2 from the sawn edge
    assert snag.severity == "stop" and "70.7 mm beside" in snag.message
    for remedy in snag.remedies:
        plan = read_command(remedy.command).apply(job.plan)
        (d,) = jobs.derive(store, plan, hold=False).values()
        assert not [s for s in d.snags if s.rule == "zero.off-sheet"], remedy.label
    job.do(SetSetup(setup="main", datum=MarkZero(at=(620, 20))))
    assert "20.0 mm beside" in job.said("zero.off-sheet")[0].message
    job.do(SetSetup(setup="main", datum=MarkZero(what="hole", at=(20, 20))))
    assert not job.said("zero.off-sheet")


def test_what_the_machine_has_not_is_refused_and_nothing_changes(store):
    job = TrialJob(store, (rect(200, 120), [(60, 60)]))
    bare = job.setup.machine.model_copy(update={"grid": None})
    job.do(SetSetup(setup="main", machine=bare, zones_on=()))
    before = job.plan
    for zero, words in (
        (SquareZero(column=2, row=2), "no numbered grid"),
        (JigZero(jig="nowhere"), "no jig 'nowhere'"),
    ):
        with pytest.raises(BadInput, match=words):
            job.do(SetSetup(setup="main", datum=zero))
    gridded = job.setup.machine.model_copy(update={"grid": Grid(columns=4, rows=3)})
    job.do(SetSetup(setup="main", machine=gridded, zones_on=(), datum=SquareZero(column=4, row=3)))
    with pytest.raises(BadInput, match="4 columns and 3 rows"):
        job.do(SetSetup(setup="main", datum=SquareZero(column=5, row=1)))
    with pytest.raises(BadInput, match="no numbered grid"):
        job.do(SetSetup(setup="main", machine=before.setups[0].machine, zones_on=()))
    assert job.setup.datum == SquareZero(column=4, row=3)


@pytest.mark.parametrize(
    ("of", "fields"),
    [
        (MarkZero, {"at": (1e9, 0)}),
        (Jig, {"id": "a", "name": "a", "at": (0, -2e5)}),
        (Grid, {"pitch": 0.5}),
        (machine, {"y_acceleration": 1e-12}),
        (machine, {"jerk": 1e-9}),
        (machine, {"blocks": 0.01}),
    ],
)
def test_numbers_that_no_machine_has_are_refused(of, fields):
    with pytest.raises(ValidationError):
        of(**fields)


@pytest.mark.parametrize(("was", "now"), [("lower left", CornerZero()), ("centre", CentreZero())])
def test_zeros_of_older_plans_are_read_as_they_were(store, was, now):
    job = TrialJob(store, (rect(200, 120), [(60, 60)]))
    old = job.setup.model_dump(mode="json") | {"datum": was}
    assert Setup.model_validate(old).datum == now
    assert read_command({"kind": "set-setup", "setup": "main", "datum": was}).datum == now


@pytest.mark.parametrize(
    "zero", [CornerZero(corner="upper right"), CentreZero(), SquareZero(column=2, row=1)]
)
@pytest.mark.parametrize("turn", [0.02, -0.02])
def test_a_crooked_sheet_is_cut_as_it_lies_and_proven_so(job, zero, turn):
    machine = job.setup.machine.model_copy(update={"grid": Grid(pitch=100, at=(5, 7))})
    straight = SetSetup(setup="main", machine=machine, datum=zero).apply(job.plan)
    plan = read_turned(straight, turn)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    assert not [s for p in jobs.prove_setup(job.store, plan, d) for s in p.snags if s.severity == "stop"]
    # programs of the crooked sheet are found out where the plan has it straight, and the other way round
    text = [f.text for f in jobs.programs(plan, d)]
    assert all("turned" in t for t in text)
    (s,) = jobs.derive(job.store, straight, hold=False).values()
    assert all(a != b.text for a, b in zip(text, jobs.programs(straight, s), strict=True))
    for of_plan, of_setup, programs in (
        (straight, s, text),
        (plan, d, [f.text for f in jobs.programs(straight, s)]),
    ):
        proof = prove_texts(job.store, of_plan, of_setup, programs)
        assert any(k.severity == "stop" and "from where it is planned" in k.message for k in proof.snags)


def prove_texts(store, plan, derived, texts):
    """Other texts under the names of a sheet's programs."""
    sheet = derived.sheets[0]
    own = [f for f in jobs.programs(plan, derived) if f.serves(sheet)]
    subject = jobs.subject_of(store, plan, derived, sheet)
    changed = [replace(f, text=t) for f, t in zip(own, texts, strict=True)]
    return prove(subject, [jobs.as_program(subject, f, interpret(f.text, f.name)) for f in changed])


def test_what_a_turn_moves_over_the_table_s_edge_stops(job):
    """The sheet is 600 x 400 at 130, 70 of a table 1300 x 900: turned by 20 degrees to the right its far
    lower corner lies 600 sin 20 = 205 mm lower, 135 mm over the table's edge.
    """
    plan = read_turned(job.plan, -math.radians(20))
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    (over,) = [s for s in d.snags if s.rule == "table.too-small"]
    assert over.severity == "stop" and f"{600 * math.sin(math.radians(20)) - 70:.0f} mm over" in over.message


def test_dead_areas_and_zones_are_asked_where_the_sheet_lies(job):
    """A dead area just below the sheet is met by what a turn moves into it, by plan and by proof."""
    machine = job.setup.machine.model_copy(update={"dead_areas": ((600.0, 40.0, 800.0, 125.0),)})
    plan = SetSetup(setup="main", machine=machine).apply(job.plan)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    assert not [s for s in d.snags if s.rule == "table.dead-area"]
    turned = read_turned(plan, -math.radians(15))
    (d,) = jobs.derive(job.store, turned, hold=False).values()
    assert [s for s in d.snags if s.rule == "table.dead-area"]
    said = [s.message for p in jobs.prove_setup(job.store, turned, d) for s in p.snags]
    assert [m for m in said if "dead area" in m]


@pytest.mark.parametrize(
    ("edge", "words"),
    [
        ((140.0, 70.0), "too near"),
        ((130.0, 70.0), "too near"),
        ((130.0, 470.0), "90.0 degrees"),
        ((-400.0, 70.0), "180.0 degrees"),
    ],
)
def test_a_second_point_that_tells_no_turn_is_refused(job, edge, words):
    with pytest.raises(BadInput, match=words):
        ChangeSetup(setup="main", edge=edge).apply(job.plan)


def test_a_turn_read_over_a_short_length_is_looked_at_and_taken_back(job):
    """0.2 mm in reading over 100 mm of edge is 1.4 mm at the far corner of 600 x 400 (hypotenuse 721)."""
    plan = ChangeSetup(setup="main", edge=(230.0, 70.5)).apply(job.plan)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    (snag,) = [s for s in d.snags if s.rule == "table.crooked"]
    assert snag.severity == "look" and "1.4 mm at the far corner" in snag.message
    plan = ChangeSetup(setup="main", edge="straight").apply(plan)
    assert plan.setups[0].edge_at is None and plan.setups[0].lying.turn == 0


@pytest.mark.parametrize("home", CORNERS)
@pytest.mark.parametrize("changer", [True, False])
def test_travel_from_and_to_home_is_counted_and_written(job, home, changer):
    """With a zero of the table every program goes home, and its time has the way there and back: what it
    takes, read back and timed move by move, is its share of the sheet's time.
    """
    machine = job.setup.machine
    machine = machine.model_copy(
        update={"home": home, "dialect": machine.dialect.model_copy(update={"tool_change": changer})}
    )
    plan = SetSetup(setup="main", machine=machine, datum=HomeZero()).apply(job.plan)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    for f in jobs.programs(plan, d):
        moves = read(f.text).moves
        assert np.abs(moves[-1, [X, Y]]).max() == 0 and moves[-1, KIND] == 0
        begin = np.array([[0.0, 0.0, 0.0, machine.clearance, 0.0, 0.0, 0.0]])
        alone = path_time(np.vstack([begin, moves]), machine.axes)[0]
        changes = machine.change_seconds * len(f.cutters)
        # the plan reckons from rest to rest at every change of fast and cutting; the file blends none of them
        assert f.seconds == pytest.approx(alone + changes, rel=0.01)
    assert sum(f.seconds for f in jobs.programs(plan, d)) == pytest.approx(d.sheets[0].seconds)


def test_y_slower_than_x_counts_by_how_a_piece_lies(store):
    """A long part across a slow Y takes longer than along X; X and Y alike, it does not."""

    def seconds(rotation, **axes):
        job = TrialJob(store, (rect(380, 40), []), sheet=(600, 600))
        piece = Piece(part=job.part(), copy_no=0, sheet="own", sheet_copy=0, x=80, y=80, rotation=rotation)
        piece = piece.model_copy(update={"x": 300.0}) if rotation else piece
        job.do(SetQuantity(part=job.part(), order="order-1", quantity=1))
        job.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=(piece,), inputs="by hand")))
        job.do(SetSetup(setup="main", machine=job.setup.machine.model_copy(update=axes)))
        return sum(c.seconds for c in job.sheet.cuts)

    assert seconds(0) == pytest.approx(seconds(90))
    assert seconds(90, y_speed=600.0) > 1.2 * seconds(0, y_speed=600.0)
