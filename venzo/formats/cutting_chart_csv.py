"""Cutting charts in and out as CSV, one line a material and thickness; mm, mm/min and s unless a cell names
its unit.

>>> text = "material,thickness,kerf,feed,pierce\\nmild steel,1/8 in,1.5,3600,0.4\\n"
>>> [(r.sort, round(r.thickness, 3), r.pierce) for r in read_chart(text.encode(), "chart.csv")]
[('mild steel', 3.175, 0.4)]
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from pydantic import ValidationError

from venzo.core.snags import BadInput, plain_error
from venzo.core.tooling.head import ChartRow
from venzo.core.units import parse_length
from venzo.core.voice import counted

LARGEST = 1024 * 1024
MOST = 400
COLUMNS = ("material", "thickness", "kerf", "feed", "pierce", "pierce height", "cut height", "source")
LENGTHS = ("thickness", "kerf", "pierce height", "cut height")
NO_PIERCE = ("edge", "-", "none")
"""In place of seconds: too thick to pierce."""


def write_chart(rows: Sequence[ChartRow]) -> str:
    """A chart as CSV."""
    out = io.StringIO()
    w = csv.writer(out, lineterminator="\n")
    w.writerow(COLUMNS)
    for r in rows:
        pierce = "edge" if r.pierce is None else f"{r.pierce:g}"
        w.writerow(
            [
                r.sort,
                f"{r.thickness:g}",
                f"{r.kerf:g}",
                f"{r.feed:g}",
                pierce,
                f"{r.pierce_height:g}",
                f"{r.cut_height:g}",
                r.source,
            ]
        )
    return out.getvalue()


def read_chart(data: bytes, name: str) -> list[ChartRow]:
    """A chart from CSV.

    Raises:
        BadInput: naming line and column.
    """
    if len(data) > LARGEST:
        raise BadInput(f"{name}: over 1 MB; a chart has one line a material and thickness")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as e:
        raise BadInput(f"{name}: is no text in UTF-8; save it again as CSV UTF-8") from e
    try:
        lines = list(csv.reader(io.StringIO(text), delimiter=";" if text[:400].count(";") > 3 else ","))
    except csv.Error as e:
        raise BadInput(f"{name}: is no CSV ({e})") from e
    head = [c.strip().lower().replace("_", " ") for c in lines[0]] if lines else []
    missing = [c for c in ("material", "thickness", "kerf", "feed") if c not in head]
    if missing:
        raise BadInput(
            f"{name}: there is no column {missing[0]!r}; its first line names the columns:"
            f" {', '.join(COLUMNS)}"
        )
    if len(lines) - 1 > MOST:
        raise BadInput(f"{name}: {counted(len(lines) - 1, 'line')}; up to {MOST} are read")
    out = [
        _row(dict(zip(head, cells, strict=False)), name, n)
        for n, cells in enumerate(lines[1:], 2)
        if any(c.strip() for c in cells)
    ]
    if not out:
        raise BadInput(f"{name}: has no lines under its head")
    return out


def _row(cells: dict[str, str], name: str, line: int) -> ChartRow:
    def number(key: str) -> float:
        text = cells.get(key, "").strip()
        try:
            return parse_length(text, "mm") if key in LENGTHS else float(text)
        except (BadInput, ValueError) as e:
            raise BadInput(f"{name}, line {line}, {key}: {text!r} is no number") from e

    given: dict[str, object] = {"sort": cells["material"].strip()}
    given |= {k: number(k) for k in ("thickness", "kerf", "feed")}
    for key, field in (("pierce height", "pierce_height"), ("cut height", "cut_height")):
        if cells.get(key, "").strip():
            given[field] = number(key)
    pierce = cells.get("pierce", "").strip().lower()
    if pierce:
        given["pierce"] = None if pierce in NO_PIERCE else number("pierce")
    if cells.get("source", "").strip():
        given["source"] = cells["source"].strip()
    try:
        return ChartRow.model_validate(given)
    except ValidationError as e:
        raise BadInput(f"{name}, line {line}: {plain_error(e)}") from e
