"""The stock as it is cut, at any moment of the tape: its picture, sections through it, what is under the
pointer.
"""

from __future__ import annotations

import io
import math
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from cachetools import LRUCache
from pydantic import Field

from venzo.core.body.across import FARTHEST, across
from venzo.core.body.field import GONE, Box, StockBody
from venzo.core.body.moments import Moments
from venzo.core.body.picture import Picture, painted, section
from venzo.core.derive import DerivedSetup
from venzo.core.faces.turn import Turn, turn_of
from venzo.core.memo import memo
from venzo.core.model import Value, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.into_reliefs import Reliefs
from venzo.core.proof.left import Left, left_over
from venzo.core.proof.removal import sheet_moments
from venzo.core.proof.way import Motion, moment_of
from venzo.core.relief.difference import coloured
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Stock
from venzo.desk.jobs import derive, subject_of
from venzo.store.store import Store

FINEST = 0.03
"""mm; cells of a picture are no smaller."""
CLOSE = 400.0
"""mm; a picture of no more than this is swept in cells of its own, as fine as its pixels."""
MEASURED = 0.1
"""mm; cells in which widths under the pointer are measured."""
SECTION_PLACES = 4000
"""Places along a section at which a relief is asked for its height."""
MOST_PIXELS = 8_000_000
"""Pixels of one picture."""
SHEETS = 3
"""Sheets whose moments are kept in memory."""
_one_at_a_time = threading.Lock()
_kept: LRUCache[str, Moments] = LRUCache(SHEETS)


class SheetAt(Value):
    """Which sheet of a job, and when on its tape, s; None: when all is cut."""

    setup: str
    sheet: str
    copy_no: Annotated[int, Field(ge=0)] = 0
    seconds: Annotated[float, Field(ge=0)] | None = None


class UnderPointer(Value):
    """What a point of the sheet is like, mm: how deep it is cut, and the least distance across the cut, or
    across what stands where nothing was cut; None: too far to tell. ``through``: the sheet is cut through.
    ``above_model``: how high it stands over the surface of a relief there; below 0: cut into it.
    """

    depth: float
    across: float | None
    through: bool
    above_model: float | None = None
    stands: float | None = None
    """Of stock cut from both faces how thick it is there once both are cut, mm."""


class LegDocument(Value):
    """Moves of one kind that follow one another, on the sheet, mm; ``done``: before the moment."""

    motion: Motion
    points: list[tuple[float, float]]
    done: bool


class MomentDocument(Value):
    """The tip at a moment of the tape: where (mm, Z 0 at the top), how it moves, the speed that the move
    under way gets to and was to have (mm/min), the cutter and its diameter, and the way before and after.
    """

    at: tuple[float, float, float]
    motion: Motion
    reached: float
    wanted: float
    cutter: str
    diameter: float
    cut: int
    legs: list[LegDocument]


class SectionDocument(Value):
    """A section: distance along the line and height there, mm from the top (down negative), and the sheet's
    underside.
    ``model``: the same of reliefs that it runs through, as they are to come out, a line each.
    """

    points: list[tuple[float, float]]
    underside: float
    length: float
    model: list[list[tuple[float, float]]] = []
    behind: list[tuple[float, float]] = []
    """Of stock cut from both faces the underside along the line, as the other face leaves it."""
    behind_cut: bool = False
    """The other face has been cut before this one."""


class LeftDocument(Value):
    """Something that stands where the drawing wants nothing: in a corner, all along beside a contour, or on a
    floor. ``at``: on the sheet; ``length``: along the contour or across the floor; ``height``: over the depth
    that was wanted; ``through``: it stands as high as the sheet; all mm.
    """

    kind: Literal["corner", "beside", "floor"]
    piece: str
    part: str
    name: str
    contour: str
    at: tuple[float, float]
    length: float
    height: float
    through: bool


