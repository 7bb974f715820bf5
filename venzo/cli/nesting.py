"""Commands on nesting."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from venzo.cli.shared import Json, app, bytes_of, say, started
from venzo.core.snags import BadInput
from venzo.core.voice import counted


@app.command()
def nest(
    problem: Path,
    seconds: float | None = None,
    seed: int = 0,
    output: Annotated[Path | None, typer.Option("-o")] = None,
    as_json: Json = False,
) -> None:
    """Nest a problem file (CONTRACT.md) within so many seconds of wall time (10, or as long as its steps take
    where it names them); with both, whichever comes first.
    """
    began = started()

    from venzo.core.nesting.engine import Search
    from venzo.formats.nest_problem import read_problem

    if seconds is not None and not 0 < seconds <= 86_400:
        raise BadInput(f"--seconds {seconds:g}: give a time above 0 and up to 86400 seconds")
    asked, notes = read_problem(bytes_of(problem), problem.name)
    for note in notes:
        typer.echo(f"note: {note}", err=True)
    limit = seconds if seconds is not None else None if asked.steps else 10.0
    search = Search(asked, seed)

    def late() -> bool:
        return limit is not None and time.time() > began + limit - 0.25

    def share() -> float:
        return search.steps / asked.steps if asked.steps else (time.time() - began) / (limit or 1.0)

    while search.step(late, share()):
        if (asked.steps is not None and search.steps >= asked.steps) or late():
            break
    if asked.steps and search.steps < asked.steps and late():
        done = f"cut short by time after {search.steps} of {counted(asked.steps, 'step')}"
        typer.echo(f"note: {done}: another run may come out otherwise", err=True)
    result = search.best
    assert result is not None
    result.seconds = round(time.time() - began, 3)
    document = result.to_json()
    if output:
        output.write_text(json.dumps(document))
    placed = len(result.placements)
    say(
        document,
        as_json or not output,
        [
            f"{counted(placed, 'piece')} on {counted(len(result.sheets), 'sheet')} in"
            f" {counted(result.steps, 'step')}",
            *(
                f"  {u.sheet}/{u.sheet_copy}: {u.used_length:.1f} mm used, {u.utilisation:.1%}"
                for u in result.sheets
            ),
            *(f"  not placed: {u.quantity} x {u.part}: {u.reason}" for u in result.unplaced),
        ],
    )
    raise typer.Exit(1 if result.unplaced else 0)
