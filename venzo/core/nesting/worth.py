"""Which of two layouts is better? The objective of CONTRACT.md as one key, lower is better."""

from __future__ import annotations

from collections import Counter

from venzo.core.geometry.regions import Region
from venzo.core.nesting.problem import NestProblem, Placement, SheetUse


class Worth:
    """Judges layouts of one problem: what is left over, then cost and number of sheets, then the used length."""

    def __init__(self, problem: NestProblem):
        self.problem = problem
        self.parts = {p.id: p for p in problem.parts}
        self.sheets = {s.id: s for s in problem.sheets}
        self.regions: dict[str, Region] = {p.id: p.region() for p in problem.parts}
        self.areas = {k: r.area for k, r in self.regions.items()}

    def weight(self, part: str) -> float:
        """What leaving out one piece weighs: its area, more with priority. Fill pieces weigh apart (see ``key``)."""
        return self.areas[part] * (1 + max(0.0, self.parts[part].priority))

    def uses(self, placements: list[Placement]) -> list[SheetUse]:
        """Used length and utilisation of every sheet that carries a piece."""
        used: dict[tuple[str, int], float] = {}
        area: dict[tuple[str, int], float] = {}
        for pl in placements:
            right = self.regions[pl.part].outline.placed(pl.x, pl.y, pl.rotation, pl.mirrored).bbox[2]
            where = (pl.sheet, pl.sheet_copy)
            used[where] = max(used.get(where, 0.0), right)
            area[where] = area.get(where, 0.0) + self.areas[pl.part]
        return [SheetUse(sheet=s, sheet_copy=c, used_length=round(u, 4), utilisation=round(area[s, c] / (self.sheets[s].width * self.sheets[s].height), 6))
                for (s, c), u in used.items()]

    def key(self, failed: Counter[str], uses: list[SheetUse]) -> tuple[float, ...]:
        """Weight left over; cost; sheets; fill pieces left over; used length of the last (least used) sheet; sum of used lengths."""
        over = sum(n * self.weight(p) for p, n in failed.items() if not self.parts[p].fill)
        fill = sum(n * self.areas[p] for p, n in failed.items() if self.parts[p].fill)
        cost = sum(self.sheets[u.sheet].price for u in uses)
        last = min(((u.used_length / self.sheets[u.sheet].width, u.used_length) for u in uses), default=(0.0, 0.0))[1]
        return (round(over, 3), round(cost, 6), len(uses), round(fill, 3), round(last, 3), round(sum(u.used_length for u in uses), 3))