def at_moment(store: Store, plan: Plan, at: SheetAt) -> MomentDocument | None:
    """Where the cutter is at a moment; None: nothing is cut on the sheet, or no moment is asked for.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, _stock = sheet_of(store, plan, at)
    found = moment_of(d.setup, sheet, at.seconds) if at.seconds is not None else None
    if found is None:
        return None
    cutter = d.setup.cutter(found.cutter)
    x, y, z = (round(v, 3) for v in found.at)
    return MomentDocument(
        at=(x, y, z),
        motion=found.motion,
        reached=round(found.reached, 1),
        wanted=round(found.wanted, 1),
        cutter=found.cutter,
        diameter=cutter.diameter if cutter else 0.0,
        cut=found.cut,
        legs=[
            LegDocument(
                motion=leg.motion,
                points=[(round(float(px), 2), round(float(py), 2)) for px, py in leg.points],
                done=leg.done,
            )
            for leg in found.legs
        ],
    )


def left_standing(store: Store, plan: Plan, at: SheetAt) -> list[LeftDocument]:
    """What stands once all of a sheet is cut, the highest first.

    Raises:
        BadInput: no such sheet.
    """
    stock = sheet_of(store, plan, at)[2]
    names = {p.id: p.name for p in plan.parts}
    return [
        LeftDocument(
            kind=f.kind,
            piece=f.piece,
            part=f.part,
            name=names.get(f.part, f.part),
            contour=f.contour,
            at=(round(f.at[0], 3), round(f.at[1], 3)),
            length=round(f.length, 3),
            height=round(f.height, 3),
            through=f.height >= stock.thickness - 0.05,
        )
        for f in left_of(store, plan, at)
    ]


def left_of(store: Store, plan: Plan, at: SheetAt) -> tuple[Left, ...]:
    """What stands once all of a sheet is cut; remembered while nothing that it follows from changes.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, stock = sheet_of(store, plan, at)
    shapes = [store.shapes[plan.shape_of(q.part)].digest for q in sheet.pieces]
    key = digest("left-1", _film_key(d, sheet, stock), shapes, stock.thickness, d.setup.rules)

    def find() -> tuple[Left, ...]:
        if d.setup.role is not None and d.setup.role.takes == "roughing":
            return ()  # the finish is still to come
        return left_over(subject_of(store, plan, d, sheet), moments(store, plan, at)[0].final)

    return memo("left", key, find)


def sheet_of(store: Store, plan: Plan, at: SheetAt) -> tuple[DerivedSetup, SheetPlan, Stock]:
    """What follows from a setup, and one of its sheets.

    Raises:
        BadInput: no such setup or sheet.
    """
    d = derive(store, plan, hold=False).get(at.setup)
    if d is None:
        raise BadInput(f"{plan.name} has no setup {at.setup!r}")
    sheet = next((s for s in d.sheets if (s.sheet, s.copy_no) == (at.sheet, at.copy_no)), None)
    stock = d.setup.stock_of(at.sheet)
    if sheet is None or stock is None:
        raise BadInput(f"{plan.name}: no piece lies on sheet {at.sheet!r}, copy {at.copy_no}")
    return d, sheet, stock


def _film_key(d: DerivedSetup, sheet: SheetPlan, stock: Stock) -> str:
    """All that a sheet's moments follow from."""
    before = [b.key for t in d.turns_before if (b := t.cut_in(sheet))]
    return digest(
        sheet.key,
        before,
        [stock.width, stock.height, [list(p) for p in stock.outline]],
        d.setup.cutters,
        repr(d.setup.machine.axes),
        d.setup.id,
    )


