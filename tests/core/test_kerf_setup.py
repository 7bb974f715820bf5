"""What follows for a setup on a kerf table: chart, slats, spacing, costs, coupons, heat."""

import random
from datetime import date

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.support.trial import TrialJob, rect
from venzo.core.edits import AdoptHead, ChangeKerf, SetContour, SetSetup
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.exact_offset import exact_offset
from venzo.core.geometry.offset import offset
from venzo.core.geometry.regions import Region
from venzo.core.kerf.cautions import cautions
from venzo.core.kerf.coupon import Size, corrected, coupon
from venzo.core.kerf.heat import heat_of, spread
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_costs import kerf_cost
from venzo.core.kerf.kerf_cuts import kerf_cuts
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.running import run
from venzo.core.kerf.slats import rests
from venzo.core.snags import BadInput
from venzo.core.stock.kerf_table import Slats
from venzo.core.tooling.head import ChartRow, HeadSetting, KerfMeasured, charted
from venzo.desk import jobs, kerf_jobs


def rows(*given, sort="mild steel"):
    return tuple(ChartRow(sort=sort, thickness=t, kerf=k, feed=f, pierce=p) for t, k, f, p in given)


HEAD = HeadSetting(
    id="h",
    name="head",
    process="plasma",
    nozzle=1.0,
    chart=rows((2, 1.4, 5000, 0.2), (6, 1.8, 2000, 0.6), (12, 2.2, 700, None)),
)


@pytest.fixture
def job(store):
    return TrialJob(
        store,
        (rect(200, 60, [(30, 30, 8), (170, 30, 8)]), [(20, 20), (20, 120)]),
        (rect(30, 30, [(15, 15, 5)]), [(260, 20)]),
        machine="slat-table",
        material="mild-steel",
        thick=2.0,
        screwed=False,
    )


def derived(job):
    return jobs.derive(job.store, job.plan)["main"]


def rules_of(job):
    return {s.rule: s for s in derived(job).snags if s.rule.startswith("kerf.")}


@given(st.floats(2, 12))
def test_a_chart_is_read_between_its_rows_and_never_beyond(t):
    said = charted(HEAD, "mild steel", t)
    assert 1.4 <= said.kerf <= 2.2 and 700 <= said.feed <= 5000 and not said.snags
    assert (said.pierce is None) == (t > 6)


def test_outside_a_chart_is_a_look_and_an_unknown_material_a_stop():
    below = charted(HEAD, "MILD STEEL", 1.0)
    assert (below.kerf, below.feed) == (1.4, 5000)
    assert [(s.rule, s.severity) for s in below.snags] == [("kerf.chart-range", "look")]
    unknown = charted(HEAD, "copper", 3.0)
    assert [(s.rule, s.severity) for s in unknown.snags] == [("kerf.chart", "stop")]
    assert "mild steel" in unknown.snags[0].message


def test_a_measured_kerf_takes_the_place_of_the_chart_s_near_its_thickness():
    line = KerfMeasured(
        sort="mild steel", thickness=2.0, kerf=1.53, scatter=0.02, sizes=6, on=date(2026, 11, 2)
    )
    worn = HEAD.model_copy(update={"measured": (line,)})
    assert charted(worn, "mild steel", 2.1).kerf == 1.53
    assert "measured 2026-11-02" in charted(worn, "mild steel", 2.0).source
    assert charted(worn, "mild steel", 6.0).kerf == 1.8


def test_a_nozzle_that_is_typed_for_a_kerf_is_refused():
    with pytest.raises(ValidationError, match="are the two swapped"):
        HeadSetting(id="h", name="h", process="plasma", nozzle=1.9, chart=rows((2, 1.4, 5000, 0.2)))


def test_machine_and_dialect_go_together(job):
    table = job.setup.machine
    router = next(m for m in job.store.library("machine") if m["id"] == "small-bench")
    with pytest.raises(ValidationError, match="choose a dialect for kerf tables"):
        type(table).model_validate({**table.model_dump(), "dialect": router["dialect"]})
    with pytest.raises(BadInput, match="add a setup for a router"):
        job.do(SetSetup(setup="main", machine=type(table).model_validate(router)))


def test_pieces_keep_room_for_a_lead_or_one_kerf(job):
    plan, setup = job.plan, job.setup
    how = setup.kerf_how(2.0)[0]
    assert plan.spacing(setup) == pytest.approx(how.lead + 2 * how.kerf + setup.rules.web)
    job.do(ChangeKerf(setup="main", fields={"common_line": True}))
    assert job.plan.spacing(job.setup) == how.kerf


