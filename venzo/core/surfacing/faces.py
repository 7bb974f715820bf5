"""First face, second face: what each takes off and what is left of the thickness."""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.snags import BadInput, Snag, look, note
from venzo.core.surfacing.board import MOST_PASSES, SurfaceSetup, Surfacing


@dataclass(frozen=True)
class Faces:
    """mm: taken off the first and the second face, thickness after each, and what is to be said."""

    first: float
    after_first: float
    second: float
    after_second: float
    snags: tuple[Snag, ...]


def faces(thickness: float, wanted: float | None, first_needs: float, second_needs: float = 0.0) -> Faces:
    """Share what is to come off a board between its faces.

    Args:
        thickness: of the board as it is, its thinnest place, mm.
        wanted: thickness it should have; None: only what both faces need to be clean.
        first_needs, second_needs: least depth that cleans each face, mm.

    Raises:
        BadInput: what the faces need leaves less than is wanted.

    >>> f = faces(30, 25, 1.2, 0.8)
    >>> f.first, f.second, f.after_second
    (1.2, 3.8, 25.0)
    """
    left = thickness - first_needs - second_needs
    if left <= 0 or (wanted is not None and left < wanted - 1e-9):
        raise BadInput(
            f"to clean both faces takes {first_needs + second_needs:.2f} of {thickness:.2f} mm, which leaves"
            f" {max(left, 0):.2f} mm"
            + (f"; {wanted:.2f} mm are wanted" if wanted is not None else "")
            + "; take a thicker board, or leave a face rough"
        )
    second = second_needs if wanted is None else thickness - first_needs - wanted
    after = round(thickness - first_needs, 9)
    snags = [
        note(
            "surface.first",
            "the first face need not sit flat: tape or side clamps hold it, wedges under it keep it from"
            " rocking",
        ),
        note("surface.second", "trim what is left proud before it is turned; vacuum holds the flat face"),
    ]
    if first_needs and second > 4 * first_needs and second > 3:
        snags.append(
            look(
                "surface.balance",
                f"{second:.1f} mm come off one face and {first_needs:.1f} off the other: boards that lose"
                " much on one side often cup; share it if you can",
            )
        )
    return Faces(first_needs, after, round(second, 9), round(after - second, 9), tuple(snags))


def passes_for(takes: float, how: Surfacing) -> Surfacing:
    """How a face is cut that has ``takes`` mm to lose: as many even passes as its depth a pass asks, its fine
    pass last.

    Raises:
        BadInput: more passes than a board has.

    >>> [round(d, 3) for d, _share in passes_for(3.8, Surfacing(depth=1.0, finish_depth=0.2)).levels()]
    [0.9, 1.8, 2.7, 3.6, 3.8]
    """
    fine = how.finish_depth if how.finish_depth < takes - 1e-9 else 0.0
    rough = takes - fine
    n = max(1, math.ceil(rough / how.depth - 1e-9))
    if n > MOST_PASSES:
        raise BadInput(
            f"{takes:.2f} mm in passes of {how.depth:g} mm are {n} passes, over the limit of {MOST_PASSES};"
            " take more a pass"
        )
    return how.model_copy(
        update={"start": 0.0, "passes": n, "depth": rough / n, "finish_depth": fine, "only_touched": False}
    )


def turned(b: SurfaceSetup, f: Faces) -> SurfaceSetup:
    """The board as it lies for its second face: as thick as the first face left it, its highest place over
    that on top.

    Raises:
        BadInput: no second face is planned.
    """
    if b.second is None:
        raise BadInput(f"{b.board.name}: no second face is planned; say how it is cut first")
    s = b.second
    board = b.board.model_copy(
        update={"thickness": round(f.after_first + s.stands, 6), "dead": s.dead, "held": s.held}
    )
    how = passes_for(f.second + s.stands, s.how)
    return b.model_copy(update={"board": board, "how": how, "readings": (), "second": None})


def turning(b: SurfaceSetup, f: Faces) -> list[str]:
    """What is done between the faces, in order; lengths in mm."""
    assert b.second is not None
    s = b.second
    edge, stays = ("X", "left end stays left") if s.turn == "x" else ("Y", "lower edge stays low")
    top = f.after_first + s.stands
    held = f", held by {s.held}" if s.held else ""
    zero = (
        f"Touch off Z on the table beside the board: Z 0 is the table, the board stands up to Z {top:.2f} mm,"
        f" and the last pass runs at Z {f.after_second:.2f} mm: that is its thickness."
        if s.how.touch == "table"
        else f"Touch off Z on the {s.how.touch}; it should stand {top:.2f} mm over the table: measure it."
    )
    return [
        "Take the board off and trim what is left proud of the first face, so that it lies flat.",
        "Sweep table and board clean: a chip under it is copied into its face.",
        f"Turn it over about its edge along {edge} (the {stays}) and lay it on the first face{held}.",
        "Measure its thickness at the corners and in the middle: no place may be thinner than"
        f" {f.after_second:.2f} mm, none thicker than {top:.2f} mm.",
        zero,
    ]
