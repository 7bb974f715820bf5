"""What-ifs that are being answered, and those that were: asked of the executor, watched, stopped."""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from venzo.core.nesting.questions import Answer
from venzo.core.snags import BadInput
from venzo.desk.what_ifs import Outcome, Posed, outcome
from venzo.work.executor import Executor, State, Task, executor

ENDED = 60
"""What-ifs that have ended and are still known."""
MOST = 12
"""What-ifs of one job that may wait or run at a time."""


@dataclass
class Asking:
    """One what-if on its way. ``made_from``: digest of what it was asked about."""

    id: str
    job: str
    kind: str
    posed: Posed
    made_from: str
    tasks: list[Task]
    began: float = field(default_factory=time.monotonic)

    @property
    def state(self) -> State:
        """Of all its questions together."""
        states = [t.state for t in self.tasks]
        if "failed" in states:
            return "failed"
        if all(t.over.is_set() for t in self.tasks):
            return "stopped" if "stopped" in states else "done"
        return "running" if any(s != "waiting" for s in states) else "waiting"

    @property
    def over(self) -> bool:
        """Has it ended, in whichever way?"""
        return all(t.over.is_set() for t in self.tasks) or self.state == "failed"

    @property
    def share(self) -> float:
        """How far it is, 0 to 1."""
        return sum(t.share for t in self.tasks) / len(self.tasks)

    @property
    def fault(self) -> str:
        """Why there is no answer; empty where there is none to say."""
        return next((t.fault for t in self.tasks if t.fault), "")

    def outcome(self) -> Outcome | None:
        """What it comes to so far; None: not every question has so much as a first layout."""
        found: list[Answer] = []
        for t in self.tasks:
            best = t.answer or t.best
            if best is None:
                return None
            found.append(best)
        if any(not t.over.is_set() for t in self.tasks) and self.kind == "one more":
            return None  # half a curve misleads
        return outcome(self.posed, found)


class WhatIfs:
    """All what-ifs of a shop. The executor is made when first asked."""

    def __init__(self, make: Callable[[], Executor] = executor):
        self._make = make
        self._executor: Executor | None = None
        self._lock = threading.Lock()
        self._known: dict[str, Asking] = {}

    def ask(self, job: str, kind: str, posed: Posed, made_from: str) -> Asking:
        """Ask; what was asked alike about the same and still waits or runs is what is answered.

        Raises:
            BadInput: too many wait already, or the cluster is away.
        """
        with self._lock:
            mine = [a for a in self._known.values() if a.job == job and not a.over]
            for a in mine:
                if (a.kind, a.made_from, a.posed.title) == (kind, made_from, posed.title):
                    return a
            if len(mine) >= MOST:
                raise BadInput(f"{len(mine)} what-ifs of this job wait already; let them end, or stop some")
            if self._executor is None:
                self._executor = self._make()
            tasks = [self._executor.submit(q) for q in posed.asked]
            asking = Asking(secrets.token_hex(4), job, kind, posed, made_from, tasks)
            self._known[asking.id] = asking
            ended = [a.id for a in self._known.values() if a.over]
            for old in ended[:-ENDED]:
                del self._known[old]
            return asking

    def of(self, job: str, setup: str) -> list[Asking]:
        """What-ifs about a setup, the newest first."""
        with self._lock:
            return [a for a in reversed(self._known.values()) if (a.job, a.posed.setup) == (job, setup)]

    def get(self, job: str, number: str) -> Asking | None:
        """One of a job's what-ifs."""
        found = self._known.get(number)
        return found if found is not None and found.job == job else None

    def stop(self, asking: Asking) -> None:
        """Stop it; what was found by then is kept."""
        if self._executor is not None:
            for t in asking.tasks:
                if not t.over.is_set():
                    self._executor.stop(t)

    def forget(self, asking: Asking) -> None:
        """Stop it, and take it off the list."""
        self.stop(asking)
        with self._lock:
            self._known.pop(asking.id, None)

    def close(self) -> None:
        """End whatever answers."""
        if self._executor is not None:
            self._executor.close()
