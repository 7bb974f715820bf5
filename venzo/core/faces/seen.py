"""A plan as a setup sees it whose stock is cut from both faces: which face is up, which pieces lie where."""

from __future__ import annotations

from collections.abc import Mapping

from venzo.core.faces.registration import Dowels, FaceRole, FenceCorners, JigCorner, OtherFace, Takes
from venzo.core.faces.singly import Singly, singly
from venzo.core.faces.turn import Turn, turned_pieces, turned_stock
from venzo.core.parts.shape import Face, Shape
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.stock.zeros import CentreZero, CornerZero, JigZero, on_table


def first_face(plan: Plan, setup: Setup) -> Setup:
    """The setup of which another is the other face.

    Raises:
        BadInput: it is gone, or is another face itself.
    """
    assert setup.other_face is not None
    first = plan.setup(setup.other_face.of)
    if first is None:
        raise BadInput(f"{setup.name}: the setup that it is the other face of is gone; take it out too")
    if first.follows:
        raise BadInput(f"{setup.name}: {first.name} is turned already; stock has two faces")
    return first


def face_before(plan: Plan, setup: Setup) -> Setup:
    """The other face after which stock is turned back.

    Raises:
        BadInput: it is gone, or is no other face.
    """
    assert setup.turned_back is not None
    other = plan.setup(setup.turned_back.after)
    if other is None or other.other_face is None:
        raise BadInput(f"{setup.name}: the other face that it is turned back after is gone; take it out too")
    return other


OWN_WHEN_TURNED_BACK = (
    "id",
    "name",
    "z_zero",
    "zones_on",
    "screws",
    "fixings",
    "moved_cuts",
    "stops",
    "first_run",
    "turned_back",
)
"""What the first face has of its own when it is up once more; all else is as it was."""


def seen(plan: Plan, setup: Setup, shapes: Mapping[str, Shape] | None = None) -> tuple[Plan, Setup]:
    """The plan and a setup of it with all that follows from the stock being turned: of the other face its
    pieces and stock as they lie then, of both what each does. Of any other setup what was given. ``shapes``:
    needed where pieces are turned one by one; without them none lie there.

    Raises:
        BadInput: as ``first_face``.
    """
    if setup.role is not None:
        return plan, setup
    if setup.turned_back is not None:
        other = face_before(plan, setup)
        first = first_face(plan, other)
        plan, setup = _moved_to(plan, first, _once_more(setup, first, other))
    elif setup.other_face is not None:
        first = first_face(plan, setup)
        turned = _turned(setup, first, _turns(plan, setup))
        if setup.other_face.singly:
            turned = _in_the_jig(turned, singly(plan, first, setup.other_face, shapes or {}))
        plan, setup = _moved_to(plan, first, turned)
    else:
        back = plan.other_face_of(setup.id)
        if back is None or back.other_face is None:
            return plan, setup
        role = _role(back.other_face, (1, _turns(plan, back)), back.id)
        setup = setup.model_copy(update={"role": role})
    setups = tuple(setup if s.id == setup.id else s for s in plan.setups)
    return plan.model_copy(update={"setups": setups}), setup


def _turns(plan: Plan, back: Setup) -> int:
    """How often stock lies on the table in turn: once more where it is turned back."""
    return 3 if plan.turned_back_after(back.id) is not None else 2


def _moved_to(plan: Plan, first: Setup, setup: Setup) -> tuple[Plan, Setup]:
    """The plan with the parts of a first face in another turn of it."""
    parts = tuple(p.model_copy(update={"setup": setup.id}) if p.setup == first.id else p for p in plan.parts)
    return plan.model_copy(update={"parts": parts}), setup


def _once_more(setup: Setup, first: Setup, other: Setup) -> Setup:
    """The first face when it is up once more."""
    assert other.other_face is not None
    own = {k: getattr(setup, k) for k in OWN_WHEN_TURNED_BACK}
    lies: dict[str, object] = {}
    if not isinstance(other.other_face.registration, Dowels | FenceCorners):
        lies = {"datum": CentreZero()}
    role = _role(other.other_face, (3, 3), other.id)
    steps = tuple(o.model_copy(update={"z_zero": None}) if o.z_zero else o for o in first.operations)
    fresh = {"kept": (), "trial": (), "operations": steps, "role": role}  # its first cuts are long made
    return first.model_copy(update={**own, **lies, **fresh})


def _turned(setup: Setup, first: Setup, turns: int) -> Setup:
    """The other face of a setup with stock and pieces as they lie when they are turned."""
    assert setup.other_face is not None
    axis = setup.other_face.axis
    nest = first.nest
    if nest is not None:
        nest = nest.model_copy(update={"pieces": turned_pieces(nest.pieces, axis, first.stock)})
    update = {
        "role": _role(setup.other_face, (2, turns), first.id),
        "stock": tuple(turned_stock(s, axis) for s in first.stock),
        "nest": nest,
        "material": first.material,
    }
    return setup.model_copy(update=update | _lies(setup.other_face, setup, first))


def _in_the_jig(setup: Setup, lying: Singly) -> Setup:
    """The other face of pieces that are turned one by one; screws of the stock are not theirs."""
    nest = setup.nest.model_copy(update={"pieces": lying.pieces}) if setup.nest else None
    return setup.model_copy(update={"stock": lying.stock, "nest": nest, "screws": ()})


def _lies(turn: OtherFace, setup: Setup, first: Setup) -> dict[str, object]:
    """Where a turned sheet lies and is zeroed, as its registration has it: dowels keep both as they were,
    fences give a corner, measured edges the middle.
    """
    r = turn.registration
    if isinstance(r, Dowels):
        return {"sheet_at": first.sheet_at, "edge_at": first.edge_at, "datum": first.datum}
    if isinstance(r, FenceCorners):
        there = Turn(turn.axis, 0.0, 0.0).corner(r.corner) if r.second == "same edges" else r.corner
        return {"datum": CornerZero(corner=there)}
    if isinstance(r, JigCorner):
        zero = JigZero(jig=r.jig)
        return {"datum": zero, "sheet_at": on_table(zero, setup.machine), "edge_at": None}
    return {"datum": CentreZero()}


def _role(turn: OtherFace, at: tuple[int, int], other: str) -> FaceRole:
    """``at``: which turn of how many."""
    number, turns = at
    here: tuple[str, str] = ("here", "there")
    last = here if number == 2 else here[::-1]
    takes: tuple[Takes, ...] = ("roughing", "all", "rest") if turns == 3 else ("all", "all")
    outlines = "half" if turn.parts == "half" else last[turn.parts == "before"]
    return FaceRole(
        face="back" if number == 2 else "front",
        number=number,
        of=turns,
        other=other,
        takes=takes[number - 1],
        outlines=outlines,  # type: ignore[arg-type]
        holes=last[turn.opens == "before"],  # type: ignore[arg-type]
        overlap=turn.overlap if turn.parts == "half" else 0.0,
        singly=turn.singly,
    )


def face_up(setup: Setup) -> Face:
    """Which face of its parts a setup cuts into."""
    return setup.role.face if setup.role else "front"


def shape_up(shape: Shape, setup: Setup) -> Shape:
    """A part with what is cut into the face that is up."""
    return shape.on(face_up(setup))