def test_what_is_chosen_for_contours_counts_here_too(job):
    part = job.plan.parts[0].id
    before = derived(job).kerf[0].run.pierces
    job.do(SetContour(part=part, contour="hole 1", omit=True))
    assert derived(job).kerf[0].run.pierces == before - 2
    job.do(SetContour(part=part, contour="outline", tabs=((100.0, 0.0),)))
    tabbed = [c for c in derived(job).kerf[0].run.cuts if c.tabbed]
    assert len(tabbed) == 2
    # the tab's middle is on the outline: half a kerf aside, half of tab and kerf along
    how = job.setup.kerf_how(2.0)[0]
    away = np.hypot(how.kerf / 2, (how.tabs.width + how.kerf) / 2)
    assert min(c.line.distance(shapely.Point(120, 20)) for c in tabbed) == pytest.approx(away, abs=0.01)


def test_small_pieces_fall_or_tip_and_tabs_mend_it(job):
    said = rules_of(job)["kerf.tips"]
    assert "falls" in said.message or "tips" in said.message
    (remedy,) = said.remedies
    job.do(ChangeKerf.model_validate(remedy.command))
    assert "kerf.tips" not in rules_of(job)


def test_large_drops_that_tip_are_told(store):
    job = TrialJob(
        store,
        (rect(300, 150, [(99, 75, 40)]), [(20, 20)]),
        machine="slat-table",
        material="mild-steel",
        thick=2.0,
        screwed=False,
        at=(0.0, 0.0),
    )
    states = [x.state for x in derived(job).kerf[0].loosened if not x.piece]
    assert states in (["tips"], ["lies"])
    assert ("kerf.drops" in rules_of(job)) == (states == ["tips"])


@given(st.floats(0, 100), st.floats(5, 250), st.floats(2, 60))
def test_a_piece_falls_only_where_no_bar_is_under_it(x, w, h):
    bars = Slats(pitch=100, first=50, width=4)
    state = rests(shapely.box(x, 0, x + w, h), bars)
    middles = np.arange(50, 500, 100.0)
    under = [m for m in middles if x < m + 2 and x + w > m - 2]
    assert (state == "falls") == (not under)
    if len(under) > 1:
        assert (state == "lies") == (min(under) - 2 <= x + w / 2 <= max(under) + 2)
    assert rests(shapely.box(x, 0, x + w, h), None) == "lies"


def test_the_cost_of_a_run_by_hand(job):
    setup = job.setup
    table, head = setup.machine.head, setup.head
    cost = kerf_cost(setup, 3600.0, 1800.0, 90)
    assert cost.machine == setup.machine.rate_per_hour
    assert cost.gas == pytest.approx(table.gas_per_hour / 2)
    assert cost.consumables == pytest.approx(90 * head.price / head.starts)
    assert cost.total == pytest.approx(cost.machine + cost.gas + cost.consumables)
    y = derived(job).yields.sheets[0]
    assert y.seconds == pytest.approx(derived(job).kerf[0].run.time)
    assert y.running_cost > 0 and y.pieces == 3


def test_cautions_name_what_the_process_and_the_sheet_can_do(job):
    table = job.setup.machine.head
    wet = job.setup.model_copy(
        update={
            "machine": job.setup.machine.model_copy(
                update={"head": table.model_copy(update={"under": "water"})}
            ),
            "material": job.setup.material.model_copy(update={"family": "aluminium", "name": "Aluminium"}),
        }
    )
    assert any("hydrogen" in c for c in cautions(wet))
    assert not any("hydrogen" in c for c in cautions(job.setup))
    vinyl = job.setup.model_copy(
        update={"material": job.setup.material.model_copy(update={"name": "PVC foam"})}
    )
    assert any("PVC never" in c for c in cautions(vinyl))
    jet = job.setup.machine.model_copy(update={"head": table.model_copy(update={"process": "fluid jet"})})
    said = cautions(job.setup.model_copy(update={"machine": jet}))
    assert any("jet wound" in c for c in said) and not any("Arc" in c for c in said)
    assert all(cautions(s)[-1].startswith("Local codes") for s in (wet, vinyl, job.setup))


