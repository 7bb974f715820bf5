"""What is to be said of stock that is cut from both faces."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from venzo.core.faces.dowel_pattern import DowelsJudged, judge_dowels
from venzo.core.faces.dowel_places import in_the_way, propose_dowels, room_of
from venzo.core.faces.faces_cut import FacesCut, between_of, meeting_of, zeroed_on_top
from venzo.core.faces.halves import half_snags
from venzo.core.faces.hollow import hollow_snags
from venzo.core.faces.once_more import once_more_snags
from venzo.core.faces.registration import Dowel, DowelPin, Dowels
from venzo.core.faces.seen import face_before, first_face
from venzo.core.faces.turn import Axis, turn_of
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.release.guides import BORES_FROM, TurnGuides, guides_of
from venzo.core.snags import BadInput, Remedy, Snag, Where, look, stop
from venzo.core.stock.sheet import Stock


def face_snags(f: FacesCut) -> list[Snag]:
    """Everything there is to say."""
    if f.setup.turned_back is not None:
        other = face_before(f.plan, f.setup)
        return once_more_snags(f, other, first_face(f.plan, other))
    if f.setup.other_face is None:
        return _back_uncut(f) if f.setup.role is None else []
    try:
        first = first_face(f.plan, f.setup)
    except BadInput:
        return []
    top = "what the first face has left: measure the thickness again when it is turned"
    said = [*_sizes(f), *_registered(f, first), *zeroed_on_top(f, top)]
    return [*said, *_broken_through(f, first), *half_snags(f, first), *hollow_snags(f, f.setup, False)]


def _back_uncut(f: FacesCut) -> list[Snag]:
    """Parts with something on their back, in a setup that is not turned over."""
    mine = [p for p in f.plan.parts_of(f.setup.id) if p.quantity and not p.missing]
    out = []
    for p in mine:
        back = [x.name for x in f.shapes[p.shape].features if x.face == "back"]
        if not back:
            continue
        axis = "x" if not f.setup.stock or f.setup.stock[0].width >= f.setup.stock[0].height else "y"
        turn = Remedy(
            label="Turn the stock over",
            command={"kind": "turn-over", "setup": f.setup.id, "axis": axis, **_with_dowels(f, axis)},
        )
        named = ", ".join(back[:3]) + (f" and {len(back) - 3} more" if len(back) > 3 else "")
        words = f"{p.name}: {named} {'is' if len(back) == 1 else 'are'} on its back, which nothing cuts"
        where: Where = {**f.where, "part": p.id, "contour": back[0]}
        out.append(stop("turn.back", f"{words}; turn the stock over", where, turn))
    return out


def _with_dowels(f: FacesCut, axis: str) -> dict:
    """The registration that a turn begins with, as a field of its command."""
    found = proposal(f.plan, f.setup, f.shapes, axis)
    return {"registration": found.model_dump(mode="json")} if found else {}


def proposal(plan: Plan, first: Setup, shapes: Mapping[str, Shape], axis: str) -> Dowels | None:
    """Dowels that would do for a turn of a setup's sheets; None where the layout leaves no room for any."""
    room = room_of(plan, first, shapes)
    if room is None:
        return None
    pins = [p for p in first.rules.turning.dowels if _bored(first, p, room.stock)]
    key = digest("dowels-1", room.stock, shapely.to_wkb(room.taken, hex=True), axis, [list(p) for p in pins])
    return memo("dowels", key, lambda: (propose_dowels(room, axis, pins),))[0]


def _bored(first: Setup, pin: DowelPin, stock: Stock) -> bool:
    """Can a cutter of the setup make the hole for a sort of dowel, and is it no longer than the stock lets
    it?
    """
    one = Dowel(id="d", x=0.0, y=0.0, diameter=pin.diameter, fit=pin.fit, length=pin.length)
    return bored(first, one, stock) and not one.wrong_length(Dowels().below, stock.thickness)


def bored(setup: Setup, dowel: Dowel, stock: Stock) -> bool:
    """Can a cutter of a setup make the hole for a dowel?"""
    register = Dowels(dowels=(dowel,))
    return bool(TurnGuides(setup, register.dowels, register.below, register, "x").cutters(stock))


