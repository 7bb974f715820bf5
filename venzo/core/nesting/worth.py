"""Which of two layouts is better? The objective of CONTRACT.md as one key, lower is better."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from venzo.core.geometry.regions import Region
from venzo.core.nesting.live import share_off
from venzo.core.nesting.problem import NestProblem, Placement, SameSheets, SheetUse

SMALL = 0.06
"""A piece is small up to this share of the sheet's area (common practice: what vacuum holds by little area
shifts first).
"""
MOST_ASKED = 20_000
"""Places of pieces whose share beside the live areas is remembered."""
LARGE_COUNTS = 0.25
"""What a larger piece beside the live areas counts."""


class Key(NamedTuple):
    """What a layout is worth, lower is better; the first that differs decides."""

    over: float
    """Weight of the pieces left over (``Worth.weight``)."""
    cost: float
    sheets: int
    fill: float
    """mm2 of fill pieces left over."""
    layouts: int
    """Different layouts, if few are asked for."""
    off_live: float
    """Pieces beside the areas that hold firmly (``Worth.off_live``)."""
    last: float
    """mm used of the last (least used) sheet."""
    used: float
    """mm used of all sheets."""


class Worth:
    """Judges layouts of one problem: what is left over, then cost and number of sheets, then the used
    length.
    """

    def __init__(self, problem: NestProblem):
        self.problem = problem
        self.parts = {p.id: p for p in problem.parts}
        self.sheets = {s.id: s for s in problem.sheets}
        self.regions: dict[str, Region] = {p.id: p.region() for p in problem.parts}
        self.areas = {k: r.area for k, r in self.regions.items()}
        self._right: dict[tuple[str, float, bool], float] = {}
        self._asked: dict[tuple[str, str, float, float, float, bool], float] = {}

    def weight(self, part: str) -> float:
        """What leaving out one piece weighs: its area, more with priority. Fill pieces weigh apart (see
        ``key``).
        """
        return self.areas[part] * (1 + max(0.0, self.parts[part].priority))

    def failed(self, placements: list[Placement]) -> Counter[str]:
        """Copies by part that have no place."""
        placed = Counter(pl.part for pl in placements)
        return Counter(
            {p.id: p.quantity - placed[p.id] for p in self.problem.parts if p.quantity > placed[p.id]}
        )

    def uses(self, placements: list[Placement]) -> list[SheetUse]:
        """Used length and utilisation of every sheet that carries a piece."""
        used: dict[tuple[str, int], float] = {}
        area: dict[tuple[str, int], float] = {}
        for pl in placements:
            turned = (pl.part, pl.rotation, pl.mirrored)
            if turned not in self._right:
                self._right[turned] = (
                    self.regions[pl.part].outline.placed(0, 0, pl.rotation, pl.mirrored).bbox[2]
                )
            right = pl.x + self._right[turned]
            where = (pl.sheet, pl.sheet_copy)
            used[where] = max(used.get(where, 0.0), right)
            area[where] = area.get(where, 0.0) + self.areas[pl.part]
        return [
            SheetUse(
                sheet=s,
                sheet_copy=c,
                used_length=round(u, 4),
                utilisation=round(area[s, c] / (self.sheets[s].width * self.sheets[s].height), 6),
            )
            for (s, c), u in used.items()
        ]

    def material_yield(self, uses: list[SheetUse]) -> float:
        """Net area of the pieces over the material they use: whole sheets, the last one only as far as it is
        used.
        """
        net = sum(u.utilisation * self.sheets[u.sheet].width * self.sheets[u.sheet].height for u in uses)
        whole = [self.sheets[u.sheet].width * self.sheets[u.sheet].height for u in uses]
        if not uses:
            return 0.0
        last = min(range(len(uses)), key=lambda i: uses[i].used_length / self.sheets[uses[i].sheet].width)
        whole[last] = uses[last].used_length * self.sheets[uses[last].sheet].height
        return net / sum(whole)

    def key(self, placements: list[Placement]) -> Key:
        """What the layout is worth."""
        failed, uses = self.failed(placements), self.uses(placements)
        over = sum(n * self.weight(p) for p, n in failed.items() if not self.parts[p].fill)
        fill = sum(n * self.areas[p] for p, n in failed.items() if self.parts[p].fill)
        cost = sum(self.sheets[u.sheet].price for u in uses)
        last = min(
            ((u.used_length / self.sheets[u.sheet].width, u.used_length) for u in uses), default=(0.0, 0.0)
        )[1]
        return Key(
            round(over, 3),
            round(cost, 6),
            len(uses),
            round(fill, 3),
            len(same_sheets(placements)) if self.problem.repeat else 0,
            round(self.off_live(placements), 2),
            round(last, 3),
            round(sum(u.used_length for u in uses), 3),
        )

    def off_live(self, placements: list[Placement]) -> float:
        """Pieces beside the areas of their sheets that hold firmly, each as far as it lies beside them; a
        large one, which holds by other means, counts a quarter. 0 where no sheet has such areas.
        """
        if not any(s.firm for s in self.problem.sheets):
            return 0.0
        return sum(self._off(pl) for pl in placements)

    def _off(self, pl: Placement) -> float:
        """As ``off_live``, of one piece; most lie where they lay at the last question."""
        key = (pl.part, pl.sheet, pl.x, pl.y, pl.rotation, pl.mirrored)
        if key not in self._asked:
            if len(self._asked) > MOST_ASKED:
                self._asked.clear()
            share = share_off(self.sheets[pl.sheet], self.regions[pl.part], pl)
            self._asked[key] = share * (1.0 if self.small(pl.part, pl.sheet) else LARGE_COUNTS)
        return self._asked[key]

    def small(self, part: str, sheet: str) -> bool:
        """Is the part small on that sheet? Little area, which shifts first under vacuum."""
        kind = self.sheets[sheet]
        return self.areas[part] <= SMALL * kind.width * kind.height


def same_sheets(placements: list[Placement]) -> list[SameSheets]:
    """Sheets that carry the same pieces at the same places (within 0.01 mm), most copies first."""
    on: dict[tuple[str, int], list[tuple]] = {}
    for pl in placements:
        on.setdefault((pl.sheet, pl.sheet_copy), []).append(
            (pl.part, round(pl.x, 2), round(pl.y, 2), round(pl.rotation % 360, 3), pl.mirrored)
        )
    alike: dict[tuple, list[int]] = {}
    for (sheet, copy), pieces in on.items():
        alike.setdefault((sheet, tuple(sorted(pieces))), []).append(copy)
    return sorted(
        (SameSheets(sheet=key[0], copies=sorted(copies)) for key, copies in alike.items()),
        key=lambda s: (-len(s.copies), s.sheet, s.copies),
    )
