"""The main job, from outside: programs parsed by an independent reader (gcodeparser), swept with shapely,
held against the drawings.

No part is cut into by more than 0.02 mm, every contour is cut through to the overshoot but at its tabs, the
cutter stays over the table, rapids stay above the stock, layouts pass the outside judge. Shares no code with
the proof in ``venzo.core.proof``.
"""

import math

import gcodeparser
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely import STRtree
from shapely.geometry import LineString, Point, Polygon, box
from shapely.ops import unary_union

from benchmarks.check_layout import check
from tests.conftest import MANY, panel
from tests.support.breadth import spread
from venzo.core.edits import AcceptNest, SetOperation, SetPart, SetQuantity, SetSetup, SetStock
from venzo.core.nesting.engine import Search
from venzo.core.nesting.layout import accepted, nest_problem
from venzo.desk import drawings, jobs
from venzo.desk.jobs import programs

LIMIT = 0.02


def segments(text: str, tool: int):
    """(tool, rapid?, points (n, 3)) of every move, mm; arcs as chords within 0.0005 mm."""
    pos, motion, scale, said = np.zeros(3), None, 1.0, []
    for line in gcodeparser.GcodeParser(text, include_comments=False).lines:
        letter, number = line.command
        p = line.params
        if letter == "T":
            tool = number
        elif letter == "G" and number in (20, 21):
            scale = 25.4 if number == 20 else 1.0
        if letter == "G" and number in (0, 1, 2, 3):
            motion = number
        elif not (letter not in "GM" and motion is not None):
            continue
        to = np.array([p.get(a, pos[i] / scale) * scale for i, a in enumerate("XYZ")], dtype=float)
        if motion in (2, 3):
            c = pos[:2] + np.array([p.get("I", 0), p.get("J", 0)]) * scale
            r = math.hypot(*(pos[:2] - c))
            a0, a1 = math.atan2(*(pos[:2] - c)[::-1]), math.atan2(*(to[:2] - c)[::-1])
            turn = (a1 - a0) % (2 * math.pi) or 2 * math.pi
            turn = turn if motion == 3 else turn - 2 * math.pi or -2 * math.pi
            n = max(2, math.ceil(abs(turn) / (2 * math.acos(1 - 0.0005 / max(r, 0.001)))))
            t = np.arange(n + 1)[:, None] / n
            pts = np.hstack(
                [
                    c + r * np.hstack([np.cos(a0 + turn * t), np.sin(a0 + turn * t)]),
                    pos[2] + (to[2] - pos[2]) * t,
                ]
            )
            pts[-1] = to
        else:
            pts = np.array([pos, to])
        said.append((tool, motion == 0, pts))
        pos = to
    return said


def explicit(text: str) -> str:
    """The modal motion word on every line, as gcodeparser wants it."""
    out, motion = [], ""
    for line in text.splitlines():
        if line.startswith("("):
            continue
        first = line.split(" ")[0]
        if first in ("G0", "G1", "G2", "G3"):
            motion = first
        elif first[:1] in "XYZIJ" and first:
            line = f"{motion} {line}"
        out.append(line)
    return "\n".join(out)


