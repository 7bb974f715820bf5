"""What is to be said where the first face of stock is up once more, both faces having been roughed."""

from __future__ import annotations

from venzo.core.faces.face_turns import least_left
from venzo.core.faces.faces_cut import FacesCut, meeting_of, zeroed_on_top
from venzo.core.faces.hollow import hollow_snags
from venzo.core.faces.registration import Dowels
from venzo.core.plan import Setup
from venzo.core.snags import Remedy, Snag, look, stop


def once_more_snags(f: FacesCut, other: Setup, first: Setup) -> list[Snag]:
    """``other``: the face that was cut in between; ``first``: the setup in which this one was roughed."""
    if not f.sheets:
        return []
    said = [*_roughed(f, other, first), *_same_pins(f, other), *_allowed(f, other, first)]
    top = "what roughing has left: touch off where nothing was cut"
    return [*said, *zeroed_on_top(f, top), *hollow_snags(f, other, True)]


def _one_then_the_other(other: Setup) -> Remedy:
    command = {"kind": "order-faces", "setup": other.id, "rough_both_first": False}
    return Remedy(label="One face, then the other", command=command)


def _roughed(f: FacesCut, other: Setup, first: Setup) -> list[Snag]:
    """Is anything roughed, for which the stock is turned once more?"""
    if f.wholes:
        return []
    words = (
        f"{first.name}: no step of it leaves anything for a later one, so nothing is roughed before the turn;"
        " cut one face and then the other, or rough pockets and reliefs with an allowance"
    )
    return [stop("turn.nothing-rough", words, f.where, _one_then_the_other(other))]


def _same_pins(f: FacesCut, other: Setup) -> list[Snag]:
    """Pins that hold the stock only when it is turned do not bring the first face back."""
    turn = other.other_face
    if turn is None or not isinstance(turn.registration, Dowels) or turn.registration.sets == "one":
        return []
    command = {"kind": "change-turn", "setup": other.id, "fields": {"registration": {"sets": "one"}}}
    words = (
        f"{f.setup.name}: the dowels hold the stock only after the turn, nothing brings its first face"
        " back to its place; let them hold it before and after"
    )
    return [stop("turn.pins-once", words, f.where, Remedy(label="Hold it before and after", command=command))]


def _allowed(f: FacesCut, other: Setup, first: Setup) -> list[Snag]:
    """Does roughing leave more than the stock may lie off when it comes back?"""
    left, met = least_left(f.plan, f.setup, f.wholes), meeting_of(f.plan, other, first, f.shapes)
    if left is None or met is None or left > met.across:
        return []
    words = (
        f"{f.setup.name}: roughing leaves {left:.2f} mm, and turned back the stock may lie"
        f" {met.across:.2f} mm off: the finish may find nothing left in places; leave more, or cut one face"
        " and then the other"
    )
    return [look("turn.allowance", words, f.where, _one_then_the_other(other))]
