"""Stock cut from both faces, as it is told: how it is turned, what holds it, how well the faces meet."""

from __future__ import annotations

from collections.abc import Mapping

from venzo.core.derive import DerivedSetup
from venzo.core.edits.asks import PlaceDowels
from venzo.core.edits.base import setup_of
from venzo.core.edits.turning import ChangeTurn, TurnOver
from venzo.core.faces.dowel_places import room_of
from venzo.core.faces.face_snags import judged_on, proposal
from venzo.core.faces.faces_cut import FacesCut, between_of, meeting_of
from venzo.core.faces.registration import Dowels, OtherFace, registration_says
from venzo.core.faces.seen import first_face
from venzo.core.faces.singly import in_the_corner
from venzo.core.faces.turn import Axis, Turn, turn_of
from venzo.core.model import Document
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Corner
from venzo.core.stock.sheet import Stock
from venzo.core.units import show_length
from venzo.store.store import Revision, Store


class DowelSeen(Document):
    """A dowel where it stands in the sheet as this face is up, mm."""

    id: str
    x: float
    y: float
    diameter: float
    hole: float
    here: bool
    """It holds the stock while this face is up."""


class Share(Document):
    """What an error comes from, mm."""

    what: str
    mm: float


class CornerSeen(Document):
    """A piece's corner that comes into a jig, on its sheet, mm."""

    piece: str
    sheet: str
    sheet_copy: int
    x: float
    y: float


class BetweenSeen(Document):
    """What is left of a part between a feature of its front and one of its back, mm, and where on the
    part.
    """

    part: str
    name: str
    front: str
    back: str
    left: float
    x: float
    y: float


class TurnSeen(Document):
    """How the sheets of a setup are turned.

    ``first``, ``other``: the setups of both faces, ``again``: that in which the first is up once more (empty:
    none); ``number``: which turn of how many (``of``) this is; ``mark``: the corner that is marked, as this
    face is up; ``fits``: do the dowels let it lie only as it is meant (None: it has
    none); ``nearest``: the wrong way that is nearest to fitting, and by how much it does not, mm.
    """

    first: str
    other: str
    again: str
    number: int
    of: int
    turn: OtherFace
    width: float
    height: float
    mark: Corner
    says: str
    dowels: list[DowelSeen]
    fits: bool | None
    verdict: str
    nearest: str
    nearest_error: float | None
    across: float | None
    through: float | None
    shares: list[Share]
    through_shares: list[Share]
    between: list[BetweenSeen]
    placeable: bool
    """There is room for other dowels that fit only as they are meant."""
    corners: list[CornerSeen]
    """Of pieces that are turned one by one which corner comes into the jig, on the sheets of the first face.
    """


def turn_seen(
    plan: Plan, derived: Mapping[str, DerivedSetup], setup_id: str, shapes: Mapping[str, Shape]
) -> TurnSeen | None:
    """How a setup's sheets are turned; None where they are not."""
    d = derived.get(setup_id)
    if d is None or d.setup.role is None or d.underived:
        return None
    back = d.setup if d.setup.other_face else plan.setup(d.setup.role.other)
    first = first_face(plan, back) if back is not None and back.other_face is not None else None
    if back is None or back.other_face is None or first is None or not d.setup.stock:
        return None
    turn, stock = back.other_face, _stock(plan, first, shapes)
    if stock is None:
        return None
    turned = turn_of(turn.axis, stock)
    met = meeting_of(plan, back, first, shapes)
    dowels = turn.registration if isinstance(turn.registration, Dowels) else None
    judged = judged_on(dowels, turn.axis, stock) if dowels else None
    nearest = judged.nearest if judged else None
    return TurnSeen(
        first=first.id,
        other=back.id,
        again=again.id if (again := plan.turned_back_after(back.id)) else "",
        number=d.setup.role.number,
        of=d.setup.role.of,
        turn=turn,
        width=stock.width,
        height=stock.height,
        mark=turned.corner(turn.mark) if d.setup.role.number == 2 else turn.mark,
        says=registration_says(turn.registration, lambda v: show_length(v, "mm")),
        dowels=_dowels(turn, turned, d.setup.role.number),
        fits=judged.fits_only_as_meant if judged else None,
        verdict=judged.says if judged else "",
        nearest=nearest.says if nearest else "",
        nearest_error=round(nearest.error, 3) if nearest else None,
        across=round(met.across, 3) if met else None,
        through=round(met.through, 3) if met else None,
        shares=[Share(what=w, mm=round(mm, 3)) for w, mm in (met.items if met else ())],
        through_shares=[Share(what=w, mm=round(mm, 3)) for w, mm in (met.through_items if met else ())],
        between=_between(plan, derived, back.id, shapes),
        placeable=dowels is not None and proposal(plan, first, shapes, turn.axis) not in (None, dowels),
        corners=_corners(plan, first, turn, shapes) if turn.singly and d.setup.role.number == 1 else [],
    )