def audit(store, plan, setup_id="main"):
    d = jobs.derive(store, plan)[setup_id]
    setup = d.setup
    problem = nest_problem(plan, setup, store.shapes)
    raw = problem.model_dump(by_alias=True)
    raw["parts"] = [{**p, "rotations": p["rotations"]} for p in raw["parts"]]
    pieces = [
        {
            "part": q.part,
            "copy": q.copy_no,
            "sheet": q.sheet,
            "sheet_copy": q.sheet_copy,
            "x": q.x,
            "y": q.y,
            "rotation": q.rotation,
            "mirrored": q.mirrored,
        }
        for q in setup.nest.pieces
    ]
    for s in raw["sheets"]:
        s["keepouts"] = [
            {"shape": [v[:2] for v in circle_points(k["shape"])], "clearance": k["clearance"]}
            for k in s["keepouts"]
        ]
    faults, _figures = check(raw, {"placements": pieces, "unplaced": [], "sheets": []})
    assert faults == []
    files = programs(plan, d)
    for sheet in d.sheets:
        stock = setup.stock_of(sheet.sheet)
        dx, dy = (stock.width / 2, stock.height / 2) if setup.datum.kind == "centre" else (0, 0)
        top = 0.0 if setup.z_zero == "top" else stock.thickness
        solids, taken = [], {}
        for q in sheet.pieces:
            region = store.shapes[plan.part(q.part).shape].region.placed(q.x, q.y, q.rotation, q.mirrored)
            solids.append(
                (q, region, Polygon(region.outline.points(0.0005), [h.points(0.0005) for h in region.holes]))
            )
            taken[q.id] = _taken(
                store.shapes[plan.part(q.part).shape],
                q,
                {c.contour: c for c in (d.own.get(q.id) or d.cuts[sheet.sheet][q.part, q.mirrored]).contours},
                setup,
            )
        tree = STRtree([s for *_x, s in solids])
        deep: list[tuple[float, LineString]] = []
        table = box(
            -setup.sheet_at[0],
            -setup.sheet_at[1],
            setup.machine.width - setup.sheet_at[0],
            setup.machine.height - setup.sheet_at[1],
        )
        overshoot = setup.operation("outlines").overshoot
        overshoot = setup.rules.overshoot[setup.material.family] if overshoot is None else overshoot
        bottom = -stock.thickness - overshoot
        for f in (f for f in files if f.serves(sheet)):
            number = setup.cutter(f.cutters[0]).number
            for tool, rapid, pts in segments(explicit(f.text), number):
                pts = pts + (dx, dy, -top)
                flat = pts[:, :2]
                if np.ptp(flat, axis=0).max() < 1e-9:
                    assert not rapid or pts[-1, 2] > 0
                    continue
                line = LineString(flat)
                if rapid:
                    assert pts[:, 2].min() >= min(setup.machine.clearance, 1) or pts[0, 0] == dx, (
                        "rapids stay above the stock"
                    )
                    continue
                assert table.covers(line), "the cutter stays over the table"
                assert pts[:, 2].min() >= bottom - 0.002, "not deeper than the overshoot"
                cutter = next(c for c in setup.cutters if c.number == tool)
                depth = -pts[:, 2].min()
                # the cone of a V bit is as wide as its depth makes it
                radius = (
                    min(cutter.radius, cutter.tip / 2 + depth * math.tan(math.radians(cutter.angle) / 2))
                    if cutter.kind == "v-bit"
                    else cutter.radius
                )
                if depth > 1e-6:
                    for k in tree.query(line, predicate="dwithin", distance=radius):
                        q, _region, solid = solids[k]
                        keep = solid.difference(
                            unary_union([g for deep, g in taken[q.id] if deep >= depth - 0.002]).buffer(1e-4)
                        )
                        assert line.distance(keep) >= radius - LIMIT, (
                            f"{q.part} is cut into, {depth:.2f} mm deep"
                        )
                if pts[:, 2].max() <= bottom + 0.002:
                    deep.append((radius, line))
        lines = STRtree([line for _r, line in deep])
        for q, _region, _solid in solids:
            plans = {
                c.contour: c for c in (d.own.get(q.id) or d.cuts[sheet.sheet][q.part, q.mirrored]).contours
            }
            for name, contour in store.shapes[plan.part(q.part).shape].contours:
                planned = plans[name]
                radius = setup.cutter(planned.cutter).radius
                lift = setup.tabs_on("holes" if planned.inside else "outlines").width / 2 + radius + 0.5
                placed = contour.placed(q.x, q.y, q.rotation, q.mirrored)
                centres = [
                    contour.placed(q.x, q.y, q.rotation, q.mirrored).at(placed.nearest(*_placed(t, q))[0])[:2]
                    for t in planned.tabs
                ]
                for s in np.arange(0, placed.length, 3.0):
                    x, y, _ux, _uy = placed.at(s)
                    near = any(math.dist((x, y), c) < lift + radius for c in centres)
                    corner = placed.at(s - 2 * radius)[2:], placed.at(s + 2 * radius)[2:]
                    if near or corner[0][0] * corner[1][0] + corner[0][1] * corner[1][1] < 0.999:
                        continue  # at a tab, or where a round cutter cannot follow (inside corners)
                    hits = lines.query(Point(x, y), predicate="dwithin", distance=radius + LIMIT)
                    assert len(hits), f"{q.part} {name} is not cut through at {x:.1f}, {y:.1f}"
    return d


