"""The shop's desk: a card for every job, with its first sheet drawn small and how far it has come.

A card is kept beside its job, made when the job is read; the desk shows thousands of them and derives none.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from typing import Literal

import shapely
import shapely.affinity
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry
from sqlalchemy.exc import DBAPIError

from venzo.core.derive import DerivedSetup
from venzo.core.model import Document, Fields
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.release.contents import contents
from venzo.core.route import Facts, Mark, Stand, Station, go_on, stands
from venzo.core.stock.laid_sheets import LaidSheet
from venzo.core.stock.machine import Machine
from venzo.core.stock.sheet import Stock
from venzo.desk.jobs import derived_of
from venzo.desk.library import shop_machine
from venzo.store.store import NotFound, Revision, Store

FINE = 240
"""Steps along the longer side of a small picture; nothing finer is drawn."""
MOST_DRAWN = 400
"""Pieces of a small picture."""
MOST_PARTS = 12
"""Parts drawn where nothing is nested yet."""

Points = list[tuple[int, int]]


class SmallPicture(Document):
    """Outlines on a grid of small steps, y upwards: the ground (sheet, table or board), and what lies on
    it.
    """

    width: int
    height: int
    ground: list[Points]
    pieces: list[Points]


class StationMark(Document):
    """A station's mark over all setups of the job."""

    station: Station
    mark: Mark
    stops: int
    looks: int


class Card(Document):
    """What the desk shows of a job beside its names: ``revision``: of which change it is."""

    revision: int
    pieces: int
    sheets: int
    seconds: float
    route: list[StationMark]
    go_on: Station
    picture: SmallPicture

    @property
    def standing(self) -> Literal["stops", "looks", "clear", "begun"]:
        """In a word, to filter by."""
        if any(m.mark == "held up" for m in self.route):
            return "stops"
        if not self.pieces:
            return "begun"
        return "looks" if any(m.looks for m in self.route) else "clear"


def facts_of(plan: Plan, d: DerivedSetup) -> Facts:
    """What the marks of a setup follow from."""
    stock = [s for s in d.setup.stock if s.quantity > 0]
    return Facts(
        parts=len(plan.parts_of(d.first.setup.id if d.first else d.setup.id)),
        stock=len(stock),
        measured=sum(bool(s.readings) for s in stock),
        pieces=d.yields.pieces,
        nested=d.layout.state != "none",
        left_out=len(contents(plan, d).leaves_out),
    )


def route_of(plan: Plan, d: DerivedSetup) -> list[Stand]:
    """How the stations of a setup stand."""
    return stands(d.snags, facts_of(plan, d))


WORST: tuple[Mark, ...] = ("held up", "in hand", "untouched", "clear")


def card(revision: Revision, derived: Mapping[str, DerivedSetup], shapes: Mapping[str, Shape]) -> Card:
    """The card of a revision."""
    plan = revision.plan
    routes = [route_of(plan, d) for d in derived.values()]
    whole = [_over_all([r[i] for r in routes]) for i in range(len(routes[0]))] if routes else []
    return Card(
        revision=revision.number,
        pieces=sum(d.yields.pieces for d in derived.values() if d.first is None),
        sheets=sum(len(d.yields.sheets) for d in derived.values() if d.first is None),
        seconds=round(sum(d.yields.seconds for d in derived.values()), 1),
        route=[StationMark(**s.model_dump(exclude={"matters"})) for s in whole],
        go_on=go_on(whole) if whole else "parts",
        picture=picture(plan, shapes),
    )


def _over_all(at: Sequence[Stand]) -> Stand:
    """A station over several setups: as far as the one that is furthest behind."""
    worst = min(at, key=lambda s: WORST.index(s.mark))
    sums = {"stops": sum(s.stops for s in at), "looks": sum(s.looks for s in at)}
    return worst.model_copy(update=sums)


