"""A drawing cut by a kerf where its parts lie: what the command line makes without a job."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypedDict

from venzo.core.kerf.how import KerfHow, KerfOrder
from venzo.core.kerf.kerf_cuts import kerf_cuts, pre_pierced
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.kerf_proof import against_run, against_world, taken_apart
from venzo.core.kerf.running import KerfRun, run
from venzo.core.parts.intake import take_in
from venzo.core.snags import BadInput, PlainSnag, Snag
from venzo.core.voice import counted
from venzo.formats.drawing_file import read_file
from venzo.formats.kerf_program import PLAIN, write_kerf
from venzo.formats.rs274 import interpret

MOST_CONTOURS = 20_000


class KerfPrint(TypedDict):
    """What ``venzo kerf`` prints (CONTRACT)."""

    pierces: int
    cut_length_mm: float
    hop_length_mm: float
    time_s: float
    snags: list[PlainSnag]


@dataclass(frozen=True)
class MadeKerf:
    """A program with its figures."""

    text: str
    run: KerfRun
    snags: list[Snag]

    def to_json(self) -> KerfPrint:
        """The document that is printed of it."""
        return {
            "pierces": self.run.pierces,
            "cut_length_mm": round(self.run.cut_length, 3),
            "hop_length_mm": round(self.run.hop_length, 3),
            "time_s": round(self.run.time, 2),
            "snags": [s.plain() for s in self.snags],
        }


def kerf(
    data: bytes,
    name: str,
    how: KerfHow,
    by: KerfOrder = "insides first",
    *,
    units: str = "auto",
    join: float = 0.05,
    inch: bool = False,
) -> MadeKerf:
    """The program that cuts a drawing's parts where they lie, proven by reading it back.

    Raises:
        BadInput: unreadable, nothing closed in it, or more than can be planned at a time.
    """
    found = take_in(read_file(data, name), name, units, join)
    if not found.regions:
        why = next((s.message for s in found.snags if s.severity == "stop"), f"{name}: nothing closed in it")
        raise BadInput(why)
    contours = sum(len(r.loops) for r in found.regions)
    if contours > MOST_CONTOURS:
        raise BadInput(
            f"{name}: {counted(contours, 'contour')}; up to {MOST_CONTOURS:,} are planned at a time: split"
            " the drawing"
        )
    stem = name.rsplit(".", 1)[0]
    bodies = [
        Body(f"{stem} {n}" if len(found.regions) > 1 else stem, r) for n, r in enumerate(found.regions, 1)
    ]
    planned = pre_pierced(kerf_cuts(bodies, how), how)
    done = run(planned.cuts, bodies, how, by=by)
    dialect = PLAIN.model_copy(
        update={"inch": inch, "name": "RS-274, inch, head on by M3" if inch else PLAIN.name}
    )
    header = [
        f"{name}: kerf {how.kerf:g} mm, zero at the drawing's own",
        f"{counted(done.pierces, 'pierce')}, {done.cut_length / 1000:.2f} m with the head on",
    ]
    text = write_kerf(done, how, header, dialect)
    told = taken_apart(interpret(text, name, dialect))
    proof = [
        *told.snags,
        *against_run(told, done),
        *against_world(told, bodies, how, uncut=planned.left_out),
    ]
    snags = [*found.snags, *planned.snags, *proof]
    rank = {"stop": 0, "look": 1, "note": 2}
    return MadeKerf(text, done, sorted(snags, key=lambda s: rank[s.severity]))
