"""Is this a good speed and feed? The numbers of a cut, the window they should lie in, and which way to turn
the knob.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from venzo.core.feeds import mechanics as m
from venzo.core.feeds.windows import Window, energy, window
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput, Snag, Where, look, note, stop
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import FLAT, Cutter

SLOWEST, FASTEST = 6_000.0, 24_000.0
"""rpm taken for a spindle that is not known."""
POWER_SHARE = 0.8
"""Share of the spindle's power that a plan may ask for without a word (common practice)."""


@dataclass(frozen=True)
class Advice:
    """What a cutter does at a speed, feed and engagement. mm, mm/min, m/min, mm3/s, W, N; ``available`` None:
    the spindle's curve is not known.
    """

    rpm: float
    feed: float
    plunge: float
    chip_load: float
    chip_thickness: float
    surface_speed: float
    window: Window
    depth: float
    width: float
    step_down: float
    step_reason: str
    plunge_reason: str
    source: str
    energy: float
    energy_source: str
    removal: float
    power: float
    available: float | None
    force: float
    """Of the heaviest moment of a turn."""
    mean_force: float
    """Along the edge's path, over a turn: what a sheet feels that is too heavy to follow single teeth."""
    bend: float
    snags: tuple[Snag, ...]

    def to_json(self) -> dict[str, Any]:
        """Plain data for the screen."""
        return {**asdict(self), "snags": [s.model_dump(mode="json") for s in self.snags]}


def _source(usual: str, rpm: float | None, feed: float | None) -> str:
    """Where speed and feed come from, in words.

    >>> by_hand = [(18000, 3000), (None, 3000), (18000, None), (None, None)]
    >>> [_source("shop", rpm, feed) for rpm, feed in by_hand]
    ['set by hand', 'feed set by hand, speed: shop', 'speed set by hand, feed: shop', 'shop']
    """
    if rpm and feed:
        return "set by hand"
    return (
        f"feed set by hand, speed: {usual}" if feed else f"speed set by hand, feed: {usual}" if rpm else usual
    )


def metres(feed: float) -> str:
    """A feed as it is said: m/min with in/min beside it.

    >>> metres(5080)
    '5.08 m/min (200 in/min)'
    """
    return f"{feed / 1000:.3g} m/min ({feed / 25.4:.0f} in/min)"


@dataclass(frozen=True)
class CutNumbers:
    """What is known of a cut before it is worked out; None: by the shop's numbers or by rule.

    ``rpm``: else the cutter's own, else the middle (geometric) of the surface-speed window within what the
    machine turns. ``feed``, mm/min: else the cutter's own at its own speed (its chip load at another), else
    the middle of the chip-load window, the low end in a cut deeper than the diameter. ``depth``, mm engaged
    along the axis: else the largest step by house rule, as far as the edge reaches. ``width``, mm engaged
    across: else the whole diameter, a slot. ``plunge``, mm/min: else the cutter's own, or by house rule.
    ``section``: largest chip section in the arc engaged over the feed per tooth, mm, where it was measured:
    else that of a straight wall ``width`` mm across.
    """

    rpm: float | None = None
    feed: float | None = None
    depth: float | None = None
    width: float | None = None
    plunge: float | None = None
    section: float | None = None