def _taken(shape, q, plans, setup):
    """What the features of a piece may take out of it, with its depth: areas even-odd, lines as wide as their
    cutter makes them.
    """
    out = []
    for f in shape.features:
        plan = plans.get(f.name)
        c = f.contour.placed(q.x, q.y, q.rotation, q.mirrored)
        pts = c.points(0.0005)
        if f.kind in ("pocket", "groove", "drilling") and c.closed:
            area = Polygon(pts).buffer(0)
            same = next(
                (
                    k
                    for k, (deep, g) in enumerate(out)
                    if g.buffer(0.01).contains(area) and (plan is None or abs(deep - plan.depth) < 1e-6)
                ),
                None,
            )
            if same is not None and f.kind != "drilling":
                out[same] = (out[same][0], out[same][1].difference(area))  # an island
            elif plan is not None:
                out.append((plan.depth, area))
        elif plan is not None:
            cutter = setup.cutter(plan.cutter)
            wide = (
                min(cutter.radius, cutter.tip / 2 + plan.depth * math.tan(math.radians(cutter.angle) / 2))
                if cutter.kind == "v-bit"
                else cutter.radius
            )
            out.append(
                (
                    plan.depth,
                    LineString(np.vstack([pts, pts[:1]]) if c.closed else pts).buffer(
                        wide + 0.001, quad_segs=64
                    ),
                )
            )
    return out


def circle_points(rows):
    from venzo.core.geometry.contour import Contour

    return [(*p, 0.0) for p in Contour.of(rows).points(0.001, 1)]


def _placed(t, q):
    from venzo.core.geometry.contour import rotation_matrix

    x, y = rotation_matrix(q.rotation) @ np.array([-t[0] if q.mirrored else t[0], t[1]])
    return x + q.x, y + q.y


@pytest.mark.parametrize(
    "job", spread(["viewing-slot-glazing", "estuary-hide-ribs-and-benches", "hinge-and-latch-plates"], 2)
)
def test_demo_jobs(demo, job):
    plan = demo.get(job).plan
    d = audit(demo, plan)
    assert not [s for s in d.snags if s.severity == "stop"]
    if job.startswith("estuary"):
        assert len(plan.drawings) >= 8 and d.yields.pieces >= 30 and len(d.sheets) == 2


