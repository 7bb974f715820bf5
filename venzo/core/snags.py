"""Snags: what a rule found, how much it matters, and what would mend it."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Severity = Literal["stop", "look", "note"]


class Remedy(BaseModel):
    """An edit that one click applies: a label and a command of ``venzo.core.edits`` as JSON."""

    model_config = ConfigDict(frozen=True)
    label: str
    command: dict[str, Any]
    trades: str = ""
    """What there will be to look at instead, where it is not all gained."""


class Snag(BaseModel):
    """A finding of the rule ``rule``; ``where`` names what it is about (part, contour, sheet, point ...)."""

    model_config = ConfigDict(frozen=True)
    rule: str
    severity: Severity
    message: str
    where: dict[str, Any] | None = None
    remedies: tuple[Remedy, ...] = Field(default=())

    def plain(self) -> dict[str, Any]:
        """The shape the command line contract promises."""
        out: dict[str, Any] = {"rule": self.rule, "severity": self.severity, "message": self.message}
        if self.where:
            out["where"] = self.where
        return out


def stop(rule: str, message: str, where: dict[str, Any] | None = None, *remedies: Remedy) -> Snag:
    """Something that must be mended before the program may run."""
    return Snag(rule=rule, severity="stop", message=message, where=where, remedies=remedies)


def look(rule: str, message: str, where: dict[str, Any] | None = None, *remedies: Remedy) -> Snag:
    """Something a person should look at and decide."""
    return Snag(rule=rule, severity="look", message=message, where=where, remedies=remedies)


def note(rule: str, message: str, where: dict[str, Any] | None = None, *remedies: Remedy) -> Snag:
    """Something worth knowing."""
    return Snag(rule=rule, severity="note", message=message, where=where, remedies=remedies)


class BadInput(ValueError):
    """Input that cannot be used. The message names file, thing, number and remedy, for a person."""
