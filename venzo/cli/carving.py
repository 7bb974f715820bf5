"""Commands on V-carving and inlays."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from venzo.cli.shared import Json, app, bytes_of, option, say, snag_lines, written
from venzo.core.snags import BadInput, PlainSnag


@app.command()
def vcarve(
    file: Path,
    angle: Annotated[float, option("included angle of the bit as measured, degrees")],
    bit_diameter: Annotated[float, option("mm")],
    output: Annotated[Path, option("program to write", "-o")],
    tip_flat: float = 0.0,
    tip_radius: float = 0.0,
    max_depth: float | None = None,
    floor_depth: float | None = None,
    clear_diameter: Annotated[float | None, option("of the end mill that clears floors, mm")] = None,
    below: Annotated[float, option("reckoned from a plane so much lower, mm")] = 0.0,
    step_down: Annotated[
        float | None, option("deepest pass of the bit, mm; a light pass at full depth follows")
    ] = None,
    ridge: Annotated[float | None, option("height of ridges on floors that the bit clears, mm")] = None,
    line_depth: Annotated[float | None, option("engrave open lines this deep, mm")] = None,
    thickness: Annotated[float | None, option("of the stock, mm")] = None,
    units: str = "auto",
    join: float = 0.05,
    feed: float = 2400.0,
    plunge: float = 900.0,
    rpm: float = 18_000.0,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """V-carve all closed outlines of a drawing."""
    from venzo.core.carving.bit import Bit
    from venzo.desk import vcarve

    bit = Bit(angle, bit_diameter, tip_flat, tip_radius)
    depths = vcarve.Depths(max_depth, floor_depth, clear_diameter, below, step_down, ridge=ridge)
    if line_depth is not None and not 0 < line_depth <= 100:
        raise BadInput(f"--line-depth {line_depth:g}: give a depth above 0 and up to 100 mm")
    written(
        vcarve.vcarve(
            bytes_of(file),
            file.name,
            bit,
            depths,
            vcarve.Feeds(feed, plunge, rpm),
            units=units,
            join=join,
            inch=inch,
            line_depth=line_depth,
            thickness=thickness,
        ),
        output,
        as_json,
    )


@app.command()
def inlay(
    file: Path,
    angle: Annotated[float, option("included angle of the bit as measured, degrees")],
    bit_diameter: Annotated[float, option("mm")],
    output: Annotated[Path, option("folder for the two programs", "-o")],
    depth: Annotated[float, option("of the socket, mm")] = 4.0,
    gap: Annotated[float, option("for glue under the plug, mm")] = 0.4,
    saw: Annotated[float, option("room to saw the plug off, mm")] = 1.5,
    clear_diameter: Annotated[float | None, option("of the end mill that clears floors, mm")] = None,
    tip_flat: float = 0.0,
    units: str = "auto",
    feed: float = 2400.0,
    plunge: float = 900.0,
    rpm: float = 18_000.0,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Socket and plug of an inlay from one drawing."""
    from venzo.core.carving.bit import Bit
    from venzo.core.carving.inlay import inlay as pair_of
    from venzo.core.carving.inlay import mating, mating_snags
    from venzo.desk import vcarve

    area, _lines, snags = vcarve.drawn_area(bytes_of(file), file.name, units)
    pair = pair_of(area, Bit(angle, bit_diameter, tip_flat), depth, gap, saw, clear=clear_diameter)
    feeds_ = vcarve.Feeds(feed, plunge, rpm)
    made = {
        "socket": vcarve.program(pair.socket, feeds_, f"{file.name}, socket", inch),
        "plug": vcarve.program(
            pair.plug, feeds_, f"{file.name}, plug, mirrored", inch, shift=(-pair.board[0], -pair.board[1])
        ),
    }
    output.mkdir(parents=True, exist_ok=True)
    for name, m in made.items():
        (output / f"{file.stem}_{name}.nc").write_text(m.text)
    b = area.bounds
    fit = mating(pair, max(0.05, max(b[2] - b[0], b[3] - b[1]) / 600), 0.06)
    board = [round(pair.board[2] - pair.board[0], 2), round(pair.board[3] - pair.board[1], 2)]
    found: list[PlainSnag] = [
        s.plain()
        for s in (
            *snags,
            *mating_snags(fit),
            *(s for m in made.values() for s in m.snags if s.severity == "stop"),
        )
    ]
    document = {
        **{k: m.to_json() for k, m in made.items()},
        "mating": {k: round(v, 4) for k, v in vars(fit).items()},
        "plug_board_mm": board,
        "snags": found,
    }
    lines = [
        f"{output / f'{file.stem}_{k}.nc'}: {m.cut_length / 1000:.2f} m cut, {m.seconds / 60:.1f} min,"
        f" {m.deepest:.2f} mm deep"
        for k, m in made.items()
    ]
    say(
        document,
        as_json,
        [
            *lines,
            (
                f"overlap {fit.overlap:.2f} mm3, gap under the plug {fit.floor_gap:.2f} mm, {fit.saw:.2f} mm"
                " to saw in"
            ),
            *snag_lines(found),
        ],
    )
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in found) else 0)