@settings(max_examples=5 * MANY, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_random_plans(store, data):
    draw = data.draw
    revision = jobs.new_job(
        store,
        f"random {draw(st.integers(0, 10**9))}",
        "long-bed",
        draw(st.sampled_from(["birch-ply", "acrylic"])),
    )
    job = revision.plan.id

    def edit(command):
        return store.apply(job, store.get(job).number, command)

    for k in range(draw(st.integers(1, 3))):
        w, h = draw(st.floats(60, 420)), draw(st.floats(60, 300))
        holes = tuple(
            (draw(st.floats(0.25, 0.75)) * w, draw(st.floats(0.25, 0.75)) * h, draw(st.floats(4.5, 12)))
            for _ in range(draw(st.integers(0, 1)))
        )
        kind = draw(st.sampled_from(["panel", "fancy", "featured"]))
        data_ = (
            panel(w, h, holes)
            if kind == "panel"
            else _fancy(w, h, draw)
            if kind == "fancy"
            else _featured(w, h, draw)
        )
        drawings.take_drawing(store, job, store.get(job).number, "main", f"part {k}.dxf", data_)
    for p in store.get(job).plan.parts:
        edit(SetQuantity(part=p.id, order="order-1", quantity=draw(st.integers(1, 4))))
        edit(
            SetPart(
                part=p.id,
                mirror=draw(st.booleans()),
                rotations=draw(st.sampled_from(["free", (0.0, 90.0), (30.0,)])),
            )
        )
    setup = store.get(job).plan.setups[0]
    edit(
        SetStock(
            setup="main",
            stock=setup.stock[0].model_copy(
                update={
                    "width": 2000.0,
                    "height": 1200.0,
                    "readings": (draw(st.floats(2, 19)),),
                    "nominal": 18.0,
                }
            ),
        )
    )
    edit(
        SetSetup(
            setup="main",
            datum=draw(st.sampled_from(["lower left", "centre"])),
            z_zero=draw(st.sampled_from(["top", "bed"])),
            machine=setup.machine.model_copy(
                update={
                    "dialect": setup.machine.dialect.model_copy(
                        update={"inch": draw(st.booleans()), "tool_change": draw(st.booleans())}
                    )
                }
            ),
        )
    )
    for on in ("outlines", "holes"):
        op = setup.operation(on)
        able = [
            c.id
            for c in setup.cutters
            if setup.material.family in c.feeds
            and c.diameter < 8.5
            and c.kind not in ("drill", "roundover", "point roundover")
        ]  # what can cut along its side
        edit(
            SetOperation(
                setup="main",
                operation=op.model_copy(
                    update={
                        "cutter": draw(st.sampled_from(able)),
                        "direction": draw(st.sampled_from(["climb", "conventional"])),
                    }
                ),
            )
        )
    plan = store.get(job).plan
    search = Search(nest_problem(plan, plan.setups[0], store.shapes), 1)
    search.step()
    plan = edit(AcceptNest(setup="main", nest=accepted(search.best, search.problem, "t"))).plan
    d = audit(store, plan)
    known = (
        {"proof.edge"} if any(s.rule == "cuts.too-deep" for s in d.snags) else set()
    )  # a cutter too short was drawn: the plan says so too
    assert not [
        x.message
        for p in jobs.prove_setup(store, plan, d)
        for x in p.snags
        if x.severity == "stop" and x.rule not in known
    ], "our own proof finds nothing either"


def _featured(w, h, draw):
    """A panel with a pocket that runs over its edge or stops short of it, an island, a groove and holes to
    drill.
    """
    from tests.conftest import dxf

    x0, over = draw(st.floats(0.55, 0.8)) * w, draw(st.sampled_from([-12.0, 0.0, 5.0]))

    def put(m):
        m.add_lwpolyline([(0, 0), (w, 0), (w, h), (0, h)], close=True)
        pocket = {"layer": "POCKET 1.5mm"}
        m.add_lwpolyline(
            [(x0, 0.2 * h), (w + over, 0.2 * h), (w + over, 0.8 * h), (x0, 0.8 * h)],
            close=True,
            dxfattribs=pocket,
        )
        m.add_circle(((x0 + w) / 2, h / 2), 0.04 * min(w, h), dxfattribs=pocket)
        m.add_line((0.1 * w, 0.1 * h), (0.4 * w, 0.9 * h), dxfattribs={"layer": "GROOVE 1mm"})
        m.add_circle((0.45 * w, 0.5 * h), 4.0, dxfattribs={"layer": "DRILL"})

    return dxf(put)


def _fancy(w, h, draw):
    from tests.conftest import dxf

    b = draw(st.floats(0.05, 0.4))
    return dxf(
        lambda m: (
            m.add_lwpolyline([(0, 0, 0), (w, 0, b), (w, h, -b / 3), (0, h, 0)], format="xyb", close=True),
            m.add_circle((w / 2, h / 2), 9),
        )
    )
