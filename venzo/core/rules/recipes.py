"""Recipes a shop starts with: named sequences of steps, made from the cutters it owns and the rules it
follows (all common practice).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from venzo.core.cuts.operations import Bore, Chamfer, Drill, Groove, On, Pocket, Profile, RecipeSteps, VCarve
from venzo.core.model import Family
from venzo.core.rules.house import HouseRules
from venzo.core.tooling.cutter import FLAT, Cutter


def house_recipes(cutters: Sequence[Cutter], rules: HouseRules) -> list[RecipeSteps]:
    """Recipes for the families that the cutters have feeds for; only those whose cutters are there."""
    out: list[RecipeSteps] = []

    def best(family: Family, *kinds: str, upto: float = 8.0, least: float = 0.0) -> Cutter | None:
        fit = [c for c in cutters if c.kind in kinds and family in c.feeds and least <= c.diameter <= upto]
        return max(fit, key=lambda c: c.diameter, default=None)

    def recipe(key: str, name: str, on: On, family: Family, why: str, *steps: Any) -> None:
        if all(steps):
            out.append(
                RecipeSteps(
                    id=f"{family}-{key}",
                    name=name,
                    on=on,
                    family=family,
                    steps=steps,
                    why=why,
                    rules=rules.name,
                )
            )

    mills = tuple(k for k in FLAT if k not in ("surfacing", "roughing"))
    for family in ("wood", "plastic", "aluminium"):
        f: Family = family  # type: ignore[assignment]
        rough_way, fine_way, left = (
            rules.rough_direction[f],
            rules.finish_direction[f],
            rules.side_allowance[f],
        )
        comp, down, up = (
            best(f, "compression"),
            best(f, "down-cut"),
            best(f, "up-cut", "single-flute") or best(f, "diamond-tipped"),
        )
        diamond = best(f, "diamond-tipped")
        one = up if f != "wood" else comp or up
        small = best(f, *mills, upto=(up.diameter - 0.5) if up else 0.0)
        vee, point = best(f, "v-bit", upto=60), best(f, "point roundover", "roundover", upto=60)
        drill = best(f, "drill", upto=20)
        finisher = down or diamond or up  # roughing with what cuts for less makes finishers last
        if one:
            recipe(
                "outline",
                "Outline in one go",
                "outlines",
                f,
                "both faces clean in one pass" if one.kind == "compression" else "passes by the depth rule",
                Profile(
                    id="outline",
                    on="outlines",
                    cutter=one.id,
                    direction=fine_way,
                    one_pass=one.kind == "compression",
                ),
            )
        if up and finisher:
            recipe(
                "rough-finish",
                f"Rough with {up.name}, finish with {finisher.name}",
                "outlines",
                f,
                f"{left:g} mm left by roughing, taken in one full-depth pass so that no step lines show;"
                " roughing makes finishers last many times longer",
                Profile(id="rough", on="outlines", cutter=up.id, direction=rough_way, side_allowance=left),
                Profile(
                    id="finish",
                    on="outlines",
                    cutter=finisher.id,
                    direction=fine_way,
                    lead="arc",
                    lead_length=max(left, 0.5),
                ),
            )
            recipe(
                "skin",
                "Onion skin, then free",
                "outlines",
                f,
                "a skin holds every part until the last pass frees it",
                Profile(
                    id="to the skin",
                    on="outlines",
                    cutter=up.id,
                    direction=fine_way,
                    floor_allowance=0.5 if f != "aluminium" else 0.2,
                ),
                Profile(id="free", on="outlines", cutter=up.id, direction=fine_way),
            )
        if down and up and f == "wood":
            recipe(
                "split",
                "Thick stock: down-cut first, up-cut below",
                "outlines",
                f,
                "clean top face from the down-cut level, chips lifted from the deep slot by the up-cut below",
                Profile(
                    id="top level", on="outlines", cutter=down.id, direction=fine_way, depth=down.diameter
                ),
                Profile(id="below", on="outlines", cutter=up.id, direction=fine_way),
            )
        if one and vee:
            recipe(
                "chamfer-first",
                "Break the edge first, then cut out",
                "outlines",
                f,
                "with the edge broken, later cuts do not tear the grain",
                Chamfer(id="edge", on="outlines", cutter=vee.id, width=0.8),
                Profile(id="outline", on="outlines", cutter=one.id, direction=fine_way),
            )
        if one and point:
            recipe(
                "round-first",
                "Round the edge first, then cut out",
                "outlines",
                f,
                "with the edge rounded, later cuts do not tear the grain",
                Chamfer(id="edge", on="outlines", cutter=point.id),
                Profile(id="outline", on="outlines", cutter=one.id, direction=fine_way),
            )
        if up:
            recipe(
                "pocket",
                "Pocket, rings",
                "pockets",
                f,
                "rings from the middle out, the last along the walls",
                Pocket(id="pocket", on="pockets", cutter=up.id, direction=fine_way),
            )
            recipe(
                "pocket-wall",
                "Pocket roughed wide, walls apart",
                "pockets",
                f,
                "92 % step-over for speed; walls closed at half the feed, where end grain tears",
                Pocket(
                    id="rough",
                    on="pockets",
                    cutter=up.id,
                    step_over=0.92,
                    side_allowance=min(left, 0.5),
                    direction=rough_way,
                ),
                Profile(
                    id="walls",
                    on="pockets",
                    cutter=up.id,
                    direction=fine_way,
                    feed_share=rules.wall_feed,
                    lead="arc",
                    lead_length=3.0,
                ),
            )
            recipe(
                "pocket-raster",
                "Pocket in rows, walls closed",
                "pockets",
                f,
                "rows along the grain leave the quietest floor",
                Pocket(
                    id="rows", on="pockets", cutter=up.id, pattern="raster", step_over=0.5, direction=fine_way
                ),
            )
            recipe(
                "bore",
                "Round holes along a helix",
                "round holes",
                f,
                "a helix is its own ramp and cuts its own size",
                Bore(id="bore", on="round holes", cutter=up.id, direction=fine_way),
            )
            recipe(
                "groove",
                "Grooves by rings and lines",
                "grooves",
                f,
                "areas cleared, lines followed",
                Pocket(id="areas", on="grooves", cutter=up.id, direction=fine_way),
                Groove(id="lines", on="grooves", cutter=up.id),
            )
        if up and small:
            recipe(
                "pocket-rest",
                f"Pocket with {up.name}, corners with {small.name}",
                "pockets",
                f,
                "the larger cutter does the work, the smaller only what it could not reach",
                Pocket(id="large", on="pockets", cutter=up.id, direction=rough_way),
                Pocket(id="rest", on="pockets", cutter=small.id, rest=True, direction=fine_way),
            )
        if vee:
            recipe(
                "v-carve",
                f"V-carve with {vee.name}",
                "engravings",
                f,
                "as deep as the strokes are wide, corners come up to the surface; in passes, the last one"
                " light, which keeps edges across the grain clean",
                VCarve(id="carve", on="engravings", cutter=vee.id, step_down=3.0),
            )
            clear = best(f, "up-cut", "single-flute", upto=4.0)
            recipe(
                "v-carve-floor",
                f"V-carve, floors cleared with {clear.name if clear else ''}",
                "engravings",
                f,
                "wide letters get a flat floor, which the end mill clears; walls and corners are the bit's",
                (
                    VCarve(
                        id="carve",
                        on="engravings",
                        cutter=vee.id,
                        depth=3.0,
                        clear=clear.id if clear else None,
                    )
                    if clear
                    else None
                ),
            )
        if drill:
            recipe(
                "drill",
                f"Drill with {drill.name}",
                "drillings",
                f,
                "by pecks, chips cleared between them",
                Drill(id="drill", on="drillings", cutter=drill.id),
            )
    return out