def advise(
    cutter: Cutter,
    material: Material,
    rules: HouseRules,
    machine: Machine | None = None,
    given: CutNumbers = CutNumbers(),
) -> Advice:
    """Work out a cut and judge it. The cutter's own feeds for the family stand where no number is given.

    Raises:
        BadInput: a number that cannot be.
    """
    rpm, feed, depth, width = given.rpm, given.feed, given.depth, given.width
    plunge, section = given.plunge, given.section
    for what, v in (("rpm", rpm), ("feed", feed), ("depth", depth), ("width", width), ("plunge", plunge)):
        if v is not None and not 0 < v < 1e6:
            raise BadInput(f"{what} {v:g}: give a number above 0")
    w = window(cutter, material)
    own = cutter.feeds.get(material.family)
    low_rpm, high_rpm = (machine.rpm_min, machine.rpm_max) if machine else (SLOWEST, FASTEST)
    step = min(rules.largest_step(material.family, cutter.diameter, cutter.kind), cutter.reach)
    depth = depth if depth is not None else step
    width = min(width, cutter.diameter) if width is not None else cutter.diameter
    source = _source(own.source if own else "middle of the window", rpm, feed)
    given_rpm = rpm
    if rpm is None:
        if feed is not None and own is None:  # the speed that puts this feed in the middle of the window
            rpm = min(max(feed / (cutter.flutes * sum(w.chip) / 2), low_rpm), high_rpm)
        else:
            rpm = (
                own.rpm
                if own
                else min(
                    max(m.spindle_speed(cutter.diameter, (w.speed[0] * w.speed[1]) ** 0.5), low_rpm), high_rpm
                )
            )
    if feed is None:
        if own:
            feed = own.feed if given_rpm is None else own.feed * rpm / own.rpm
            if machine and feed > machine.fastest_feed:
                feed, source = machine.fastest_feed, f"{source}, held to what {machine.name} runs"
        else:
            low, high = w.chip
            aim = low + (high - low) * (0.15 if depth > cutter.diameter * 1.001 else 0.5)
            feed = m.table_feed(aim, rpm, cutter.flutes)
            if machine:
                feed = min(feed, machine.fastest_feed)
                spare = machine.power_at(rpm)
                e = energy(material)[0]
                if spare is not None:
                    need = m.cutting_power(m.removal_rate(feed, width, depth), e) / 1000
                    feed = min(feed, feed * POWER_SHARE * spare / need) if need > 0 else feed
    if plunge is None:
        plunge, why = (
            (own.plunge, "the cutter's own")
            if own and given_rpm is None and feed == own.feed
            else (rules.plunge_feed(feed), f"house rule: {rules.plunge}")
        )
    else:
        why = "set by hand"
    per_joule, energy_source = energy(material)
    chip, speed = m.chip_load(feed, rpm, cutter.flutes), m.surface_speed(cutter.diameter, rpm)
    drilling = cutter.kind == "drill"
    rate = (
        m.drilling_rate(plunge, cutter.diameter)
        if drilling
        else m.removal_rate(feed, width, depth) * (0.5 if cutter.kind == "v-bit" else 1.0)
    )  # a V takes a triangle
    power = m.cutting_power(rate, per_joule)
    available = machine.power_at(rpm) if machine else None
    if drilling:
        force = m.chip_force(per_joule, m.chip_load(plunge, rpm, cutter.flutes), cutter.radius)
    else:
        force = m.chip_force(
            per_joule,
            chip,
            section if section is not None else m.slot_section(depth, width, cutter.diameter, cutter.flutes),
        )
    bend = (
        0.0
        if cutter.kind == "drill"
        else m.deflection(
            force,
            cutter.overhang,
            (
                min(cutter.diameter, cutter.shank)
                if cutter.overhang > 1.5 * cutter.cutting_length
                else cutter.diameter
            ),
        )
    )
    plain = Advice(
        rpm,
        feed,
        plunge,
        chip,
        m.chip_thickness(chip, width, cutter.diameter),
        speed,
        w,
        depth,
        width,
        rules.largest_step(material.family, cutter.diameter, cutter.kind),
        rules.step_reason(material.family, cutter.kind),
        why,
        source,
        per_joule,
        energy_source,
        rate,
        power,
        available * 1000 if available is not None else None,
        force,
        m.cutting_force(power, speed),
        bend,
        (),
    )
    return Advice(
        **{
            **plain.__dict__,
            "snags": tuple(_judge(plain, cutter, material, rules, machine, low_rpm, high_rpm)),
        }
    )


