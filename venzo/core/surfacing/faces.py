"""First face, second face: what each takes off and what is left of the thickness."""

from __future__ import annotations

from dataclasses import dataclass

from venzo.core.snags import BadInput, Snag, look, note


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
