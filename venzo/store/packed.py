"""Plans as they are stored: layouts, which are large and change seldom, lie beside the revisions, each once
by its digest; a revision names them.
"""

from __future__ import annotations

import hashlib
import json
import threading
import zlib
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from cachetools import LRUCache

from venzo.core.plan import AcceptedNest, Plan

REMEMBERED = 400_000
"""Pieces of layouts that are remembered as they were read or stored."""
READ = 4_000_000
"""Bytes, as they are stored, of plans that are remembered as they were read: a shop's jobs of a day."""
_NONE = AcceptedNest(pieces=(), inputs="")
At = tuple[str, str]
"""Where a layout stands in a plan: the setup, and the id under which it is kept (empty: the setup's own)."""


def layouts_of(plan: Plan) -> dict[At, AcceptedNest]:
    """Every layout of a plan.

    >>> layouts_of(Plan(id="a", name="a"))
    {}
    """
    own = {(s.id, ""): s.nest for s in plan.setups if s.nest is not None}
    return own | {(s.id, k.id): k.nest for s in plan.setups for k in s.kept}


def without(plan: Plan, layouts: Mapping[At, AcceptedNest]) -> Plan:
    """The plan with nothing in the place of some of its layouts."""
    empty: dict[At, AcceptedNest | None] = {at: _NONE if at[1] else None for at in layouts}
    return _put(plan, empty)


def with_layouts(plan: Plan, layouts: Mapping[At, AcceptedNest]) -> Plan:
    """The plan with layouts back in their places."""
    return _put(plan, layouts)


def _put(plan: Plan, layouts: Mapping[At, AcceptedNest | None]) -> Plan:
    setups = []
    for s in plan.setups:
        kept = tuple(
            k.model_copy(update={"nest": layouts[s.id, k.id]}) if (s.id, k.id) in layouts else k
            for k in s.kept
        )
        nest = layouts.get((s.id, ""), s.nest)
        setups.append(s.model_copy(update={"nest": nest, "kept": kept}))
    return plan.model_copy(update={"setups": tuple(setups)})


def checked(plan: Plan, before: Plan) -> Plan:
    """A plan validated in all that it does not share with the one before, of which the layouts are the bulk.

    Raises:
        pydantic.ValidationError: it is no plan.
    """
    known = {id(nest) for nest in layouts_of(before).values()}
    shared = {at: nest for at, nest in layouts_of(plan).items() if id(nest) in known}
    return with_layouts(Plan.model_validate(without(plan, shared).model_dump()), shared)


class Plans:
    """Plans by what is stored of them: a revision is read often and never changes."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._by_digest: LRUCache[bytes, tuple[Plan, int]] = LRUCache(READ, getsizeof=lambda kept: kept[1])

    def unpacked(self, data: bytes, read: Callable[[Sequence[str]], Mapping[str, AcceptedNest]]) -> Plan:
        """``unpack``, or what it gave before for the same bytes."""
        at = hashlib.blake2b(data, digest_size=16).digest()
        with self._lock:
            if at in self._by_digest:
                return self._by_digest[at][0]
        plan = unpack(data, read)
        with self._lock:
            if len(data) < READ:
                self._by_digest[at] = (plan, len(data))
        return plan


class Layouts:
    """Layouts by digest, remembered in memory as far as they were met lately."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._by_digest: LRUCache[str, AcceptedNest] = LRUCache(REMEMBERED, getsizeof=_size)
        self._digest: LRUCache[int, tuple[AcceptedNest, str]] = LRUCache(
            REMEMBERED, getsizeof=lambda kept: _size(kept[0])
        )

    def digest(self, nest: AcceptedNest) -> tuple[str, bytes | None]:
        """The digest of a layout, and its packed form unless this very layout was met before."""
        with self._lock:
            met = self._digest.get(id(nest))
            if met is not None:
                return met[1], None
        data = nest.model_dump_json().encode()
        found = hashlib.sha256(data).hexdigest()[:32]
        return found, zlib.compress(data, 3)

    def met(self, digest: str, nest: AcceptedNest) -> None:
        """A layout is stored under a digest."""
        with self._lock:
            if _size(nest) < REMEMBERED:
                self._digest[id(nest)] = (nest, digest)
                self._by_digest[digest] = nest

    def known(self, digest: str) -> AcceptedNest | None:
        """A layout that was met lately."""
        with self._lock:
            return self._by_digest.get(digest)


def _size(nest: AcceptedNest) -> int:
    return len(nest.pieces) + 1


def pack(plan: Plan, named: Mapping[At, str]) -> bytes:
    """A plan as stored; ``named``: the digest of each of its layouts."""
    light = without(plan, layouts_of(plan)).model_dump_json()
    where = json.dumps([[*at, digest] for at, digest in named.items()])
    return zlib.compress(f'{{"layouts":{where},"plan":{light}}}'.encode(), 3)


def unpack(data: bytes, read: Callable[[Sequence[str]], Mapping[str, AcceptedNest]]) -> Plan:
    """A stored plan; ``read`` gives layouts by their digests. Revisions stored before layouts lay beside them
    are read as they are.
    """
    stored: dict[str, Any] = json.loads(zlib.decompress(data))
    if "layouts" not in stored:
        return Plan.model_validate(stored)
    named = {(setup, kept): digest for setup, kept, digest in stored["layouts"]}
    found = read(sorted(set(named.values())))
    return with_layouts(Plan.model_validate(stored["plan"]), {at: found[d] for at, d in named.items()})
