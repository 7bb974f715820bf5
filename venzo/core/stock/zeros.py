"""Where is X0 Y0? The zeros a shop works from, where each lies on the sheet, and how it is touched off.

>>> sheet = Stock(id="s", name="sheet", width=600, height=400, nominal=18)
>>> table = Machine(id="m", name="m", width=1300, height=900, home="upper right")
>>> lies = Lying((50, 40))
>>> place(CornerZero(corner="upper right"), sheet, table, lies), place(HomeZero(), sheet, table, lies)
((600.0, 400.0), (1250.0, 860.0))
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field

from venzo.core.model import Id, Point, Value
from venzo.core.snags import BadInput
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Corner, Machine, Place
from venzo.core.stock.sheet import Stock

Show = Callable[[float], str]
"""Says a length in the shop's words."""
RIM = 0.5
"""mm by which a zero may lie off the sheet's outline: how well a corner is read."""


class CornerZero(Value):
    """A corner of the sheet."""

    kind: Literal["corner"] = "corner"
    corner: Corner = "lower left"


class CentreZero(Value):
    """The middle of the sheet."""

    kind: Literal["centre"] = "centre"


class MarkZero(Value):
    """A place of the sheet that can be seen: a pencilled point, a hole, a cross; ``at``: from its lower left
    corner, mm.
    """

    kind: Literal["mark"] = "mark"
    what: Literal["pencilled point", "hole", "cross"] = "pencilled point"
    at: Place = (0.0, 0.0)


class SquareZero(Value):
    """The lower left corner of a square of the table's numbered grid, counted from 1."""

    kind: Literal["square"] = "square"
    column: Annotated[int, Field(ge=1, le=1000)] = 1
    row: Annotated[int, Field(ge=1, le=1000)] = 1


class JigZero(Value):
    """A jig's corner, stored with the machine."""

    kind: Literal["jig"] = "jig"
    jig: Id


class HomeZero(Value):
    """The machine's own home."""

    kind: Literal["home"] = "home"


Zero = CornerZero | CentreZero | MarkZero | SquareZero | JigZero | HomeZero


def _as_it_was(v: Any) -> Any:
    """Zeros of older plans were words."""
    if v == "centre":
        return {"kind": "centre"}
    return {"kind": "corner", "corner": v} if isinstance(v, str) else v


Datum = Annotated[Zero, Field(discriminator="kind"), BeforeValidator(_as_it_was)]


def corner_of(corner: Corner, width: float, height: float) -> Point:
    """A corner of a box, from its lower left.

    >>> corner_of("upper left", 600.0, 400.0)
    (0.0, 400.0)
    """
    return (width if "right" in corner else 0.0, height if "upper" in corner else 0.0)


def place(zero: Zero, stock: Stock, machine: Machine, lies: Lying) -> Point:
    """Where program X0 Y0 lies, mm from the sheet's lower left corner.

    Raises:
        BadInput: the machine has no such jig or square.
    """
    if isinstance(zero, CornerZero):
        return corner_of(zero.corner, stock.width, stock.height)
    if isinstance(zero, CentreZero):
        return (stock.width / 2, stock.height / 2)
    if isinstance(zero, MarkZero):
        return zero.at
    return lies.point_on_sheet(on_table(zero, machine))


def on_table(zero: SquareZero | JigZero | HomeZero, machine: Machine) -> Point:
    """Where a zero of the table lies on it, mm.

    Raises:
        BadInput: the machine has no such jig or square.
    """
    if isinstance(zero, HomeZero):
        return corner_of(machine.home, machine.width, machine.height)
    if isinstance(zero, JigZero):
        jig = next((j for j in machine.jigs if j.id == zero.jig), None)
        if jig is None:
            raise BadInput(f"{machine.name} has no jig {zero.jig!r}; choose one of its own")
        return jig.at
    if machine.grid is None:
        raise BadInput(f"{machine.name} has no numbered grid; enter it in the library first")
    try:
        return machine.grid.corner(zero.column, zero.row)
    except BadInput as e:
        raise BadInput(f"{machine.name}: {e}") from e


def called(zero: Zero, machine: Machine, show: Show) -> str:
    """A zero in words, as program headers and papers have it.

    >>> called(CornerZero(corner="upper left"), Machine(id="m", name="m", width=1, height=1), str)
    'upper left corner of the sheet'
    """
    if isinstance(zero, CornerZero):
        return f"{zero.corner} corner of the sheet"
    if isinstance(zero, CentreZero):
        return "centre of the sheet"
    if isinstance(zero, MarkZero):
        x, y = (show(v) for v in zero.at)
        return f"{zero.what} {x} right and {y} up from the sheet's lower left corner"
    if isinstance(zero, SquareZero):
        return _square_called(zero, machine, show)
    if isinstance(zero, JigZero):
        return f"jig {next((j.name for j in machine.jigs if j.id == zero.jig), zero.jig)}"
    return f"machine home, {machine.home}"


def _square_called(zero: SquareZero, machine: Machine, show: Show) -> str:
    """A square by the number that stands in it."""
    place_of = f"column {zero.column}, row {zero.row}"
    if machine.grid is None:
        return f"square in {place_of} of the table's grid"
    number = machine.grid.number(zero.column, zero.row)
    return f"square {number} of the table's grid, {place_of} of {show(machine.grid.pitch)} squares"


def touched_off(zero: Zero, machine: Machine, on: Lying, show: Show) -> str:
    """How an operator sets a zero, in a sentence."""
    lies = f"the sheet's lower left corner lies at {show(on.at[0])}, {show(on.at[1])} of the table"
    if on.turn:
        lies += f", the sheet turned {turned(on)}"
    if machine.head is not None:
        return f"bring the head's pointer over the {called(zero, machine, show)}; {lies}"
    if isinstance(zero, CornerZero):
        return f"touch the two edges that meet at the {zero.corner} corner, half the cutter off each; {lies}"
    if isinstance(zero, CentreZero):
        return f"touch opposite edges and halve, both ways; {lies}"
    if isinstance(zero, MarkZero):
        tool = {
            "pencilled point": "bring a pointed tool over the point",
            "hole": "centre a pointed tool or a pin in the hole",
            "cross": "bring a pointed tool over the crossing",
        }[zero.what]
        return f"{tool} and set X and Y to 0; {lies}"
    if isinstance(zero, SquareZero):
        return f"bring a pointed tool over the lower left corner of the square and set X and Y to 0; {lies}"
    if isinstance(zero, JigZero):
        x, y = on_table(zero, machine)
        return f"its corner is at {show(x)}, {show(y)} of the table: take its stored offset; {lies}"
    return f"home the machine, no offset; {lies}"


def turned(on: Lying) -> str:
    """How far a sheet is turned on the table, in words.

    >>> turned(Lying((0, 0), -0.01))
    '0.573 degrees clockwise'
    """
    way = "clockwise" if on.turn < 0 else "counter-clockwise"
    return f"{abs(math.degrees(on.turn)):.3f} degrees {way}"
