"""A second drawing as the back of a part."""

from __future__ import annotations

from pathlib import PurePath

from venzo.core.edits.asks import AlterPart
from venzo.core.edits.base import part_of
from venzo.core.parts.back_drawing import BackDrawn, Quarter, SeenFrom, laid_on
from venzo.core.parts.layers import COMMON
from venzo.core.parts.shape import Shape
from venzo.core.plan import Part
from venzo.core.snags import BadInput
from venzo.desk.drawings import alter_part, read_drawing
from venzo.store.store import Revision, Store

NEAR = 0.02
"""Share of a part's area by which an outline in the drawing may differ to be looked at as its back."""


def set_back(
    store: Store,
    job: str,
    base: int,
    part: str,
    filename: str,
    data: bytes,
    seen: SeenFrom = "the back",
    turn: Quarter | None = None,
) -> Revision:
    """Lay a drawing of its back on a part by its outline; one set before from a drawing of this name goes.

    Raises:
        BadInput: no such part, a drawing that cannot be read, or none of its outlines fits.
    """
    plan = store.get(job).plan
    p = part_of(plan, part)
    setup = plan.setup(p.setup)
    name = PurePath(filename.replace("\\", "/")).name[:200] or "back"
    intake = read_drawing(data, name, rules=setup.rules.layers if setup else COMMON)
    wrong = next((s for s in intake.snags if s.severity == "stop" and s.rule != "intake.crossing"), None)
    if wrong is not None:
        raise BadInput(wrong.message)
    own = store.shapes[p.shape]
    laid = _best(name, own, [f.shape for f in intake.parts], seen, turn)
    kept = [a for a in p.alterations if not (isinstance(a, BackDrawn) and a.name == laid.name)]
    return alter_part(store, job, base, AlterPart(part=part, alterations=(*kept, laid)))


def _best(name: str, own: Shape, found: list[Shape], seen: SeenFrom, turn: Quarter | None) -> BackDrawn:
    """The outline of a drawing that lies on the part; of several the first."""
    near = [s for s in found if abs(s.region.area - own.region.area) <= NEAR * own.region.area]
    said = ""
    for shape in near or found:
        try:
            return laid_on(name, own, shape, seen, turn)
        except BadInput as e:
            said = said or str(e)
    raise BadInput(said or f"{name}: there is no closed outline in it")


def turn_back(store: Store, job: str, base: int, part: str, number: int) -> Revision:
    """Lay a drawing of the back the next way in which its outline fits; ``number``: of the part's
    alterations, from 0.

    Raises:
        BadInput: no such part or drawing, or it fits only one way.
    """
    p = part_of(store.get(job).plan, part)
    a = p.alterations[number] if number < len(p.alterations) else None
    if not isinstance(a, BackDrawn):
        raise BadInput(f"{p.name} has no drawing of its back there any more; look again")
    if not a.also:
        raise BadInput(f"{a.name}: its outline lies on {p.name} in no other way")
    alterations = list(p.alterations)
    alterations[number] = _turned(a, p, store)
    return alter_part(store, job, base, AlterPart(part=part, alterations=tuple(alterations)))


def _turned(a: BackDrawn, p: Part, store: Store) -> BackDrawn:
    """The same drawing by the next turn that fits."""
    every = sorted({a.turn, *a.also})
    new = every[(every.index(a.turn) + 1) % len(every)]
    spun = Shape(store.shapes[p.drawn or p.shape].region, ("outline",))
    w, h = spun.size
    by = (new - a.turn) % 360
    lines = tuple(line.model_copy(update={"rows": _spun(line.rows, by, w, h)}) for line in a.lines)
    also = tuple(q for q in every if q != new)
    return a.model_copy(update={"turn": new, "also": also, "lines": lines})


def _spun(
    rows: tuple[tuple[float, float, float], ...], by: int, width: float, height: float
) -> tuple[tuple[float, float, float], ...]:
    """Vertices turned by quarters within the part's box, which looks the same then."""
    out = []
    for x, y, b in rows:
        w, h = width, height
        for _quarter in range(by // 90):
            x, y, w, h = h - y, x, h, w
        out.append((round(x, 6), round(y, 6), b))
    return tuple(out)
