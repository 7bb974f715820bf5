"""Commands on cutters and feeds."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from venzo.cli.shared import Data, Json, app, folder_of, say, store_in
from venzo.core.snags import BadInput

_TOOL = {"flat": "up-cut", "bull": "bowl", "vee": "v-bit", "v": "v-bit", "taper": "tapered ball"}
"""Short names of kinds, beside the library's own."""


@app.command()
def feeds(
    material: Annotated[str, typer.Option(help="wood, plastic, aluminium, steel, or a material's name")],
    tool: Annotated[str, typer.Option(help="kind:diameter[:flutes], mm")],
    rpm: float | None = None,
    feed: Annotated[float | None, typer.Option(help="mm/min")] = None,
    machine: str | None = None,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Speeds and feeds: what the numbers come to, whether they lie in the window, and which way to turn
    them.
    """
    from venzo.core.feeds.adviser import CutNumbers, advise, metres
    from venzo.core.rules.house import HouseRules
    from venzo.core.stock.known import KNOWN, find
    from venzo.core.stock.machine import Machine
    from venzo.core.stock.material import Material

    cutter = _tool(tool)
    families = {"wood": 680.0, "plastic": 1190.0, "aluminium": 2700.0, "steel": 7850.0}
    word = {"aluminum": "aluminium"}.get(material.lower(), material.lower())
    folder = folder_of(data)
    shop_has = (folder / "venzo.db").exists()
    stock: Material | None = (
        Material(id=word, name=word, family=word, density=families[word]) if word in families else None
    )  # type: ignore[arg-type]
    if stock is None and shop_has:
        own = [Material.model_validate(m) for m in store_in(data).library("material")]
        stock = next((m for m in own if material.lower() in (m.id.lower(), m.name.lower())), None)
    stock = stock or find(material)
    if stock is None:
        raise BadInput(
            f"--material {material}: not known; use {', '.join(families)}, or one of"
            f" {', '.join(m.name for m in KNOWN)}"
        )
    on = None
    if machine:
        known = (
            [Machine.model_validate(m) for m in store_in(data).library("machine")]
            if shop_has
            else _demo_machines()
        )
        on = next((m for m in known if machine.lower() in (m.id.lower(), m.name.lower())), None)
        if on is None:
            raise BadInput(f"--machine {machine}: the library has {', '.join(m.name for m in known)}")
    house = HouseRules()
    if shop_has:
        from venzo.desk import library

        house = library.rules(store_in(data)) if on is not None else house
    a = advise(cutter, stock, house, on, CutNumbers(rpm, feed))
    document = {
        "chip_load_mm": round(a.chip_load, 6),
        "surface_speed_m_min": round(a.surface_speed, 3),
        "rpm": round(a.rpm, 3),
        "feed_mm_min": round(a.feed, 3),
        "plunge_mm_min": round(a.plunge, 3),
        "max_step_down_mm": round(a.step_down, 4),
        "snags": [s.plain() for s in a.snags],
        "window": {
            "chip_load_mm": list(a.window.chip),
            "chip_load_source": a.window.chip_source,
            "surface_speed_m_min": list(a.window.speed),
            "surface_speed_source": a.window.speed_source,
        },
        "feed_in_min": round(a.feed / 25.4, 3),
        "feed_in_s": round(a.feed / 25.4 / 60, 4),
        "step_down_rule": a.step_reason,
        "power_w": round(a.power, 1),
        "force_n": round(a.force, 1),
        "bend_mm": round(a.bend, 4),
    }
    lines = [
        f"{cutter.name} in {stock.name}: {a.rpm:.0f} rpm, {metres(a.feed)}, {a.feed / 25.4 / 60:.2f} in/s",
        (
            f"  chip {a.chip_load:.3g} mm a tooth (window {a.window.chip[0]:.3g} to {a.window.chip[1]:.3g}:"
            f" {a.window.chip_source})"
        ),
        (
            f"  edge {a.surface_speed:.0f} m/min (window {a.window.speed[0]:.0f} to {a.window.speed[1]:.0f}:"
            f" {a.window.speed_source})"
        ),
        (
            f"  at most {a.step_down:g} mm a pass: {a.step_reason}; plunge {metres(a.plunge)}"
            f" ({a.plunge_reason})"
        ),
    ]
    say(document, as_json, lines + [f"{s.severity}: {s.message}" for s in a.snags])
    raise typer.Exit(1 if any(s.severity == "stop" for s in a.snags) else 0)


def _demo_machines() -> list[Any]:
    from venzo.demo.library import MACHINES

    return MACHINES


def _tool(text: str) -> Any:
    """A cutter from ``kind:diameter[:flutes]``."""
    from typing import get_args

    from pydantic import ValidationError

    from venzo.core.snags import plain_error
    from venzo.core.tooling.cutter import Cutter, Kind

    fields = text.split(":")
    kinds = get_args(Kind)
    wanted = fields[0].strip().lower().replace("_", " ")
    kind = _TOOL.get(wanted) or next(
        (k for k in kinds if k.replace("-", " ") == wanted.replace("-", " ")), None
    )
    if kind is None:
        raise BadInput(
            f"--tool {text}: {fields[0]!r} is not a kind of cutter; use one of {', '.join([*_TOOL, *kinds])}"
        )
    try:
        diameter = float(fields[1])
        flutes = int(fields[2]) if len(fields) > 2 else 2
    except (IndexError, ValueError):
        raise BadInput(
            f"--tool {text}: give kind:diameter:flutes, diameter in mm, as in flat:6.35:2"
        ) from None
    if not 0.1 < diameter <= 200 or not 1 <= flutes <= 12 or len(fields) > 3:
        raise BadInput(f"--tool {text}: a diameter above 0.1 and up to 200 mm and 1 to 12 flutes")
    extra = {"corner_radius": diameter / 8} if kind in ("bowl", "roundover", "point roundover") else {}
    try:
        # the edge is taken long enough for two diameters: the command knows no better
        return Cutter(
            id="tool",
            number=1,
            name=f"{diameter:g} mm {kind}",
            kind=kind,
            diameter=diameter,
            flutes=flutes,
            cutting_length=max(4 * diameter, 1.0),
            shank=diameter,
            tip=1.0 if kind == "tapered ball" else 0.0,
            **extra,
        )  # type: ignore[arg-type]
    except ValidationError as e:
        raise BadInput(f"--tool {text}: {plain_error(e)}") from e