def moments(store: Store, plan: Plan, at: SheetAt) -> tuple[Moments, Stock]:
    """A sheet of a job at all its moments; kept for the sheets asked for last.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, stock = sheet_of(store, plan, at)
    key = _film_key(d, sheet, stock)
    with _one_at_a_time:
        if key not in _kept:
            roughed = d.first.cut_in(sheet) if d.setup.turned_back and d.first else None
            before = (d.first.setup, roughed) if d.first and roughed else None
            _kept[key] = sheet_moments(d.setup, sheet, stock, before)
        return _kept[key], stock


def _body(store: Store, plan: Plan, at: SheetAt) -> tuple[StockBody, Stock]:
    found, stock = moments(store, plan, at)
    return found.at(found.seconds if at.seconds is None else at.seconds), stock


@dataclass(frozen=True)
class Framed:
    """What is seen of a sheet: an area (x0, y0, x1, y1), mm (None: all of it), how many pixels wide, and
    after how many mm of depth there is a line.
    """

    area: Sequence[float] | None = None
    width: int = 1200
    every: float = 5.0


def picture(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> bytes:
    """The sheet, or an area of it, as a WebP without loss: depth as a tone.

    Raises:
        BadInput: no such sheet, an area that is none, or more than ``MOST_PIXELS``.
    """
    from PIL import Image

    out = io.BytesIO()
    # smaller than the quickest PNG and packed in two thirds of its time
    Image.fromarray(_shown(store, plan, at, framed)).save(out, "WEBP", lossless=True, quality=0, method=0)
    return out.getvalue()


def picture_png(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> bytes:
    """The same as a PNG, for papers and customers.

    Raises:
        BadInput: as ``picture``.
    """
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(_shown(store, plan, at, framed)).save(out, "PNG")
    return out.getvalue()


def heights_png(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> bytes:
    """Heights of the sheet, or an area of it, as a 16-bit greyscale PNG: white (65535) its top, black its
    underside and what is cut away or beyond it. Its text says how large a pixel and a grey step are, mm.

    Raises:
        BadInput: as ``picture``.
    """
    from PIL import Image
    from PIL.PngImagePlugin import PngInfo

    body, stock, seen = _framed(store, plan, at, framed)
    rows = max(1, round(framed.width * (seen.y1 - seen.y0) / (seen.x1 - seen.x0)))
    xs = seen.x0 + (np.arange(framed.width) + 0.5) * (seen.x1 - seen.x0) / framed.width
    ys = seen.y1 - (np.arange(rows) + 0.5) * (seen.y1 - seen.y0) / rows
    grid = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    share = np.clip(1.0 + body.heights(grid) / stock.thickness, 0.0, 1.0)
    grey = np.round(share * 65535).astype(np.uint16).reshape(rows, framed.width)
    told = PngInfo()
    told.add_text("mm per pixel", f"{(seen.x1 - seen.x0) / framed.width:.6g}")
    told.add_text("mm from black to white", f"{stock.thickness:.6g}")
    out = io.BytesIO()
    Image.fromarray(grey).save(out, "PNG", pnginfo=told)
    return out.getvalue()


def _shown(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> Picture:
    body, stock, seen = _framed(store, plan, at, framed)
    return painted(body, stock.thickness, seen, framed.width, framed.every)


def _framed(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> tuple[StockBody, Stock, Box]:
    """The body that is fine enough for what is seen, and that as a box."""
    film, stock = moments(store, plan, at)
    x0, y0, x1, y1 = framed.area if framed.area is not None else (0.0, 0.0, stock.width, stock.height)
    if not (x1 - x0 > 0.1 and y1 - y0 > 0.1) or (y1 - y0) / (x1 - x0) > 50:
        raise BadInput(
            f"an area from {x0:g}, {y0:g} to {x1:g}, {y1:g} mm is no picture; give it as x0,y0,x1,y1"
        )
    if framed.width**2 * (y1 - y0) / (x1 - x0) > MOST_PIXELS:
        raise BadInput(
            f"a picture {framed.width} pixels wide of {x1 - x0:g} x {y1 - y0:g} mm is over"
            f" {MOST_PIXELS:,} pixels; ask for fewer"
        )
    when = film.seconds if at.seconds is None else at.seconds
    seen = Box(x0, y0, x1, y1)
    fine = max(FINEST, (x1 - x0) / framed.width / 1.5)
    close = fine < film.cell / 2 and max(x1 - x0, y1 - y0) < CLOSE
    body = film.close(when, seen, fine) if close else film.at(when)
    return body, stock, seen


def models_on(store: Store, plan: Plan, at: SheetAt) -> Reliefs:
    """The reliefs of a sheet where its pieces lie; remembered.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, stock = sheet_of(store, plan, at)
    key = digest("models-on", _film_key(d, sheet, stock), sorted(p.shape for p in plan.parts))
    s = subject_of(store, plan, d, sheet)
    return memo(
        "models-on",
        key,
        lambda: Reliefs(plan, d.setup, sheet, s.shapes, s.part_cuts, round(stock.thickness, 4)),
    )


def _model_along(
    models: Reliefs, start: tuple[float, float], end: tuple[float, float]
) -> list[list[tuple[float, float]]]:
    long = math.dist(start, end)
    n = max(2, min(SECTION_PLACES, math.ceil(long / MEASURED)))
    t = np.linspace(0.0, 1.0, n)
    z = models.heights(np.array(start) + (np.array(end) - np.array(start)) * t[:, None])
    there = np.isfinite(z)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], there.astype(int), [0]]))).reshape(-1, 2)
    return [
        [(round(float(s * long), 3), round(float(h), 3)) for s, h in zip(t[a:b], z[a:b], strict=True)]
        for a, b in edges
        if b - a > 1
    ]


