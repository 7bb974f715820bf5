"""A small sum that people do in their heads all day: its fields, the rules between them, and the same sum any
way round.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from venzo.core.figure import Mark, Said, Values
from venzo.core.reckonings.quantities import Kind, Unit, show
from venzo.core.snags import BadInput

Answer = float | str
"""A number in the core's unit, or a word of a choice."""
Answers = Mapping[str, Answer]


@dataclass(frozen=True)
class Field:
    """One quantity of a reckoning.

    Attributes:
        name: by which it is given and answered.
        label: in plain words.
        kind: what it is a quantity of.
        start: what it is when the reckoning is opened; None: it is worked out from the others. Where another
            field is typed, the last of the fields that have a start gives way.
        usual: it stands at ``start`` until it is said otherwise, and is never asked for.
        words: of a choice.
        least, most: between which it means something.
        more: digits beyond the usual.
        aside: it may stay unknown.
    """

    name: str
    label: str
    kind: Kind = "length"
    start: Answer | None = None
    usual: bool = False
    words: tuple[str, ...] = ()
    least: float = 0.0
    most: float = 1e6
    more: int = 0
    aside: bool = False


@dataclass(frozen=True)
class Rule:
    """How one field follows from others. ``offered``: only where the field itself is not given."""

    target: str
    needs: tuple[str, ...]
    by: Callable[..., Answer]
    offered: bool = False


@dataclass(frozen=True)
class Reckoning:
    """A sum with its formula and where it comes from.

    ``rounds``: it counts whole things, so that a value worked back is one of many that give the same count.
    ``near``: matters of the trade it belongs to, by which it is found.
    """

    name: str
    title: str
    asks: str
    fields: tuple[Field, ...]
    rules: tuple[Rule, ...]
    formula: str
    source: str
    draw: Callable[[Values, Said], list[Mark]]
    rounds: bool = False
    near: str = ""
    says: Callable[[Values, Said], list[str]] = lambda _values, _said: []

    def field(self, name: str) -> Field:
        """A field by name.

        Raises:
            BadInput: there is none of that name.
        """
        for f in self.fields:
            if f.name == name:
                return f
        names = ", ".join(f.name for f in self.fields)
        raise BadInput(f"{self.name} has no field {name!r}; its fields are: {names}")

    def starts(self) -> dict[str, Answer]:
        """What it is opened with."""
        return {f.name: f.start for f in self.fields if f.start is not None}

    def follows(self, name: str) -> bool:
        """Is the field only ever an answer?"""
        return all(name not in r.needs for r in self.rules) and all(
            f.name != name or f.start is None for f in self.fields
        )


@dataclass(frozen=True)
class Reckoned:
    """What came out: values of all fields known, which were taken as given, which of those given follow from
    the others and were left, and which are still to be given.
    """

    values: dict[str, Answer]
    taken: tuple[str, ...]
    left: tuple[str, ...]
    missing: tuple[str, ...]

    def worked_out(self) -> dict[str, Answer]:
        """The values that were not given."""
        return {k: v for k, v in self.values.items() if k not in self.taken}


def work_out(reckoning: Reckoning, given: Answers) -> Reckoned:
    """Work out what follows from what is given, in the order it is given: the first named stand, and what
    follows from them already is left aside.

    Raises:
        BadInput: a value that cannot be, or there is no such field.

    >>> from venzo.core.reckonings import find
    >>> r = work_out(find("chip-load"), {"feed": 15240.0, "rpm": 16000.0, "flutes": 2.0})
    >>> round(r.values["chip_load"] / 25.4, 5)
    0.01875
    >>> work_out(find("chip-load"), {"chip_load": 0.2, "rpm": 18000.0, "flutes": 2.0}).values["feed"]
    7200.0
    """
    checked = {name: _checked(reckoning.field(name), value) for name, value in given.items()}
    known: dict[str, Answer] = {}
    for f in reckoning.fields:
        if f.usual and f.start is not None:
            known[f.name] = checked.get(f.name, f.start)
    taken = [n for n in checked if n in known]
    left = []
    _follow(reckoning, known, checked)
    for name, value in checked.items():
        if name in taken:
            continue
        if name in known:
            left.append(name)
            continue
        known[name] = value
        taken.append(name)
        _follow(reckoning, known, checked)
    missing = tuple(f.name for f in reckoning.fields if f.name not in known and not f.aside)
    in_order = {f.name: known[f.name] for f in reckoning.fields if f.name in known}
    return Reckoned(in_order, tuple(taken), tuple(left), missing)


def work_out_all(reckoning: Reckoning, given: Answers) -> Reckoned:
    """The same where nothing may be missing and nothing given twice over (a command line has no order).

    Raises:
        BadInput: naming what more to give, or what to leave away.
    """
    out = work_out(reckoning, given)
    if out.missing:
        raise BadInput(
            f"{reckoning.name}: not enough is given to work out {_listed(out.missing)}; give one more field"
        )
    if out.left:
        raise BadInput(
            f"{reckoning.name}: {_listed(out.left)} follows from what else is given; leave it out, or another"
            " of those given"
        )
    return out


def _follow(reckoning: Reckoning, known: dict[str, Answer], given: Iterable[str]) -> None:
    """Every rule whose needs are known, until no more follows."""
    go_on = True
    while go_on:
        go_on = False
        for rule in reckoning.rules:
            if rule.target in known or (rule.offered and rule.target in given):
                continue
            if any(n not in known for n in rule.needs):
                continue
            known[rule.target] = _by_rule(reckoning, rule, known)
            go_on = True


def _by_rule(reckoning: Reckoning, rule: Rule, known: Answers) -> Answer:
    target = reckoning.field(rule.target)
    try:
        value = rule.by(*(known[n] for n in rule.needs))
    except (ValueError, ZeroDivisionError, OverflowError) as e:
        if isinstance(e, BadInput):
            raise
        names = _listed([reckoning.field(n).label for n in rule.needs])
        raise BadInput(f"there is no {target.label} for this {names}; change one of them") from None
    if isinstance(value, float | int) and not math.isfinite(value):
        raise BadInput(f"{target.label} would be without end; change what is given")
    if isinstance(value, float | int) and not target.least - 1e-9 <= value <= target.most * (1 + 1e-9):
        raise BadInput(
            f"{target.label} would be {show(value, target.kind, 'mm')}, outside {_range(target)}; change what"
            " is given"
        )
    return value


def _checked(f: Field, value: Answer) -> Answer:
    if f.kind == "choice":
        if value not in f.words:
            raise BadInput(f"{f.label}: there is no {value!r}; choose one of {', '.join(f.words)}")
        return value
    if not isinstance(value, float | int) or not math.isfinite(value):
        raise BadInput(f"{f.label}: {value!r} is no number")
    if not f.least <= value <= f.most:
        raise BadInput(f"{f.label}: {show(value, f.kind, 'mm')} is outside {_range(f)}")
    return float(value)


def _range(f: Field) -> str:
    return f"{show(f.least, f.kind, 'mm', f.more)} to {show(f.most, f.kind, 'mm')}"


def _listed(names: Sequence[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def shown(reckoning: Reckoning, values: Answers, unit: Unit) -> dict[str, str]:
    """The values in words of a unit."""
    out = {}
    for name, value in values.items():
        f = reckoning.field(name)
        out[name] = value if isinstance(value, str) else show(value, f.kind, unit, f.more)
    return out
