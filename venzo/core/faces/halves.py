"""Outlines that are cut half from each face: do the halves meet, or leave the web that is meant?"""

from __future__ import annotations

from venzo.core.cuts.operations import Profile
from venzo.core.cuts.planned import PartCuts
from venzo.core.faces.faces_cut import FacesCut, meeting_of
from venzo.core.plan import Part, Setup
from venzo.core.snags import Remedy, Snag, Where, look, note, stop


def _deepest(cuts: PartCuts | None, contour: str) -> float | None:
    """How deep a contour is cut, mm; None: it is not."""
    mine = [-c.levels[-1] for c in cuts.cuts if c.contour == contour] if cuts else []
    return max(mine, default=None)


def half_snags(f: FacesCut, first: Setup) -> list[Snag]:
    """Do outlines that are cut half from each face meet, or leave the web that is meant?"""
    turn = f.setup.other_face
    if turn is None or not f.setup.halves:
        return []
    met = meeting_of(f.plan, f.setup, first, f.shapes)
    out: list[Snag] = []
    for stock in f.setup.stock:
        for p in f.plan.parts_of(f.setup.id):
            name = f.shapes[p.shape].names[0]
            ours = (f.before or {}).get(stock.id, {})
            theirs = f.cuts.get(stock.id, {})
            depths = [_deepest(c.get((p.id, False)) or c.get((p.id, True)), name) for c in (ours, theirs)]
            if depths[0] is None or depths[1] is None:
                continue
            web = stock.thickness - depths[0] - depths[1]
            if turn.overlap < 0 or _skin(f, p, name):
                out.append(_web(f, p, web))
            else:
                out += _met(f, p, web, met.through if met else 0.0)
    return out


def _skin(f: FacesCut, p: Part, name: str) -> bool:
    """Do the steps on a part's outline leave a skin?"""
    own = [c.steps for c in f.plan.steps if c.part == p.id and (c.contour == name or c.on == "outlines")]
    steps = own[0] if own else f.setup.steps_on("outlines")
    return any(isinstance(s, Profile) and s.floor_allowance for s in steps)


def _web(f: FacesCut, p: Part, web: float) -> Snag:
    words = f"{p.name}: a web of {web:.2f} mm is left round it on purpose; it is cut or trimmed by hand"
    return note("turn.web", words, {**f.where, "part": p.id})


def _met(f: FacesCut, p: Part, web: float, slack: float) -> list[Snag]:
    """What is to be said of the two halves of a part's outline that leave so much between them, mm."""
    where: Where = {**f.where, "part": p.id}
    if web > 1e-6:
        words = (
            f"{p.name}: its outline is cut from both faces and they do not meet: a web of {web:.2f} mm stays;"
            " take the depth of its own from its steps"
        )
        return [stop("turn.halves", words, where)]
    if -web > slack:
        return []
    more = round(slack + 0.5, 1)
    fields = {"overlap": more}
    command = {"kind": "change-turn", "setup": f.setup.id, "fields": fields}
    words = (
        f"{p.name}: the halves of its outline overlap by {-web:.2f} mm, thickness and zeros may be off by"
        f" {slack:.2f} mm: a web may stay"
    )
    return [look("turn.halves", words, where, Remedy(label=f"Overlap {more:g} mm", command=command))]
