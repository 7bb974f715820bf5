"""One sheet in hand: its pieces, what is fixed on it, and the compiled search's view of both."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.nesting import separate as kernel
from venzo.core.nesting.forms import Forms


class Arena:
    """Pieces that move within one room (a sheet's box) or several, among fixed ones.

    Args:
        forms: of the problem; tables for the pieces and obstacles given must be built (``Arena.tables`` names
        them).
        kinds: kind of each moving piece.
        fixed: (form or obstacle, turn, x, y) of what does not move.
        rooms: x0, y0, x1, y1 of each room; they must lie so far apart that nothing in one meets anything in
        another.
        home: for each piece the room it may not leave, or -1.
        frozen: ``(n, 2)`` forms and turns that the pieces keep, when tables for all their ways would be too
        many.
    """

    def __init__(
        self,
        forms: Forms,
        kinds: list[int],
        fixed: list[tuple[int, int, float, float]],
        rooms: Sequence[tuple[float, float, float, float]],
        home: list[int] | None = None,
        frozen: np.ndarray | None = None,
    ):
        self.forms, self.n = forms, len(kinds)
        m = self.n + len(fixed)
        self.kind = np.array(kinds, np.int64)
        self.first_way, self.ways = forms.first_way, forms.ways
        if frozen is not None:
            self.kind, self.first_way, self.ways = (
                np.arange(self.n),
                np.arange(self.n + 1),
                np.ascontiguousarray(frozen),
            )
        self.rooms = np.array(rooms, float).reshape(-1, 4)
        area = (self.rooms[:, 2] - self.rooms[:, 0]) * (self.rooms[:, 3] - self.rooms[:, 1])
        self.share = np.cumsum(area) / max(1e-9, float(area.sum()))
        self.where, self.home = (
            np.zeros(self.n, np.int64),
            np.full(self.n, -1, np.int64) if home is None else np.array(home, np.int64),
        )
        self.kept_where = self.where.copy()
        self.pose, self.place = np.zeros((m, 2), np.int64), np.zeros((m, 6))
        self.kept_pose, self.kept_place = self.pose.copy(), self.place.copy()
        self.weights, self.depths = np.ones((m, m), np.float32), np.zeros((m, m), np.float32)
        self.counters, self.best = np.zeros(kernel.COUNTERS, np.int64), np.array([np.inf])
        # boxes once more in single precision, one row per side, and a flag per piece: what the kernel scans
        # first
        self._quick, self._flags = (
            np.full((4, (m + 15) & ~7), np.nan, np.float32),
            np.zeros((m + 15) & ~7, np.uint8),
        )
        fields = forms.fields
        self._held = (
            fields.index,
            fields.head,
            fields.edges,
            fields.cells,
            fields.lists,
            fields.deep,
        )  # the addresses below must stay good
        c = self._context = np.zeros(24, np.int64)
        arrays: tuple[np.ndarray, ...] = (
            self.place,
            self.pose,
            self.weights,
            self.depths,
            forms.boxes,
            fields.index,
            fields.relative,
            forms.spin,
            *self._held[1:],
            self._flags,
        )
        for k, a in enumerate(arrays):
            c[k] = a.ctypes.data
        c[14:18] = m, len(fields.shapes), len(forms.angles), fields.k
        c[20:24] = [row.ctypes.data for row in self._quick]
        c[18:19].view(np.float64)[0] = self.reach = max([fields.spacing, *fields.clearances.values()]) + 1e-2
        for i, (form, turn, x, y) in enumerate(fixed):
            self.put(self.n + i, form, turn, x, y)

    def put(self, i: int, form: int, turn: int, x: float, y: float) -> None:
        """Lay piece ``i`` with its middle at (x, y)."""
        b = self.forms.boxes[form, turn]
        self.pose[i] = form, turn
        self.place[i] = x, y, x + b[0], y + b[1], x + b[2], y + b[3]

    @property
    def address(self) -> int:
        """Where the kernel finds this arena (for calls of ``separate.weigh``)."""
        return int(self._context.ctypes.data)

    def refresh(self) -> None:
        """Bring the kernel's copy of the boxes up to date with ``place``."""
        self._quick[:, : len(self.place)] = self.place[:, 2:].T

    def load(self, pose: np.ndarray, place: Array, where: np.ndarray | None = None) -> None:
        """Take over where the moving pieces lie (in the first room unless said)."""
        n = min(self.n, len(pose))
        self.pose[:n], self.place[:n] = pose[:n], place[:n]
        self.where[:n] = 0 if where is None else where[:n]

    def begin(self) -> None:
        """Start an attempt from where the pieces lie now, all weights even."""
        self.weights[:] = 1
        self.counters[:] = 0
        self.best[0] = np.inf

    def advance(self, rng: np.ndarray, quiet: int, budget: int, stop: np.ndarray) -> tuple[int, int]:
        """Go on with the attempt: (kernel status, evaluations spent)."""
        before = int(self.counters[kernel.EVALS])
        f = self.forms
        status = kernel.separate(
            self.n,
            self.kind,
            self.first_way,
            self.ways,
            self.rooms,
            self.share,
            self.where,
            self.home,
            self.pose,
            self.place,
            self.weights,
            self.depths,
            self.kept_pose,
            self.kept_place,
            self.kept_where,
            f.boxes,
            self.reach,
            self.address,
            self._quick,
            rng,
            self.counters,
            self.best,
            quiet,
            budget,
            stop,
        )
        return status, int(self.counters[kernel.EVALS]) - before

    @property
    def right(self) -> float:
        """Largest x reached by a moving piece in the first room (its left edge when there is none)."""
        return float(self.place[: self.n, 4][self.where == 0].max(initial=self.rooms[0, 0]))

    @staticmethod
    def tables(
        forms: Forms,
        kinds: list[int],
        fixed: list[tuple[int, int, float, float]],
        lying: np.ndarray | None = None,
    ) -> list[tuple[int, int, int]]:
        """The (shape, shape, relative turn) that a search over these pieces can ask for; ``lying``: poses
        they have now.
        """
        poses = {
            (int(s), int(r))
            for k in set(kinds)
            for s, r in forms.ways[forms.first_way[k] : forms.first_way[k + 1]]
        }
        if lying is not None:
            poses |= {(int(s), int(r)) for s, r in lying}
        still = {(f, t) for f, t, _x, _y in fixed}
        relative = forms.fields.relative
        out = set()
        for a, ra in poses:
            for b, rb in poses | still:
                out.add((a, b, int(relative[ra, rb])) if a <= b else (b, a, int(relative[rb, ra])))
        return sorted(out)
