"""The command on reliefs."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from venzo.cli.shared import Json, app, bytes_of, option, say, snag_lines
from venzo.core.snags import BadInput, plain_error


def _sizes(text: str) -> tuple[float, ...]:
    """``W``, ``WxH`` or ``WxHxZ`` in mm."""
    if not text:
        return ()
    try:
        out = tuple(float(v) for v in text.lower().split("x"))
    except ValueError:
        out = ()
    if not 1 <= len(out) <= 3 or any(not 0 < v < 1e5 for v in out):
        raise BadInput(f"--size {text}: give W, WxH or WxHxZ in mm, such as 120x80x6")
    return out


@app.command()
def relief(
    model: Path,
    block: Annotated[str, option("WxHxT of the stock, mm")],
    finish: Annotated[str, option("ball:D or taper:R:HALFANGLE:D, mm and degrees")],
    stepover: Annotated[float, option("percent of the tip's diameter, in plan")],
    output: Annotated[Path, option("folder for the programs", "-o")],
    depth: Annotated[float, option("of the model's highest point below the block's top, mm")] = 0.0,
    size: Annotated[str, option("W, WxH or WxHxZ, mm")] = "",
    boundary: Annotated[float, option("mm that the tip's middle may go beyond the outline")] = 0.0,
    rough: Annotated[str | None, option("flat:D, mm; without: finished at once")] = None,
    allowance: Annotated[float, option("left by roughing, mm")] = 1.0,
    level: Annotated[float | None, option("depth of a roughing level, mm; half the cutter")] = None,
    pattern: Annotated[str, option("raster, rings or spiral")] = "raster",
    angle: Annotated[float, option("of rows, degrees from X")] = 0.0,
    cusp: Annotated[
        float | None, option("height of ridges, mm, in place of the step-over: closed up on slopes")
    ] = None,
    rim: Annotated[bool, option("roughing ends every level once round the boundary")] = False,
    black_high: Annotated[bool, option("of a picture black is high, not white")] = False,
    smooth: Annotated[float, option("pixels over which a picture is smoothed")] = 0.0,
    feed: float = 2400.0,
    plunge: float = 900.0,
    rpm: float = 18_000.0,
    inch: bool = False,
    as_json: Json = False,
) -> None:
    """Carve a model or a picture of heights from a block."""
    from venzo.core.relief.block import Block, Sitting
    from venzo.core.relief.finishing import Finish
    from venzo.core.relief.roughing import Rough
    from venzo.desk import relief as desk
    from venzo.desk.proving import numbers, tool
    from venzo.desk.vcarve import Feeds

    w, h, t = numbers(block, "--block", 3, "x")
    if pattern not in ("raster", "rings", "spiral"):
        raise BadInput(f"--pattern {pattern}: choose raster, rings or spiral")
    last = _cutter(tool, finish, "--finish", ("ball", "taper", "bull"))
    first = _cutter(tool, rough, "--rough", ("flat", "bull", "ball")) if rough else None
    try:
        how = desk.HowMade(
            last,
            Finish.model_validate(
                {"step_over": stepover / 100, "pattern": pattern, "angle": angle, "cusp": cusp}
            ),
            first,
            Rough.model_validate(
                {
                    "allowance": allowance,
                    "level": level if level is not None else (first.cutter.diameter / 2 if first else 3.0),
                    "angle": angle,
                    "round_last": rim,
                }
            ),
            Feeds(feed, plunge, rpm),
            smooth,
            inch,
            black_high,
        )
        stock = Block.model_validate({"width": w, "height": h, "thickness": t})
        sitting = Sitting.model_validate({"depth": depth, "margin": boundary, "size": _sizes(size)})
    except ValidationError as e:
        raise BadInput(f"{model.name}: {plain_error(e)}") from e
    made = desk.relief(bytes_of(model), model.name, stock, sitting, how)
    try:
        output.mkdir(parents=True, exist_ok=True)
        for f in made.files:
            (output / f.name).write_text(f.text)
    except OSError as e:
        raise BadInput(f"-o {output}: cannot be written ({e.strerror}); choose another folder") from e
    told = made.to_json()
    lines = [
        f"{output / f['name']}: {f['cut_length_mm'] / 1000:.1f} m cut, {f['time_s'] / 60:.1f} min"
        for f in told["files"]
    ]
    left = told["left_mm"]
    lines.append(
        f"lowest {told['lowest_z_mm']:.2f} mm, ridges {told['cusp_mm']:.3f} mm; left above the model:"
        f" {left['p50']:.3f} mm on half of it, {left['p99']:.3f} mm on 99 %, {left['max']:.2f} mm at most"
    )
    say(told, as_json, lines + snag_lines(told["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in told["snags"]) else 0)


def _cutter(tool, text: str, where: str, kinds: tuple[str, ...]):  # type: ignore[no-untyped-def]
    """The cutter that an option tells of, of one of some kinds."""
    kind = text.split(":")[0].split("=")[-1].strip().lower()
    if kind not in kinds:
        raise BadInput(f"{where} {text}: give one of {', '.join(kinds)}, such as {kinds[0]}:6")
    try:
        found = tool(text)[1]
    except BadInput as e:
        raise BadInput(str(e).replace("--tool", where)) from e
    named = {"flat": "end mill", "taper": "tapered ball", "bull": "bull nose"}.get(kind, kind)
    cutter = found.cutter.model_copy(update={"name": f"{named} {found.cutter.diameter:g} mm"})
    return replace(found, cutter=cutter)
