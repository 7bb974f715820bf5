"""Which tabs does one contour get? By hand, by count, by distance, or by house rule; and what is to be said
about them.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from venzo.core.geometry.contour import Contour
from venzo.core.holding.strength import tabs_needed
from venzo.core.holding.tabs import Stretch, loaded_ends, on_detail, place_tabs, shy_stretches, tab_count
from venzo.core.memo import memo
from venzo.core.plan import ContourChoice, Part, Setup
from venzo.core.rules.house import Tabs
from venzo.core.snags import Remedy, Snag, Where, look, note, stop

MOST = 16
"""Tabs that a load alone asks for at most; a heavier cut wants another way of holding."""
MATCH = 6.0
"""mm; a hand-placed tab further than this from its contour has lost its place."""


def tabs_for(
    part: Part,
    name: str,
    contour: Contour,
    choice: ContourChoice | None,
    policy: Tabs,
    diameter: float,
    thickness: float,
    label: str,
    where: Where,
    setup: Setup,
    inside: bool,
    blocked: Sequence[Stretch] = (),
    load: float = 0.0,
) -> tuple[list[tuple[float, float]], bool, list[Snag]]:
    """Tab middles on the part's own contour, whether they were placed by hand, and what is to be said.

    ``diameter``: of the widest cutter that runs along it, mm. ``blocked``: stretches of it that face another
    piece's cut; used only if they leave room. ``load``: N that the heaviest cut along it pushes with; tabs by
    house rule are as many as that asks for. Whether the tabs hold enough is asked of the whole sheet
    (``holding.timeline``), not here.
    """
    count = policy.count if choice is None or choice.tab_count is None else choice.tab_count
    snags: list[Snag] = []
    by_hand = choice is not None and choice.tabs is not None
    footprint = policy.width + diameter
    automatic = Remedy(
        label="Automatic tabs",
        command={"kind": "set-contour", "part": part.id, "contour": name, "automatic": ["tabs"]},
    )
    if by_hand:
        assert choice is not None and choice.tabs is not None
        middles, lost, near = [], 0, []
        for x, y in choice.tabs:
            s, away = contour.nearest(x, y)
            px, py = contour.at(s)[:2]
            near.append([round(px, 3), round(py, 3)])
            if away > MATCH:
                lost += 1
                continue
            middles.append((px, py))
        if lost:
            snags.append(
                stop(
                    "choice.unmatched",
                    f"{label}: {lost} tab{'s' * (lost != 1)} placed by hand {'has' if lost == 1 else 'have'}"
                    f" lost {'its' if lost == 1 else 'their'} place: the drawing has moved more than"
                    f" {MATCH:g} mm away",
                    where,
                    Remedy(
                        label="Move to the nearest place",
                        command={"kind": "set-contour", "part": part.id, "contour": name, "tabs": near},
                    ),
                    automatic,
                )
            )
        wanted = len(choice.tabs) - lost
        if not choice.tabs and policy.count:
            snags.append(
                look(
                    "holding.tabs-none",
                    f"{label}: tabs are on ({policy.count} by house rule), but none is placed",
                    where,
                    automatic,
                    Remedy(
                        label="No tabs, on purpose",
                        command={
                            "kind": "set-contour",
                            "part": part.id,
                            "contour": name,
                            "automatic": ["tabs"],
                            "tab_count": 0,
                        },
                    ),
                )
            )
    else:
        counted = inside or (choice is not None and choice.tab_count is not None)
        if count and not counted and load:
            hold = setup.rules.hold
            count = max(
                count,
                min(
                    MOST,
                    tabs_needed(
                        load,
                        policy.width,
                        policy.height,
                        hold.tab_strength[setup.material.family],
                        hold.margin,
                        policy.sloped,
                    ),
                ),
            )
        wanted = (
            count
            if counted and policy.every is None
            else tab_count(contour, count, policy.every or setup.rules.tab_every, footprint)
        )
        middles = [
            contour.at(s)[:2] for s in _automatic(part, name, contour, wanted, policy, diameter, blocked)
        ]
        if wanted and not middles:
            snags.append(
                look(
                    "holding.tabs-none",
                    f"{label}: {wanted} tabs are asked for, but none has room: no run is {footprint + 4:.0f}"
                    " mm long; place one by hand, or take a narrower tab",
                    where,
                )
            )
    if middles and policy.height >= thickness:
        snags.append(
            stop(
                "holding.tab-height",
                f"{label}: tabs {policy.height:g} mm high are as thick as the {thickness:.2f} mm sheet:"
                " nothing would be cut there",
                where,
            )
        )
    if 0 < len(middles) < wanted:
        asked = by_hand or (
            choice is not None and choice.tab_count is not None
        )  # else it is asked of the whole sheet whether those there hold enough
        snags.append(
            (look if asked else note)(
                "holding.tab-room",
                f"{label}: room for {len(middles)} of {wanted} tabs clear of corners",
                where,
            )
        )
    narrow: list[tuple[float, float, float]] = []
    for x, y in middles:
        if by_hand and _at_corner(contour, x, y, footprint / 2):
            snags.append(
                look(
                    "holding.tab-corner",
                    f"{label}: the tab at {x:.0f}, {y:.0f} lies on a corner; it is hard to clean up there",
                    {**where, "x": x, "y": y},
                    automatic,
                )
            )
            continue
        wide = (
            None
            if inside
            else memo(
                "detail",
                f"{part.shape}/{name}/{x!r}/{y!r}/{policy.width!r}",
                partial(on_detail, contour, x, y, policy.width),
            )
        )
        if wide is not None:
            narrow.append((wide, x, y))
    if narrow:
        wide, x, y = min(narrow)
        more = f", and {len(narrow) - 1} more such" if len(narrow) > 1 else ""
        said = (
            f"{label}: the tab at {x:.0f}, {y:.0f} hangs on a detail {wide:.1f} mm wide, which breaks before"
            f" the {policy.width:g} mm tab does{more}"
        )
        snags.append(
            look("holding.tab-detail", said, {**where, "x": x, "y": y}, *([automatic] if by_hand else []))
        )
    return middles, by_hand, snags


def _automatic(
    part: Part,
    name: str,
    contour: Contour,
    count: int,
    policy: Tabs,
    diameter: float,
    blocked: Sequence[Stretch],
) -> list[float]:
    """Places of tabs, distances along a contour; what a cut's speed or depth changes leaves them as they
    are.
    """
    if count <= 0:
        return []
    grain = float(part.grain) if part.grain is not None else None
    key = f"{part.shape}/{name}"
    shy = shy_stretches(contour, policy.width, diameter, grain, key)
    loaded = memo("ends", key, lambda: loaded_ends(contour))

    def place() -> list[float]:
        for n in range(count, min(2, count) - 1, -1) if blocked else ():
            clear = place_tabs(contour, n, policy.width, diameter, shy, blocked, loaded)
            gaps = [(b - a) % contour.length for a, b in zip(clear, [*clear[1:], *clear[:1]], strict=True)]
            # tabs crowded on the one free stretch hold no better than a few of them
            if len(clear) == n and (n <= 2 or min(gaps) >= contour.length / (3 * n)):
                return clear
        return place_tabs(contour, count, policy.width, diameter, shy, (), loaded)

    return memo(
        "tabs",
        f"{key}/{count}/{policy.width!r}/{diameter!r}/{grain!r}/{[tuple(b) for b in blocked]!r}",
        place,
    )


def _at_corner(contour: Contour, x: float, y: float, reach: float) -> bool:
    s, _d = contour.nearest(x, y)
    ax, ay = contour.at(s - reach)[2:]
    bx, by = contour.at(s + reach)[2:]
    return ax * bx + ay * by < 0.8
