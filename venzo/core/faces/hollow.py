"""What is cut over a hollow that the other face has left underneath: does the floor between them bear it?"""

from __future__ import annotations

from venzo.core.cuts.planned import PartCuts
from venzo.core.faces.between import Between
from venzo.core.faces.faces_cut import FacesCut, between_of
from venzo.core.faces.registration import OtherFace
from venzo.core.holding.strength import sag_over
from venzo.core.plan import Part, Setup
from venzo.core.snags import Remedy, Snag, Where, look


def hollow_snags(f: FacesCut, other: Setup, front_up: bool) -> list[Snag]:
    """Floors that sink under the cutter, of every part the worst. ``other``: the setup of the other face, by
    which the stock is turned; ``front_up``: is the first face up once more, and the other underneath?
    """
    turn = other.other_face
    if turn is None or turn.filled:
        return []
    out = []
    for stock in f.setup.stock:
        for p in f.plan.parts_of(f.setup.id):
            planned = f.cuts.get(stock.id, {})
            cuts = planned.get((p.id, True)) or planned.get((p.id, False))
            if cuts is None:
                continue
            sags = [(_sag(f, w, cuts, front_up), w) for w in between_of(f, stock, p) if w.left > 0]
            sag, worst = max(sags, key=lambda s: s[0], default=(0.0, None))
            if worst is not None and sag > f.setup.rules.hold.chatter:
                out.append(_said(f, other, p, (worst, sag, _force(cuts, worst, front_up)), front_up))
    return out


def _force(cuts: PartCuts, w: Between, front_up: bool) -> float:
    """The heaviest pass on the feature that is cut, N."""
    name = w.front if front_up else w.back
    return max((c.load.force for c in cuts.cuts if c.contour == name), default=0.0)


def _sag(f: FacesCut, w: Between, cuts: PartCuts, front_up: bool) -> float:
    """How far the floor sinks in the middle of the hollow under it, mm; as thin all over as at its thinnest,
    which errs on the safe side.
    """
    span = w.spans[1] if front_up else w.spans[0]
    modulus = f.setup.rules.hold.stiffness[f.setup.material.family]
    return sag_over(_force(cuts, w, front_up), span, w.left, modulus)


def _said(f: FacesCut, other: Setup, p: Part, found: tuple[Between, float, float], front_up: bool) -> Snag:
    w, sag, force = found
    up, under = (w.front, w.back) if front_up else (w.back, w.front)
    span = w.spans[1] if front_up else w.spans[0]
    command = {"kind": "change-turn", "setup": other.id, "fields": {"filled": True}}
    words = (
        f"{p.name}: {up} is cut over {under}, hollow underneath and {span:.0f} mm across: {w.left:.2f} mm"
        f" stand between and sink {sag:.2f} mm under {force:.0f} N; lay a filler or a cradle under it"
    )
    where: Where = {**f.where, "part": p.id, "contour": up, "x": w.x, "y": w.y}
    return look("turn.hollow", words, where, Remedy(label="Hollows are filled", command=command))


def filled_says(turn: OtherFace) -> str:
    """What is done about hollows underneath, for paper; empty: nothing."""
    words = "fill what lies hollow underneath: a filler or a cradle as high as the hollow is deep"
    return words if turn.filled else ""
