"""Which tabs does one contour get? By hand, by count, by distance, or by house rule; and what is to be said
about them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from venzo.core.geometry.contour import Contour
from venzo.core.holding.strength import tabs_needed
from venzo.core.holding.tabs import Stretch, loaded_ends, on_detail, place_tabs, shy_stretches, tab_count
from venzo.core.memo import memo
from venzo.core.plan import ContourChoice, Part, Setup
from venzo.core.rules.house import Tabs
from venzo.core.snags import Remedy, Snag, Where, look, note, stop
from venzo.core.voice import counted

MOST = 16
"""Tabs that a load alone asks for at most; a heavier cut wants another way of holding."""
MATCH = 6.0
"""mm; a hand-placed tab further than this from its contour has lost its place."""


@dataclass(frozen=True)
class Tied:
    """A contour that tabs may tie: the part's own, what was chosen for it, and how it is spoken of."""

    part: Part
    name: str
    contour: Contour
    inside: bool
    choice: ContourChoice | None
    label: str
    where: Where

    @property
    def automatic(self) -> Remedy:
        """Give its tabs back to house rule."""
        return self.remedy("Automatic tabs", automatic=["tabs"])

    def remedy(self, label: str, **fields: Any) -> Remedy:
        """Another choice for it."""
        command = {"kind": "set-contour", "part": self.part.id, "contour": self.name, **fields}
        return Remedy(label=label, command=command)


@dataclass(frozen=True)
class Tying:
    """How it is tied: tabs by ``policy``; ``diameter`` of the widest cutter that runs along it, and the
    sheet's ``thickness``, mm. ``blocked``: stretches that face another piece's cut; used only if they leave
    room. ``load``: N that the heaviest cut along it pushes with; tabs by house rule are as many as that asks
    for.
    """

    policy: Tabs
    diameter: float
    thickness: float
    blocked: Sequence[Stretch] = ()
    load: float = 0.0

    @property
    def footprint(self) -> float:
        """Length along the contour that a tab takes, mm."""
        return self.policy.width + self.diameter


@dataclass
class TabsFound:
    """Middles of tabs (x, y) on the part's own contour, how many were wanted, whether a person placed them,
    and what is to be said.
    """

    middles: list[tuple[float, float]]
    wanted: int
    by_hand: bool = False
    snags: list[Snag] = field(default_factory=list)


def tabs_for(tied: Tied, how: Tying, setup: Setup) -> TabsFound:
    """The tabs of a contour. Whether they hold enough is asked of the whole sheet (``holding.timeline``), not
    here.
    """
    placed = tied.choice is not None and tied.choice.tabs is not None
    found = _by_hand(tied, how) if placed else _by_rule(tied, how, setup)
    count = len(found.middles)
    if count and how.policy.height >= how.thickness:
        words = (
            f"{tied.label}: tabs {how.policy.height:g} mm high are as thick as the {how.thickness:.2f} mm"
            " sheet: nothing would be cut there"
        )
        found.snags.append(stop("holding.tab-height", words, tied.where))
    if 0 < count < found.wanted:
        # else it is asked of the whole sheet whether those there hold enough
        asked = placed or (tied.choice is not None and tied.choice.tab_count is not None)
        words = f"{tied.label}: room for {count} of {counted(found.wanted, 'tab')} clear of corners"
        found.snags.append((look if asked else note)("holding.tab-room", words, tied.where))
    found.snags += _judged(tied, how, found)
    return found


def _by_hand(tied: Tied, how: Tying) -> TabsFound:
    """Tabs that a person placed, where the contour still is."""
    assert tied.choice is not None and tied.choice.tabs is not None
    found = TabsFound([], len(tied.choice.tabs), True)
    lost, near = 0, []
    for x, y in tied.choice.tabs:
        s, away = tied.contour.nearest(x, y)
        px, py = tied.contour.at(s)[:2]
        near.append([round(px, 3), round(py, 3)])
        if away > MATCH:
            lost += 1
            continue
        found.middles.append((px, py))
    found.wanted -= lost
    if lost:
        words = (
            f"{tied.label}: {lost} tab{'s' * (lost != 1)} placed by hand {'has' if lost == 1 else 'have'}"
            f" lost {'its' if lost == 1 else 'their'} place: the drawing has moved more than"
            f" {MATCH:g} mm away"
        )
        move = tied.remedy("Move to the nearest place", tabs=near)
        found.snags.append(stop("choice.unmatched", words, tied.where, move, tied.automatic))
    if not tied.choice.tabs and how.policy.count:
        words = f"{tied.label}: tabs are on ({how.policy.count} by house rule), but none is placed"
        none = tied.remedy("No tabs, on purpose", automatic=["tabs"], tab_count=0)
        found.snags.append(look("holding.tabs-none", words, tied.where, tied.automatic, none))
    return found


