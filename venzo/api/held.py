"""What of a job's answer its asker holds already: an answer carries what changed, and names the rest.

Whoever asks says in the header ``x-holds`` which answer it holds, by its ``tag``. Lists of things with names
(parts, pieces, sheets, what is planned by part) then come with those only that differ; ``rest`` names all of
each list in order, and what did not come is taken from the answer held. An unknown tag, or none, is answered
with everything.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator, Mapping, Sequence
from contextvars import ContextVar
from dataclasses import dataclass
from hashlib import blake2b
from weakref import ref

from cachetools import LRUCache
from pydantic import BaseModel
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from venzo.api.documents.job import JobDocument, PathDocument, Rest, SetupDocument

MOST = 200_000
"""Digests remembered of all answers together, some 30 MB; what was asked for longest ago is forgotten."""

_holds: ContextVar[str] = ContextVar("holds", default="")


class Holds:
    """Notes the tag of the answer that whoever asks holds, from the header ``x-holds``."""

    def __init__(self, app: ASGIApp):
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        token = _holds.set(Headers(scope=scope).get("x-holds", "")[:80] if scope["type"] == "http" else "")
        try:
            await self.app(scope, receive, send)
        finally:
            _holds.reset(token)


@dataclass(frozen=True)
class Named:
    """A list of an answer: the name of each of its things, in order, and the digest of each."""

    names: tuple[str, ...]
    digests: tuple[bytes, ...]

    def __len__(self) -> int:
        return len(self.names)


Lists = Mapping[str, Named]


def _things(lists: Lists) -> int:
    return 1 + sum(map(len, lists.values()))


class Answers:
    """Remembers of the answers it gave what was in them, as digests."""

    def __init__(self, most: int = MOST):
        self._lock = threading.Lock()
        self._given: LRUCache[str, Lists] = LRUCache(most, getsizeof=_things)

    def answer(self, job: JobDocument) -> JobDocument:
        """The answer with its tag, without what its asker holds already."""
        now = {path: _named(things) for path, things in _lists(job)}
        tag = _digest(repr([job.id, job.revision, sorted(now.items())]).encode()).hex()
        since = _holds.get()
        with self._lock:
            held = self._given.get(since) if since else None
            if _things(now) < self._given.maxsize:
                self._given[tag] = now
        if held is None or _named_twice(job):
            return job.model_copy(update={"tag": tag})
        rest = Rest(since=since, names={path: list(named.names) for path, named in now.items()})
        new = {path: _unheld(named, held.get(path)) for path, named in now.items()}
        return _only(job, new).model_copy(update={"tag": tag, "rest": rest})


def _digest(data: bytes) -> bytes:
    return blake2b(data, digest_size=12).digest()


def _named(things: Mapping[str, BaseModel | Sequence[BaseModel]]) -> Named:
    return Named(tuple(things), tuple(_digest(_written(t)) for t in things.values()))


_told: dict[int, tuple[ref[BaseModel], bytes]] = {}
"""Digests of documents that are there, by id: what an edit leaves as it is is the same document again."""


def _written(thing: BaseModel | Sequence[BaseModel]) -> bytes:
    """What tells one document from another; of several all of theirs."""
    if not isinstance(thing, BaseModel):
        return b"|".join(map(_written, thing))
    at = id(thing)
    known = _told.get(at)
    if known is None or known[0]() is not thing:
        made = _digest(thing.__pydantic_serializer__.to_json(thing))
        known = _told[at] = (ref(thing, lambda _gone: _told.pop(at, None)), made)
    return known[1]


def _unheld(now: Named, held: Named | None) -> frozenset[str]:
    """Names of the things that are not in the answer held, or are others there."""
    was = dict(zip(held.names, held.digests, strict=True)) if held else {}
    return frozenset(n for n, d in zip(now.names, now.digests, strict=True) if was.get(n) != d)


def _lists(job: JobDocument) -> Iterator[tuple[str, Mapping[str, BaseModel | Sequence[BaseModel]]]]:
    """Every list of an answer that is worth parting, by path, its things by name."""
    yield "parts", {p.id: p for p in job.parts}
    for s in job.setups:
        yield f"{s.id}/pieces", {p.id: p for p in s.pieces}
        yield f"{s.id}/sheets", {f"{x.sheet}/{x.copy_no}": x for x in s.sheets}
        yield f"{s.id}/contours", s.contours
        for stock, paths in s.paths.items():
            yield f"{s.id}/paths/{stock}", paths


def _named_twice(job: JobDocument) -> bool:
    """Does a layout hold a piece twice? That is a fault to be seen, and names alone cannot tell the two."""
    return any(len({p.id for p in s.pieces}) < len(s.pieces) for s in job.setups)


def _only(job: JobDocument, new: Mapping[str, frozenset[str]]) -> JobDocument:
    """The answer with those things only that are named, by path."""
    setups = [_only_of_setup(s, new) for s in job.setups]
    return job.model_copy(update={"parts": [p for p in job.parts if p.id in new["parts"]], "setups": setups})


def _only_of_setup(s: SetupDocument, new: Mapping[str, frozenset[str]]) -> SetupDocument:
    sheets, contours = new[f"{s.id}/sheets"], new[f"{s.id}/contours"]

    def of(stock: str, paths: Mapping[str, list[PathDocument]]) -> dict[str, list[PathDocument]]:
        return {k: v for k, v in paths.items() if k in new[f"{s.id}/paths/{stock}"]}

    return s.model_copy(
        update={
            "pieces": [p for p in s.pieces if p.id in new[f"{s.id}/pieces"]],
            "sheets": [x for x in s.sheets if f"{x.sheet}/{x.copy_no}" in sheets],
            "contours": {k: v for k, v in s.contours.items() if k in contours},
            "paths": {stock: of(stock, paths) for stock, paths in s.paths.items()},
        }
    )
