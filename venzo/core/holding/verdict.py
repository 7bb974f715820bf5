"""What is to be said about how a sheet is held: where a cut asks more of a piece than holds it, and what
would mend it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Unpack

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import MultiPoint, Point, box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import Cut
from venzo.core.holding.screw_places import propose_covers, propose_screws
from venzo.core.holding.strength import bending, rise_between, tabs_needed
from venzo.core.holding.swath import kerf_of
from venzo.core.holding.timeline import Held, SheetHold, held_at_all, live_area
from venzo.core.holding.vacuum import COVERED, ESTIMATED, pressure
from venzo.core.indexing.reach import at_position
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.relief.kept_surface import surfaces_of
from venzo.core.relief.thickness import thickness_at
from venzo.core.snags import Remedy, Snag, Where, look, note, stop
from venzo.core.stock.sheet import Stock
from venzo.core.voice import counted

Points = npt.NDArray[np.object_]
SLIVER = 300.0
"""mm2; scraps of skeleton smaller than this are not worth a word."""
THINNED = 0.95
"""Share of the sheet under which a relief counts as having made an end thin."""
NOTHING = 1.0
"""N; less than this holds nothing."""


def hold_snags(
    plan: Plan, setup: Setup, sheet: SheetPlan, stock: Stock, hold: SheetHold, shapes: Mapping[str, Shape]
) -> list[Snag]:
    """Judge one sheet's hold through its program."""
    return _Judge(plan, setup, sheet, stock, hold, shapes).say()


