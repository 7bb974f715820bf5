"""Two revisions of a job side by side: what differs drawn, in words and in figures."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from venzo.core.derive import DerivedSetup
from venzo.core.model import Document
from venzo.core.nesting.layout import figures
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.snags import BadInput
from venzo.desk.cards import SmallPicture, StationMark, card, picture, sheet_picture
from venzo.desk.holding import lowest, ratio
from venzo.desk.jobs import followed
from venzo.desk.yields import total_cost
from venzo.store.store import Revision, Store

State = Literal["same", "moved", "only here"]
SAME_PLACE = 1e-3
"""mm, or degrees."""
MOST_CHANGES = 200


class SheetDrawn(Document):
    """A sheet, with the state of each of its pieces beside the other revision."""

    setup: str
    name: str
    picture: SmallPicture
    states: list[State]
    """Of the piece of each outline drawn."""
    of: list[int]
    """Which piece each outline belongs to, counted from 0."""


class RevisionFigures(Document):
    """What a revision comes to.

    ``material_yield``: share of the sheets used that is parts, the last counted as far as it is used;
    ``seconds`` of motion; ``hold``: least hold over load of any piece, None: not worked out.
    """

    pieces: int
    sheets: int
    material_yield: float
    seconds: float
    cutters: int
    files: int
    hold: float | None
    cost: float | None
    """All it costs, in ``currency``; None: something has no price, or nothing is laid."""
    currency: str
    route: list[StationMark]


class RevisionSide(Document):
    """One of the two: its figures and its sheets drawn."""

    revision: int
    says: str
    figures: RevisionFigures
    sheets: list[SheetDrawn]


class RevisionsCompared(Document):
    """Two revisions, the older first, and the changes from the one to the other, in order."""

    older: RevisionSide
    newer: RevisionSide
    changes: list[str]


def compared(store: Store, job: str, one: int, other: int) -> RevisionsCompared:
    """Two revisions of a job side by side.

    Raises:
        NotFound: no such job or revision.
        BadInput: the same revision twice.
    """
    if one == other:
        raise BadInput(f"change {one} is compared with itself; choose another one")
    a, b = (store.get(job, n) for n in sorted((one, other)))
    lines = store.history(job, limit=MOST_CHANGES, before=b.number + 1)
    changes = [line["says"] for line in reversed(lines) if line["revision"] > a.number]
    return RevisionsCompared(older=_side(store, a, b.plan), newer=_side(store, b, a.plan), changes=changes)


def _side(store: Store, revision: Revision, beside: Plan) -> RevisionSide:
    plan = revision.plan
    derived = followed(store, revision)
    return RevisionSide(
        revision=revision.number,
        says=revision.says,
        figures=figures_of(store, revision, derived),
        sheets=_sheets(plan, beside, store.shapes) or [_bare(plan, store.shapes)],
    )


def figures_of(store: Store, revision: Revision, derived: Mapping[str, DerivedSetup]) -> RevisionFigures:
    """What a revision comes to."""
    found = card(revision, derived, store.shapes)
    laid = [
        figures(revision.plan, d.setup, d.setup.nest, store.shapes)
        for d in derived.values()
        if d.setup.nest and not d.underived and d.first is None
    ]
    holds = [h for d in derived.values() for h in d.holds]
    least = [x.ratio for h in holds if h is not None and (x := lowest(h)) is not None]
    return RevisionFigures(
        pieces=found.pieces,
        sheets=found.sheets,
        # several setups: the mean, each counted by its sheets
        material_yield=sum(f.material_yield * f.sheets for f in laid) / max(1, sum(f.sheets for f in laid)),
        seconds=found.seconds,
        cutters=len({c for d in derived.values() for c in d.cutters_used}),
        files=sum(len(d.sheets) for d in derived.values()),
        hold=ratio(min(least)) if least and all(h is not None for h in holds) else None,
        cost=total_cost(store, revision.plan, derived),
        currency=next((s.rules.currency for s in revision.plan.setups if s.rules.currency), ""),
        route=found.route,
    )


def _sheets(plan: Plan, beside: Plan, shapes: Mapping[str, Shape]) -> list[SheetDrawn]:
    out = []
    for s in plan.setups:
        twin = beside.setup(s.id)
        there = {(p.part, p.copy_no): p for p in (twin.nest.pieces if twin and twin.nest else ())}
        for at in dict.fromkeys((p.sheet, p.sheet_copy) for p in (s.nest.pieces if s.nest else ())):
            out.append(_sheet(plan, s, at, there, shapes))
    return out


def _sheet(
    plan: Plan,
    s: Setup,
    at: tuple[str, int],
    there: Mapping[tuple[str, int], Piece],
    shapes: Mapping[str, Shape],
) -> SheetDrawn:
    drawn, of = sheet_picture(plan, s, at, shapes)
    stock = s.stock_of(at[0])
    number = {name: n for n, name in enumerate(dict.fromkeys((p.part, p.copy_no) for p in of))}
    return SheetDrawn(
        setup=s.id,
        name=f"{stock.name if stock else at[0]}, {at[1] + 1}",
        picture=drawn,
        states=[_state(p, there.get((p.part, p.copy_no))) for p in of],
        of=[number[p.part, p.copy_no] for p in of],
    )


def _state(p: Piece, other: Piece | None) -> State:
    if other is None:
        return "only here"
    there = (p.sheet, p.sheet_copy, p.mirrored) == (other.sheet, other.sheet_copy, other.mirrored)
    turn = abs((p.rotation - other.rotation + 180) % 360 - 180)
    far = max(abs(p.x - other.x), abs(p.y - other.y), turn)
    return "same" if there and far <= SAME_PLACE else "moved"


def _bare(plan: Plan, shapes: Mapping[str, Shape]) -> SheetDrawn:
    """The job where nothing is nested."""
    drawn = picture(plan, shapes)
    return SheetDrawn(
        setup="",
        name="not nested",
        picture=drawn,
        states=["same"] * len(drawn.pieces),
        of=list(range(len(drawn.pieces))),
    )
