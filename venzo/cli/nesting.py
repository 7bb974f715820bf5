"""Commands on nesting."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from venzo.cli.shared import Json, app, bytes_of, say, started
from venzo.core.snags import BadInput


@app.command()
def nest(
    problem: Path,
    seconds: float = 10.0,
    seed: int = 0,
    output: Annotated[Path | None, typer.Option("-o")] = None,
    as_json: Json = False,
) -> None:
    """Nest a problem file (CONTRACT.md) within so many seconds of wall time."""
    began = started()
    from pydantic import ValidationError

    from venzo.core.nesting.engine import Search
    from venzo.core.nesting.problem import NestProblem
    from venzo.core.snags import plain_error

    if not 0 < seconds <= 86_400:
        raise BadInput(f"--seconds {seconds:g}: give a time above 0 and up to 86400 seconds")
    try:
        asked = NestProblem.model_validate_json(bytes_of(problem))
    except ValidationError as e:
        raise BadInput(f"{problem.name}: {plain_error(e)}; see the nest problem in the contract") from e
    search = Search(asked, seed)
    deadline = began + seconds - 0.25

    def late() -> bool:
        return time.time() > deadline and asked.steps is None

    while search.step(late, search.steps / asked.steps if asked.steps else (time.time() - began) / seconds):
        if (asked.steps is not None and search.steps >= asked.steps) or late():
            break
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
            f"{placed} pieces on {len(result.sheets)} sheets in {result.steps} steps",
            *(
                f"  {u.sheet}/{u.sheet_copy}: {u.used_length:.1f} mm used, {u.utilisation:.1%}"
                for u in result.sheets
            ),
            *(f"  not placed: {u.quantity} x {u.part}: {u.reason}" for u in result.unplaced),
        ],
    )
    raise typer.Exit(1 if result.unplaced else 0)
