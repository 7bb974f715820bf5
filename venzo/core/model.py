"""The base of every value that people edit: frozen, strict about names, finite numbers only."""

from __future__ import annotations

import hashlib
import json
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, JsonValue


class Value(BaseModel):
    """A frozen document part; equal contents have equal digests."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Document(BaseModel):
    """Something that is answered: plain, complete, never stored. Names that Python keeps to itself are
    answered under their alias.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)


Fields = dict[str, JsonValue]
"""Fields of something, by name, as they come in JSON; what they may be is checked against the thing
itself.
"""
Family = Literal["wood", "plastic", "aluminium", "steel"]
Id = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[A-Za-z0-9][A-Za-z0-9 ._-]*$")]
Name = Annotated[str, Field(min_length=1, max_length=200)]
Positive = Annotated[float, Field(gt=0, le=100_000)]
NotNegative = Annotated[float, Field(ge=0, le=100_000)]
Point = tuple[float, float]


def _in_utc(t: datetime) -> datetime:
    """What is kept without a zone is UTC."""
    return t.replace(tzinfo=UTC) if t.tzinfo is None else t


Moment = Annotated[datetime, AfterValidator(_in_utc)]
"""When something was, answered with its zone (RFC 3339)."""


def digest(*parts: Any) -> str:
    """One digest of models, JSON data and strings; the order of dictionary keys (strings) does not matter."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=_dumped)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def _dumped(v: Any) -> Any:
    if isinstance(v, BaseModel):
        return v.model_dump(mode="json")
    raise TypeError(f"no digest of a {type(v).__name__}")