def picture(plan: Plan, shapes: Mapping[str, Shape]) -> SmallPicture:
    """The job drawn small: its first sheet as it is nested, else its parts, else its board or table."""
    for s in plan.setups:
        if s.nest and s.nest.pieces:
            first = s.nest.pieces[0]
            return sheet_picture(plan, s, (first.sheet, first.sheet_copy), shapes)[0]
    if plan.parts:
        return _parts(plan, shapes)
    if plan.surface:
        b = plan.surface.board
        return _small(box(0, 0, b.width, b.height), [])
    machine = plan.setups[0].machine if plan.setups else None
    return _small(box(0, 0, machine.width, machine.height) if machine else box(0, 0, 2, 1), [])


def run_picture(store: Store, plan: Plan) -> SmallPicture:
    """The table of a run drawn small, with the pieces of its sheets where they lie on the grid; sheets that
    are not there any more are left out.
    """
    table: Machine | None = None
    laid: list[BaseGeometry] = []
    for s in plan.run.sheets if plan.run else ():
        found = _sheet_of(store, s)
        if found is None:
            continue
        of, setup, stock = found
        table = table or shop_machine(store, setup.machine)
        if table.grid is None or s.square > table.grid.columns * table.grid.rows:
            continue
        x, y = table.grid.corner(*table.grid.square(s.square))
        pieces = [g for _p, g in _laid_pieces(of, setup, (s.sheet, s.copy_no), store.shapes)]
        laid += [shapely.affinity.translate(p, x, y) for p in (_ground(stock, []), *pieces)]
    return _small(box(0, 0, table.width, table.height) if table else box(0, 0, 2, 1), laid)


def _sheet_of(store: Store, s: LaidSheet) -> tuple[Plan, Setup, Stock] | None:
    """The plan, setup and stock of a sheet that is laid on a table."""
    try:
        plan = store.get(s.job).plan
    except NotFound:
        return None
    setup = plan.setup(s.setup)
    stock = setup.stock_of(s.sheet) if setup else None
    return (plan, setup, stock) if setup and stock else None


def _laid_pieces(
    plan: Plan, setup: Setup, at: tuple[str, int], shapes: Mapping[str, Shape]
) -> list[tuple[Piece, Polygon]]:
    """The pieces of a sheet as they are nested, and each of them coarse."""
    out = []
    for p in setup.nest.pieces if setup.nest else ():
        part = plan.part(p.part)
        if (p.sheet, p.sheet_copy) == at and part is not None and part.shape in shapes:
            lying = shapes[part.shape].region.placed(p.x, p.y, p.rotation, p.mirrored)
            out.append((p, lying.polygon(1.0)))
        if len(out) == MOST_DRAWN:
            break
    return out


def sheet_picture(
    plan: Plan, setup: Setup, at: tuple[str, int], shapes: Mapping[str, Shape]
) -> tuple[SmallPicture, list[Piece]]:
    """A sheet as it is nested, drawn small, and of each of its outlines the piece."""
    assert setup.nest is not None
    laid = _laid_pieces(plan, setup, at, shapes)
    of, pieces = [p for p, _g in laid], [g for _p, g in laid]
    drawn, rings = _drawn(_ground(setup.stock_of(at[0]), pieces), pieces)
    return drawn, [p for p, n in zip(of, rings, strict=True) for _ in range(n)]


def _ground(stock: Stock | None, pieces: Sequence[Polygon]) -> BaseGeometry:
    if stock is None:  # taken away since; its pieces are still where they lay
        return box(*shapely.total_bounds(list(pieces))) if pieces else box(0, 0, 2, 1)
    return Polygon(stock.outline) if len(stock.outline) > 2 else box(0, 0, stock.width, stock.height)


