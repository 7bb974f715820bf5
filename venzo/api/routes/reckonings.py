"""Routes of the reckonings: what there are, and what comes out."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query

from venzo.api.documents.reckonings import (
    ReckonedDocument,
    ReckonedValue,
    ReckoningDocument,
    ReckoningField,
    ReckoningMark,
)
from venzo.core.reckonings import RECKONINGS, find
from venzo.core.reckonings.quantities import read
from venzo.core.reckonings.reckoning import Answer, Reckoned, Reckoning, shown, work_out
from venzo.core.snags import BadInput

Text = Annotated[str, Query(max_length=300)]


def routes() -> APIRouter:
    """The routes; they need no store."""
    router = APIRouter(prefix="/api")

    @router.get("/reckonings")
    def reckonings() -> list[ReckoningDocument]:
        """The reckonings there are, with their fields."""
        return [_document(r) for r in RECKONINGS]

    @router.get("/reckonings/{name}")
    def reckoned(
        name: str,
        given: Annotated[list[Text], Query(max_length=40)] = [],  # noqa: B006
        unit: Literal["mm", "in"] = "mm",
    ) -> ReckonedDocument:
        """Work it out: fields as ``name=text``, or ``name@in=text`` where a bare number is in that unit, the
        last typed first; what it is opened with fills up.
        """
        r = find(name)
        return _answer(r, work_out(r, {**_read(r, given, unit), **_untyped(r, given)}), unit)

    return router


def _document(r: Reckoning) -> ReckoningDocument:
    fields = [
        ReckoningField(
            name=f.name,
            label=f.label,
            kind=f.kind,
            words=list(f.words),
            usual=f.usual,
            follows=r.follows(f.name),
        )
        for f in r.fields
    ]
    return ReckoningDocument(
        name=r.name,
        title=r.title,
        asks=r.asks,
        near=r.near,
        fields=fields,
        formula=r.formula,
        source=r.source,
    )


def _untyped(r: Reckoning, given: list[str]) -> dict[str, Answer]:
    typed = {text.partition("=")[0].partition("@")[0] for text in given}
    return {name: start for name, start in r.starts().items() if name not in typed}


def _read(r: Reckoning, given: list[str], unit: Literal["mm", "in"]) -> dict[str, Answer]:
    out: dict[str, Answer] = {}
    for text in given:
        named, _, value = text.partition("=")
        name, _, own = named.partition("@")
        f = r.field(name)
        typed_in: Literal["mm", "in"] = "mm" if own == "mm" else "in" if own == "in" else unit
        try:
            out[name] = value if f.kind == "choice" else read(value, f.kind, typed_in)
        except BadInput as e:
            raise BadInput(f"{f.label}: {e}") from None
    return out


def _answer(r: Reckoning, out: Reckoned, unit: Literal["mm", "in"]) -> ReckonedDocument:
    words = {u: shown(r, out.values, u) for u in ("mm", "in")}
    here, there = words[unit], words["in" if unit == "mm" else "mm"]
    usual = {f.name for f in r.fields if f.usual}
    complete = not out.missing
    marks = r.draw(out.values, here.__getitem__) if complete else []
    return ReckonedDocument(
        name=r.name,
        unit=unit,
        values=[
            ReckonedValue(name=k, shown=here[k], other=there[k], given=k in out.taken or k in usual)
            for k in out.values
        ],
        left=list(out.left),
        missing=[r.field(n).label for n in out.missing],
        says=r.says(out.values, here.__getitem__) if complete else [],
        marks=[ReckoningMark(role=m.role, points=list(m.points), text=m.text) for m in marks],
    )