def _judge(  # noqa: C901
    a: Advice,
    cutter: Cutter,
    material: Material,
    rules: HouseRules,
    machine: Machine | None,
    low_rpm: float,
    high_rpm: float,
) -> list[Snag]:
    out: list[Snag] = []
    name, z = cutter.name, cutter.flutes
    low, high = a.window.chip
    where: Where = {"cutter": cutter.id}
    if not low_rpm - 1e-6 <= a.rpm <= high_rpm + 1e-6 and machine:
        out.append(
            stop(
                "feeds.rpm",
                f"{name}: {a.rpm:.0f} rpm is outside what {machine.name} turns ({low_rpm:.0f} to"
                f" {high_rpm:.0f})",
                where,
            )
        )

    def turns(chip: float) -> str | None:
        n = a.feed / (chip * z)
        return f"{n:.0f} rpm" if low_rpm <= n <= high_rpm else None

    if a.chip_load < low * 0.999:
        slower = turns(low)
        say = (
            f"slow the spindle to {slower} or feed {metres(low * a.rpm * z)}"
            if slower
            else f"feed {metres(low * a.rpm * z)}"
        )
        why = {
            "aluminium": "it rubs, heats and welds",
            "plastic": "it rubs and melts",
            "steel": "it rubs and dulls",
        }.get(material.family, "it rubs, makes dust and burns")
        out.append(
            look(
                "feeds.rub",
                f"{name}: chips of {a.chip_load:.3g} mm a tooth are below the window ({low:.3g} to"
                f" {high:.3g}); {why}: {say}",
                where,
            )
        )
    if a.chip_load > high * 1.001:
        faster = turns(high)
        say = f"feed at most {metres(high * a.rpm * z)}" + (f" or turn {faster}" if faster else "")
        worst = stop if a.chip_load > 2 * high else look
        out.append(
            worst(
                "feeds.break",
                f"{name}: chips of {a.chip_load:.3g} mm a tooth are above the window ({low:.3g} to"
                f" {high:.3g}); it may break: {say}",
                where,
            )
        )
    slow, fast = a.window.speed
    if a.surface_speed > fast * 1.001:
        n = m.spindle_speed(cutter.diameter, fast)
        say = (
            f"slow the spindle to {n:.0f} rpm"
            if n >= low_rpm
            else f"this spindle cannot turn slow enough ({n:.0f} rpm): take a smaller cutter"
        )
        out.append(
            look(
                "feeds.fast-edge",
                f"{name}: the edge runs at {a.surface_speed:.0f} m/min, at most {fast:.0f} in"
                f" {material.family}; {say}",
                where,
            )
        )
    if a.surface_speed < slow * 0.999 and cutter.kind != "drill":
        n = m.spindle_speed(cutter.diameter, slow)
        say = (
            f"turn {n:.0f} rpm"
            if n <= high_rpm
            else "a small cutter on this spindle stays below it: feed gently"
        )
        out.append(
            (look if n <= high_rpm else note)(
                "feeds.slow-edge",
                f"{name}: the edge runs at {a.surface_speed:.0f} m/min, at least {slow:.0f} in"
                f" {material.family} is usual; {say}",
                where,
            )
        )
    if (
        a.depth > cutter.diameter * (1 + rules.accepted_excess)
        and a.chip_load > low + 0.5 * (high - low)
        and a.width > cutter.diameter / 2
        and cutter.kind != "drill"
    ):
        out.append(
            note(
                "feeds.deep",
                f"{name}: deeper than its diameter; the low end of the chip-load window"
                f" ({metres(low * a.rpm * z)}) is kinder",
                where,
            )
        )
    if a.chip_thickness < 0.6 * a.chip_load and a.chip_thickness < low and cutter.kind in FLAT:
        out.append(
            note(
                "feeds.thin",
                f"{name}: a skim {a.width:.2g} mm wide makes chips only {a.chip_thickness:.3g} mm thick (chip"
                " thinning); it can be fed up to"
                f" {metres(min(low / max(a.chip_thickness, 1e-9), 4) * a.feed)}",
                where,
            )
        )
    if a.available is not None and a.power > a.available * POWER_SHARE:
        k = a.available * POWER_SHARE / a.power
        worst = stop if a.power > a.available else look
        out.append(
            worst(
                "feeds.power",
                f"{name}: needs {a.power / 1000:.2f} kW; of the {a.available / 1000:.2f} kW that the spindle"
                f" gives at {a.rpm:.0f} rpm a plan may ask for {POWER_SHARE:.0%},"
                f" {a.available * POWER_SHARE / 1000:.2f} kW: feed {metres(a.feed * k)} or go"
                f" {a.depth * k:.1f} mm deep",
                where,
            )
        )
    if a.bend > rules.deflection_limit:
        out.append(
            look(
                "feeds.bend",
                f"{name}: bends {a.bend:.3f} mm at {a.force:.0f} N with {cutter.overhang:.0f} mm standing"
                f" out; take it shorter, thicker, or go {a.depth * rules.deflection_limit / a.bend:.1f} mm"
                " deep",
                where,
            )
        )
    if (
        a.depth > a.step_down * (1 + rules.accepted_excess) + 1e-9
        and a.width > 0.5 * cutter.diameter
        and cutter.kind != "drill"
    ):
        out.append(
            look(
                "feeds.depth",
                f"{name}: {a.depth:g} mm engaged is more than the house rule's {a.step_down:g} mm"
                f" ({a.step_reason})",
                where,
            )
        )
    if a.depth > cutter.reach + 1e-9:
        out.append(
            stop("feeds.edge", f"{name}: {a.depth:g} mm deep, its edge reaches {cutter.reach:g} mm", where)
        )
    if machine and a.feed > machine.fastest_feed * 1.001:
        out.append(
            look(
                "feeds.top-speed",
                f"{name}: {metres(a.feed)} is more than {machine.name} runs ({metres(machine.fastest_feed)});"
                " the machine will cut slower than the program says",
                where,
            )
        )
    if a.plunge > a.feed * 1.001 and cutter.kind != "drill":
        worst = stop if a.plunge > 3 * a.feed else look
        out.append(
            worst(
                "feeds.plunge",
                f"{name}: it plunges at {metres(a.plunge)}, faster than it feeds ({metres(a.feed)}); half the"
                " feed is usual",
                where,
            )
        )
    elif a.plunge < 0.05 * a.feed and cutter.kind != "drill":
        out.append(
            look(
                "feeds.plunge",
                f"{name}: it plunges at {metres(a.plunge)}, {a.plunge / a.feed:.0%} of its feed; half is"
                " usual, a plunge so slow wastes minutes and rubs",
                where,
            )
        )
    if material.family in ("aluminium", "steel") and cutter.kind == "compression":
        out.append(
            look(
                "feeds.kind",
                f"{name}: a compression cutter packs metal chips; use a single-flute or up-cut one",
                where,
            )
        )
    if material.family in ("aluminium", "steel") and machine and not machine.cooling:
        out.append(
            note(
                "feeds.dry",
                f"{material.name}: cut with mist or lubricant and clear the chips; {machine.name} has neither"
                " entered",
                where,
            )
        )
    if cutter.life and cutter.metres > cutter.life:
        out.append(
            look(
                "feeds.worn",
                f"{name}: {cutter.metres:.0f} m cut, changed after {cutter.life:.0f} m by house rule",
                where,
            )
        )
    return out
