"""What every command shares: the application, options, reading, printing and the exit codes."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

import typer

from venzo.core.snags import BadInput, PlainSnag

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="From drawings to nested, held, ordered and proven programs.",
)
Json = Annotated[bool, typer.Option("--json", help="one JSON document on stdout")]
Data = Annotated[Path | None, typer.Option("--data", help="folder of the shop's data")]


def started() -> float:
    """When this process started (epoch seconds), so that a time limit covers start-up as well."""
    try:
        ticks = float(Path("/proc/self/stat").read_text().rsplit(")", 1)[1].split()[19])
        # from how long the machine is up, in hundredths: when it came up is kept in whole seconds only
        up = float(Path("/proc/uptime").read_text().split()[0])
        ago = up - ticks / os.sysconf("SC_CLK_TCK")
        return time.time() - ago if 0 <= ago < 60 else time.time()
    except (OSError, ValueError, IndexError):
        return time.time()


def folder_of(data: Path | None, name: str = "data") -> Path:
    """Where the shop's data is: as said, as the environment says, or beside where one stands."""
    if data:
        return data
    named = os.environ.get("VENZO_DATA")
    return Path(named) if named else Path.cwd() / f"venzo-{name}"


def say(document: Any, as_json: bool, lines: list[str]) -> None:
    """Print a document, or its lines."""
    if as_json:
        print(json.dumps(document))
    else:
        for line in lines:
            print(line)


def bytes_of(path: Path) -> bytes:
    """A file's bytes; BadInput where it cannot be read."""
    try:
        return path.read_bytes()
    except OSError as e:
        raise BadInput(f"{path}: cannot be read ({e.strerror}); check the name and the rights") from e


def snag_lines(snags: Sequence[PlainSnag]) -> list[str]:
    """Snags as lines."""
    return [f"{s['severity']}: {s['message']}" for s in snags]


def option(text: str, *names: str) -> Any:
    """An option with its help."""
    return typer.Option(*names, help=text)


def written(made: Any, output: Path, as_json: bool, figures: str = "") -> None:
    """Write a program and print its figures; ``figures``: in words, where they are no depth's."""
    try:
        output.write_text(made.text)
    except OSError as e:
        raise BadInput(f"-o {output}: cannot be written ({e.strerror}); choose another name") from e
    document = made.to_json()
    told = figures or (
        f"{made.cut_length / 1000:.2f} m cut, {made.seconds / 60:.1f} min, {made.deepest:.2f} mm deep"
    )
    say(document, as_json, [f"{output}: {told}"] + snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)


def text_of(path: Path) -> str:
    """A program file as text; what is not is refused later, where it is read."""
    return bytes_of(path).decode("utf-8", "replace")


def store_in(data: Path | None) -> Any:
    """The store of a data folder; BadInput where there is none."""
    import atexit

    from venzo.core.memo import keep_with
    from venzo.store.derived import Derived
    from venzo.store.store import Store

    folder = folder_of(data)
    if not (folder / "venzo.db").exists():
        raise BadInput(
            f"{folder}: no shop data there; start with 'venzo demo' or 'venzo serve --data {folder}', or name"
            " the folder with --data"
        )
    store = Store(folder)
    derived = Derived(folder)
    keep_with(derived)
    atexit.register(derived.close)
    return store


def job_in(store: Any, job: str) -> Any:
    """A stored job; BadInput, with those there are, where there is none."""
    from venzo.store.store import NotFound

    try:
        return store.get(job)
    except NotFound as e:
        known = ", ".join(j["id"] for j in store.jobs()) or "none"
        raise BadInput(f"there is no job {job!r}; the jobs are: {known}") from e
