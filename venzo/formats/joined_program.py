"""Several programs as one, with a stop for the operator between each and the next: a file for a whole job."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from venzo.core.cuts.moves import KIND, RAPID, Z
from venzo.core.proof.program import Block, Reading
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.formats.gcode import comment_lines
from venzo.formats.rs274 import interpret

_NUMBER = re.compile(r"^N\d+\s*")


def join_programs(parts: Sequence[tuple[str, str]], dialect: Dialect) -> str:
    """One program of several: (what the operator does before it, text) of each, in running order. The words
    before the first are not stopped for.

    Raises:
        BadInput: the dialect has no stop or no cutter change, or what was joined does not read back as its
            parts.
    """
    if not dialect.joins:
        raise BadInput(f"{dialect.name} cannot run several sheets from one file; make a file for each sheet")
    out: list[str] = ["%"] if dialect.percent else []
    for k, (words, text) in enumerate(parts):
        body = [line for line in text.splitlines() if line != "%"]
        if k + 1 < len(parts):
            body = [line for line in body if _NUMBER.sub("", line) != dialect.end]
        if k:
            out += [*comment_lines(f"OPERATOR: {words}", dialect), "M0"]
        out += body
    out += ["%"] if dialect.percent else []
    ends = "\r\n" if dialect.crlf else "\n"
    text = ends.join(_numbered(out, dialect)) + ends
    wrong = _otherwise(text, [t for _w, t in parts], dialect)
    if wrong:
        raise BadInput(f"the programs were not joined: {wrong}; make a file for each sheet")
    return text


def _numbered(lines: Sequence[str], dialect: Dialect) -> list[str]:
    """Block numbers that run on over all parts."""
    if not dialect.numbers:
        return list(lines)
    out, n = [], 0
    for line in lines:
        if line == "%" or line.startswith(("(", ";")):
            out.append(line)
            continue
        n = n + dialect.numbers if n < 99_000 else dialect.numbers
        gap = " " if dialect.spaces else ""
        out.append(f"N{n}{gap}{_NUMBER.sub('', line)}")
    return out


def _otherwise(text: str, parts: Sequence[str], dialect: Dialect) -> str:
    """What a joined program does otherwise than its parts one after the other; empty: nothing."""
    whole = interpret(text, "joined", dialect)
    single = [interpret(t, f"part {k}", dialect) for k, t in enumerate(parts, 1)]
    if whole.faults:
        return f"line {whole.faults[0].line}: {whole.faults[0].message}"
    if not whole.ended:
        return "it does not end"
    if not _same_moves(whole, single):
        return "its moves are not those of its parts"
    said = [(e.kind, e.value) for e in whole.events if e.kind != "end"]
    stop = ("stop", 0.0)
    want: list[tuple[str, float]] = []
    for k, r in enumerate(single):
        want += [stop] if k else []
        want += [(e.kind, e.value) for e in r.events if e.kind != "end"]
    return "" if said == want else "its stops, changes or dwells are not those of its parts"


def _same_moves(whole: Reading, single: Sequence[Reading]) -> bool:
    blocks = [b for r in single for b in r.blocks]
    if [b.tool for b in whole.blocks] != [b.tool for b in blocks]:
        return False
    return all(_same_block(a, b) for a, b in zip(whole.blocks, blocks, strict=True))


def _same_block(a: Block, b: Block) -> bool:
    """A block of the whole and that of its part; where the part began at a place that was not known, the
    whole may come from the part before, at the height of fast moves.
    """
    more = len(a.moves) - len(b.moves)
    if more < 0 or not np.array_equal(a.moves[more:], b.moves) or not np.array_equal(a.speed[more:], b.speed):
        return False
    come = a.moves[:more]
    return bool(np.all(come[:, KIND] == RAPID) and np.all(come[:, Z] >= b.moves[0, Z] - 1e-6))
