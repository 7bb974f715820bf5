"""Everything that follows for the sheets of a setup on a kerf table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.kerf.cut_up import before_outlines, cut_up_lines
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.joined_rows import joined_to
from venzo.core.kerf.kerf_cuts import KerfCuts, kerf_cuts, pre_pierced
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.running import KerfRun, run
from venzo.core.kerf.slats import State, rests
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import ContourChoice, Piece, Plan, Setup
from venzo.core.snags import Remedy, Snag, Where, look
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.head import Charted
from venzo.core.voice import counted

BESIDE_GROUP = 1_000_000
"""Groups of cuts beside the parts begin here, beyond those of any sheet."""
LARGE = 12.0
"""mm: a drop that is no wider catches no head (common practice: a few nozzles' widths)."""


@dataclass(frozen=True)
class Loosened:
    """What comes loose at a moment of a sheet: a piece or a drop, and how it rests then.

    ``seconds``: when; ``x``, ``y``: its middle on the sheet, mm; ``piece``: its id, empty for a drop.
    """

    name: str
    piece: str
    seconds: float
    state: State
    x: float
    y: float


@dataclass(frozen=True, eq=False)
class KerfSheet:
    """One sheet of a kerf table: its parts as they lie, how it is cut, and what becomes of each piece."""

    sheet: str
    copy_no: int
    pieces: tuple[Piece, ...]
    bodies: tuple[Body, ...]
    how: KerfHow
    said: Charted
    plate: Polygon
    planned: KerfCuts
    run: KerfRun
    loosened: tuple[Loosened, ...]
    key: str

    @property
    def joined(self) -> dict[int, Polygon]:
        """By a part's index, what comes off the sheet in one piece with it, where bridges join it."""
        return joined_to(self.planned.rows, self.bodies)


def kerf_sheets(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> tuple[list[KerfSheet], list[Snag]]:
    """The sheets of a setup on a kerf table in order, and what there is to say of them.

    Raises:
        BadInput: no head setting for this table.
    """
    nest = setup.nest
    if nest is None:
        return [], []
    out: list[KerfSheet] = []
    snags: list[Snag] = []
    for sheet, copy in sorted({(q.sheet, q.sheet_copy) for q in nest.pieces}):
        stock = setup.stock_of(sheet)
        if stock is None:
            continue
        made = _sheet(plan, setup, stock, copy, shapes)
        out.append(made)
        snags += _of_sheet(plan, setup, made)
    return out, snags


def plate_of(stock: Stock) -> Polygon:
    """A sheet's metal, mm: its outline, or its box, less the holes that are in it."""
    whole = Polygon(stock.outline) if stock.outline else shapely.box(0, 0, stock.width, stock.height)
    holes = [shapely.box(f.x, f.y, f.x + f.width, f.y + f.height) for f in stock.flaws]
    left = whole.difference(shapely.union_all(holes)) if holes else whole
    return max(shapely.get_parts(left), key=lambda p: p.area) if left.geom_type != "Polygon" else left


def _sheet(plan: Plan, setup: Setup, stock: Stock, copy: int, shapes: Mapping[str, Shape]) -> KerfSheet:
    nest = setup.nest
    assert nest is not None
    pieces = tuple(q for q in nest.pieces if q.sheet == stock.id and q.sheet_copy == copy)
    mine = {q.part for q in pieces}
    named = [(p.id, p.name, p.shape) for p in plan.parts if p.id in mine]
    key = digest(
        [q.model_dump(exclude={"locked"}) for q in pieces],
        named,
        stock.model_dump(exclude={"quantity", "price"}),
        setup.kerf_cutting,
        setup.heads,
        (setup.rules.jet_level, setup.rules.web),
        setup.machine.model_dump(exclude={"name", "rate_per_hour"}),
        (setup.material.sort, setup.material.name),
        (setup.sheet_at, setup.edge_at),
        [c for c in plan.choices if c.part in mine],
        [(f.kind, f.box) for f in setup.fixings],
    )
    return memo("kerf-sheet", key, partial(_planned, plan, setup, stock, copy, shapes, pieces, key))


def _planned(
    plan: Plan,
    setup: Setup,
    stock: Stock,
    copy: int,
    shapes: Mapping[str, Shape],
    pieces: tuple[Piece, ...],
    key: str,
) -> KerfSheet:
    how, said = setup.kerf_how(round(stock.thickness, 4))
    choices: dict[str, list[ContourChoice]] = {}
    for c in plan.choices:
        choices.setdefault(c.part, []).append(c)
    bodies = tuple(_body(plan, q, shapes, choices.get(q.part, [])) for q in pieces)
    plate = plate_of(stock)
    avoid = [shapely.box(*f.box) for f in setup.fixings if f.kind in ("clamp", "pin")]
    lines = cut_up_lines(bodies, how, plate, BESIDE_GROUP, avoid)
    beside = [c.line for c in lines if isinstance(c.line, shapely.LineString)]
    planned = pre_pierced(before_outlines(kerf_cuts(bodies, how, plate, avoid, beside), lines), how)
    table = setup.machine.head
    done = run(
        planned.cuts,
        bodies,
        how,
        setup.machine.axes,
        setup.kerf_cutting.order,
        table.lift if table else 0.0,
    )
    return KerfSheet(
        stock.id,
        copy,
        pieces,
        bodies,
        how,
        said,
        plate,
        planned,
        done,
        tuple(_loosened(setup, pieces, bodies, done, joined_to(planned.rows, bodies))),
        key,
    )


def _body(plan: Plan, q: Piece, shapes: Mapping[str, Shape], choices: Sequence[ContourChoice]) -> Body:
    """A piece as it lies, with what a person chose for its contours."""
    part = plan.part(q.part)
    shape = shapes[plan.shape_of(q.part)]

    def at(p: tuple[float, float]) -> tuple[float, float]:
        x, y = Contour.of([p], False).placed(q.x, q.y, q.rotation, q.mirrored).vertices[0, :2].tolist()
        return x, y

    return Body(
        f"{part.name if part else q.part} piece {q.copy_no + 1}",
        shape.region.placed(q.x, q.y, q.rotation, q.mirrored),
        shape.names,
        {c.contour: at(c.start) for c in choices if c.start is not None},
        {c.contour: tuple(at(t) for t in c.tabs) for c in choices if c.tabs},
        frozenset(c.contour for c in choices if c.omit),
    )


def _loosened(
    setup: Setup,
    pieces: Sequence[Piece],
    bodies: Sequence[Body],
    done: KerfRun,
    joined: Mapping[int, Polygon],
) -> list[Loosened]:
    """Pieces and drops as they come loose, in running order; those of a row lie as the row does."""
    table, lies = setup.machine.head, setup.lying
    slats = table.slats if table else None
    out = []
    for cut, freed, begin, takes in zip(done.cuts, done.freed, done.begins, done.seconds, strict=True):
        loose: list[tuple[str, str, Polygon, Polygon]] = [
            (bodies[b].name, pieces[b].id, joined.get(b, bodies[b].polygon), bodies[b].polygon) for b in freed
        ]
        if cut.inside and cut.area is not None:
            loose.append((f"drop of {cut.name}", "", cut.area, cut.area))
        for name, piece, area, own in loose:
            there = shapely.transform(area, lies.on_table)
            middle = own.centroid
            out.append(Loosened(name, piece, begin + takes, rests(there, slats), middle.x, middle.y))
    return out


def _of_sheet(plan: Plan, setup: Setup, sheet: KerfSheet) -> list[Snag]:
    """What there is to say of a sheet, each with its place in the plan."""
    part_of = {b.name: q.part for b, q in zip(sheet.bodies, sheet.pieces, strict=True)}
    at: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    names = {p.id: p.name for p in plan.parts}
    alike: dict[tuple[str, str, str], list[Snag]] = {}
    for s in sheet.planned.snags:
        body = next((b.name for b in sheet.bodies if s.message.startswith(f"{b.name},")), "")
        where: Where = {**(s.where or {}), **at}
        where.pop("part", None)
        if body:
            where["part"] = part_of[body]
        tail = s.message.removeprefix(body)
        alike.setdefault((s.rule, where.get("part", ""), tail), []).append(
            s.model_copy(update={"where": where})
        )
    out = []
    for (_rule, part, tail), found in alike.items():
        first = found[0]
        if len(found) > 1 and part:
            said = f"{names.get(part, part)}, {counted(len(found), 'piece')}{tail}"
            first = first.model_copy(update={"message": said})
        out.append(first)
    out += [s.model_copy(update={"where": at}) for s in sheet.said.snags]
    return out + _tipping(setup, sheet, at)


def _tipping(setup: Setup, sheet: KerfSheet, at: Where) -> list[Snag]:
    """Pieces that tip or fall once they are free, and drops that may stand up into the head."""
    parts = [x for x in sheet.loosened if x.piece and x.state in ("tips", "falls")]
    widths = {
        f"drop of {c.name}": min(c.area.bounds[2] - c.area.bounds[0], c.area.bounds[3] - c.area.bounds[1])
        for c in sheet.run.cuts
        if c.area is not None
    }
    drops = [x for x in sheet.loosened if not x.piece and x.state == "tips" and widths[x.name] > LARGE]
    out = []
    if parts:
        tabs = max(1, sheet.how.tabs.count + 1)
        remedy = Remedy(
            label=f"{counted(tabs, 'tab')} in every outline",
            command={"kind": "change-kerf", "setup": setup.id, "fields": {"tabs": {"count": tabs}}},
        )
        names = ", ".join(f"{x.name} ({x.state})" for x in parts[:4])
        more = f" and {len(parts) - 4} more" if len(parts) > 4 else ""
        out.append(
            look(
                "kerf.tips",
                f"once they are free {names}{more} do not lie on the slats: what tips can catch the head,"
                " what falls is fished out below; tab them, or lay them over the slats",
                {**at, "places": [(round(x.x, 2), round(x.y, 2)) for x in parts]},
                remedy,
            )
        )
    if drops:
        names = ", ".join(x.name for x in drops[:3]) + (", ..." if len(drops) > 3 else "")
        out.append(
            look(
                "kerf.drops",
                f"{counted(len(drops), 'drop')} may stand up between the slats ({names}): the head lifts"
                " on the way over, watch it there",
                {**at, "places": [(round(x.x, 2), round(x.y, 2)) for x in drops]},
            )
        )
    return out


def net_area(sheet: KerfSheet) -> float:
    """mm2 of the pieces of a sheet."""
    return float(sum(b.region.area for b in sheet.bodies))


def right_end(sheet: KerfSheet) -> float:
    """Largest x that a piece reaches, mm."""
    return float(np.max([b.region.outline.bbox[2] for b in sheet.bodies])) if sheet.bodies else 0.0
