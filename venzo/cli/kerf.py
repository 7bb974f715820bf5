"""The command on kerf cutting."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

from pydantic import ValidationError

from venzo.cli.shared import Json, app, bytes_of, option, written
from venzo.core.snags import BadInput, plain_error
from venzo.core.voice import counted


def _tabs(text: str) -> dict[str, Any]:
    """``N:MM`` as a count and a width."""
    count, _sep, width = text.partition(":")
    try:
        return {"count": int(count), "width": float(width)}
    except ValueError as e:
        raise BadInput(f"--tabs {text}: give a count and a width in mm, such as 3:0.4") from e


@app.command()
def kerf(
    file: Path,
    width: Annotated[float, option("width of the kerf, mm", "--kerf")],
    lead: Annotated[float, option("from the kerf's middle line to the pierce, mm")],
    feed: Annotated[float, option("mm/min")],
    output: Annotated[Path, option("program to write", "-o")],
    lead_kind: Annotated[str, option("straight or arc")] = "straight",
    lead_angle: Annotated[float, option("between lead and cut, degrees")] = 90.0,
    lead_feed: Annotated[float | None, option("mm/min; as the feed")] = None,
    hop: Annotated[float, option("longest way for which the head stays down, mm; 0: it always lifts")] = 0.0,
    hop_feed: Annotated[float | None, option("mm/min, head down and off; as the feed")] = None,
    tabs: Annotated[str | None, option("N:MM, gaps of metal in each outline")] = None,
    thickness: Annotated[float | None, option("of the sheet, mm: small holes are judged by it")] = None,
    common_line: Annotated[bool, option("cut edges one kerf apart once")] = False,
    lead_out: Annotated[str, option("none, short or overburn")] = "none",
    out_length: Annotated[float, option("of the lead-out, mm")] = 0.0,
    corners: Annotated[str, option("through, slow or loop")] = "through",
    bridge: Annotated[float, option("mm of metal that joins neighbours to a row in one pierce")] = 0.0,
    bridge_reach: Annotated[
        float | None, option("mm between parts, at most, for a bridge; a lead and four kerfs")
    ] = None,
    bridge_most: Annotated[int, option("parts in a row, at most")] = 6,
    pre_pierce: Annotated[bool, option("pierce everything before anything is cut")] = False,
    swirl: Annotated[str, option("right, left or none: which edge is the good one")] = "right",
    pierce: Annotated[float, option("seconds that a pierce takes")] = 0.0,
    order: Annotated[
        str, option("insides first, piece by piece, small parts first or heat spread")
    ] = "insides first",
    units: str = "auto",
    join: float = 0.05,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Cut a drawing's parts by a kerf where they lie: plasma or fluid jet."""
    from venzo.core.kerf.how import KerfHow
    from venzo.desk import kerf as desk

    orders = ("insides first", "piece by piece", "small parts first", "heat spread")
    if order not in orders:
        raise BadInput(f"--order {order}: choose one of {', '.join(orders)}")
    try:
        how = KerfHow.model_validate(
            {
                "kerf": width,
                "lead": lead,
                "lead_kind": lead_kind,
                "lead_angle": lead_angle,
                "feed": feed,
                "lead_feed": lead_feed,
                "hop": hop,
                "hop_feed": hop_feed,
                "tabs": _tabs(tabs) if tabs else {},
                "thickness": thickness,
                "common_line": common_line,
                "lead_out": lead_out,
                "out_length": out_length,
                "corners": corners,
                "swirl": swirl,
                "pierce": pierce,
                "pre_pierce": pre_pierce,
                "bridge": bridge,
                "bridge_reach": lead + 4 * width if bridge_reach is None else bridge_reach,
                "bridge_most": bridge_most,
            }
        )
    except ValidationError as e:
        raise BadInput(f"{file.name}: {plain_error(e)}") from e
    made = desk.kerf(bytes_of(file), file.name, how, order, units=units, join=join, inch=inch)  # type: ignore[arg-type]
    figures = (
        f"{counted(made.run.pierces, 'pierce')}, {made.run.cut_length / 1000:.2f} m cut,"
        f" {made.run.hop_length / 1000:.2f} m of hops, about {made.run.time / 60:.1f} min"
    )
    written(made, output, as_json, figures)
