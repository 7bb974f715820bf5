"""Forty sound, ordinary plans and the demo: nothing stops, and on average at most one thing is to be looked
at. The counts by rule are printed (docs/benchmarks.md).
"""

from collections import Counter

import pytest

from tests.conftest import MANY, dxf, panel
from tests.support.library_shop import library_shop
from venzo.core.edits import SetContour, SetFixings, SetHold, SetQuantity, SetScrews, SetSetup, SetStock
from venzo.core.holding.fixings import Tape
from venzo.core.holding.screws import Screw
from venzo.core.proof.load import load_snags
from venzo.core.stock.sheet import Stock
from venzo.demo.seed import nest_job
from venzo.desk import drawings, holding, jobs
from venzo.desk.cut_stock import SheetAt, left_of
from venzo.desk.loads import loads_of

INCH = 25.4


def shelf(m, thick):
    """A shelf side: dadoes, a pocket, holes for pins."""
    groove, pocket = f"GROOVE {0.34 * thick:.1f}mm", f"POCKET {0.28 * thick:.1f}mm"
    for layer in (groove, pocket, "DRILL"):
        m.doc.layers.add(layer)
    m.add_lwpolyline([(0, 0), (600, 0), (600, 280), (0, 280)], close=True)
    for x in (150, 300, 450):
        m.add_line((x, 20), (x, 260), dxfattribs={"layer": groove})
    m.add_lwpolyline([(40, 100), (110, 100), (110, 180), (40, 180)], close=True, dxfattribs={"layer": pocket})
    for x in (80, 520):
        m.add_circle((x, 40), 2.5, dxfattribs={"layer": "DRILL"})


def rounded(w, h, r):
    k = 0.41421356
    return lambda m: m.add_lwpolyline(
        [
            (r, 0, 0),
            (w - r, 0, k),
            (w, r, 0),
            (w, h - r, k),
            (w - r, h, 0),
            (r, h, k),
            (0, h - r, 0),
            (0, r, k),
        ],
        close=True,
        format="xyb",
    )


def engraved(m):
    m.doc.layers.add("ENGRAVE")
    rounded(180, 70, 8)(m)
    m.add_line((20, 35), (160, 35), dxfattribs={"layer": "ENGRAVE"})


PARTS = {
    "panels": (panel(420, 300, ((100, 100, 30), (300, 150, 45))), 3),
    "shelves": (shelf, 2),
    "lids": (dxf(rounded(260, 180, 20)), 4),
    "plates": (dxf(engraved), 4),
    "rings": (dxf(lambda m: (m.add_circle((130, 130), 130), m.add_circle((130, 130), 70))), 3),
}
SETTINGS = {
    "wood, vacuum": ("birch-ply", "long-bed", None),
    "wood, vacuum, inch shop": ("birch-ply", "long-bed", "inch"),
    "wood, screws": ("birch-ply", "small-bench", "screws"),
    "plastic, vacuum": ("acrylic", "long-bed", None),
    "plastic, vacuum, skin": ("acrylic", "long-bed", "skin"),
    "plastic, tape": ("acrylic", "small-bench", "tape"),
    "aluminium, screws": ("aluminium-6000", "small-bench", "screws"),
    "aluminium, vacuum": ("aluminium-6000", "long-bed", None),
}
QUICK = ("viewing-slot-glazing", "hinge-and-latch-plates")
"""Jobs of the demo whose loads are measured in every run; of all in the long check."""
SHEETS = {"birch-ply": (17.6, 18.0), "acrylic": (5.9, 6.0), "aluminium-6000": (3.0, 3.0)}


