"""Is a program one that was released, and if not, what is otherwise in it?"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from difflib import SequenceMatcher
from typing import Literal

from venzo.core.model import Document
from venzo.core.runs.records import Released, ReleasedFile
from venzo.core.snags import BadInput
from venzo.core.voice import counted
from venzo.desk.release_record import files_of, lines
from venzo.store.store import Store

MOST_LINES = 200
"""Lines of a difference that are told."""
MOST_PAIRS = 25_000_000
"""Pairs of lines that are compared; more are compared line for line."""
LARGEST_PROGRAM = 32 * 1024 * 1024


class LineOff(Document):
    """A line that a program has otherwise than the one that was released: numbers from 1, 0 where it is not
    there.
    """

    line: int
    was: int
    text: str
    what: Literal["changed", "added", "removed"]


class Told(Document):
    """What a file is: ``released``: as it went out with a release; ``changed``: one of a release with lines
    otherwise; ``foreign``: of none of them.
    """

    what: Literal["released", "changed", "foreign"]
    says: str
    release: int | None = None
    file: str | None = None
    withdrawn: bool = False
    differs: int = 0
    lines: list[LineOff] = []


def tell(store: Store, job: str, name: str, data: bytes) -> Told:
    """Is a file one that went out with a release of a job? If it is not as it went out: which lines differ.

    Raises:
        BadInput: it is too large.
    """
    if len(data) > LARGEST_PROGRAM:
        raise BadInput(
            f"{name}: {len(data) / 1e6:.0f} MB is over the limit of {LARGEST_PROGRAM // 1024**2} MB"
        )
    sha = hashlib.sha256(data).hexdigest()
    gone = {line.released.release for line in lines(store, job) if line.taken_back}
    every = [line.released for line in lines(store, job)]
    for r in every:
        for f in r.files:
            if f.sha256 == sha:
                said = f"{name} is {f.name} of release {r.release}, as it went out"
                withdrawn = r.release in gone
                said += "; that release was withdrawn: do not run it" if withdrawn else ""
                return Told(what="released", says=said, release=r.release, file=f.name, withdrawn=withdrawn)
    near = _nearest(store, every, name, data)
    if near is None:
        return Told(what="foreign", says=f"{name} is of no release of this job: it is not to be run for it")
    r, f, body = near
    off = _line_differences(body, data)
    many = counted(len(off), "line")
    said = f"{name} is not as it went out: {many} otherwise than {f.name} of release {r.release}"
    return Told(
        what="changed",
        says=said,
        release=r.release,
        file=f.name,
        withdrawn=r.release in gone,
        differs=len(off),
        lines=off[:MOST_LINES],
    )


NEAR = 0.5
"""Share of lines that a changed file has in common with the one that went out."""


def _nearest(
    store: Store, every: Sequence[Released], name: str, data: bytes
) -> tuple[Released, ReleasedFile, bytes] | None:
    """The program that a file is most like: that of its name, or the one with most lines in common."""
    text = set(data.decode("ascii", "replace").split("\n"))
    best: tuple[float, Released, ReleasedFile, bytes] | None = None
    for r in every:
        bodies = files_of(store, r)
        for f in r.files:
            if f.kind != "program":
                continue
            lines_ = set(bodies[f.name].decode("ascii", "replace").split("\n"))
            alike = len(text & lines_) / max(1, len(text | lines_)) + (0.2 if f.name == name else 0.0)
            if best is None or alike > best[0]:
                best = (alike, r, f, bodies[f.name])
    return best[1:] if best is not None and best[0] >= NEAR else None


def _line_differences(was: bytes, now: bytes) -> list[LineOff]:
    """What is otherwise, line by line; what both begin and end with is left away first."""
    a = was.decode("ascii", "replace").splitlines()
    b = now.decode("ascii", "replace").splitlines()
    least = min(len(a), len(b))
    head = next((k for k in range(least) if a[k] != b[k]), least)
    tail = next((k for k in range(least - head) if a[-1 - k] != b[-1 - k]), least - head)
    a, b = a[head : len(a) - tail], b[head : len(b) - tail]
    if len(a) * len(b) > MOST_PAIRS:  # too long to be laid side by side: line for line
        blocks = [("replace", 0, len(a), 0, len(b))]
    else:
        blocks = [op for op in SequenceMatcher(None, a, b, autojunk=False).get_opcodes() if op[0] != "equal"]
    out: list[LineOff] = []
    for _what, i0, i1, j0, j1 in blocks:
        for k in range(max(i1 - i0, j1 - j0)):
            i, j = i0 + k, j0 + k
            if i < i1 and j < j1 and a[i] == b[j]:
                continue
            kind: Literal["changed", "added", "removed"] = (
                "changed" if i < i1 and j < j1 else "added" if j < j1 else "removed"
            )
            out.append(
                LineOff(
                    line=head + j + 1 if j < j1 else 0,
                    was=head + i + 1 if i < i1 else 0,
                    text=(b[j] if j < j1 else a[i])[:200],
                    what=kind,
                )
            )
    return out