def _parts(plan: Plan, shapes: Mapping[str, Shape]) -> SmallPicture:
    """The first parts side by side in rows, each on a cell of one size."""
    drawn = [shapes[p.shape].region.polygon(1.0) for p in plan.parts[:MOST_PARTS] if p.shape in shapes]
    cell = 1.15 * max((max(g.bounds[2] - g.bounds[0], g.bounds[3] - g.bounds[1]) for g in drawn), default=1.0)
    across = min(4, max(1, len(drawn)))
    down = -(-len(drawn) // across)
    placed = []
    for k, g in enumerate(drawn):
        x0, y0, x1, y1 = g.bounds
        x, y = (k % across + 0.5) * cell, (down - k // across - 0.5) * cell
        placed.append(shapely.affinity.translate(g, x - (x0 + x1) / 2, y - (y0 + y1) / 2))
    return _small(box(0, 0, across * cell, max(1, down) * cell), placed, bare=True)


def _small(ground: BaseGeometry, pieces: Sequence[BaseGeometry], bare: bool = False) -> SmallPicture:
    """Drawn to a grid of small steps. ``bare``: without its ground."""
    drawn, _rings = _drawn(ground, pieces)
    return drawn.model_copy(update={"ground": []}) if bare else drawn


def _drawn(ground: BaseGeometry, pieces: Sequence[BaseGeometry]) -> tuple[SmallPicture, list[int]]:
    """A small picture, and how many outlines each piece has in it."""
    x0, y0, x1, y1 = ground.bounds
    k = FINE / max(x1 - x0, y1 - y0, 1e-9)

    def outlines(g: BaseGeometry) -> list[Points]:
        # thinned in steps, then rounded to them: a circle of a few steps needs few points
        drawn = shapely.affinity.affine_transform(g, (k, 0, 0, k, -x0 * k, -y0 * k)).simplify(0.4)
        rings = [r for p in getattr(drawn, "geoms", [drawn]) for r in (p.exterior, *p.interiors)]
        found = [list(dict.fromkeys((round(x), round(y)) for x, y in r.coords)) for r in rings]
        return [f for f in found if len(f) > 2]

    each = [outlines(g) for g in pieces]
    small = SmallPicture(
        width=max(1, round((x1 - x0) * k)),
        height=max(1, round((y1 - y0) * k)),
        ground=outlines(ground),
        pieces=[o for found in each for o in found],
    )
    return small, [len(found) for found in each]


def as_svg(drawn: SmallPicture) -> str:
    """A small picture as an image of its own."""

    def path(outlines: list[Points]) -> str:
        return "".join("M" + "L".join(f"{x} {y}" for x, y in o) + "Z" for o in outlines)

    w, h = drawn.width, drawn.height
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-3 -3 {w + 6} {h + 6}">'
        f'<g transform="translate(0 {h}) scale(1 -1)" stroke-linejoin="round">'
        f'<path d="{path(drawn.ground)}" fill="#eedcb6" stroke="#21262a" stroke-width="2"/>'
        f'<path d="{path(drawn.pieces)}" fill="#fbf7ef" fill-rule="evenodd" stroke="#1c4e49"'
        ' stroke-width="1.4"/></g></svg>'
    )


def remember(store: Store, revision: Revision, derived: Mapping[str, DerivedSetup]) -> None:
    """Keep the card of a revision that was read, unless it is kept already. A disk that cannot be written
    keeps nobody from reading.
    """
    job = revision.plan.id
    try:
        if store.card_of(job) != revision.number and store.head(job) == revision.number:
            keep_card(store, revision, card(revision, derived, store.shapes))
    except (OSError, DBAPIError) as e:
        logging.getLogger("venzo").warning("the card of %s was not kept: %s", job, e)


def card_now(store: Store, job: str) -> Card:
    """The card of a job's newest revision; derived, and kept, where it is not known.

    Raises:
        NotFound: no such job.
    """
    revision = store.get(job)
    if revision.plan.run is not None:  # never kept: its sheets are as other jobs have them now
        made = card(revision, {}, store.shapes)
        return made.model_copy(update={"picture": run_picture(store, revision.plan)})
    found = kept(store.kept_card(job))
    if found is not None and found.revision == revision.number:
        return found
    made = card(revision, derived_of(store, revision), store.shapes)
    keep_card(store, revision, made)
    return made


def keep_card(store: Store, revision: Revision, made: Card) -> None:
    """Keep a card beside its job, unless the job has gone on since."""
    store.keep_card(revision.plan.id, made.revision, made.model_dump(mode="json"), made.standing)


def kept(body: Fields | None) -> Card | None:
    """A card as it was kept; None where there is none, or one of another version's make."""
    try:
        return Card.model_validate(body) if body else None
    except ValueError:
        return None
