"""Sheets of several jobs on one table, each at a square of its grid, cut by one program."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Id, Value

MOST_SHEETS = 60


class LaidSheet(Value):
    """A sheet (a loose piece of stock) of a job, with its lower left corner on that of a square; it is cut as
    that job plans it. ``copy_no``: which of its alike sheets, from 0.
    """

    id: Id
    job: Id
    setup: Id
    sheet: Id
    copy_no: Annotated[int, Field(ge=0, le=10_000)] = 0
    square: Annotated[int, Field(ge=1, le=2000)]


class TableRun(Value):
    """Which sheets are cut in one go. ``z_zero``: Z 0 on the spoilboard, or on top of the material, which
    then is equally thick everywhere.
    """

    id: Id
    sheets: Annotated[tuple[LaidSheet, ...], Field(max_length=MOST_SHEETS)] = ()
    z_zero: Literal["top", "bed"] = "bed"