def planned(store, part, setting):
    """A job as a careful programmer would set it up."""
    material, machine, how = SETTINGS[setting]
    data, count = PARTS[part]
    data = dxf(lambda m: shelf(m, SHEETS[material][0])) if data is shelf else data
    job = jobs.new_job(store, f"{part} {setting}", machine, material).plan.id

    def do(command):
        store.apply(job, store.get(job).number, command)

    def setup():
        return store.get(job).plan.setups[0]

    thick, nominal = SHEETS[material]
    size = (
        (1240.0, 840.0)
        if machine == "small-bench"
        else (2440.0, 1220.0)
        if material == "birch-ply"
        else (1900.0, 780.0)
    )
    if how == "inch":
        size, thick, nominal = (96 * INCH, 48 * INCH), 0.72 * INCH, 0.75 * INCH
        m = setup().machine
        do(
            SetSetup(
                setup="main",
                machine=m.model_copy(update={"dialect": m.dialect.model_copy(update={"inch": True})}),
                zones_on=setup().zones_on,
            )
        )
    old = setup().stock
    do(
        SetStock(
            setup="main",
            stock=Stock(
                id=old[0].id,
                name=old[0].name,
                width=size[0],
                height=size[1],
                quantity=2,
                nominal=nominal,
                readings=(thick, thick - 0.05, thick + 0.05),
                margin=30.0,
                grain=old[0].grain,
            ),
        )
    )
    if machine == "small-bench":
        do(SetSetup(setup="main", sheet_at=(20.0, 20.0)))
    rules = setup().rules
    if how in ("screws", "tape") or material == "aluminium-6000":
        do(SetSetup(setup="main", rules=rules.model_copy(update={"between": "skeleton", "web": 12.0})))
    drawings.take_drawing(store, job, store.get(job).number, "main", f"{part}.dxf", data)
    do(SetQuantity(part=store.get(job).plan.parts[0].id, order="order-1", quantity=count))
    if how in ("screws", "tape"):  # without vacuum the middles are kept in
        for name, c in list(store.shapes[store.get(job).plan.parts[0].shape].contours)[1:]:
            if min(c.bbox[2] - c.bbox[0], c.bbox[3] - c.bbox[1]) > 20:
                do(SetContour(part=store.get(job).plan.parts[0].id, contour=name, tab_count=3))
    if how == "skin":
        do(SetHold(setup="main", way="skin, last pass"))
    w, h = size
    if how == "screws":
        spots = [(x, y) for x in (14, w / 3, 2 * w / 3, w - 14) for y in (14, h - 14)] + [
            (14, h / 2),
            (w - 14, h / 2),
        ]
        do(
            SetScrews(
                setup="main", screws=tuple(Screw(id=f"s{k}", x=x, y=y) for k, (x, y) in enumerate(spots))
            )
        )
    nest_job(store, job, "main", 1)
    if how == "screws":  # and some between the parts, where the app finds room
        more = holding.screws_for(store, store.get(job).plan, "main", old[0].id, 0, 16, "screw")
        do(SetScrews(setup="main", screws=(*setup().screws, *more)))
    if how == "tape":
        q = store.get(job).plan.setups[0].nest.pieces
        shapes = {p.id: store.shapes[p.shape] for p in store.get(job).plan.parts}
        tapes = []
        for k, piece in enumerate(q):
            (bw, bh), turn = shapes[piece.part].size, piece.rotation % 180 == 90
            bw, bh = (bh, bw) if turn else (bw, bh)
            x0, y0, x1, y1 = (
                shapes[piece.part]
                .region.placed(piece.x, piece.y, piece.rotation, piece.mirrored)
                .outline.bbox
            )
            for j, y in enumerate((y0 + 0.12 * (y1 - y0), (y0 + y1) / 2, y1 - 0.12 * (y1 - y0))):
                tapes.append(
                    Tape(
                        id=f"t{k}-{j}",
                        x=(x0 + x1) / 2,
                        y=y,
                        width=min(90.0, 0.35 * bw),
                        height=min(25.0, 0.16 * bh),
                    )
                )
        edge = [
            Tape(id=f"e{k}", x=x, y=y, width=150, height=20)
            for k, (x, y) in enumerate([(100 + n * (w - 200) / 4, y) for n in range(5) for y in (12, h - 12)])
        ]
        do(SetFixings(setup="main", fixings=(*tapes, *edge)))
    return store.get(job).plan


@pytest.fixture
def sound(tmp_path):

    s = library_shop(tmp_path / "sound")
    yield s
    s.close()


def looks_of(store, plan, what, measured=True):
    """Looks by rule; nothing may stop, in the plan or in the proof of its programs. ``measured``: with the
    loads of every sheet, and what stands on it.
    """
    looks = Counter()
    for d in (d for d in jobs.derive(store, plan).values() if d.sheets):
        stops = [s.message for s in d.snags if s.severity == "stop"]
        stops += [
            s.message
            for proof in jobs.prove_setup(store, plan, d)
            for s in proof.snags
            if s.severity == "stop"
        ]
        assert not stops, f"{what}: {stops}"
        looks += Counter(s.rule for s in d.snags if s.severity == "look")
        for sheet in d.sheets if measured else ():
            stock = d.setup.stock_of(sheet.sheet)
            peaks = load_snags(d.setup, sheet, loads_of(d.setup, sheet, stock))
            assert not [s.message for s in peaks if s.severity == "stop"]
            looks += Counter(s.rule for s in peaks if s.severity == "look")
            at = SheetAt(setup=d.setup.id, sheet=sheet.sheet, copy_no=sheet.copy_no)
            looks += Counter(f"left.{f.kind}" for f in left_of(store, plan, at) if f.kind != "corner")
    return looks


def test_sound_ordinary_plans_and_the_demo_meet_no_stop_and_hardly_a_look(sound, demo):
    plans, total = 0, Counter()
    for i, setting in enumerate(SETTINGS):
        looks = Counter()
        # every second part in each setting, the others in the next; all of them in the long check
        parts = list(enumerate(PARTS)) if MANY > 1 else list(enumerate(PARTS))[i % 2 :: 2]
        for k, part in parts:
            plan = planned(sound, part, setting)
            looks += looks_of(sound, plan, f"{part}, {setting}", MANY > 1 or (plans % 10 == 0 and k == 0))
            plans += 1
        print(f"{setting}: {sum(looks.values())} looks on {len(parts)} plans {dict(looks)}")
        total += looks
    assert plans == (40 if MANY > 1 else 20)
    for j in demo.jobs():
        plan = demo.get(j["id"]).plan
        if any(s.nest and s.nest.pieces for s in plan.setups):
            looks = looks_of(demo, plan, j["id"], MANY > 1 or j["id"] in QUICK)
            print(f"demo, {j['id']}: {dict(looks)}")
            plans, total = plans + 1, total + looks
    print(f"{plans} plans: {sum(total.values())} looks, by rule {dict(total)}")
    assert sum(total.values()) <= plans, dict(total)


@pytest.mark.long
def test_the_demo_as_it_is_served_meets_no_stop(tmp_path):
    """Nested as long as ``make demo`` nests it: the layouts differ from the short nest that other tests
    share.
    """
    from venzo.demo.seed import seed
    from venzo.desk import jobs
    from venzo.store.store import Store

    store = Store(tmp_path / "served")
    seed(store)
    laid_out = 0
    for j in store.jobs():
        plan = store.get(j["id"]).plan
        if any(s.nest and s.nest.pieces for s in plan.setups):
            for d in jobs.derive(store, plan, hold=True).values():
                proofs = jobs.prove_setup(store, plan, d)
                found = [
                    s.message
                    for s in (*d.snags, *(x for p in proofs for x in p.snags))
                    if s.severity == "stop"
                ]
                assert not found, (j["id"], found)
            laid_out += 1
    store.close()
    assert laid_out == 9
