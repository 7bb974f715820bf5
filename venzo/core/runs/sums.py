"""What do the records come to? Sums over those that were not taken back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from venzo.core.runs.records import Record, Renewed, SheetRun, TakenBack, Worn

Numbered = tuple[int, Record]


def standing(records: Sequence[Numbered]) -> list[Numbered]:
    """The records that count, in order: neither taken back nor such a taking back.

    >>> standing([(1, Worn(cutter="a", metres=1)), (2, TakenBack(number=1)), (3, Renewed(cutter="a"))])
    [(3, Renewed(kind='renewed', cutter='a', says=''))]
    """
    gone = {r.number for _n, r in records if isinstance(r, TakenBack)}
    return [(n, r) for n, r in records if n not in gone and not isinstance(r, TakenBack)]


def wear(counting: Iterable[Numbered]) -> dict[str, float]:
    """Metres that each cutter has cut since it was renewed."""
    out: dict[str, float] = {}
    for _n, r in counting:
        if isinstance(r, Renewed):
            out[r.cutter] = 0.0
        elif isinstance(r, Worn):
            out[r.cutter] = out.get(r.cutter, 0.0) + r.metres
        elif isinstance(r, SheetRun):
            for cutter, metres in r.metres.items():
                out[cutter] = out.get(cutter, 0.0) + metres
    return {cutter: round(metres, 3) for cutter, metres in out.items()}


@dataclass(frozen=True)
class Made:
    """What a job's runs made: sound and spoilt pieces by part, and how the machine's time came out.

    ``planned`` and ``seconds`` count only runs of which the real time is known.
    """

    sound: dict[str, int]
    spoilt: dict[str, int]
    planned: float
    seconds: float


def made(counting: Iterable[Numbered], job: str) -> Made:
    """What the runs of one job came to."""
    sound: Counter[str] = Counter()
    spoilt: Counter[str] = Counter()
    planned = seconds = 0.0
    for _n, r in counting:
        if not isinstance(r, SheetRun) or r.job != job:
            continue
        sound.update(r.sound)
        spoilt.update(piece.rsplit("#", 1)[0] for piece in r.spoilt)
        if r.seconds is not None:
            planned, seconds = planned + r.planned, seconds + r.seconds
    return Made(dict(sound), dict(spoilt), planned, seconds)
