"""Commands on surfacing."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from venzo.cli.shared import Data, Json, app, option, say, store_in, written
from venzo.core.snags import BadInput


@app.command()
def surface(
    width: Annotated[float, option("mm")],
    height: Annotated[float, option("mm")],
    cutter: Annotated[float, option("diameter, mm")],
    stepover: Annotated[float, option("percent of the diameter")],
    depth: Annotated[float, option("mm a pass")],
    output: Annotated[Path, option("program to write", "-o")],
    feed: Annotated[float, option("mm/min")],
    rpm: Annotated[float, option("of the spindle")],
    passes: int = 1,
    overrun: float = 0.0,
    pattern: str = "rows",
    ways: Annotated[str, option("both ways, climb or conventional")] = "both ways",
    along: Annotated[str, option("x, y or longer")] = "longer",
    start: Annotated[float, option("mm already taken off since Z was set")] = 0.0,
    finish_depth: float = 0.0,
    finish_stepover: float = 15.0,
    plunge: float | None = None,
    dead: Annotated[
        list[str] | None,
        option(
            "X0,Y0,X1,Y1[,HEIGHT[,MARGIN]] that the cutter must not enter and is lifted over; may be given"
            " several times"
        ),
    ] = None,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Surface a board or spoilboard in passes."""
    from pydantic import ValidationError

    from venzo.core.snags import plain_error
    from venzo.core.surfacing.board import KeepOut, Surfacing
    from venzo.desk import surfacing

    try:
        given = {
            "cutter": cutter,
            "step_over": stepover / 100,
            "depth": depth,
            "passes": passes,
            "overrun": overrun,
            "pattern": pattern,
            "ways": ways,
            "along": along,
        }
        more = {
            "start": start,
            "finish_depth": finish_depth,
            "finish_step_over": finish_stepover / 100,
            "feed": feed,
            "rpm": rpm,
            "plunge": plunge or min(feed, 1500.0),
        }
        asked = Surfacing.model_validate({**given, **more})
    except ValidationError as e:
        raise BadInput(f"surface: {plain_error(e)}") from e
    places = []
    for text in dead or []:
        try:
            numbers = [float(v) for v in text.split(",")]
            x0, y0, x1, y1 = numbers[:4]
            places.append(
                KeepOut.model_validate([min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1), *numbers[4:]])
            )
        except ValidationError as e:
            raise BadInput(f"--dead {text}: {plain_error(e)}") from e
        except ValueError:
            raise BadInput(
                f"--dead {text}: give X0,Y0,X1,Y1 and if need be its HEIGHT over Z 0 and the MARGIN round it,"
                " in mm"
            ) from None
    written(surfacing.surface(width, height, asked, inch, places), output, as_json)


@app.command()
def grid(
    machine: Annotated[str, option("id of the machine")],
    output: Annotated[Path, option("program to write", "-o")],
    cutter: Annotated[str | None, option("id of the cutter that engraves; none: a sprung pen")] = None,
    depth: Annotated[float, option("of the lines, mm")] = 0.3,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Mark the numbered grid on a machine's table, from machine home."""
    from venzo.desk.grids import table_grid

    name, text = table_grid(store_in(data), machine, cutter, depth)
    try:
        output.write_text(text)
    except OSError as e:
        raise BadInput(f"-o {output}: cannot be written ({e.strerror}); choose another name") from e
    say({"name": name, "lines": text.count("\n")}, as_json, [f"{output}: {name}"])