def _by_rule(tied: Tied, how: Tying, setup: Setup) -> TabsFound:
    """Tabs by house rule, or as many as a person asked for."""
    policy, choice = how.policy, tied.choice
    count = policy.count if choice is None or choice.tab_count is None else choice.tab_count
    as_said = tied.inside or (choice is not None and choice.tab_count is not None)
    if count and not as_said and how.load:
        hold = setup.rules.hold
        strength = hold.tab_strength[setup.material.family]
        enough = tabs_needed(how.load, policy.width, policy.height, strength, hold.margin, policy.sloped)
        count = max(count, min(MOST, enough))
    if not as_said or policy.every is not None:
        count = tab_count(tied.contour, count, policy.every or setup.rules.tab_every, how.footprint)
    along = _automatic(tied, count, how)
    found = TabsFound([tied.contour.at(s)[:2] for s in along], count)
    if count and not found.middles:
        words = (
            f"{tied.label}: asked for {counted(count, 'tab')}, but none has room: no run is"
            f" {how.footprint + 4:.0f} mm long; place one by hand, or take a narrower tab"
        )
        found.snags.append(look("holding.tabs-none", words, tied.where))
    return found


def _judged(tied: Tied, how: Tying, found: TabsFound) -> list[Snag]:
    """What is to be said of where the tabs are: on corners, on narrow details."""
    out: list[Snag] = []
    width, narrow = how.policy.width, []
    for x, y in found.middles:
        if found.by_hand and _at_corner(tied.contour, x, y, how.footprint / 2):
            words = (
                f"{tied.label}: the tab at {x:.0f}, {y:.0f} mm lies on a corner; it is hard to clean up there"
            )
            out.append(look("holding.tab-corner", words, {**tied.where, "x": x, "y": y}, tied.automatic))
            continue
        if tied.inside:
            continue
        key = f"{tied.part.shape}/{tied.name}/{x!r}/{y!r}/{width!r}"
        wide = memo("detail", key, partial(on_detail, tied.contour, x, y, width))
        if wide is not None:
            narrow.append((wide, x, y))
    if narrow:
        wide, x, y = min(narrow)
        more = f", and {len(narrow) - 1} more such" if len(narrow) > 1 else ""
        words = (
            f"{tied.label}: the tab at {x:.0f}, {y:.0f} mm hangs on a detail {wide:.1f} mm wide, which breaks"
            f" before the {width:g} mm tab does{more}"
        )
        mend = [tied.automatic] if found.by_hand else []
        out.append(look("holding.tab-detail", words, {**tied.where, "x": x, "y": y}, *mend))
    return out


def _automatic(tied: Tied, count: int, how: Tying) -> list[float]:
    """Places of tabs, distances along a contour; what a cut's speed or depth changes leaves them as they
    are.
    """
    if count <= 0:
        return []
    part, contour, blocked = tied.part, tied.contour, how.blocked
    width, diameter = how.policy.width, how.diameter
    grain = float(part.grain) if part.grain is not None else None
    key = f"{part.shape}/{tied.name}"
    shy = shy_stretches(contour, width, diameter, grain, key)
    loaded = memo("ends", key, lambda: loaded_ends(contour))

    def place() -> list[float]:
        for n in range(count, min(2, count) - 1, -1) if blocked else ():
            clear = place_tabs(contour, n, width, diameter, shy, blocked, loaded)
            gaps = [(b - a) % contour.length for a, b in zip(clear, [*clear[1:], *clear[:1]], strict=True)]
            # tabs crowded on the one free stretch hold no better than a few of them
            if len(clear) == n and (n <= 2 or min(gaps) >= contour.length / (3 * n)):
                return clear
        return place_tabs(contour, count, width, diameter, shy, (), loaded)

    return memo(
        "tabs",
        f"{key}/{count}/{width!r}/{diameter!r}/{grain!r}/{[tuple(b) for b in blocked]!r}",
        place,
    )


def _at_corner(contour: Contour, x: float, y: float, reach: float) -> bool:
    s, _d = contour.nearest(x, y)
    ax, ay = contour.at(s - reach)[2:]
    bx, by = contour.at(s + reach)[2:]
    return ax * bx + ay * by < 0.8
