"""A setup of stock cut from both faces, as it is cut: how well the faces meet, what is between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from venzo.core.cuts.planned import PartCuts
from venzo.core.faces.between import Between, CutFace, between
from venzo.core.faces.dowel_places import room_of
from venzo.core.faces.meeting import Laying, Meeting, faces_meet
from venzo.core.faces.registration import Dowels
from venzo.core.faces.seen import shape_up
from venzo.core.faces.singly import came_from, singly
from venzo.core.faces.turn import turn_of
from venzo.core.memo import memo
from venzo.core.model import Point, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Part, Plan, Setup
from venzo.core.relief.kept_surface import surfaces_of
from venzo.core.snags import Remedy, Snag, Where, look
from venzo.core.stock.sheet import Stock

Cuts = Mapping[str, Mapping[tuple[str, bool], PartCuts]]


@dataclass(frozen=True)
class FacesCut:
    """A setup as it is seen, its cuts by stock and part, its sheets, and the cuts of the first face where its
    stock was turned. ``wholes``: of sheets that are cut in several turns of a face all cuts.
    """

    plan: Plan
    setup: Setup
    cuts: Cuts
    sheets: Sequence[SheetPlan]
    shapes: Mapping[str, Shape]
    before: Cuts | None
    wholes: Sequence[SheetPlan] = ()

    @property
    def where(self) -> Where:
        """For snags."""
        return {"setup": self.setup.id}


def _keeps_straight(registration: Dowels) -> bool:
    """Do dowels stand at more than one place?"""
    places = {(round(d.x, 1), round(d.y, 1)) for d in registration.dowels}
    return len(places) > 1


def meeting_of(plan: Plan, setup: Setup, first: Setup, shapes: Mapping[str, Shape]) -> Meeting | None:
    """How well the faces meet at the worst of the pieces; None while there are none, or nothing holds
    them.
    """
    turn = setup.other_face
    if turn is not None and turn.singly:
        return _meeting_in_the_jig(plan, setup, first, shapes)
    room = room_of(plan, first, shapes)
    if turn is None or room is None:
        return None
    if isinstance(turn.registration, Dowels) and not _keeps_straight(turn.registration):
        return None
    x0, y0, x1, y1 = room.pieces.bounds
    corners: list[Point] = [(x0, y0), (x1, y0), (x0, y1), (x1, y1)]
    laying = Laying(
        turn.registration,
        turn_of(turn.axis, room.stock),
        first.rules.turning.errors,
        (first.z_zero, setup.z_zero),
    )
    key = digest("meet-1", turn, room.stock, corners, laying.errors, list(laying.zeros))
    return memo("meet", key, lambda: faces_meet(laying, corners))


def _meeting_in_the_jig(
    plan: Plan, setup: Setup, first: Setup, shapes: Mapping[str, Shape]
) -> Meeting | None:
    """How well the faces meet at the worst of pieces that are turned one by one."""
    turn = setup.other_face
    assert turn is not None
    errors, zeros = first.rules.turning.errors, (first.z_zero, setup.z_zero)
    found = []
    for s in singly(plan, first, turn, shapes).stock:
        corners: list[Point] = [(0.0, 0.0), (s.width, 0.0), (0.0, s.height), (s.width, s.height)]
        laying = Laying(turn.registration, turn_of(turn.axis, s), errors, zeros)
        found.append(faces_meet(laying, corners))
    return max(found, key=lambda m: m.across, default=None)


def _cut_from(f: FacesCut, stock: Stock, p: Part) -> str:
    """The stock line that a part was cut from on the first face."""
    turn = f.setup.other_face
    if turn is None or not turn.singly or f.setup.nest is None:
        return stock.id
    lies = next((q for q in f.setup.nest.pieces if q.part == p.id and q.sheet == stock.id), None)
    first = f.plan.setup(turn.of)
    at = came_from(first, lies.id) if lies and first else None
    return at[0] if at else stock.id


def between_of(f: FacesCut, stock: Stock, p: Part) -> tuple[Between, ...]:
    """What is left between the faces of a part."""
    ours = (f.before or {}).get(_cut_from(f, stock, p), {}).get((p.id, False))
    planned = f.cuts.get(stock.id, {})
    theirs = planned.get((p.id, True)) or planned.get((p.id, False))
    if ours is None or theirs is None:
        return ()
    shape, surfaces = f.shapes[p.shape], surfaces_of(f.shapes)
    front = CutFace(shape.on("front"), ours, False, surfaces)
    back = CutFace(shape_up(shape, f.setup), theirs, (p.id, True) in planned, surfaces)
    told = [[(a.name, round(a.depth, 6), a.target.wkb_hex) for a in c.areas] for c in (ours, theirs)]
    key = digest("between-2", shape.digest, told, round(stock.thickness, 4), back.mirrored)
    return memo("between", key, lambda: tuple(between(front, back, round(stock.thickness, 4))))


def zeroed_on_top(f: FacesCut, what: str) -> list[Snag]:
    """What is to be said where stock that was turned is zeroed on its top, which is no longer what it was."""
    if f.setup.z_zero == "bed":
        return []
    bed = Remedy(
        label="Zero it on the bed", command={"kind": "set-setup", "setup": f.setup.id, "z_zero": "bed"}
    )
    words = f"{f.setup.name}: zeroed on the top of {what}, or zero it on the bed"
    return [look("turn.zero", words, f.where, bed)]
