"""Joints between boards: fingers, dovetails, through mortise and tenon. All from the measured thickness of
the mate.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.snags import BadInput

Interval = tuple[float, float]


@dataclass(frozen=True)
class EdgeJoint:
    """A corner joint along an edge of length ``edge`` mm between board A (tails or even fingers) and board B
    (pins or odd fingers).

    ``depth_a``: how far A reaches into B, B's thickness; ``depth_b`` likewise. ``count``: tails or fingers of
    A. ``slope``: tangent of the dovetail's angle, 0 for fingers. ``clearance``: gap between every two
    neighbouring sides, mm.
    """

    edge: float
    depth_a: float
    depth_b: float
    count: int
    slope: float = 0.0
    clearance: float = 0.0
    tail_share: float = 0.5

    def check(self) -> None:
        """Raise BadInput where the joint cannot be made."""
        pitch = self.edge / self.count if self.slope or self.count == 1 else self.edge / (2 * self.count + 1)
        least = (
            min(width(i) for board in "AB" for depth in (0.0, 1.0) for i in self.solid(board, depth))
            if pitch > 0
            else 0.0
        )
        if least < 2.0:
            raise BadInput(
                f"{self.count} {'tails' if self.slope else 'fingers'} on a {self.edge:g} mm edge leave only"
                f" {max(least, 0):.1f} mm at their narrowest; choose fewer, a smaller angle or less clearance"
            )

    def solid(self, board: str, depth: float) -> list[Interval]:
        """Where a board is solid along the edge, at a share ``depth`` of the way through B's thickness (0 at
        A's shoulder, 1 at its tips).

        Fingers do not change with depth. Tails widen from their root (0) to their tip (1) by twice depth x
        slope; what B leaves for them widens with them, so that every gap is the clearance, measured along the
        edge.
        """
        half = self.clearance / 2
        if not self.slope:
            step = self.edge / (2 * self.count + 1)
            cells = [(k * step, (k + 1) * step) for k in range(2 * self.count + 1)]
            mine = cells[1::2] if board == "A" else cells[0::2]
            return [
                (
                    max(a + (half if a > 1e-9 else 0), 0),
                    min(b - (half if b < self.edge - 1e-9 else 0), self.edge),
                )
                for a, b in mine
            ]
        pitch = self.edge / self.count
        grow = self.depth_a * self.slope * depth
        root = (
            pitch * self.tail_share - self.depth_a * self.slope
        )  # so that at half depth tails take their share
        tails = [
            ((k + 0.5) * pitch - root / 2 - grow, (k + 0.5) * pitch + root / 2 + grow)
            for k in range(self.count)
        ]
        if board == "A":
            return [(a + half, b - half) for a, b in tails]
        stops = [0.0] + [v for a, b in tails for v in (a - half, b + half)] + [self.edge]
        return list(zip(stops[0::2], stops[1::2], strict=True))

    def profile(self, board: str) -> list[tuple[float, float]]:
        """The board's end as points (along the edge, out from the shoulder line), from 0 to ``edge``.

        Board A shows its tails as they are. Board B is drawn where its sockets are narrowest (at A's root):
        with straight walls that much is safe to cut through, and the slope is taken by a tapered cutter or by
        hand.
        """
        reach = self.depth_a if board == "A" else self.depth_b
        roots = self.solid(board, 0.0)
        tips = self.solid(board, 1.0) if board == "A" else roots
        if board == "B" and self.slope:
            roots = tips = self.solid("B", 0.0)
        out: list[tuple[float, float]] = []
        for (a, b), (c, d) in zip(roots, tips, strict=True):
            out += [(a, 0.0), (c, reach), (d, reach), (b, 0.0)]
        if out[0][0] > 1e-9:
            out.insert(0, (0.0, 0.0))
        if out[-1][0] < self.edge - 1e-9:
            out.append((self.edge, 0.0))
        clean = [p for i, p in enumerate(out) if i == 0 or math.dist(p, out[i - 1]) > 1e-9]
        # a board that is solid at the edge's very end starts at its tip
        return [
            p
            for p in clean
            if not (
                p[1] == 0.0
                and p[0] in (0.0, self.edge)
                and any(q[1] == reach and abs(q[0] - p[0]) < 1e-9 for q in clean)
            )
        ]

    def slope_lines(self) -> list[tuple[float, float, float]]:
        """For pins: (at the near face, at the far face, sign) of every sloped wall along the edge, to be cut
        with a tapered cutter.
        """
        if not self.slope:
            return []
        near, far = self.solid("B", 0.0), self.solid("B", 1.0)
        out = []
        for (a, b), (c, d) in zip(near, far, strict=True):
            out += [(a, c, 1.0)] if a > 1e-9 else []
            out += [(b, d, -1.0)] if b < self.edge - 1e-9 else []
        return out


def width(i: Interval) -> float:
    """Length of an interval."""
    return i[1] - i[0]


def mortise(
    tenon_thickness: float,
    tenon_width: float,
    through: float,
    clearance: float,
    lean: float = 90.0,
    along: bool = True,
) -> tuple[float, float]:
    """Length and width (mm) of a mortise with upright walls for a tenon that passes through a board.

    A slab of thickness s that leans at angle w to the board's face covers s / sin(w) on every level and
    wanders by T / tan(w) through the thickness T: upright walls must clear both. ``along``: the tenon leans
    in the plane of its own width, else across it.

    >>> [round(v, 3) for v in mortise(18, 60, 18, 0.2)]
    [60.2, 18.2]
    >>> [round(v, 3) for v in mortise(18, 60, 18, 0.0, 60)]
    [79.674, 18.0]
    """
    if not 20 <= lean <= 90:
        raise BadInput(f"a lean of {lean:g} degrees is outside 20 to 90")
    w = math.radians(lean)

    def grow(s: float) -> float:
        return s / math.sin(w) + (through / math.tan(w) if lean < 90 else 0.0)

    if along:
        return grow(tenon_width) + clearance, tenon_thickness + clearance
    return tenon_width + clearance, grow(tenon_thickness) + clearance
