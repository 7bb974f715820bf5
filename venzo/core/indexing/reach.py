"""How much of long stock can be cut at each of its positions?"""

from __future__ import annotations

from collections.abc import Iterable

from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.indexing.positions import Axis, Indexing
from venzo.core.plan import Setup
from venzo.core.stock.machine import Machine
from venzo.core.stock.sheet import Stock

Span = tuple[float, float]
"""Lowest and highest along the axis, mm."""
TOUCH = 1e-3
"""mm by which a cut may lie on the edge of a dead area."""


def clear_of_dead(machine: Machine, axis: Axis, across: Span) -> Span:
    """The longest stretch of the table along an axis that no dead area lies in, for work that reaches
    ``across`` it from here to there, mm on the table. Areas all along it are not left by moving along it.

    >>> dead = ((0, 0, 60, 900), (1900, 0, 2000, 900))
    >>> m = Machine(id="m", name="m", width=2000, height=900, dead_areas=dead)
    >>> clear_of_dead(m, "x", (100, 400)), clear_of_dead(m, "y", (100, 400))
    ((60.0, 1900.0), (0.0, 900.0))
    """
    k = 0 if axis == "x" else 1
    far = machine.width if axis == "x" else machine.height
    dead = [
        (r[k], r[k + 2])
        for r in machine.dead_areas
        if r[1 - k] < across[1] and r[3 - k] > across[0] and not (r[k] <= 0 and r[k + 2] >= far)
    ]
    free = _between(0.0, far, dead)
    return max(free, key=lambda s: s[1] - s[0], default=(0.0, 0.0))


def _between(low: float, high: float, taken: Iterable[Span]) -> list[Span]:
    """What is left of a stretch."""
    out, at = [], low
    for a, b in sorted(taken):
        if a > at:
            out.append((float(at), float(min(a, high))))
        at = max(at, b)
    if at < high:
        out.append((float(at), float(high)))
    return [s for s in out if s[1] > s[0]]


def across_of(setup: Setup, stock: Stock, axis: Axis) -> Span:
    """What stock takes up of the table across an axis, mm."""
    at = setup.sheet_at[1 if axis == "x" else 0]
    return (at, at + (stock.height if axis == "x" else stock.width))


def first_span(setup: Setup, stock: Stock, axis: Axis) -> Span:
    """What of the stock the cutter's middle can reach along an axis as it lies first, mm on the stock."""
    low, high = clear_of_dead(setup.machine, axis, across_of(setup, stock, axis))
    at = setup.sheet_at[0 if axis == "x" else 1]
    return (low - at, high - at)


def spans(setup: Setup, stock: Stock, indexing: Indexing) -> list[Span]:
    """The same at every position."""
    low, high = first_span(setup, stock, indexing.axis)
    return [(low + d, high + d) for d in (indexing.offset(k) for k in range(indexing.count))]


def at_position(setup: Setup, position: int) -> Setup:
    """A setup as its stock lies at a position: further along the table, held by what stands over the table
    then. Screws and clamps keep their places in the stock and are set anew wherever these are over the table.
    """
    if setup.indexing is None:
        return setup
    dx, dy = setup.shift(position)
    lies = (setup.sheet_at[0] - dx, setup.sheet_at[1] - dy)
    update: dict[str, object] = {"sheet_at": lies}
    for kind in ("screws", "fixings"):
        things: tuple[Screw | Fixing, ...] = getattr(setup, kind)
        update[kind] = tuple(t for t in things if _on_table(setup.machine, lies[0] + t.x, lies[1] + t.y))
    return setup.model_copy(update=update)


def _on_table(machine: Machine, x: float, y: float) -> bool:
    return 0 <= x <= machine.width and 0 <= y <= machine.height
