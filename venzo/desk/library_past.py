"""A change of the library looked at again: the thing before and after it, beside what it is now, and brought
back as it was.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.field_units import differences
from venzo.core.model import Document, Fields, Point
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter
from venzo.desk import library
from venzo.desk.runs import worn
from venzo.store.store import LibraryChanged, NotFound, Store

When = Literal["before", "after", "now"]
NEVER_SAID = ("id", "silhouette", "in_force", "version", "metres")
"""Fields that nobody typed, or that count up by themselves."""


class FieldDiffers(Document):
    """A field in words, and what it was on both sides, with units."""

    field: str
    one: str
    other: str


class EntrySide(Document):
    """An entry at a time; ``there``: whether the library had it. A cutter has the right half of its outline,
    mm, and the length of its edge.
    """

    at: When
    there: bool
    name: str
    outline: list[Point] = []
    edge: Annotated[float, Field(ge=0)] = 0.0
    form: str = ""
    """The kind of a cutter."""


class EntryCompared(Document):
    """A thing of the library at two times, and every field that differs."""

    number: int
    kind: str
    says: str
    sides: tuple[EntrySide, EntrySide]
    differs: list[FieldDiffers]


def compared(store: Store, number: int, one: When = "before", other: When = "after") -> EntryCompared:
    """What a change of the library did: the thing at two of three times.

    Raises:
        NotFound: no such change.
        BadInput: the same time twice.
    """
    if one == other:
        raise BadInput(f"{one} is compared with itself; choose another time")
    change = _change(store, number)
    a, b = (_at(store, change, when) for when in (one, other))
    return EntryCompared(
        number=number,
        kind=change.kind,
        says=change.says,
        sides=(_side(change.kind, a, one), _side(change.kind, b, other)),
        differs=[
            FieldDiffers(field=f, one=x, other=y) for f, x, y in differences(_plain(a) or {}, _plain(b) or {})
        ],
    )


def bring_back(store: Store, number: int, when: Literal["before", "after"]) -> str:
    """Have a thing of the library again as it was before or after a change, as a change of its own; in words.

    Raises:
        NotFound: no such change.
        BadInput: it is so already, or what the library has now does not allow it.
    """
    with store.shelf:
        change = _change(store, number)
        kind, item, body = change.kind, change.item, _at(store, change, when)
        now = _at(store, change, "now")
        if body is None:
            if now is None:
                raise BadInput(f"it was not in the library {when} change {number}, and is not now")
            library.remove(store, kind, item)
            return f"{now.get('name', item)} taken out, as {when} change {number}"
        words = f"as it was {when} change {number}"
        if now is not None and not differences(_plain(now), _plain(body)):
            raise BadInput(f"{body.get('name', item)} is so already")
        _restore(store, kind, body, words)
        return f"{body.get('name', item)}: {words}"


def _restore(store: Store, kind: str, body: Fields, words: str) -> None:
    """Keep an entry as it was, checked against all that the library has now; wear stays what its runs come
    to.
    """
    if kind == "rules":
        rules = library.checked(
            library.HouseRules, {k: v for k, v in body.items() if k != "id"}, "house rules"
        )
        library.keep_rules(store, rules, f"house rules: {words}")
    elif kind == "stock":
        stock = library.checked(Stock, {k: v for k, v in body.items() if k != "material"}, "stock")
        store.put_library("stock", body, f"{stock.name}: {words}")
    else:
        value = library.checked(library.KINDS[kind], body, kind)
        if isinstance(value, Cutter):
            value = value.model_copy(update={"metres": worn(store).get(value.id, 0.0)})
        library.shelve(store, kind, value, words)


def _change(store: Store, number: int) -> LibraryChanged:
    change = store.library_change(number)
    if change.kind not in library.SHOWN:
        raise NotFound(f"the library has no change {number}")
    return change


def _at(store: Store, change: LibraryChanged, when: When) -> Fields | None:
    if when == "now":
        return next((e for e in store.library(change.kind) if e["id"] == change.item), None)
    return change.before if when == "before" else change.after


def _plain(body: Fields | None) -> Fields | None:
    return None if body is None else {k: v for k, v in body.items() if k not in NEVER_SAID}


def _side(kind: str, body: Fields | None, when: When) -> EntrySide:
    if body is None:
        return EntrySide(at=when, there=False, name="")
    side = EntrySide(at=when, there=True, name=str(body.get("name") or "house rules"))
    if kind != "cutter":
        return side
    cutter = Cutter.model_validate(body)
    drawn = {"outline": cutter.silhouette(), "edge": cutter.cutting_length, "form": cutter.kind}
    return side.model_copy(update=drawn)
