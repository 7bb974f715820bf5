"""Commands on nesting: a layout, what each quantity takes, which sheets are cheapest."""

from __future__ import annotations

import json
import math
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from venzo.cli.shared import Json, app, bytes_of, say, started
from venzo.core.snags import BadInput
from venzo.core.voice import counted

if TYPE_CHECKING:
    from venzo.core.nesting.engine import Search


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

    _sound_time(seconds)
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


@app.command()
def order(
    problem: Path,
    part: Annotated[str, typer.Option(help="id of the part")],
    first: Annotated[int, typer.Option("--from", help="least quantity")],
    last: Annotated[int, typer.Option("--to", help="largest quantity")],
    seconds: float | None = None,
    seed: int = 0,
    as_json: Json = False,
) -> None:
    """What each quantity of a part takes: sheets and cost, which never fall as the quantity rises
    (CONTRACT.md).
    """
    began = started()

    from venzo.core.nesting.buying import order_curve
    from venzo.formats.nest_problem import read_problem

    _sound_time(seconds)
    asked, notes = read_problem(bytes_of(problem), problem.name)
    for note in notes:
        typer.echo(f"note: {note}", err=True)
    run = _within(began, seconds, asked.steps)
    curve = order_curve(asked, part, range(first, last + 1), run, seed)
    rows = [{"quantity": o.quantity, "sheets": o.sheets, "cost": o.cost} for o in curve]
    left = [o for o in curve if o.unplaced]
    say(
        {"curve": rows},
        as_json,
        [
            f"{part} x {o.quantity}: {counted(o.sheets, 'sheet')}, {o.cost:g}"
            + (f"; {counted(o.unplaced, 'piece')} without a place" if o.unplaced else "")
            for o in curve
        ],
    )
    if left:
        said = (
            f"from {left[0].quantity} on there is no place for all, {counted(left[0].unplaced, 'piece')} left"
        )
        typer.echo(f"note: {part}: {said}: {left[0].why}", err=True)
    raise typer.Exit(1 if left else 0)


@app.command()
def cheapest(
    problem: Path,
    seconds: float | None = None,
    seed: int = 0,
    as_json: Json = False,
) -> None:
    """Which sheets to buy for a nest problem, each kind at its cost; kinds without a quantity can be had as
    often as wanted (CONTRACT.md).
    """
    began = started()

    from venzo.core.nesting import buying
    from venzo.formats.nest_problem import read_problem

    _sound_time(seconds)
    asked, notes = read_problem(bytes_of(problem), problem.name)
    for note in notes:
        typer.echo(f"note: {note}", err=True)
    for s in asked.sheets:
        if s.cost is None:
            raise BadInput(f"{problem.name}: sheet {s.id!r} has no cost; give each kind its price as 'cost'")
    endless = [s.id for s in asked.sheets if "quantity" not in s.model_fields_set]
    run = _within(began, seconds, asked.steps)
    found = buying.cheapest(buying.as_many_as_wanted(asked, endless), run, seed)
    document = {
        "buy": [{"sheet": k, "count": n} for k, n in sorted(found.counts.items())],
        "cost": found.cost,
        "bound": found.bound if math.isfinite(found.bound) else None,
        "placements": [pl.model_dump(by_alias=True) for pl in found.placements],
    }
    say(
        document,
        as_json,
        [
            f"{', '.join(f'{n} x {k}' for k, n in sorted(found.counts.items())) or 'nothing'}:"
            f" {found.cost:g}"
            + (f", and no choice costs less than {found.bound:g}" if math.isfinite(found.bound) else "")
        ],
    )
    if found.unplaced:
        typer.echo(
            f"note: {counted(found.unplaced, 'piece')} without a place on the sheets on hand", err=True
        )
    raise typer.Exit(1 if found.unplaced else 0)


def _sound_time(seconds: float | None) -> None:
    if seconds is not None and not 0 < seconds <= 86_400:
        raise BadInput(f"--seconds {seconds:g}: give a time above 0 and up to 86400 seconds")


def _within(began: float, seconds: float | None, steps: int | None) -> Callable[[Search, int], None]:
    """Searches share what is left of the time (10 s where neither it nor steps are given), the first taking
    twice its part; each ends after so many steps at the latest.
    """
    limit = seconds if seconds is not None else math.inf if steps else 10.0
    first = True

    def run(search: Search, more: int) -> None:
        nonlocal first
        now = time.time()
        left = max(0.0, began + limit - 0.25 - now)
        mine = left * min(1.0, (2.0 if first else 1.0) / (more + 1))
        first = False

        def late() -> bool:
            # a first layout is not cut short for the sake of those that follow
            return time.time() > (now + mine if search.steps else began + limit - 0.25)

        def share() -> float:
            by_steps = search.steps / steps if steps else 0.0
            return by_steps if math.isinf(mine) else max(by_steps, (time.time() - now) / max(mine, 1e-6))

        while search.step(late, share()) and not late():
            if steps and search.steps >= steps:
                break

    return run
