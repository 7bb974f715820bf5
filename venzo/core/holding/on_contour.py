"""Which tabs does one contour get? By hand, by count, or by house rule; and what is to be said about them."""

from __future__ import annotations

from venzo.core.geometry.contour import Contour
from venzo.core.holding.tabs import place_tabs, tab_count
from venzo.core.plan import ContourChoice, Part, Setup
from venzo.core.rules.house import Tabs
from venzo.core.snags import Remedy, Snag, look, stop

MATCH = 6.0
"""mm; a hand-placed tab further than this from its contour has lost its place."""


def tabs_for(part: Part, name: str, contour: Contour, choice: ContourChoice | None, policy: Tabs, diameter: float, thickness: float, label: str, where: dict, setup: Setup,
             inside: bool) -> tuple[list[tuple[float, float]], bool, list[Snag]]:
    """Tab middles on the part's own contour, whether they were placed by hand, and what is to be said.

    ``diameter``: of the widest cutter that runs along it, mm.
    """
    count = policy.count if choice is None or choice.tab_count is None else choice.tab_count
    snags: list[Snag] = []
    by_hand = choice is not None and choice.tabs is not None
    footprint = policy.width + diameter
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
            snags.append(stop("choice.unmatched", f"{label}: {lost} tab{'s' * (lost != 1)} placed by hand {'has' if lost == 1 else 'have'} lost {'its' if lost == 1 else 'their'} "
                              f"place: the drawing has moved more than {MATCH:g} mm away", where,
                              Remedy(label="Move to the nearest place", command={"kind": "set-contour", "part": part.id, "contour": name, "tabs": near}),
                              Remedy(label="Automatic tabs", command={"kind": "set-contour", "part": part.id, "contour": name, "automatic": ["tabs"]})))
        wanted = len(choice.tabs) - lost
    else:
        counted = inside or (choice is not None and choice.tab_count is not None)
        wanted = count if counted else tab_count(contour, count, setup.rules.tab_every, footprint)
        middles = [contour.at(s)[:2] for s in place_tabs(contour, wanted, policy.width, diameter)]
    if middles and policy.height >= thickness:
        snags.append(stop("holding.tab-height", f"{label}: tabs {policy.height:g} mm high are as thick as the {thickness:.2f} mm sheet: nothing would be cut there", where))
    if len(middles) < wanted:
        snags.append(look("holding.tab-room", f"{label}: room for {len(middles)} of {wanted} tabs clear of corners", where))
    if not inside and len(middles) == 1:
        more = Remedy(label="Two tabs", command={"kind": "set-contour", "part": part.id, "contour": name, "tab_count": 2})
        snags.append(look("holding.single-tab", f"{label}: a single tab lets the part swing; use two or more, or be sure that something else holds it", where, more))
    if not inside and not middles and not setup.zones_on:
        more = Remedy(label="Tabs by house rule", command={"kind": "set-contour", "part": part.id, "contour": name, "automatic": ["tabs", "tab_count"]})
        four = Remedy(label="Four tabs", command={"kind": "set-contour", "part": part.id, "contour": name, "tab_count": 4})
        snags.append(stop("holding.none", f"{label}: no tab and no vacuum: it is loose when its outline is cut through", where, more if count == 0 and choice else four))
    for x, y in middles:
        if by_hand and _at_corner(contour, x, y, footprint / 2):
            snags.append(look("holding.tab-corner", f"{label}: the tab at {x:.0f}, {y:.0f} lies on a corner; it is hard to clean up there", {**where, "x": x, "y": y}))
    return middles, by_hand, snags


def _at_corner(contour: Contour, x: float, y: float, reach: float) -> bool:
    s, _d = contour.nearest(x, y)
    ax, ay = contour.at(s - reach)[2:]
    bx, by = contour.at(s + reach)[2:]
    return ax * bx + ay * by < 0.8
