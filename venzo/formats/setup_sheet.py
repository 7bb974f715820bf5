"""The setup sheet: a page, or more, for each sheet of stock, that tells the operator everything, as PDF."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from reportlab.pdfgen.canvas import Canvas

from venzo.core.cuts.moves import FEED
from venzo.core.derive import DerivedSetup
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.release import ProgramFile
from venzo.core.snags import Snag
from venzo.core.stock.zeros import called, touched_off
from venzo.core.voice import in_unit, thickness
from venzo.formats.paper import INK, LEFT, Paper

CAUTIONS = (
    (
        "Eyes, ears and lungs: glasses, ear defenders, extraction on, mask where dust escapes. No gloves or"
        " loose clothes at the spindle."
    ),
    (
        "Check the hold, the zero and the clearance over screws and clamps before the spindle starts. First"
        " piece: in air or at reduced feed, hand at the stop."
    ),
    "Never leave a running machine. Local codes, the makers' instructions and trained people come first.",
)


def _clock(seconds: float) -> str:
    minutes, s = divmod(round(seconds), 60)
    return f"{minutes // 60}:{minutes % 60:02d}:{s:02d}" if minutes >= 60 else f"{minutes}:{s:02d}"


def setup_sheet(
    plan: Plan,
    derived: DerivedSetup,
    files: list[ProgramFile],
    released: bool,
    shapes: Mapping[str, Shape],
    revision: int,
) -> bytes:
    """PDF bytes: for every sheet its drawing, zero, cutters in order, files, pieces and snags; cautions at
    the foot of every page.
    """
    own = derived.setup.material.caution
    paper = Paper(f"{plan.name}: setup sheet", [*CAUTIONS, *([own] if own else [])])
    setup = derived.setup
    for n, sheet in enumerate(derived.sheets, 1):
        paper.begin(
            plan.name,
            f"sheet {n} of {len(derived.sheets)}, plan revision {revision}",
            f"{setup.name} on {setup.machine.name}",
            "released" if released else "NOT RELEASED: stops open, programs withheld",
        )
        for label, text in _facts(derived, sheet):
            paper.fact(label, in_unit(text, unit_of(setup)))
        paper.gap(4)
        paper.room(260)
        paper.y -= _drawing(paper.canvas, plan, derived, sheet, shapes, (LEFT, paper.y), (paper.width, 250))
        paper.gap(12)
        _cutters(paper, setup, sheet)
        paper.heading("Files, in running order" if released else "Files withheld")
        for f in files:
            if f.serves(sheet):
                paper.text(f"{f.name}, {_clock(f.seconds)}")
        paper.heading("Pieces")
        names = {p.id: p.name for p in plan.parts}
        count = Counter(names[q.part] for q in sheet.pieces)
        paper.text(", ".join(f"{k} {v}x" for k, v in sorted(count.items())))
        say_snags(paper, derived.snags, unit_of(setup))
    return paper.finish()


def _facts(derived: DerivedSetup, sheet: SheetPlan) -> list[tuple[str, str]]:
    """What is to be known before a sheet is laid, in millimetres."""
    setup = derived.setup
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    zero_z = "top of the material" if setup.z_zero == "top" else "bed (spoilboard)"
    deepest = max((-min(pc.cut.levels) for pc in sheet.cuts), default=0.0)
    below = max(0.0, deepest - stock.thickness)
    measured = f"mean of {len(stock.readings)} readings, spread {stock.spread:.2f} mm"

    def mm(v: float) -> str:
        return f"{v:g} mm"

    into = f" ({below:.2f} mm into the spoilboard)" if below else ""
    return [
        ("Stock", f"{stock.name}, {stock.width:g} x {stock.height:g} mm"),
        (
            "Thickness",
            f"{thickness(stock.thickness, unit_of(setup))}, "
            + (measured if stock.readings else "nominal: measure it"),
        ),
        ("Zero X Y", called(setup.datum, setup.machine, mm)),
        ("Touch off", touched_off(setup.datum, setup.machine, setup.lying, mm)),
        ("Zero Z", f"{zero_z}; deepest cut {deepest:.2f} mm below the top{into}"),
        ("Rapid height", f"{setup.machine.clearance:g} mm over the top"),
        ("Hold", _hold(derived, sheet)),
        ("Time", f"{_clock(sheet.seconds)} estimated, {sheet.cut_length / 1000:.1f} m of cut"),
        *_slow_first(setup, sheet),
    ]


def _slow_first(setup: Setup, sheet: SheetPlan) -> list[tuple[str, str]]:
    """How the first sheet is run, where not at the programmed feeds."""
    if setup.first_run >= 100:
        return []
    slow = sheet.seconds + sum(c.seconds for c in sheet.cuts) * (100 / setup.first_run - 1)
    return [("First run", f"feed override at {setup.first_run:g} %, about {_clock(slow)}; then 100 %")]


def _cutters(paper: Paper, setup: Setup, sheet: SheetPlan) -> None:
    """The cutters of a sheet as they are loaded, with the speeds of what they cut."""
    paper.heading("Cutters, in order")
    for _t, cid in sheet.changes:
        cutter = setup.cutter(cid)
        assert cutter is not None
        mine = [pc.cut for pc in sheet.cuts if pc.cut.cutter == cid]
        feed = max(float(m.moves[:, FEED].max()) for m in mine)
        rpm = " / ".join(f"{r:.0f}" for r in dict.fromkeys(m.rpm for m in mine))
        speed = f"{feed / 1000:.2f} m/min" if unit_of(setup) == "mm" else f"{feed / 25.4:.0f} in/min"
        kinds = ", ".join(dict.fromkeys(m.kind for m in mine))
        paper.text(f"T{cutter.number}  {cutter.name}: {rpm} rpm, {speed}; {kinds}")


def unit_of(setup: Setup) -> str:
    """The unit of a setup's papers: that of its machine's programs."""
    return "in" if setup.machine.dialect.inch else "mm"


def say_snags(paper: Paper, found: Sequence[Snag], unit: str = "mm") -> None:
    """Every stop and look, and skins that stay on purpose."""
    snags = [s for s in found if s.severity != "note" or s.rule == "cuts.skin-left"]
    if snags:
        paper.heading("Snags")
    for s in snags:
        paper.text(in_unit(f"{s.severity}: {s.message}", unit))


def _hold(derived: DerivedSetup, sheet: SheetPlan) -> str:
    tabs = sum(
        {(pc.piece.id, pc.cut.contour): len(pc.cut.tabs) for pc in sheet.cuts if pc.cut.tabs}.values()
    )  # once a contour, not once a step
    zones = derived.setup.zones_on
    how = [f"vacuum zones {', '.join(zones)} on"] if zones else []
    off = [z.id for z in derived.setup.machine.zones if z.id not in zones]
    how += [f"zones {', '.join(off)} off"] if zones and off else []
    screws = [s for s in derived.setup.screws if s.on(sheet.sheet, sheet.copy_no)]
    how += (
        [f"{len(screws)} {'nails' if all(s.kind == 'nail' for s in screws) else 'screws'}"] if screws else []
    )
    kinds: dict[str, int] = {}
    for f in derived.setup.fixings:
        kinds[f.kind] = kinds.get(f.kind, 0) + 1
    how += [f"{n} {k}{'s' * (n > 1)}" for k, n in kinds.items()]
    how += [f"{tabs} tabs"] if tabs else []
    return ", ".join(how) or "nothing planned: decide before cutting"


def _drawing(
    c: Canvas,
    plan: Plan,
    derived: DerivedSetup,
    sheet: SheetPlan,
    shapes: Mapping[str, Shape],
    at: tuple[float, float],
    room: tuple[float, float],
) -> float:
    """The sheet to scale with pieces numbered in cutting order, tabs, screws and the zero; returns the height
    used.
    """
    (x, y), (w, h) = at, room
    setup = derived.setup
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    k = min(w / stock.width, h / stock.height)
    bottom = y - stock.height * k
    c.saveState()
    c.translate(x, bottom)
    c.setLineWidth(1)
    if stock.outline:
        edge = c.beginPath()
        edge.moveTo(*(v * k for v in stock.outline[0]))
        for corner in stock.outline[1:]:
            edge.lineTo(*(v * k for v in corner))
        edge.close()
        c.drawPath(edge, stroke=1, fill=0)
    else:
        c.rect(0, 0, stock.width * k, stock.height * k)
    for f in stock.flaws:  # crossed out
        c.rect(f.x * k, f.y * k, f.width * k, f.height * k)
        c.line(f.x * k, f.y * k, (f.x + f.width) * k, (f.y + f.height) * k)
        c.line(f.x * k, (f.y + f.height) * k, (f.x + f.width) * k, f.y * k)
    order: dict[str, int] = {}
    for pc in sheet.cuts:
        if not pc.cut.inside and pc.cut.frees:
            order.setdefault(pc.piece.id, len(order) + 1)
    for q in sheet.pieces:
        part = plan.part(q.part)
        assert part is not None
        region = shapes[part.shape].region.placed(q.x, q.y, q.rotation, q.mirrored)
        path = c.beginPath()
        for loop in region.loops:
            pts = loop.points(0.5) * k
            path.moveTo(*pts[0])
            for p in pts[1:]:
                path.lineTo(*p)
            path.close()
        c.setLineWidth(0.6)
        c.setFillColorRGB(0.93, 0.9, 0.82)
        c.drawPath(path, stroke=1, fill=1, fillMode=0)
        c.setFillColorRGB(*INK)
        spot = region.polygon(0.5).representative_point()
        c.setFont("Helvetica", 7)
        c.drawCentredString(spot.x * k, spot.y * k - 2.5, str(order.get(q.id, "")))
    c.setLineWidth(2)
    for pc in sheet.cuts:
        for tx, ty in pc.cut.tabs:
            px, py = pc.cut.path.placed(pc.piece.x, pc.piece.y, pc.piece.rotation).at(
                pc.cut.path.nearest(tx, ty)[0]
            )[:2]
            c.line(px * k - 2, py * k - 2, px * k + 2, py * k + 2)
    c.setLineWidth(0.8)
    for fixing in setup.fixings:
        x0, y0, x1, y1 = fixing.box
        c.setDash(*([3, 2] if fixing.kind in ("cover", "tape", "pod") else []))
        c.rect(x0 * k, y0 * k, (x1 - x0) * k, (y1 - y0) * k)
    c.setDash()
    for s in setup.screws:
        if not s.on(sheet.sheet, sheet.copy_no):
            continue
        c.circle(s.x * k, s.y * k, max(2.0, s.head / 2 * k))
    dx, dy = datum_on_sheet(setup, stock)
    c.circle(dx * k, dy * k, 4)
    c.line(dx * k, dy * k, dx * k + 24, dy * k)
    c.line(dx * k, dy * k, dx * k, dy * k + 24)
    c.setFont("Helvetica-Bold", 8)
    c.drawString(dx * k + 26, dy * k - 3, "X")
    c.drawString(dx * k - 3, dy * k + 26, "Y")
    c.restoreState()
    return stock.height * k