def difference(store: Store, plan: Plan, at: SheetAt, framed: Framed) -> bytes:
    """The sheet with what stands above its reliefs, or is cut into them, in colours and patterns, as a WebP.

    Raises:
        BadInput: as ``picture``.
    """
    from PIL import Image

    body, stock, seen = _framed(store, plan, at, framed)
    plain = painted(body, stock.thickness, seen, framed.width, framed.every)
    rows = plain.shape[0]
    xs = seen.x0 + (np.arange(framed.width) + 0.5) * (seen.x1 - seen.x0) / framed.width
    ys = seen.y1 - (np.arange(rows) + 0.5) * (seen.y1 - seen.y0) / rows
    grid = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    exact = body.middles(grid)
    left = body.heights(exact) - models_on(store, plan, at).heights(exact)
    out = io.BytesIO()
    shown = coloured(plain, left.reshape(rows, framed.width))
    Image.fromarray(shown).save(out, "WEBP", lossless=True, quality=0, method=0)
    return out.getvalue()


def under_pointer(store: Store, plan: Plan, at: SheetAt, x: float, y: float) -> UnderPointer | None:
    """What a point of the sheet is like; None beside the sheet.

    Raises:
        BadInput: no such sheet.
    """
    film, stock = moments(store, plan, at)
    if not (0 <= x <= stock.width and 0 <= y <= stock.height):
        return None
    when = film.seconds if at.seconds is None else at.seconds
    about = Box(x - FARTHEST, y - FARTHEST, x + FARTHEST, y + FARTHEST)
    body = film.close(when, about, min(film.cell, MEASURED))
    height, wide = across(body, x, y, -stock.thickness)
    if height < -GONE / 2:
        return None  # beyond a remnant's outline
    through = height <= -stock.thickness + 1e-3
    exact = body.middles(np.array([[x, y]]))
    model = float(models_on(store, plan, at).heights(exact)[0])
    over = None if math.isnan(model) else round(float(body.heights(exact)[0]) - model, 3)
    behind = _other_face(store, plan, at)
    stands = None
    if behind is not None:
        other, turn = behind
        taken = -float(other.heights(other.middles(turn.points(exact)))[0])
        stands = round(max(0.0, stock.thickness + float(body.heights(exact)[0]) - taken), 3)
    return UnderPointer(
        depth=round(-height, 3), across=wide, through=through, above_model=over, stands=stands
    )


def _other_face(store: Store, plan: Plan, at: SheetAt) -> tuple[StockBody, Turn] | None:
    """The same sheet as it is when its other face has been cut, and how places of this face lie there; None
    where it has none.
    """
    derived = derive(store, plan, hold=False)
    d = derived.get(at.setup)
    if d is None:
        return None
    back = d if d.setup.other_face else d.back
    if back is not None and back.setup.other_face is not None and back.setup.other_face.singly:
        return None  # its pieces lie otherwise
    other = (d.again or d.first) if back is d else back  # as it is once all of it is cut
    if other is None or back is None or back.setup.other_face is None:
        return None
    there = at.model_copy(update={"setup": other.setup.id, "seconds": None})
    try:
        body, stock = _body(store, plan, there)
    except BadInput:  # nothing of it is cut from there
        return None
    return body, turn_of(back.setup.other_face.axis, stock)


def section_of(
    store: Store, plan: Plan, at: SheetAt, start: tuple[float, float], end: tuple[float, float]
) -> SectionDocument:
    """A section along a line of the sheet.

    Raises:
        BadInput: no such sheet, a line of no length, or an end beside the sheet.
    """
    body, stock = _body(store, plan, at)
    for x, y in (start, end):
        if not (0 <= x <= stock.width and 0 <= y <= stock.height):
            raise BadInput(
                f"an end of the section, {x:g}, {y:g} mm, lies beside the sheet, which is {stock.width:g} x"
                f" {stock.height:g} mm; put it on the sheet"
            )
    points = section(body, start, end)
    model = _model_along(models_on(store, plan, at), start, end)
    if points[-1, 0] < 0.5:
        raise BadInput("the line of a section is shorter than 0.5 mm; draw it longer")
    behind, before = [], _other_face(store, plan, at)
    if before is not None:
        other, turn = before
        ends = turn.points(np.array([start, end]))
        for s, h in section(other, tuple(ends[0].tolist()), tuple(ends[1].tolist())):
            behind.append((round(float(s), 3), round(float(-stock.thickness - h), 3)))
    own = plan.setup(at.setup)
    after_all = own is not None and (
        own.turned_back or (own.other_face and not plan.turned_back_after(own.id))
    )
    return SectionDocument(
        behind=behind,
        behind_cut=bool(after_all),
        points=[(round(float(s), 3), round(float(h), 3)) for s, h in points],
        underside=-stock.thickness,
        length=round(float(points[-1, 0]), 3),
        model=model,
    )
