"""Snags: what a rule found, how much it matters, and what would mend it."""

from __future__ import annotations

from typing import Literal, NotRequired

from pydantic import BaseModel, ConfigDict, Field, JsonValue, ValidationError
from typing_extensions import TypedDict

Severity = Literal["stop", "look", "note"]


class Remedy(BaseModel):
    """An edit that one click applies: a label and a command of ``venzo.core.edits`` as JSON."""

    model_config = ConfigDict(frozen=True)
    label: str
    command: dict[str, JsonValue]
    trades: str = ""
    """What there will be to look at instead, where it is not all gained."""


class Where(TypedDict, total=False):
    """What a snag is about: things by ids or names, places in mm, lines of a program, moments of the tape
    in s.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")  # type: ignore[misc]
    job: str
    setup: str
    drawing: str
    part: str
    contour: str
    piece: str
    sheet: str
    sheet_copy: int
    stock: str
    cutter: str
    file: str
    line: int
    kind: str
    cut: int
    fixing: str
    seconds: float
    places: list[tuple[float, float]]
    x: float
    y: float
    z: float


class PlainSnag(TypedDict):
    """A snag as the command line prints it (CONTRACT)."""

    rule: str
    severity: Severity
    message: str
    where: NotRequired[Where]


class Snag(BaseModel):
    """A finding of the rule ``rule``; ``where`` names what it is about (part, contour, sheet, point ...)."""

    model_config = ConfigDict(frozen=True)
    rule: str
    severity: Severity
    message: str
    where: Where | None = None
    remedies: tuple[Remedy, ...] = Field(default=())

    def plain(self) -> PlainSnag:
        """The shape the command line contract promises."""
        out: PlainSnag = {"rule": self.rule, "severity": self.severity, "message": self.message}
        if self.where:
            out["where"] = self.where
        return out


def stop(rule: str, message: str, where: Where | None = None, *remedies: Remedy) -> Snag:
    """Something that must be mended before the program may run."""
    return Snag(rule=rule, severity="stop", message=message, where=where, remedies=remedies)


def look(rule: str, message: str, where: Where | None = None, *remedies: Remedy) -> Snag:
    """Something a person should look at and decide."""
    return Snag(rule=rule, severity="look", message=message, where=where, remedies=remedies)


def note(rule: str, message: str, where: Where | None = None, *remedies: Remedy) -> Snag:
    """Something worth knowing."""
    return Snag(rule=rule, severity="note", message=message, where=where, remedies=remedies)


class BadInput(ValueError):
    """Input that cannot be used. The message names file, thing, number and remedy, for a person."""


def plain_error(e: ValidationError) -> str:
    """The first fault of a failed validation in one line."""
    first = e.errors()[0]
    where = " ".join(str(p) for p in first["loc"] if not isinstance(p, int))
    said = first.get("input")
    if first["type"] == "union_tag_invalid":  # else every kind there is would be listed
        return f"there is no {first['ctx']['discriminator'].strip(chr(39))} {first['ctx']['tag']!r}"
    given = f" ({said!r} was given)" if isinstance(said, int | float | str) and len(str(said)) < 40 else ""
    return f"{where}: {first['msg'].removeprefix('Value error, ')}{given}".strip(": ")