class _Judge:
    def __init__(
        self,
        plan: Plan,
        setup: Setup,
        sheet: SheetPlan,
        stock: Stock,
        hold: SheetHold,
        shapes: Mapping[str, Shape],
    ):
        self.plan, self.setup, self.sheet, self.stock, self.hold, self.shapes = (
            plan,
            setup,
            sheet,
            stock,
            hold,
            shapes,
        )
        self.rules = setup.rules.hold
        self.names = {p.id: p.name for p in plan.parts}
        self.part_of = {q.id: q.part for q in sheet.pieces}
        self.where: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
        self.out: list[Snag] = []

    def say(self) -> list[Snag]:
        if not self.sheet.cuts:
            return []
        self._pieces()
        self._drops()
        if held_at_all(self.setup, self.sheet):  # else it is said once for the setup
            self._waste()
            self._lift()
        self._ends()
        self._skins()
        self._zones()
        return self.out

    # -- words

    def who(self, held: Held) -> str:
        return (
            f"{self.names.get(self.part_of.get(held.piece, ''), held.piece)} piece"
            f" {held.piece.rsplit('#', 1)[-1]}"
        )

    def cutter(self, k: int) -> str:
        c = self.setup.cutter(self.sheet.cuts[k].cut.cutter)
        return c.name if c else "the cutter"

    def what(self, k: int) -> str:
        """A cut in words: its contour, and which step of several."""
        c = self.cut(k)
        return (
            f"{c.contour}, step {c.step + 1}"
            if c.step
            or any(
                o.cut.contour == c.contour
                and o.cut.step > c.step
                and o.piece.id == self.sheet.cuts[k].piece.id
                for o in self.sheet.cuts
            )
            else c.contour
        )

    def cut(self, k: int) -> Cut:
        return self.sheet.cuts[k].cut

    @staticmethod
    def words(held: Held) -> str:
        """What holds, in words: vacuum, two tabs, a screw."""
        kinds: dict[str, list[float]] = {}
        for h in held.holds:
            kinds.setdefault(h.kind, []).append(h.side)
        said = [
            f"{len(v)} {k}{'s' * (len(v) != 1)}" if k not in ("vacuum", "skin") else k
            for k, v in kinds.items()
        ]
        return " and ".join([", ".join(said[:-1]), said[-1]] if len(said) > 1 else said) or "nothing"

    @staticmethod
    def verb(held: Held) -> str:
        """hold or holds."""
        return "holds" if len(held.holds) <= 1 else "hold"

    def grouped(self, found: list[Held]) -> list[tuple[Held, list[Held]]]:
        """Findings of like pieces and like cuts as one: the worst of them and all."""
        groups: dict[tuple[str, str], list[Held]] = {}
        for h in found:
            groups.setdefault((self.part_of.get(h.piece, h.piece), self.cut(h.cut).operation), []).append(h)
        return [(min(g, key=lambda h: h.ratio), g) for g in groups.values()]

    def own(self, held: Held) -> bool:
        """Is it a cut of the piece itself?"""
        return self.sheet.cuts[held.cut].piece.id == held.piece

    def when(self, held: Held) -> str:
        """At which cut, in words."""
        return (
            f"at {self.what(held.cut)}"
            if self.own(held)
            else f"when {self.what(held.cut)} of {self._piece_name(held.cut)} cuts off its tabs"
        )

    def parts(self, held: Held) -> bool:
        """Is this the cut that parts the piece from the rest?"""
        return self.hold.freed.get(held.piece) == held.cut

    def about(self, held: Held, **more: Unpack[Where]) -> Where:
        """Where a piece is, at the cut at which something is held so; a sheet still in one has no part."""
        where: Where = {**self.where, "piece": held.piece, "cut": held.cut, **more}
        if held.piece in self.part_of:
            where["part"] = self.part_of[held.piece]
        return where

    # -- pieces

    def _pieces(self) -> None:
        margin = self.rules.margin
        loose: list[Held] = []
        weak: list[Held] = []
        thin: list[Held] = []
        fine: list[Held] = []
        for records in self.hold.of_piece.values():
            for h in records:
                if h.load <= 0.05 and h.lift <= 0.05:
                    continue
                if h.ratio < 1:
                    (loose if max(h.side, h.up) < NOTHING or not h.holds else weak).append(h)
                elif h.ratio < margin:
                    if self.own(h):
                        thin.append(h)
                elif (
                    self.hold.freed.get(h.piece, 1 << 30) < h.cut
                    and self.sheet.cuts[h.cut].piece.id == h.piece
                ):
                    fine.append(h)
        for h, all_of in self.grouped(loose):
            n = len({x.piece for x in all_of})
            more = f" and {n - 1} more like it" if n > 1 else ""
            if not self.own(h):
                self.out.append(
                    stop(
                        "holding.tabs-cut",
                        f"{self.who(h)}{more}: {self._nothing(h)} {self.when(h)}",
                        self.about(h),
                        *self._mend(h),
                    )
                )
            elif self.parts(h):
                self.out.append(
                    stop(
                        "holding.none",
                        f"{self.who(h)}{more}: {self._nothing(h)}: it is loose when {self.cut(h.cut).contour}"
                        " is cut through",
                        self.about(h),
                        *self._mend(h),
                    )
                )
            else:
                freed = self.hold.freed.get(h.piece)
                after = (
                    f" after {self.what(freed)} has cut it free"
                    if freed is not None and freed < h.cut
                    else ""
                )
                self.out.append(
                    stop(
                        "holding.loose-cut",
                        f"{self.who(h)}{more}: {self.what(h.cut)} is cut{after} with"
                        f" {'nothing left to hold it' if not h.joined else self._nothing(h)}; cut it earlier,"
                        " or hold the piece",
                        self.about(h),
                        *self._earlier(h),
                        *self._mend(h),
                    )
                )
        for h, all_of in self.grouped(weak):
            n = len({x.piece for x in all_of})
            more = f" and {n - 1} more like it" if n > 1 else ""
            single = self.own(h) and [x.kind for x in h.holds] == ["tab"]
            lifts = h.lift > 0.05 and h.up / h.lift < (h.side / h.load if h.load > 0.05 else math.inf)
            asked = (
                f"{self.cutter(h.cut)} pushes with {h.load:.0f} N at the height of its cut and tips it:"
                f" {self.words(h)} bear{'s' * (len(h.holds) <= 1)} {h.tips:.2f} times that"
                if h.tips <= h.ratio + 1e-9
                else (
                    f"{self.cutter(h.cut)} lifts with {h.lift:.0f} N, {h.up:.0f} N hold it down"
                    if lifts
                    else (
                        f"{self.cutter(h.cut)} pushes with {h.load:.0f} N, {self.words(h)} {self.verb(h)}"
                        f" {h.side:.0f} N"
                    )
                )
            )
            what = f"{self.who(h)}{more}: {asked} {self.when(h)}"
            if single:
                self.out.append(
                    stop(
                        "holding.single-tab",
                        f"{what}: a single tab lets the piece swing; use two or more, or be sure that"
                        " something else holds it",
                        self.about(h),
                        *self._mend(h),
                    )
                )
            elif not self.own(h):
                self.out.append(
                    stop("holding.tabs-cut", f"{what} ({h.ratio:.2f} times)", self.about(h), *self._mend(h))
                )
            elif self.hold.freed.get(h.piece, 1 << 30) < h.cut:
                self.out.append(
                    stop(
                        "holding.loose-cut",
                        f"{what}, after it was cut free; cut it earlier, or hold the piece better",
                        self.about(h),
                        *self._earlier(h),
                        *self._mend(h),
                    )
                )
            else:
                self.out.append(
                    stop("holding.weak", f"{what} ({h.ratio:.2f} times)", self.about(h), *self._mend(h))
                )
        bad = {x.piece for x in (*loose, *weak)}
        for h, all_of in self.grouped([x for x in thin if x.piece not in bad]):
            n = len({x.piece for x in all_of})
            more = f" and {n - 1} more like it" if n > 1 else ""
            self.out.append(
                look(
                    "holding.thin",
                    f"{self.who(h)}{more}: {self.words(h)} {self.verb(h)} it {h.ratio:.2f} times what"
                    f" {self.cutter(h.cut)} asks {self.when(h)} ({min(h.side, 1e5):.0f} N against"
                    f" {h.load:.0f}); {margin:g} times is the house rule",
                    self.about(h),
                    *self._mend(h),
                )
            )
        meant = self.setup.in_jig  # pieces that are turned one by one are free, and held so
        for h, all_of in self.grouped([x for x in fine if x.piece not in bad and not meant]):
            n = len({x.piece for x in all_of})
            self.out.append(
                note(
                    "holding.after-free",
                    f"{self.who(h)}{f' and {n - 1} more like it' if n > 1 else ''}: {self.what(h.cut)} is cut"
                    f" {self._hangs(h)} {self.words(h)}, with {min(h.side, 1e5):.0f} N against {h.load:.0f}:"
                    " ordinary work",
                    self.about(h),
                )
            )
        self._void_tabs()

    @staticmethod
    def _nothing(h: Held) -> str:
        """Why nothing holds it: there is nothing, or what there is leads to waste that is loose itself."""
        if h.joined:
            return f"its {h.joined} lead{'s' * (not h.joined.endswith('s'))} to waste that nothing holds"
        return "no tab, no skin and no vacuum holds it"

    @staticmethod
    def _hangs(h: Held) -> str:
        """In what state a piece is when it is cut after its outline."""
        return (
            "when it hangs on"
            if any(x.kind in ("tab", "skin") for x in h.holds)
            else "after it is free, held by"
        )

    def _void_tabs(self) -> None:
        """Tabs that lead into another piece's cut."""
        found: list[tuple[Held, int, int]] = []
        for q, records in self.hold.of_piece.items():
            at = self.hold.freed.get(q)
            if at is None or self.sheet.cuts[at].piece.id != q:
                continue
            placed = len(self.cut(at).tabs)
            if any(x.kind == "skin" for h in records if h.cut >= at for x in h.holds):
                continue  # a skin all round holds it
            ends = (
                min(sum(x.kind == "tab" and x.side > 0.5 for x in h.holds) for h in records if h.cut >= at)
                if any(h.cut >= at for h in records)
                else placed
            )
            if placed and ends < placed:
                found.append((next(h for h in records if h.cut >= at), placed - ends, placed))
        groups: dict[str, list[tuple[Held, int, int]]] = {}
        for f in found:
            groups.setdefault(self.part_of[f[0].piece], []).append(f)
        for rows in groups.values():
            h, gone, placed = max(rows, key=lambda r: r[1])
            more = f" and {len(rows) - 1} more like it" if len(rows) > 1 else ""
            self.out.append(
                (look if gone >= placed - 1 else note)(
                    "holding.tab-web",
                    f"{self.who(h)}{more}: {gone} of its {counted(placed, 'tab')} lead{'s' * (gone == 1)}"
                    " into a neighbour's cut or a loose scrap and hold nothing; keep a skeleton between the"
                    " pieces, or turn or move one",
                    self.about(h),
                    *self._skeleton(),
                )
            )

    def _skeleton(self) -> list[Remedy]:
        if self.setup.rules.between == "skeleton":
            return []
        rules = self.setup.rules.model_copy(update={"between": "skeleton"}).model_dump(mode="json")
        return [
            Remedy(
                label="Keep a skeleton between pieces",
                command={"kind": "set-setup", "setup": self.setup.id, "rules": rules},
            )
        ]

    def _earlier(self, h: Held) -> list[Remedy]:
        """Put the cut back where the rules want it, if a person moved it."""
        name = f"{h.piece}/{self.cut(h.cut).name}"
        mine = [
            m for m in self.setup.moved_cuts if name in (m.cut, m.before) or (m.cut.startswith(f"{h.piece}/"))
        ]
        if not mine:
            return []
        rest = [m.model_dump(mode="json") for m in self.setup.moved_cuts if m not in mine]
        return [
            Remedy(
                label="Back into the usual order",
                command={"kind": "set-order", "setup": self.setup.id, "moved_cuts": rest},
            )
        ]

    def _mend(self, h: Held) -> list[Remedy]:
        """What would hold a piece: zones under it, tabs, a skin."""
        out = self._zones_under(h)
        part = self.part_of.get(h.piece)
        freed = self.hold.freed.get(h.piece, h.cut)
        cut = self.cut(freed)
        if part and self.sheet.cuts[freed].piece.id == h.piece:
            policy = self.setup.tabs_on("outlines")
            load = max(h.load, h.lift)
            need = max(
                2,
                min(
                    24,
                    tabs_needed(
                        load,
                        policy.width,
                        policy.height,
                        self.rules.tab_strength[self.setup.material.family],
                        self.rules.margin,
                        policy.sloped,
                    ),
                ),
            )
            room = int(self.shapes[self.plan.shape_of(part)].region.outline.length // 40)
            if len(cut.tabs) < need <= max(room, 4):
                out.append(
                    Remedy(
                        label=counted(need, "tab"),
                        command={
                            "kind": "set-contour",
                            "part": part,
                            "contour": cut.contour,
                            "tab_count": need,
                        },
                    )
                )
        if any(x.kind == "tab" for x in h.holds) or not h.holds:
            lost = len(cut.tabs) - sum(x.kind == "tab" for x in h.holds)
            if lost > 0:
                out += self._skeleton()
        if part:
            # a last pass frees the piece all the same: it needs something to lie on then
            last = self.hold.scene_at(h.cut).live is not None and any(x.kind != "tab" for x in h.holds)
            label, way = (
                ("Leave a skin, free it last", "skin, last pass")
                if last
                else ("Leave a skin for the knife", "skin, by hand")
            )
            out.append(
                Remedy(
                    label=label,
                    command={"kind": "set-hold", "setup": self.setup.id, "part": part, "way": way},
                )
            )
        return out

    def _zones_under(self, h: Held) -> list[Remedy]:
        """Zones that are off under a piece."""
        m, lies = self.setup.machine, at_position(self.setup, self.sheet.cuts[h.cut].position).lying
        body = self.hold.divided.polygons[self.hold.bodies.get(h.piece, h.body)]
        off = [
            z
            for z in m.zones
            if z.id not in self.setup.zones_on and body.intersects(lies.rect_on_sheet(z.rect))
        ]
        if not off:
            return []
        return [
            Remedy(
                label=f"Zone{'s' * (len(off) > 1)} {', '.join(z.id for z in off)} on",
                command={
                    "kind": "set-setup",
                    "setup": self.setup.id,
                    "zones_on": [*self.setup.zones_on, *(z.id for z in off)],
                },
            )
        ]

    # -- waste

    def _drops(self) -> None:
        tipping: dict[tuple[str, str], list[Held]] = {}
        again: list[Held] = []
        free_at: dict[int, int] = {}
        for h in self.hold.held:
            if h.kind != "drop":
                continue
            joined = any(x.kind in ("tab", "skin", "screw", "nail", "clamp", "tape") for x in h.holds)
            if h.frees:
                free_at[h.body] = h.cut
                size = _least_width(self.hold.divided.polygons[h.body])
                if not joined and size > self.rules.tip and h.up < max(h.lift, 10.0):
                    tipping.setdefault((self.part_of.get(h.piece, ""), self.cut(h.cut).contour), []).append(h)
            elif h.ratio < 1 and not joined and h.body in free_at and h.area > SLIVER:
                again.append(h)
        for (part, contour), rows in tipping.items():
            h = rows[0]
            size = _least_width(self.hold.divided.polygons[h.body])
            more = f", {len(rows)} pieces" if len(rows) > 1 else ""
            self.out.append(
                look(
                    "holding.drop",
                    f"{self.names.get(part, part)}, {contour}{more}: its drop, {size:.0f} mm across, comes"
                    " free with nothing on it; it can tip up, jam under the dust shoe or hit the head",
                    self.about(h, contour=contour),
                    Remedy(
                        label="Two tabs keep it in",
                        command={"kind": "set-contour", "part": part, "contour": contour, "tab_count": 2},
                    ),
                    *self._zones_under(h),
                )
            )
        for h in again[:3]:
            self.out.append(
                stop(
                    "holding.loose-drop",
                    f"{self.who(h)}: {self.cut(h.cut).contour} cuts into a drop that is loose already"
                    f" ({h.area / 100:.0f} cm2); keep it in with tabs, or cut it first",
                    self.about(h),
                    Remedy(
                        label="Two tabs keep it in",
                        command={
                            "kind": "set-contour",
                            "part": self.part_of.get(h.piece, ""),
                            "contour": self.cut(free_at[h.body]).contour,
                            "tab_count": 2,
                        },
                    ),
                )
            )

    def _waste(self) -> None:
        """Scraps of skeleton that break off early, and whole sheets that are held too little."""
        scraps = [
            h
            for h in self.hold.held
            if h.kind == "skeleton"
            and h.frees
            and h.ratio < 1
            and h.area > SLIVER
            and not any(x.kind in ("screw", "clamp") for x in h.holds)
        ]
        worst = sorted(
            {
                h.body: h
                for h in scraps
                if h.up < max(h.lift, 10.0) and _least_width(self.hold.divided.polygons[h.body]) > 3.0
            }.values(),
            key=lambda h: -h.area,
        )
        if worst:
            h = worst[0]
            x, y = self.hold.divided.polygons[h.body].representative_point().coords[0]
            n = len(worst)
            self.out.append(
                look(
                    "holding.scrap",
                    f"{n} scrap{'s' * (n != 1)} of skeleton come{'s' * (n == 1)} loose during the program,"
                    f" the largest {h.area / 100:.0f} cm2 at {x:.0f}, {y:.0f} mm when"
                    f" {self.cut(h.cut).contour} of {self._piece_name(h.cut)} is cut;"
                    f" {'it' if n == 1 else 'they'} can tip up or jam: stand clear, or keep a skeleton",
                    {**self.where, "x": x, "y": y, "cut": h.cut},
                    *self._skeleton(),
                )
            )
        whole = [h for h in self.hold.held if h.kind == "sheet" and h.load > 0.05]
        loosened = [
            h
            for h in self.hold.held
            if h.kind == "skeleton"
            and not h.frees
            and h.ratio < 1
            and h.load > 0.05
            and _least_width(self.hold.divided.polygons[h.body]) > self.rules.tip
        ]
        for h in [x for x in loosened if max(x.side, x.up) < NOTHING][:1]:
            self.out.append(
                stop(
                    "holding.loose-scrap",
                    f"{self.cut(h.cut).contour} of {self._piece_name(h.cut)} cuts into a scrap of skeleton"
                    f" ({h.area / 100:.0f} cm2) that is loose already; keep a skeleton, or cut it earlier",
                    {**self.where, "cut": h.cut},
                    *self._skeleton(),
                )
            )
        if not whole:
            return
        h = min(whole, key=lambda x: x.ratio)
        if h.ratio < 1:
            lifts = h.lift > 0.05 and h.up < h.lift
            asked = (
                f"lifts with {h.lift:.0f} N, {h.up:.0f} N hold it down"
                if lifts
                else f"pushes with {h.load:.0f} N, {self.words(h)} {self.verb(h)} {h.side:.0f} N"
            )
            self.out.append(
                stop(
                    "holding.sheet-weak",
                    f"the sheet is held too little: {self.cutter(h.cut)} {asked} at {self.what(h.cut)} of"
                    f" {self._piece_name(h.cut)}",
                    {**self.where, "cut": h.cut},
                    *self._hold_sheet(),
                )
            )
        elif h.ratio < self.rules.margin:
            self.out.append(
                look(
                    "holding.sheet-thin",
                    f"the sheet is held {h.ratio:.2f} times what {self.cutter(h.cut)} asks at"
                    f" {self.what(h.cut)} of {self._piece_name(h.cut)}",
                    {**self.where, "cut": h.cut},
                    *self._hold_sheet(),
                )
            )

    def _piece_name(self, k: int) -> str:
        q = self.sheet.cuts[k].piece
        return f"{self.names.get(q.part, q.part)} piece {q.copy_no + 1}"

    def _hold_sheet(self, count: int = 6) -> list[Remedy]:
        off = [z.id for z in self.setup.machine.zones if z.id not in self.setup.zones_on]
        out = (
            [
                Remedy(
                    label="All zones on",
                    command={
                        "kind": "set-setup",
                        "setup": self.setup.id,
                        "zones_on": [z.id for z in self.setup.machine.zones],
                    },
                )
            ]
            if off
            else []
        )
        new = propose_screws(self.setup, self.sheet, self.stock, self.hold, count)
        if new:
            screws = [s.model_dump(mode="json") for s in (*self.setup.screws, *new)]
            out.append(
                Remedy(
                    label=f"{counted(len(new), 'screw')} in the waste",
                    command={"kind": "set-screws", "setup": self.setup.id, "screws": screws},
                )
            )
        return out

    # -- stiffness

    def _over_the_table(self, spots: Points, cut: int) -> Points:
        """Those of some points that lie over the table as the stock lies at a cut; no cutter gets at
        others.
        """
        if self.setup.indexing is None:
            return spots
        here, m = at_position(self.setup, self.sheet.cuts[cut].position), self.setup.machine
        return spots[shapely.covers(here.lying.rect_on_sheet((0.0, 0.0, m.width, m.height)), spots)]

    def _ends(self) -> None:
        """Ends that stick out beyond the last thing that holds them."""
        modulus = self.rules.stiffness[self.setup.material.family]
        found: list[tuple[Held, float, float]] = []
        thin: list[tuple[Held, float, float, float]] = []
        for q, records in self.hold.of_piece.items():
            h = min(
                (x for x in records if x.holds and x.cut >= self.hold.freed.get(q, 0)),
                key=lambda x: x.ratio,
                default=None,
            )
            if h is None:
                continue
            body, live = self.hold.divided.polygons[self.hold.bodies[q]], self.hold.scene_at(h.cut).live
            points = [Point(x.x, x.y) for x in h.holds if x.kind != "vacuum"]
            shapes: list[BaseGeometry] = points
            if live is not None and any(x.kind == "vacuum" for x in h.holds):
                on = body.intersection(live)
                shapes = [*points, on] if on.area > 0.01 * body.area else shapes
            if (
                not shapes
                or any(s.area > 0.95 * body.area for s in shapes)
                or any(x.kind == "skin" for x in h.holds)
            ):
                continue
            edge = shapely.points(
                shapely.get_coordinates(shapely.segmentize(shapely.simplify(body.exterior, 0.5), 10.0))
            )
            edge = self._over_the_table(edge, h.cut)
            away = shapely.distance(edge, shapely.union_all(shapes))
            if not len(away):
                continue
            k = int(np.argmax(away))
            reach = float(away[k])
            if reach < 30:
                continue
            end = body.intersection(edge[k].buffer(reach / 2))
            wide = max(end.area / (reach / 2), 0.5)
            thick = self._thick(q, end)
            bend = bending(h.load, reach, wide, thick, modulus)
            if thick < THINNED * self.stock.thickness:
                up = bending(
                    h.lift, reach, thick, wide, modulus
                )  # flatwise: width and thickness change parts
                if max(bend, up) > self.rules.chatter:
                    thin.append((h, reach, max(bend, up), thick))
            elif bend > self.rules.chatter and reach > 1.5 * wide:
                found.append((h, reach, bend))
        self._thin_ends(thin)
        groups: dict[str, list[tuple[Held, float, float]]] = {}
        for f in found:
            groups.setdefault(self.part_of[f[0].piece], []).append(f)
        for part, rows in groups.items():
            h, reach, bend = max(rows, key=lambda r: r[2])
            count = len(self.cut(self.hold.freed.get(h.piece, h.cut)).tabs)
            more = f" and {len(rows) - 1} more like it" if len(rows) > 1 else ""
            contour = self.shapes[self.plan.part(part).shape].names[0]  # type: ignore[union-attr]
            remedies = [
                *self._zones_under(h),
                Remedy(
                    label="Tabs towards the ends",
                    command={
                        "kind": "set-contour",
                        "part": part,
                        "contour": contour,
                        "automatic": ["tabs"],
                        "tab_count": max(4, count),
                    },
                ),
            ]
            self.out.append(
                look(
                    "holding.chatter",
                    f"{self.who(h)}{more}: an end sticks out {reach:.0f} mm beyond what holds it and bends"
                    f" {bend:.1f} mm under {h.load:.0f} N; it chatters and comes out torn",
                    self.about(h),
                    *remedies,
                )
            )

    def _thick(self, piece: str, end: BaseGeometry) -> float:
        """How thick the end of a piece is once its reliefs are cut, mm: the thinnest tenth of it counts."""
        q = next(q for q in self.sheet.pieces if q.id == piece)
        part = self.plan.part(q.part)
        shape = self.shapes[part.shape] if part else None
        if shape is not None and self.setup.other_face is None:  # the back is not cut yet
            shape = shape.on("front")
        if shape is None or not any(f.kind == "relief" for f in shape.features) or end.is_empty:
            return self.stock.thickness
        x0, y0, x1, y1 = end.bounds
        grid = np.stack(np.meshgrid(np.linspace(x0, x1, 24), np.linspace(y0, y1, 24)), axis=-1).reshape(-1, 2)
        inside = grid[shapely.contains_xy(end, grid[:, 0], grid[:, 1])]
        if not len(inside):
            return self.stock.thickness
        left = thickness_at(inside, q, shape, surfaces_of(self.shapes), self.stock.thickness)
        return max(0.1, float(np.percentile(left, 10)))

    def _thin_ends(self, found: Sequence[tuple[Held, float, float, float]]) -> None:
        """Say which ends a relief makes so thin that they bend under the cutter."""
        by_part: dict[str, tuple[Held, float, float, float]] = {}
        for one in found:
            part = self.part_of[one[0].piece]
            if part not in by_part or one[2] > by_part[part][2]:
                by_part[part] = one
        for part, (h, reach, bend, thick) in by_part.items():
            count = len(self.cut(self.hold.freed.get(h.piece, h.cut)).tabs)
            contour = self.shapes[self.plan.part(part).shape].names[0]  # type: ignore[union-attr]
            more = Remedy(
                label="Tabs towards the ends",
                command={
                    "kind": "set-contour",
                    "part": part,
                    "contour": contour,
                    "automatic": ["tabs"],
                    "tab_count": max(4, count + 2),
                },
            )
            self.out.append(
                look(
                    "holding.thin-end",
                    f"{self.who(h)}: its relief leaves an end {thick:.1f} mm thick that sticks out"
                    f" {reach:.0f} mm beyond what holds it and bends {bend:.1f} mm under the cutter: it"
                    " chatters and comes out torn. Put tabs near it, or leave the ends thick and take them"
                    " down by hand",
                    self.about(h),
                    *self._zones_under(h),
                    more,
                )
            )

    def _lift(self) -> None:
        """A thin sheet that is pulled up between its fixings."""
        modulus = self.rules.stiffness[self.setup.material.family]
        worst: dict[str, tuple[float, float, Held]] = {}
        seen: dict[int, Held] = {
            h.cut: h for h in self.hold.held if h.kind in ("sheet", "skeleton") and h.lift > 0.05
        }
        for k, h in seen.items():
            pc, scene = self.sheet.cuts[k], self.hold.scene_at(k)
            live, fixed = scene.live, [Point(f.x, f.y) for fs in scene.fixed for f in fs if f.up > 1]
            spots = shapely.points(scene.spots(pc))
            if live is not None:
                spots = spots[~shapely.covers(live, spots)]
            if not len(spots) or not fixed:
                continue
            away = float(shapely.distance(spots, MultiPoint(fixed)).max())
            span = 2 * away
            # half the weight of a span acts in its middle; a span so long that its weight holds it down lifts
            # only where the pull outweighs it
            weight = self.setup.material.density * 9.81e-9 * self.stock.thickness
            lift = max(pc.cut.load.steady_lift, 0.01)  # a sheet follows the mean of many teeth
            span = min(span, math.sqrt(lift / weight))
            up = rise_between(max(0.0, lift - weight * span**2 / 2), span, self.stock.thickness, modulus)
            if up > self.rules.rise and up > worst.get(pc.cut.cutter, (0.0,))[0]:
                worst[pc.cut.cutter] = (up, away, h)
        for cutter, (up, away, h) in worst.items():
            c = self.setup.cutter(cutter)
            name = c.name if c else cutter
            said = f"{up:.1f} mm" if up < self.stock.thickness * 2 else "clear of the table"
            self.out.append(
                look(
                    "holding.lift",
                    f"{name} pulls upwards with {self.cut(h.cut).load.steady_lift:.0f} N and lifts the"
                    f" {self.stock.thickness:.2g} mm sheet {said}, {away:.0f} mm from the nearest fixing;"
                    " screw or tape it nearer, hold it with vacuum, or take a down-cut cutter",
                    {**self.where, "cutter": cutter, "cut": h.cut},
                    *self._hold_sheet(10),
                )
            )

    # -- skins

    def _skins(self) -> None:
        readings = self.stock.readings
        zero_on_bed = self.setup.z_zero == "bed"
        said: set[str] = set()
        for k, pc in enumerate(self.sheet.cuts):
            cutter = self.setup.cutter(pc.cut.cutter)
            if cutter is None or pc.cut.operation in said:
                continue
            kerf = kerf_of(pc.cut, cutter, self.stock.thickness)
            if (
                kerf.swath is None
                or kerf.through is not None
                or kerf.left <= 0
                or (pc.cut.z_zero or self.setup.z_zero) == "bed"
                or (zero_on_bed and pc.cut.z_zero is None)
            ):
                continue
            said.add(pc.cut.operation)
            where: Where = {**self.where, "part": pc.piece.part, "cut": k}
            bed = Remedy(
                label="Z zero on the bed",
                command={"kind": "set-setup", "setup": self.setup.id, "z_zero": "bed"},
            )
            if not readings:
                self.out.append(
                    look(
                        "holding.skin-unmeasured",
                        f"a skin of {kerf.left:.2g} mm is asked of a sheet that was not measured; measure it"
                        " in several places, or set Z zero on the bed",
                        where,
                        bed,
                    )
                )
                continue
            thinnest = min(readings) - (self.stock.thickness - kerf.left)
            if thinnest <= 0.02:
                self.out.append(
                    stop(
                        "holding.skin-spread",
                        f"the skin of {kerf.left:.2g} mm is cut through where the sheet is"
                        f" {min(readings):.2f} mm thick: its readings spread {self.stock.spread:.2f} mm;"
                        f" leave at least {kerf.left - thinnest + 0.1:.1f} mm, or set Z zero on the bed",
                        where,
                        bed,
                    )
                )
            elif thinnest < 0.4 * kerf.left:
                self.out.append(
                    look(
                        "holding.skin-spread",
                        f"the skin of {kerf.left:.2g} mm is only {thinnest:.2f} mm where the sheet is"
                        f" thinnest ({min(readings):.2f} mm)",
                        where,
                        bed,
                    )
                )

    # -- air

    def _zones(self) -> None:
        live, m = self.hold.scene_at(-1).live, self.setup.machine
        if live is None or not m.zones:
            return
        stock = box(0, 0, self.stock.width, self.stock.height)
        rects = {z.id: self.setup.lying.rect_on_sheet(z.rect) for z in m.zones}
        covers = shapely.union_all(
            [stock, *(box(*f.box) for f in self.setup.fixings if f.kind in ("cover", "fixture board"))]
        )
        on = [z for z in self.setup.zones_on if z in rects]
        idle = [z for z in on if rects[z].intersection(covers).area < COVERED * rects[z].area]
        now = self.hold.pressures[0]
        pump = m.pump or ESTIMATED
        weakest = min((h.ratio for h in self.hold.held if h.kind == "piece"), default=math.inf)
        worst = look if weakest < self.rules.margin else note
        # a zone that is idle where the stock lies first may be what holds it further along
        if idle and len(idle) < len(on) and self.setup.indexing is None:
            kept = [z for z in on if z not in idle]
            without = live_area(self.setup.model_copy(update={"zones_on": tuple(kept)}))[0]
            then = (
                pressure(pump, m.spoilboard.leak, without.difference(covers).area)
                if without is not None
                else 0.0
            )
            if then > 1.1 * now:
                self.out.append(
                    worst(
                        "holding.zone-open",
                        f"zone{'s' * (len(idle) > 1)} {', '.join(idle)}: on, but hardly covered, so the air"
                        f" goes past the work: {now:.0f} kPa, {then:.0f} with"
                        f" {'them' if len(idle) > 1 else 'it'} off",
                        self.where,
                        Remedy(
                            label=f"Zone{'s' * (len(idle) > 1)} {', '.join(idle)} off",
                            command={"kind": "set-setup", "setup": self.setup.id, "zones_on": kept},
                        ),
                    )
                )
                return
        open_area = self.hold.scene_at(-1).open_at_start
        best = pressure(pump, m.spoilboard.leak, 0.0)
        if now < 0.7 * best and open_area > 0.05e6:
            self.out.append(
                worst(
                    "holding.open",
                    f"{open_area / 1e6:.2f} m2 of live spoilboard lie open beside the sheet: {now:.0f} kPa"
                    f" instead of {best:.0f}; cover them with strips of plastic or board",
                    self.where,
                    *(
                        [
                            Remedy(
                                label="Cover it",
                                command={
                                    "kind": "set-fixings",
                                    "setup": self.setup.id,
                                    "fixings": [
                                        f.model_dump(mode="json") for f in (*self.setup.fixings, *covers)
                                    ],
                                },
                            )
                        ]
                        if (covers := propose_covers(self.setup, self.stock))
                        else []
                    ),
                )
            )


def _least_width(shape: BaseGeometry) -> float:
    """Least width of the smallest box around a shape, mm."""
    b = shape.minimum_rotated_rectangle
    if b.geom_type != "Polygon":
        return 0.0
    (x0, y0), (x1, y1), (x2, y2) = b.exterior.coords[:3]
    return min(math.hypot(x1 - x0, y1 - y0), math.hypot(x2 - x1, y2 - y1))
