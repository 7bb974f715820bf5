"""Layouts lie beside the revisions that name them: each once, read back as they were, whatever is edited."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from tests.support.trial import TrialJob, rect
from venzo.core.edits import AcceptNest, KeepLayout, SetQuantity, SetSetup
from venzo.core.plan import AcceptedNest, KeptLayout, Piece, Plan, Setup
from venzo.core.rules.house import HouseRules
from venzo.demo.library import CUTTERS, MACHINES, MATERIALS
from venzo.store.models import LayoutRow, RevisionRow
from venzo.store.packed import Layouts, checked, layouts_of, pack, unpack, with_layouts, without
from venzo.store.store import Store


def layout(seed, pieces=3, part="a"):
    chance = random.Random(seed)
    laid = [
        Piece(
            part=part, copy_no=k, sheet="s", sheet_copy=0, x=chance.uniform(0, 999), y=chance.uniform(0, 999)
        )
        for k in range(pieces)
    ]
    return AcceptedNest(pieces=tuple(laid), inputs=str(seed), seed=seed)


SETUP = Setup(
    id="main",
    name="main",
    machine=MACHINES[0],
    material=MATERIALS[0],
    cutters=CUTTERS[:2],
    rules=HouseRules(),
)
seeds = st.integers(0, 5)


def plan_of(own, kept):
    kept = tuple(KeptLayout(id=f"k{k}", name="kept", nest=layout(s)) for k, s in enumerate(kept))
    return Plan(
        id="job",
        name="job",
        setups=(SETUP.model_copy(update={"nest": None if own is None else layout(own), "kept": kept}),),
    )


@given(own=st.none() | seeds, kept=st.lists(seeds, max_size=4))
def test_a_plan_is_read_as_it_was_stored(own, kept):
    plan, met = plan_of(own, kept), Layouts()
    rows, named = {}, {}
    for at, nest in layouts_of(plan).items():
        named[at], body = met.digest(nest)
        rows[named[at]] = nest
        assert body is not None, "it was never met"
    assert len(rows) == len({*kept, *([] if own is None else [own])}), "equal layouts are one"
    data = pack(plan, named)
    assert unpack(data, lambda wanted: {d: rows[d] for d in wanted}) == plan
    assert with_layouts(without(plan, layouts_of(plan)), layouts_of(plan)) == plan
    assert not any(n.pieces for n in layouts_of(without(plan, layouts_of(plan))).values())


@pytest.mark.filterwarnings("ignore:Pydantic serializer")
@given(own=seeds, kept=st.lists(seeds, max_size=3))
def test_what_is_checked_is_the_plan_and_shares_what_it_had(own, kept):
    plan = plan_of(own, kept)
    renamed = checked(plan.model_copy(update={"name": "another"}), plan)
    assert renamed == plan.model_copy(update={"name": "another"})
    assert renamed.setups[0].nest is plan.setups[0].nest
    with pytest.raises(ValueError, match="name"):
        checked(plan.model_copy(update={"name": ""}), plan)
    bad = plan.setups[0].nest.model_copy(update={"seed": "seven"})
    torn = plan.setups[0].model_copy(update={"nest": bad})
    with pytest.raises(ValueError, match="seed"):
        checked(plan.model_copy(update={"setups": (torn,)}), plan)


def test_what_is_met_is_not_packed_again():
    met, nest = Layouts(), layout(1)
    digest, body = met.digest(nest)
    assert body
    met.met(digest, nest)
    assert met.digest(nest) == (digest, None) and met.known(digest) is nest
    assert met.digest(layout(1)) == (digest, body), "an equal one has the same digest"


def test_a_revision_weighs_the_same_however_many_layouts_are_kept(store):
    b = TrialJob(store, (rect(20, 20), [(0, 0)]))
    b.do(SetQuantity(part=b.part(), order="order-1", quantity=60))
    job = b.job
    do = lambda command: store.apply(job, store.head(job), command)  # noqa: E731
    weights = []
    for k in range(4):
        do(AcceptNest(setup="main", nest=layout(k, 60, b.part())))
        do(KeepLayout(setup="main", id=f"k{k}", name=f"layout {k}"))
        do(SetSetup(setup="main", datum="centre" if k % 2 else "lower left"))
        head = store.head(job)
        with Session(store._engine) as s:
            row = s.get(RevisionRow, (job, head))
            weights.append(len(row.plan))
            assert s.scalar(select(func.count()).select_from(LayoutRow)) == k + 2, "the trial's own too"
            accepted = s.get(RevisionRow, (job, head - 2)).command
            assert len(str(accepted)) < 300, "nor does the record of the command hold it again"
    assert max(weights) - min(weights) < 500
    want = store.get(job).plan
    assert [k.nest.seed for k in want.setups[0].kept] == [0, 1, 2, 3]
    again = Store(store.folder)
    assert again.get(job).plan == want
    for number in range(1, again.head(job) + 1):
        assert again.get(job, number).plan == store.get(job, number).plan
    again.close()
