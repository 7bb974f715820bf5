"""Cutters in and out as CSV, one line a cutter; lengths in mm unless a cell names its unit."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

from pydantic import ValidationError

from venzo.core.model import Family
from venzo.core.snags import BadInput, plain_error
from venzo.core.tooling.cutter import Cutter, Kind, same_cutter
from venzo.core.units import parse_length, parse_number

LARGEST = 2 * 1024 * 1024
MOST = 2000
KINDS: tuple[str, ...] = get_args(Kind)
FAMILIES: tuple[str, ...] = get_args(Family)
_LENGTHS = ("diameter", "cutting_length", "shank", "tip", "corner_radius", "up_cut", "max_depth", "stick_out")
_PLAIN = ("number", "flutes", "angle", "metres", "life")
_WORDS = {
    "no": "number",
    "t": "number",
    "tool": "number",
    "type": "kind",
    "dia": "diameter",
    "d": "diameter",
    "flute length": "cutting_length",
    "cut length": "cutting_length",
    "length": "cutting_length",
    "teeth": "flutes",
    "z": "flutes",
    "shank diameter": "shank",
    "radius": "corner_radius",
    "corner radius": "corner_radius",
    "included angle": "angle",
    "stickout": "stick_out",
    "description": "name",
}
COLUMNS = (
    "id",
    "number",
    "name",
    "kind",
    "diameter",
    "flutes",
    "cutting_length",
    "shank",
    "tip",
    "corner_radius",
    "angle",
    "up_cut",
    "max_depth",
    "stick_out",
    "holder",
    "metres",
    "life",
    "note",
    *(f"{f} {what}" for f in FAMILIES for what in ("rpm", "feed", "plunge", "source")),
)


@dataclass
class Offer:
    """What one line of a file would do: ``new``, ``merge`` with the entry ``into``, or nothing because it is
    there already (``same``).
    """

    line: int
    action: str
    cutter: Cutter
    into: str | None = None
    says: str = ""
    changes: list[str] = field(default_factory=list)


def write_cutters(cutters: Iterable[Cutter]) -> str:
    """All cutters as CSV; reading it again changes nothing."""
    out = io.StringIO()
    w = csv.DictWriter(out, COLUMNS, lineterminator="\n")
    w.writeheader()
    for c in cutters:
        row: dict[str, Any] = {
            k: v for k, v in c.model_dump().items() if k in COLUMNS and v not in (None, "", 0.0)
        }
        for family, f in c.feeds.items():
            row |= {
                f"{family} rpm": f.rpm,
                f"{family} feed": f.feed,
                f"{family} plunge": f.plunge,
                f"{family} source": f.source,
            }
        w.writerow({k: _safe(v) for k, v in row.items()})
    return out.getvalue()


def _safe(v: Any) -> Any:
    """Text that a spreadsheet might take for a formula gets a quote before it."""
    return f"'{v}" if isinstance(v, str) and v[:1] in ("=", "+", "-", "@") else v


def read_cutters(data: bytes, name: str) -> list[tuple[int, Cutter]]:
    """Cutters of a CSV file with their line numbers.

    The first line names the columns; diameter and kind must be among them. A cell may hold a fraction or a
    unit ("1/4 in").

    Raises:
        BadInput: naming file, line, column and remedy.
    """
    if len(data) > LARGEST:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST // 1024**2} MB for a list of"
            " cutters"
        )
    text = data.decode("utf-8-sig", "replace")
    first = next((line for line in text.splitlines() if line.strip()), "")
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=max(";\t,", key=first.count)))
    except csv.Error as e:
        raise BadInput(f"{name}: not a readable CSV file ({e}); save the list as CSV again") from e
    rows = [r for r in rows if any(c.strip() for c in r)]
    if not rows:
        raise BadInput(
            f"{name}: the list is empty; its first line names the columns: name, kind, diameter, flutes ..."
        )
    if len(rows) > MOST + 1:
        raise BadInput(f"{name}: {len(rows) - 1} lines; at most {MOST} cutters at once, split the file")
    titles = [re.sub(r"[_\s]+", " ", c.strip().lower()) for c in rows[0]]
    keys = [
        (
            _WORDS.get(t) or t.replace(" ", "_")
            if " " not in t or t.replace(" ", "_") in COLUMNS or t in _WORDS
            else t
        )
        for t in titles
    ]
    for need in ("kind", "diameter"):
        if need not in keys:
            raise BadInput(f"{name}: no column {need!r}; the first line says {', '.join(titles[:8])!r}")
    out = []
    for n, r in enumerate(rows[1:], 2):
        cells = {k: v.strip().removeprefix("'") for k, v in zip(keys, r, strict=False) if v.strip()}
        out.append((n, _cutter(cells, name, n)))
    return out


def _cutter(cells: dict[str, str], name: str, n: int) -> Cutter:
    def fail(column: str, why: str) -> BadInput:
        return BadInput(f"{name}, line {n}, {column}: {why}")

    values: dict[str, Any] = {}
    feeds: dict[str, dict[str, Any]] = {}
    for key, text in cells.items():
        family, _, what = key.partition(" ")
        if family in FAMILIES and what in ("rpm", "feed", "plunge", "source"):
            try:
                feeds.setdefault(family, {})[what] = text if what == "source" else parse_number(text)
            except BadInput as e:
                raise fail(key, f"{e}; rpm, or feed in mm/min") from None
        elif key in _LENGTHS:
            try:
                values[key] = parse_length(text)
            except BadInput as e:
                raise fail(key, str(e)) from None
        elif key in _PLAIN:
            try:
                values[key] = parse_number(text.upper().removeprefix("T"))
            except BadInput as e:
                raise fail(key, str(e)) from None
            if key in ("number", "flutes"):
                values[key] = int(values[key])
        elif key in ("id", "name", "kind", "holder", "note"):
            values[key] = text
    kind = values.get("kind", "").lower().replace("_", " ")
    match = next((k for k in KINDS if k.replace("-", " ") == kind.replace("-", " ")), None)
    if match is None:
        raise fail("kind", f"{kind!r} is not a kind of cutter; known: {', '.join(KINDS)}")
    if "diameter" not in values:
        raise fail("diameter", "missing; every cutter needs one")
    for family, f in feeds.items():
        missing = [w for w in ("rpm", "feed") if w not in f]
        if missing:
            raise fail(f"{family} {missing[0]}", "missing; give rpm and feed together")
        f.setdefault("plunge", f["feed"] / 2)
        f.setdefault("source", f"imported from {name}")
    d = values["diameter"]
    values = {
        "id": "new",
        "number": 999,
        "name": f"{d:g} mm {match}",
        "cutting_length": 3 * d,
        **values,
        "kind": match,
        "feeds": feeds,
    }
    try:
        return Cutter.model_validate(values)
    except ValidationError as e:
        raise BadInput(f"{name}, line {n}: {plain_error(e)}") from e


def offers(found: Sequence[tuple[int, Cutter]], owned: Sequence[Cutter]) -> list[Offer]:
    """What an import would do. A cutter that the shop has already, by id or by its measures, is proposed as a
    merge, never as a second entry.
    """
    known = list(owned)
    out: list[Offer] = []
    for n, c in found:
        twin = next((o for o in known if o.id == c.id and c.id != "new"), None) or next(
            (o for o in known if same_cutter(o, c)), None
        )
        if twin is None:
            fresh = _fresh(c, known)
            known.append(fresh)
            number = f", T{fresh.number}" + (
                f" (T{c.number} is taken)" if fresh.number != c.number and c.number != 999 else ""
            )
            out.append(Offer(n, "new", fresh, None, f"{fresh.name}: new{number}"))
            continue
        both, changes = merged(twin, c)
        known[known.index(twin)] = both
        if changes:
            out.append(
                Offer(
                    n,
                    "merge",
                    both,
                    twin.id,
                    f"{c.name} is {twin.name} (T{twin.number}): one entry, with {'; '.join(changes)}",
                    changes,
                )
            )
        else:
            out.append(
                Offer(
                    n,
                    "same",
                    both,
                    twin.id,
                    f"{c.name} is in the library already as {twin.name} (T{twin.number})",
                )
            )
    return out


def merged(old: Cutter, new: Cutter) -> tuple[Cutter, list[str]]:
    """One entry of two: id, number and name of the one the shop has, feeds of both (the newer's win), what
    was missing filled in, the longer wear.
    """
    update: dict[str, Any] = {}
    changes: list[str] = []
    feeds = dict(old.feeds)
    for family, f in new.feeds.items():
        if feeds.get(family) != f:
            changes.append(
                f"{family} at {f.rpm:.0f} rpm, {f.feed / 1000:.3g} m/min"
                + (
                    f" instead of {feeds[family].rpm:.0f}, {feeds[family].feed / 1000:.3g}"
                    if family in feeds
                    else ""
                )
            )
            feeds[family] = f
    if feeds != old.feeds:
        update["feeds"] = feeds
    for key in ("up_cut", "max_depth", "stick_out", "holder", "life", "note"):
        if not getattr(old, key) and getattr(new, key):
            update[key] = getattr(new, key)
            changes.append(key.replace("_", " "))
    if new.metres > old.metres:
        update["metres"] = new.metres
        changes.append(f"{new.metres:.0f} m cut")
    if new.id == old.id:  # the file is the shop's own list, edited outside
        for key in (
            "name",
            "number",
            "kind",
            "diameter",
            "flutes",
            "cutting_length",
            "shank",
            "tip",
            "corner_radius",
            "angle",
        ):
            if getattr(old, key) != getattr(new, key):
                update[key] = getattr(new, key)
                changes.append(f"{key.replace('_', ' ')} {getattr(new, key)}")
    return old.model_copy(update=update), changes


def _fresh(c: Cutter, known: Sequence[Cutter]) -> Cutter:
    """With an id and a tool number that nobody has."""
    ids, numbers = {k.id for k in known}, {k.number for k in known}
    base = re.sub(r"[^a-z0-9]+", "-", c.name.lower()).strip("-")[:60] or "cutter"
    new_id = (
        c.id
        if c.id != "new" and c.id not in ids
        else next(i for i in (base, *(f"{base}-{n}" for n in range(2, 9999))) if i not in ids)
    )
    number = (
        c.number
        if c.number != 999 and c.number not in numbers
        else next(n for n in range(1, 1000) if n not in numbers)
    )
    return c.model_copy(update={"id": new_id, "number": number})
