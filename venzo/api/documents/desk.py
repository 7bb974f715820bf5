"""The shop's desk as it is answered."""

from __future__ import annotations

from typing import Literal

from venzo.core.model import Document, Moment
from venzo.core.naming import PlanNames
from venzo.desk.cards import Card
from venzo.store.found import Place


class DeskJob(Document):
    """A job on the desk. ``card``: None until the job was read once; its ``revision`` says of which change it
    is.
    """

    id: str
    kind: Literal["parts", "surface", "run"]
    name: str
    revision: int
    changed: Moment
    names: PlanNames | None
    card: Card | None


class DeskDocument(Document):
    """A page of the jobs that were found, how many there are, and how many lie in each place."""

    total: int
    places: dict[Place, int]
    jobs: list[DeskJob]


class RunningSearch(Document):
    """A search for a layout that runs or waits."""

    job: str
    name: str
    setup: str
    state: Literal["waiting", "running"]
    elapsed: float
    seconds: float
