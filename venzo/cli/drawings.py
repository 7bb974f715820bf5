"""Commands on drawings."""

from __future__ import annotations

from pathlib import Path

import typer

from venzo.cli.shared import Json, app, bytes_of, say, snag_lines
from venzo.core.voice import counted


@app.command()
def intake(file: Path, units: str = "auto", join: float = 0.05, as_json: Json = False) -> None:
    """Read a drawing and list the parts in it."""
    from venzo.core.parts.intake import take_in
    from venzo.formats.drawing_file import read_file

    found = take_in(read_file(bytes_of(file), file.name), file.name, units, join)
    document = found.to_json()
    lines = [
        f"{file.name}: {document['units']}, {counted(len(document['parts']), 'part')},"
        f" {counted(document['open_contours'], 'open line')}"
    ]
    for p in document["parts"]:
        b = p["bbox_mm"]
        lines.append(
            f"  {p['quantity']:4d} x {p['name']}: {b[2] - b[0]:.2f} x {b[3] - b[1]:.2f} mm,"
            f" {counted(p['holes'], 'hole')}, {p['area_mm2'] / 100:.2f} cm2"
        )
    say(document, as_json, lines + snag_lines(document["snags"]))
    raise typer.Exit(1 if any(s["severity"] == "stop" for s in document["snags"]) else 0)