def test_a_head_of_another_process_is_not_adopted(job):
    jet = HEAD.model_copy(update={"process": "fluid jet"})
    with pytest.raises(BadInput, match="is for fluid jet"):
        job.do(AdoptHead(setup="main", head=jet))
    job.do(AdoptHead(setup="main", head=HEAD, use=True))
    assert job.setup.head == HEAD
    with pytest.raises(BadInput, match="no head setting 'gone'"):
        job.do(ChangeKerf(setup="main", fields={"head": "gone"}))


def test_coupons_recover_a_planted_kerf_error():
    rng = random.Random(5)
    for _ in range(200):
        taken, true, noise = rng.uniform(0.6, 2.5), rng.uniform(0.6, 2.5), rng.uniform(0, 0.05)
        sizes = []
        for _again in range(3):
            for d in (20, 40, 60):
                sizes.append(Size(side="outside", drawn=d, measured=d + taken - true + rng.gauss(0, noise)))
            for d in (12, 20, 30):
                sizes.append(Size(side="inside", drawn=d, measured=d - taken + true + rng.gauss(0, noise)))
        found = corrected(taken, sizes)
        assert abs(found.kerf - true) <= 4 * noise / 18**0.5 + 1e-9
        assert found.scatter <= 2 * noise + 1e-9


def test_a_coupon_is_cut_with_the_sizes_that_are_measured():
    """A kerf of 1.6 in truth where 1.4 is taken: sizes read off the sweep give it back."""
    parts = [Body(f"c{n}", r) for n, r in enumerate(coupon(14.0))]
    how = KerfHow(kerf=1.4, lead=3.0, feed=3000)
    cut = shapely.union_all([c.line.buffer(0.8, quad_segs=64) for c in kerf_cuts(parts, how).cuts])
    sizes = []
    for b in parts:
        whole = b.polygon.difference(cut)
        piece = max(shapely.get_parts(whole), key=lambda p: p.area)
        x0, _y0, x1, _y1 = piece.bounds
        drawn = b.region.outline.bbox[2] - b.region.outline.bbox[0]
        sizes.append(Size(side="outside", drawn=drawn, measured=x1 - x0))
        for hole in piece.interiors:
            a, _b, c, _d = hole.bounds
            own = b.region.holes[0].bbox
            sizes.append(Size(side="inside", drawn=own[2] - own[0], measured=c - a))
    assert len([s for s in sizes if s.side == "inside"]) == 3
    assert corrected(1.4, sizes).kerf == pytest.approx(1.6, abs=0.01)


@pytest.mark.parametrize(
    ("sizes", "words"),
    [
        ([], "no sizes"),
        ([Size(side="outside", drawn=20, measured=40)], "20.00 mm off"),
        ([Size(side="outside", drawn=20, measured=22)], "outsides and insides swapped"),
    ],
)
def test_sizes_that_no_kerf_explains_are_refused(sizes, words):
    with pytest.raises(BadInput, match=words):
        corrected(1.4, sizes)


