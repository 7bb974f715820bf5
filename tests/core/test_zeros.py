"""Zeros: for every kind, home corner and place of the sheet the program's moves, put back by the touch-off,
are the plan's to 0.001 mm; a zero that cannot be touched stops; older plans read as they were.
"""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import KIND, X, Y
from venzo.core.edits import SetSetup, SetStock, read_command
from venzo.core.plan import Setup
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Grid, Jig, Machine
from venzo.core.stock.zeros import CentreZero, CornerZero, HomeZero, JigZero, MarkZero, SquareZero
from venzo.desk import jobs
from venzo.formats.rs274 import read

CORNERS = ("lower left", "lower right", "upper left", "upper right")
WIDE, HIGH = 600.0, 400.0
AT = (130.0, 70.0)
"""Where the sheet lies on the table, mm."""


@pytest.fixture(scope="module")
def job(tmp_path_factory):
    from venzo.demo.seed import seed_library
    from venzo.store.store import Store

    store = Store(tmp_path_factory.mktemp("zeros") / "shop")
    seed_library(store)
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
    where = on_table.get(kind) or tuple(a + b for a, b in zip(on_sheet[kind], AT, strict=True))
    return zero, {"home": home, "grid": grid, "jigs": (jig,)}, where


@given(zeros(), st.booleans())
def test_moves_put_back_by_the_touch_off_are_the_plan_s(job, drawn, inch):
    zero, of_machine, where = drawn
    setup = job.setup
    dialect = setup.machine.dialect.model_copy(update={"inch": inch})
    machine = setup.machine.model_copy(update={**of_machine, "dialect": dialect})
    plan = SetSetup(setup="main", machine=machine, datum=zero).apply(job.plan)
    (d,) = jobs.derive(job.store, plan, hold=False).values()
    wanted = np.vstack([c.moves[c.moves[:, KIND] != 0][:, [X, Y]] for c in d.sheets[0].cuts]) + AT
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
        assert (moves[:, [X, Y]] < 0).all() and "machine home" in f.text
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
