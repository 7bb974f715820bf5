"""Commands that prove programs."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from venzo.cli.shared import Data, Json, app, job_in, option, say, snag_lines, store_in, text_of
from venzo.core.snags import BadInput


@app.command()
def prove(
    files: Annotated[
        list[Path], typer.Argument(help="programs, run in order on one sheet", metavar="PROGRAM...")
    ],
    sheet: Annotated[str | None, option("WIDTHxHEIGHTxTHICKNESS, mm")] = None,
    origin: Annotated[str, option("where the program's X0 Y0 lies on the sheet, X,Y in mm")] = "0,0",
    zero: Annotated[str, option("where Z 0 lies: top or bed")] = "top",
    tool: Annotated[
        list[str] | None, option("[N=]kind:mm[:...], as in 1=flat:6.35; may be given several times")
    ] = None,
    envelope: Annotated[str | None, option("what the machine's axes travel, WIDTHxHEIGHTxZ, mm")] = None,
    sheet_at: Annotated[str, option("the sheet's lower left corner in the envelope, X,Y in mm")] = "0,0",
    accel: Annotated[float, option("mm/s2")] = 800.0,
    rapid: Annotated[float, option("mm/min")] = 20_000.0,
    deviation: Annotated[float, option("mm by which the controller rounds corners")] = 0.02,
    jerk: Annotated[float | None, option("mm/s3; not given: not limited")] = None,
    job: Annotated[str | None, option("hold it against this stored job's plan")] = None,
    on: Annotated[str, option("SHEET[:COPY] of that job")] = "",
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Read programs as a controller would and prove them: against a sheet, or against a stored job's plan."""
    from venzo.core.proof.world import Axes
    from venzo.desk import proving

    for what, v, most in (
        ("--accel", accel, 50_000),
        ("--rapid", rapid, 200_000),
        ("--deviation", deviation, 10),
        ("--jerk", jerk, 1e9),
    ):
        if v is not None and not 0 < v <= most:
            raise BadInput(f"{what} {v:g}: give a number above 0 and up to {most}")
    texts = [(f.name, text_of(f)) for f in files]
    if job is not None:
        if len(texts) > 1:
            raise BadInput(
                f"--job {job}: one program at a time is held against a plan; {len(texts)} are named"
            )
        found = proving.prove_against(store_in(data), job_in(store_in(data), job).plan, *texts[0], on)
    elif sheet is None:
        raise BadInput(
            "say what the program is held against: --sheet WIDTHxHEIGHTxTHICKNESS, or --job with a stored job"
        )
    else:
        if zero not in ("top", "bed"):
            raise BadInput(f"--zero {zero}: top or bed")
        if not tool:
            raise BadInput("name the cutters with --tool, as in --tool 1=flat:6.35")
        x, y = proving.numbers(origin, "--origin", 2, ",")
        world = proving.world_of(sheet, tool, envelope, sheet_at, Axes(accel, rapid, deviation, jerk=jerk))
        found = proving.prove_programs(texts, world, (x, y), zero == "bed")
    document = found.to_json()
    lines = [
        f"{found.sums.moves} moves, {found.sums.cut_length / 1000:.2f} m cut,"
        f" {found.sums.seconds / 60:.1f} min"
        + (f", {found.removed / 1000:.1f} cm3 removed" if found.removed is not None else "")
        + (f", held against {found.file}" if found.file else "")
    ]
    say(document, as_json, lines + snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)