def test_heat_is_less_where_it_is_spread():
    holes = [
        Contour.circle(40 + 100 * (k % 4) + 10 * i, 40 + 100 * (k // 4) + 10 * j, 3).reversed()
        for k in range(12)
        for i in range(2)
        for j in range(2)
    ]
    plate = [Body("p", Region(Contour.of([(0, 0), (430, 0), (430, 330), (0, 330)]), tuple(holes)))]
    how = KerfHow(kerf=1.2, lead=2.0, feed=2500, pierce=0.5)
    cuts = kerf_cuts(plate, how).cuts
    near, cool = (run(cuts, plate, how, by=by) for by in ("insides first", "heat spread"))
    assert cool.heat.mean < 0.8 * near.heat.mean and cool.heat.most <= near.heat.most
    assert sorted(c.name for c in cool.cuts) == sorted(c.name for c in near.cuts)


@given(st.integers(2, 30), st.integers(0, 10_000))
def test_the_spread_order_keeps_what_waits(n, seed):
    rng = np.random.default_rng(seed)
    places = rng.uniform(0, 300, (n, 2))
    after = [
        frozenset(rng.choice(k, size=rng.integers(0, min(k, 3) + 1), replace=False)) if k else frozenset()
        for k in range(n)
    ]
    order = spread(places, places, np.ones(n), after, [0] * n, 100.0)
    assert sorted(order) == list(range(n))
    at = {k: i for i, k in enumerate(order)}
    assert all(at[a] < at[k] for k in range(n) for a in after[k])
    assert heat_of(places[order], np.ones(n), np.arange(n) * 2.0).most >= 0


@given(
    st.floats(15, 60),
    st.floats(15, 60),
    st.floats(0.2, 2.5),
    st.booleans(),
    st.sampled_from(["box", "disc", "notch", "rounded"]),
)
def test_an_exact_offset_is_the_fitted_one_with_its_arcs(w, h, d, inward, kind):
    q = np.tan(np.pi / 8)
    shape = {
        "box": Contour.of([(0, 0), (w, 0), (w, h), (0, h)]),
        "disc": Contour.circle(0, 0, w / 2),
        "notch": Contour.of([(0, 0), (w, 0), (w, h), (w / 2, h / 2), (0, h)]),
        "rounded": Contour.of([(4, 0, 0), (w, 0, 0), (w, h, 0), (0, h, 0), (0, 4, q)]),
    }[kind]
    by = -d if inward else d
    ring = exact_offset(shape, by)
    (fitted,) = (r.contour for r in offset([shape], by) if not r.hole)
    assert ring is not None
    a, b = shapely.LinearRing(ring.points(0.001)), shapely.LinearRing(fitted.points(0.001))
    assert a.hausdorff_distance(b) < 0.02
    assert len(ring.vertices) <= 2 * len(shape.vertices)


def test_bridges_make_a_row_of_one_pierce_and_its_pieces_lie_together(store):
    """Strips 9 mm wide between bars 100 mm apart would fall; five of them in a row do not."""
    strips = (rect(9, 150), [(20 + 18 * k, 20) for k in range(5)])
    job = TrialJob(store, strips, machine="slat-table", material="mild-steel", thick=2.0, screwed=False)
    alone = derived(job).kerf[0]
    assert alone.run.pierces == 5 and not alone.joined
    job.do(ChangeKerf(setup="main", fields={"bridge": 3.0}))
    sheet = derived(job).kerf[0]
    assert sheet.run.pierces == 1 and set(sheet.joined) == set(range(5))
    assert len({x.state for x in sheet.loosened}) == 1 and {x.piece for x in sheet.loosened} == {
        q.id for q in sheet.pieces
    }
    assert not [s for s in kerf_jobs.proofs(job.plan, derived(job)) if s.severity == "stop"]
    job.do(ChangeKerf(setup="main", fields={"bridge_most": 2}))
    assert derived(job).kerf[0].run.pierces == 3
    with pytest.raises(BadInput, match="one of the two"):
        job.do(ChangeKerf(setup="main", fields={"common_line": True}))


def test_all_is_pierced_first_where_that_is_asked_for(job):
    job.do(ChangeKerf(setup="main", fields={"pre_pierce": True}))
    d = derived(job)
    for sheet in d.kerf:
        prepares = [c.prepares for c in sheet.run.cuts]
        assert any(prepares) and prepares == sorted(prepares, reverse=True)
        assert not kerf_jobs.prove(d, sheet, kerf_jobs.program(job.plan, d, sheet))
        drawn = kerf_jobs.document(job.store, job.plan, "main").sheets[0]
        assert drawn.pierces == sheet.run.pierces == sum(prepares) + sum(c.spot for c in sheet.run.cuts)


def test_a_lead_beyond_all_room_is_drawn_as_it_was_asked_for(job):
    job.do(ChangeKerf(setup="main", fields={"lead": 150.0}))
    drawn = kerf_jobs.document(job.store, job.plan, "main").sheets[0]
    assert drawn.misfits
    for m in drawn.misfits:
        assert np.hypot(*np.subtract(m.lead[0], m.lead[-1])) == pytest.approx(150, abs=0.01)
        assert m.cut != bool(m.line)


def test_a_jet_starts_from_the_level_of_the_house(store):
    jet = TrialJob(store, (rect(60, 60), [(20, 20)]), machine="slat-table", material="mild-steel", thick=2.0)
    s = jet.plan.setups[0]
    table = s.machine.head.model_copy(update={"process": "fluid jet"})
    head = s.heads[0].model_copy(update={"process": "fluid jet"})
    s = s.model_copy(
        update={"machine": s.machine.model_copy(update={"head": table}), "heads": (head,)},
    )
    feeds = [
        s.model_copy(
            update={
                "rules": s.rules.model_copy(update={"jet_level": house}),
                "kerf_cutting": s.kerf_cutting.model_copy(update={"level": own}),
            }
        )
        .kerf_how(2.0)[0]
        .feed
        for house, own in ((3, None), (5, None), (5, 3))
    ]
    assert feeds[0] == feeds[2] > feeds[1]
