"""A nest problem read from its file: what is wrong is told by part or sheet, field and remedy.

>>> read_problem(b'{"sheets": [{"id": "s", "width": 9, "height": 9}], "parts": [{"id": "a", "qty": 2,'
...     b' "outline": [[0, 0], [1, 0], [1, 1]]}]}', "p.json")
Traceback (most recent call last):
venzo.core.snags.BadInput: p.json: part 'a': 'qty' is not known there; write 'quantity'
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from difflib import get_close_matches
from itertools import combinations
from typing import Any

from pydantic import BaseModel, ValidationError
from shapely.algorithms.cga import signed_area
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry
from shapely.validation import explain_validity, make_valid

from venzo.core.geometry.contour import Contour
from venzo.core.nesting.problem import Keepout, NestPart, NestProblem, Placement, SheetKind
from venzo.core.snags import BadInput, plain_error

OBJECTIVES = ("sheets-then-remnant",)
SAID_FOR = {
    "qty": "quantity",
    "count": "quantity",
    "number": "quantity",
    "rotation": "rotations",
    "angles": "rotations",
    "price": "cost",
    "gap": "spacing",
    "mirrored": "mirror",
    "polygon": "outline",
    "points": "outline",
}
"""What people write for a field, besides slips of the pen."""
LIKE = 0.75
"""How like a known field another word is to be taken for it."""
CHORD = 0.01
"""mm; arcs as chords, where rings are looked at."""
SLIVER = 1e-3
"""mm2 by which rings may overlap by rounding."""


def read_problem(data: bytes, name: str) -> tuple[NestProblem, list[str]]:
    """A problem, and what in its file was not understood and is left out.

    Raises:
        BadInput: naming the file, the part or sheet, the field and the remedy.
    """
    try:
        told = json.loads(data.decode("utf-8-sig"))
    except UnicodeDecodeError as e:
        raise BadInput(f"{name}: byte {e.start} is no UTF-8; save it as UTF-8 text") from e
    except json.JSONDecodeError as e:
        raise BadInput(f"{name}: line {e.lineno}, column {e.colno}: {e.msg}; it must be JSON") from e
    except RecursionError as e:
        raise BadInput(f"{name}: nested too deep; see the nest problem in the contract") from e
    if not isinstance(told, dict):
        raise BadInput(f"{name}: it must be one object with sheets and parts")
    notes = [_unknown(name, where, key, model, thing) for where, key, model, thing in _strange(told)]
    _objective(name, told)
    try:
        problem = NestProblem.model_validate(told)
    except ValidationError as e:
        raise BadInput(f"{name}: {_faulty(told, e)}") from e
    for part in problem.parts:
        _sound_part(name, part)
    for sheet in problem.sheets:
        _sound_sheet(name, sheet)
    return problem, notes


def _strange(told: Mapping[str, Any]) -> Iterator[tuple[str, str, type[BaseModel], Mapping[str, Any]]]:
    """Every key that its thing has not: (what the thing is, key, its model, the thing)."""

    def of(where: str, thing: Any, model: type[BaseModel]) -> Iterator:
        if not isinstance(thing, dict):
            return
        known = {f.alias or k for k, f in model.model_fields.items()} | set(model.model_fields)
        yield from ((where, k, model, thing) for k in thing if k not in known)

    yield from of("the problem", told, NestProblem)
    for list_of, word, model in (("sheets", "sheet", SheetKind), ("parts", "part", NestPart)):
        for n, thing in enumerate(_listed(told, list_of)):
            yield from of(_called(word, thing, n), thing, model)
    for n, thing in enumerate(_listed(told, "locked")):
        yield from of(f"locked piece {n + 1}", thing, Placement)
    for n, sheet in enumerate(_listed(told, "sheets")):
        for m, thing in enumerate(_listed(sheet, "keepouts") if isinstance(sheet, dict) else ()):
            yield from of(f"{_called('sheet', sheet, n)}, keepout {m + 1}", thing, Keepout)


def _listed(told: Mapping[str, Any], key: str) -> list[Any]:
    found = told.get(key)
    return found if isinstance(found, list) else []


def _called(word: str, thing: Any, n: int) -> str:
    """A part or sheet by its id, else by its number."""
    own = thing.get("id") if isinstance(thing, dict) else None
    return f"{word} {own!r}" if isinstance(own, str) else f"{word} {n + 1}"


def _unknown(name: str, where: str, key: str, model: type[BaseModel], thing: Mapping[str, Any]) -> str:
    """A note that a key is left out; BadInput where it stands for one that the thing lacks."""
    missing = [k for k in model.model_fields if k not in thing]
    meant = SAID_FOR.get(key.lower())
    like = [meant] if meant in missing else get_close_matches(key.lower(), missing, 1, LIKE)
    if like:
        raise BadInput(f"{name}: {where}: {key!r} is not known there; write {like[0]!r}")
    return f"{where}: {key!r} is not known there and is left out"


def _objective(name: str, told: Mapping[str, Any]) -> None:
    wanted = told.get("objective", OBJECTIVES[0])
    if wanted not in OBJECTIVES:
        raise BadInput(f"{name}: objective {wanted!r} is not known; write {OBJECTIVES[0]!r}, or leave it out")


def _faulty(told: Mapping[str, Any], e: ValidationError) -> str:
    """The first fault, with its part or sheet and field."""
    first = e.errors()[0]
    loc = list(first["loc"])
    if len(loc) > 1 and loc[0] in ("sheets", "parts") and isinstance(loc[1], int):
        thing = _listed(told, str(loc[0]))[loc[1]]
        fields = [str(x) for x in loc[2:] if not isinstance(x, int)]
        where = f"{_called(str(loc[0])[:-1], thing, loc[1])}: {' '.join(fields[:1])}"
        if first["type"] == "too_short" and fields and fields[0] in ("outline", "holes", "shape"):
            return f"{where}: a ring needs at least three points"
        message = plain_error(e)
        return f"{where}: {message.split(': ', 1)[-1]}"
    return f"{plain_error(e)}; see the nest problem in the contract"


def _ring(name: str, where: str, points: list[list[float]]) -> BaseGeometry:
    """A ring as a polygon; BadInput where it is none."""
    corners = [tuple(p[:2]) for p in points]
    distinct = len(set(corners))
    bent = any(len(p) > 2 and p[2] for p in points)
    if distinct < 3 and not (bent and distinct == 2):
        raise BadInput(f"{name}: {where}: a ring needs at least three points, it has {distinct}")
    found = Polygon(Contour.of(points).points(CHORD))
    whole = found if found.is_valid else make_valid(found)
    # a ring that only touches itself has the area of its loops; one that crosses itself has another
    if abs(abs(signed_area(found.exterior)) - whole.area) > max(SLIVER, 1e-6 * whole.area):
        why = explain_validity(found)
        at = why[why.index("[") + 1 : why.index("]")] if "[" in why else ""
        spot = " at " + ", ".join(f"{float(v):g}" for v in at.split()) if at else ""
        raise BadInput(f"{name}: {where}: the ring crosses itself{spot}; draw it as one loop")
    if whole.area < SLIVER:
        raise BadInput(f"{name}: {where}: the ring encloses no area; check its points")
    return whole


def _sound_part(name: str, part: NestPart) -> None:
    where = f"part {part.id!r}"
    if part.rotations == []:
        raise BadInput(f'{name}: {where}: rotations is empty; give the angles it may lie at, or "free"')
    body = _ring(name, f"{where}: outline", part.outline)
    holes = [_ring(name, f"{where}: hole {n}", h) for n, h in enumerate(part.holes, 1)]
    for n, hole in enumerate(holes, 1):
        if hole.difference(body).area > SLIVER:
            raise BadInput(f"{name}: {where}: hole {n} reaches beyond the outline; draw it inside")
    for (n, one), (m, two) in combinations(enumerate(holes, 1), 2):
        if one.intersection(two).area > SLIVER:
            raise BadInput(f"{name}: {where}: holes {n} and {m} overlap; make them one")


def _sound_sheet(name: str, sheet: SheetKind) -> None:
    where = f"sheet {sheet.id!r}"
    if sheet.outline:
        _ring(name, f"{where}: outline", sheet.outline)
    for n, keepout in enumerate(sheet.keepouts, 1):
        _ring(name, f"{where}: keepout {n}", keepout.shape)
