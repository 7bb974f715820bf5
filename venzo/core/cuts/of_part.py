"""All cuts of one part under a setup: which operation, which cutter, how deep, where its tabs are."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from venzo.core.cuts.operations import Profile
from venzo.core.cuts.profile import Cut, ProfileSettings, cutter_rings, pass_levels, plan_profile
from venzo.core.geometry.contour import Contour
from venzo.core.holding.tabs import place_tabs, tab_count
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import ContourChoice, Part, Setup
from venzo.core.rules.house import Tabs
from venzo.core.snags import Remedy, Snag, look, stop
from venzo.core.tooling.cutter import Cutter

VERSION = "profile-1"
MATCH = 6.0
"""mm; a hand-placed tab further than this from its contour has lost its place."""


@dataclass(frozen=True)
class ContourPlan:
    """One contour as planned, for the screen: its cutter, passes, tabs (x, y on the part's contour) and who placed them."""

    contour: str
    operation: str
    cutter: str
    inside: bool
    passes: int
    depth: float
    step_down: float
    tabs: tuple[tuple[float, float], ...]
    tabs_by_hand: bool
    omitted: bool
    reason: str


@dataclass(frozen=True)
class PartCuts:
    """Cuts of a part in its own frame, inside ones first, with what is to be said about them."""

    cuts: tuple[Cut, ...]
    contours: tuple[ContourPlan, ...]
    snags: tuple[Snag, ...]
    left_out: tuple[str, ...]


def plan_part(part: Part, shape: Shape, setup: Setup, choices: list[ContourChoice], thickness: float, mirrored: bool = False) -> PartCuts:
    """Cuts of a part for one sheet thickness (mm), remembered by what they depend on.

    A mirrored piece is planned from the mirrored shape, so that climb stays climb; its moves are in the mirrored frame.
    """
    key = digest(VERSION, part.id, part.name, shape.digest, mirrored, thickness, setup.operations, setup.cutters, setup.rules, setup.material.family, setup.machine.retract,
                 setup.machine.rpm_min, setup.machine.rpm_max, choices)
    return memo("cuts", key, lambda: _plan_part(part, shape, setup, choices, thickness, mirrored))


def _plan_part(part: Part, shape: Shape, setup: Setup, choices: list[ContourChoice], thickness: float, mirrored: bool) -> PartCuts:
    cuts: list[Cut] = []
    plans: list[ContourPlan] = []
    snags: list[Snag] = []
    left_out: list[str] = []
    chosen = {c.contour: c for c in choices}
    for name in chosen.keys() - set(shape.names) - {f.name for f in shape.features}:
        drop = Remedy(label="Drop this choice", command=_back(part.id, name))
        snags.append(stop("choice.unmatched", f"{part.name}: the drawing no longer has {name}, for which a choice was made by hand", {"part": part.id, "contour": name}, drop))
    ordered = sorted(shape.contours, key=lambda nc: nc[0] == shape.names[0])  # the outline last
    for name, contour in ordered:
        inside = name != shape.names[0]
        on = "holes" if inside else "outlines"
        where = {"part": part.id, "contour": name}
        label = part.name if not inside else f"{part.name}, {name}"
        op = setup.operation(on)
        choice = chosen.get(name)
        if op is None:
            snags.append(stop("cuts.no-operation", f"{label}: no operation cuts {on}; add one at Cuts & hold", where))
            left_out.append(f"{label}: no operation")
            continue
        cutter = setup.cutter(choice.cutter if choice and choice.cutter else op.cutter)
        if choice and choice.omit:
            plans.append(ContourPlan(name, op.id, op.cutter, inside, 0, 0, 0, (), False, True, "left out on purpose"))
            left_out.append(f"{label}: left out on purpose")
            continue
        found, plan_, said = _plan_contour(part, name, contour, inside, op, cutter, setup, choice, thickness, mirrored, label, where)
        snags += said
        if plan_:
            plans.append(plan_)
        if not found:
            left_out.append(f"{label}: {said[-1].message if said else 'cannot be cut'}")
        cuts += found
    kinds = Counter(f.kind for f in shape.features)
    if kinds:
        listed = ", ".join(f"{n} {kind}{'s' * (n != 1)}" for kind, n in sorted(kinds.items()))
        snags.append(look("cuts.feature", f"{part.name}: {listed} not cut: no operation for them yet", {"part": part.id}))
        left_out += [f"{part.name}, {f.name}: no operation for {'an' if f.kind[0] in 'aeiou' else 'a'} {f.kind} yet" for f in shape.features]
    return PartCuts(tuple(cuts), tuple(plans), tuple(snags), tuple(left_out))


def _plan_contour(part: Part, name: str, contour: Contour, inside: bool, op: Profile, cutter: Cutter | None, setup: Setup, choice: ContourChoice | None,
                  thickness: float, mirrored: bool, label: str, where: dict) -> tuple[list[Cut], ContourPlan | None, list[Snag]]:
    family, rules = setup.material.family, setup.rules
    if cutter is None:
        return [], None, [stop("cuts.no-cutter", f"{label}: its cutter is not in the setup any more; choose another", where)]
    feeds = cutter.feeds.get(family)
    if feeds is None:
        return [], None, [stop("cuts.no-feeds", f"{label}: {cutter.name} has no feeds for {family}; enter them in the library or choose another cutter", where)]
    snags: list[Snag] = []
    if not setup.machine.rpm_min <= feeds.rpm <= setup.machine.rpm_max:
        snags.append(stop("cuts.rpm", f"{cutter.name}: {feeds.rpm:.0f} rpm is outside what {setup.machine.name} turns "
                          f"({setup.machine.rpm_min:.0f} to {setup.machine.rpm_max:.0f})", {"cutter": cutter.id}))
    overshoot = op.overshoot if op.overshoot is not None else rules.overshoot.get(family, 0.5)
    depth = thickness + overshoot
    largest = op.step_down or rules.largest_step(family, cutter.diameter)
    passes = rules.passes(depth, largest)
    if depth > cutter.cutting_length + 1e-9:
        snags.append(stop("cuts.too-deep", f"{label}: the cut is {depth:.2f} mm deep, the cutting edge of {cutter.name} is {cutter.cutting_length:g} mm", where))
    if passes > 400:
        return [], None, [*snags, stop("cuts.absurd", f"{label}: {passes} passes of {largest:g} mm; give a larger depth per pass", where)]
    policy = setup.tabs_on("holes" if inside else "outlines")
    count = policy.count if choice is None or choice.tab_count is None else choice.tab_count
    middles, by_hand, said = _tabs(part, name, contour, choice, count, policy, cutter, rules.tab_every, thickness, label, where, setup, inside)
    snags += said
    levels = pass_levels(depth, passes)
    settings = ProfileSettings(cutter.radius, inside, op.direction == "climb", levels, policy.height - thickness, policy.width,
                               op.ramp_length or rules.ramp_length, feeds.feed, feeds.plunge, setup.machine.retract)
    run, spots = (_mirror(contour), [(-x, y) for x, y in middles]) if mirrored else (contour, middles)
    cuts, said = plan_profile(name, run, cutter.id, op.id, settings, spots, where, label)
    if any(s.rule == "cuts.too-small" for s in said):
        said = [s if s.rule != "cuts.too-small" else s.model_copy(update={"remedies": _smaller(part, name, contour, inside, setup, cutter, depth)}) for s in said]
    how = {"by material": f"{rules.step_factor.get(family, 1.0):g} x diameter in {family}", "one diameter": "one diameter a pass", "half diameter": "half a diameter a pass"}
    reason = f"{thickness:.2f} mm measured + {overshoot:.2f} overshoot; at most {largest:.2f} mm a pass ({'set by hand' if op.step_down else how[rules.step_down]})"
    plan_ = ContourPlan(name, op.id, cutter.id, inside, passes, depth, depth / passes, tuple(middles), by_hand, False, reason)
    return cuts, plan_ if cuts else None, snags + said


def _mirror(contour: Contour) -> Contour:
    return contour.placed(0, 0, 0, True).oriented(contour.area > 0)


def _back(part_id: str, contour: str) -> dict:
    """The command that takes every hand choice on a contour back."""
    return {"kind": "set-contour", "part": part_id, "contour": contour, "automatic": ["cutter", "tabs", "tab_count"], "omit": False}


def _smaller(part: Part, name: str, contour: Contour, inside: bool, setup: Setup, cutter: Cutter, depth: float) -> tuple[Remedy, ...]:
    """Cutters of the setup that can enter, the largest first, and leaving the contour out."""
    out = []
    for other in sorted(setup.cutters, key=lambda c: -c.diameter):
        fits = other.diameter < cutter.diameter and setup.material.family in other.feeds and other.cutting_length >= depth
        if fits and cutter_rings(contour, other.radius, inside):
            out.append(Remedy(label=f"Cut it with {other.name}", command={"kind": "set-contour", "part": part.id, "contour": name, "cutter": other.id}))
            break
    out.append(Remedy(label="Leave it out", command={"kind": "set-contour", "part": part.id, "contour": name, "omit": True}))
    return tuple(out)


def _tabs(part: Part, name: str, contour: Contour, choice: ContourChoice | None, count: int, policy: Tabs, cutter: Cutter, every: float, thickness: float,
          label: str, where: dict, setup: Setup, inside: bool) -> tuple[list[tuple[float, float]], bool, list[Snag]]:
    """Tab middles on the part's own contour, whether they were placed by hand, and what is to be said."""
    snags: list[Snag] = []
    by_hand = choice is not None and choice.tabs is not None
    footprint = policy.width + cutter.diameter
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
        wanted = count if counted else tab_count(contour, count, every, footprint)
        middles = [contour.at(s)[:2] for s in place_tabs(contour, wanted, policy.width, cutter.diameter)]
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