def _corners(plan: Plan, first: Setup, turn: OtherFace, shapes: Mapping[str, Shape]) -> list[CornerSeen]:
    return [
        CornerSeen(
            piece=c.piece, sheet=c.sheet, sheet_copy=c.sheet_copy, x=round(c.at[0], 3), y=round(c.at[1], 3)
        )
        for c in in_the_corner(plan, first, turn, shapes)
    ]


def _stock(plan: Plan, first: Setup, shapes: Mapping[str, Shape]) -> Stock | None:
    room = room_of(plan, first, shapes)
    return room.stock if room else next(iter(first.stock), None)


def _dowels(turn: OtherFace, turned: Turn, number: int) -> list[DowelSeen]:
    if not isinstance(turn.registration, Dowels):
        return []
    out = []
    for d in turn.registration.dowels:
        x, y = turned.point(d.at) if number == 2 else d.at
        here = number == 2 or turn.registration.sets == "one"
        out.append(DowelSeen(id=d.id, x=x, y=y, diameter=d.diameter, hole=d.hole, here=here))
    return out


def _between(
    plan: Plan, derived: Mapping[str, DerivedSetup], back: str, shapes: Mapping[str, Shape]
) -> list[BetweenSeen]:
    """The thinnest places between the faces, of every part the first."""
    d = derived.get(back)
    if d is None or d.first is None:
        return []
    cut = FacesCut(plan, d.setup, d.cuts, d.sheets, shapes, d.first.cuts)
    out = []
    for stock in d.setup.stock:
        for p in plan.parts_of(d.first.setup.id):
            for w in between_of(cut, stock, p)[:3]:
                named = {"part": p.id, "name": p.name, "front": w.front, "back": w.back}
                place = {"left": round(w.left, 3), "x": round(w.x, 2), "y": round(w.y, 2)}
                out.append(BetweenSeen(**named, **place))
    return sorted(out, key=lambda b: b.left)[:12]


def place_dowels(store: Store, job: str, base: int, ask: PlaceDowels) -> Revision:
    """Turn a setup's sheets over, with dowels where there is room for them; or place them anew.

    Raises:
        BadInput: there is no such setup, it cannot be turned, or it is and the layout leaves no room.
    """
    plan = store.get(job).plan
    setup = setup_of(plan, ask.setup)
    if setup.other_face is None:
        axis = ask.axis or _long_axis(setup)
        found = proposal(plan, setup, store.shapes, axis)
        return store.apply(job, base, TurnOver(setup=setup.id, axis=axis, registration=found or Dowels()))
    first = first_face(plan, setup)
    found = proposal(plan, first, store.shapes, setup.other_face.axis)
    if found is None:
        raise BadInput(
            f"{setup.name}: the layout leaves no room for dowels; widen the margin of the sheet and nest"
            " again, or register by fences or edges"
        )
    fields = {"registration": {"=": found.model_dump(mode="json")}}
    return store.apply(job, base, ChangeTurn(setup=setup.id, fields=fields))


def _long_axis(setup: Setup) -> Axis:
    """Sheets are turned about their long side: it is carried less far (common practice)."""
    stock = next(iter(setup.stock), None)
    return "y" if stock is not None and stock.height > stock.width else "x"