def _sizes(f: FacesCut) -> list[Snag]:
    """Sheets of several sizes are turned about several axes."""
    used = [s for s in f.setup.stock if any(p.sheet == s.id for p in f.sheets)]
    sizes = {(round(s.width, 2), round(s.height, 2)) for s in used}
    if len(sizes) < 2 or not isinstance(f.setup.other_face.registration, Dowels):  # type: ignore[union-attr]
        return []
    words = (
        f"{f.setup.name}: sheets of {len(sizes)} sizes are turned, one set of dowels serves one size; nest on"
        " sheets of one size, or register by fences"
    )
    return [stop("turn.sizes", words, f.where)]


def _registered(f: FacesCut, first: Setup) -> list[Snag]:
    """Do dowels hold the stock, only as it is meant, and clear of what is cut?"""
    turn = f.setup.other_face
    if turn is None or not isinstance(turn.registration, Dowels) or not f.setup.stock:
        return []
    register, room = turn.registration, room_of(f.plan, first, f.shapes)
    stock = room.stock if room else f.setup.stock[0]
    new = proposal(f.plan, first, f.shapes, turn.axis)
    remedies = []
    if new is not None and new != register:
        value = {"=": new.model_dump(mode="json")}
        command = {"kind": "change-turn", "setup": f.setup.id, "fields": {"registration": value}}
        remedies = [Remedy(label="Dowels where they fit only as meant", command=command)]
    hint = "" if new is not None else _no_room(first)
    judged = judged_on(register, turn.axis, stock)
    if not judged.fits_only_as_meant:
        words = f"{f.setup.name}: {judged.says}{hint}"
        return [stop("turn.dowels", words, f.where, *remedies)]
    for d in register.dowels:
        wrong = d.wrong_length(register.below, stock.thickness)
        if wrong:
            words = (
                f"{f.setup.name}: dowel {d.id}, {d.length:g} mm long, {wrong}: set it deeper, or take another"
            )
            return [stop("turn.length", words, {**f.where, "x": d.x, "y": d.y}, *remedies)]
    guides = guides_of(f.plan, first)
    for d in guides.missing(stock) if guides else ():
        words = (
            f"{f.setup.name}: no cutter of {first.name} makes the hole of dowel {d.id}, {d.hole:g} mm: bring"
            f" in a drill of that size or an end mill of at most {BORES_FROM * d.hole:.1f} mm, or take"
            " another dowel"
        )
        return [stop("turn.dowel-cutter", words, {**f.where, "x": d.x, "y": d.y})]
    bad = in_the_way(register.dowels, room) if room else []
    return [
        stop(
            "turn.dowel-place",
            f"{f.setup.name}: dowel {d.id}: {why}{hint}",
            {**f.where, "x": d.x, "y": d.y},
            *remedies,
        )
        for d, why in bad[:1]
    ]


def judged_on(registration: Dowels, axis: Axis, stock: Stock) -> DowelsJudged:
    """Dowels judged on a sheet, remembered."""
    key = digest("dowels-judged-1", registration, axis, stock.width, stock.height)
    return memo("dowels-judged", key, lambda: judge_dowels(registration, turn_of(axis, stock)))


def _no_room(first: Setup) -> str:
    margin = max((s.margin for s in first.stock), default=0.0)
    return (
        f"; the layout leaves no room for dowels within a margin of {margin:g} mm: widen it, nest again, or"
        " register by fences or edges"
    )


def _broken_through(f: FacesCut, first: Setup) -> list[Snag]:
    """What is cut into one face breaks into what is cut into the other, or nearly so."""
    out = []
    least = first.rules.turning.least_floor
    met = meeting_of(f.plan, f.setup, first, f.shapes)
    slack = met.through if met else 0.0
    for stock in f.setup.stock:
        for p in f.plan.parts_of(f.setup.id):
            found = between_of(f, stock, p)
            if not found or found[0].left >= least:
                continue
            w = found[0]
            where: Where = {**f.where, "part": p.id, "contour": w.back, "x": w.x, "y": w.y}
            named = f"{p.name}: {w.front} on the front and {w.back} on the back"
            at = f"at {w.x:.1f}, {w.y:.1f} mm of the part"
            if w.left <= slack:
                does = (
                    f"break into each other by {-w.left:.2f} mm"
                    if w.left < 0
                    else f"leave {w.left:.2f} mm, no more than thickness and zeros are off ({slack:.2f} mm),"
                )
                words = f"{named} {does} {at}; make one of them less deep"
                out.append(stop("turn.through", words, where))
            else:
                words = f"{named} leave {w.left:.2f} mm {at}, {least:g} mm is the house rule; it may break"
                out.append(look("turn.thin", words, where))
    return out
