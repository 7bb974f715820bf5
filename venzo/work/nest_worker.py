"""Nesting in one spawned, niced worker process: progress, best result so far, stop.

One search runs at a time; further ones wait. The worker never touches the store: it gets a problem and hands
results back.
"""

from __future__ import annotations

import contextlib
import multiprocessing as mp
import os
import queue
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from venzo.core.nesting.bound import best_yield
from venzo.core.nesting.problem import NestProblem, NestResult, Placement
from venzo.core.nesting.worth import Worth

TELL = 0.3
"""Seconds between layouts sent to the screen."""
FLAGS = 4096
"""Stop flags shared with the worker, one for every search that may wait or run."""
ENDED = 40
"""Searches that have ended and are still known."""


def _work(tasks: Any, answers: Any, flags: Any, parent: int) -> None:
    """The worker's loop (in its own process); it ends when the server is gone, however that came about."""
    with contextlib.suppress(OSError):
        os.nice(10)
    from venzo.core.nesting.engine import Search
    from venzo.work.warm import warm_nesting

    warm_nesting()
    while True:
        try:
            task = tasks.get(timeout=1.0)
        except queue.Empty:
            if os.getppid() != parent:
                return
            continue
        if task is None:
            return
        search_id, ticket, text, seed, seconds, start = task
        began = time.time()
        if flags[ticket % FLAGS]:
            answers.put(("done", search_id, None, 0, 0.0))
            continue
        answers.put(("began", search_id, None, 0, 0.0))
        try:
            problem = NestProblem.model_validate_json(text)
            search = Search(problem, seed, [Placement.model_validate(p) for p in start])

            def late(began: float = began, seconds: float = seconds, ticket: int = ticket) -> bool:
                return bool(flags[ticket % FLAGS]) or time.time() - began > seconds or os.getppid() != parent

            told, shown = None, 0.0
            while True:
                more = search.step(late, (time.time() - began) / seconds)
                ending = not more or late()
                # judging and sending a layout costs more than a step: a few times a second is often enough to
                # watch
                if search.key != told and (ending or time.time() - shown > TELL):
                    best = search.best
                    if best is not None:
                        answers.put(
                            (
                                "best",
                                search_id,
                                best.model_dump_json(by_alias=True),
                                search.steps,
                                time.time() - began,
                            )
                        )
                    told, shown = search.key, time.time()
                elif search.steps % 8 == 0:
                    answers.put(("best", search_id, None, search.steps, time.time() - began))
                if ending:
                    break
            answers.put(("done", search_id, None, search.steps, time.time() - began))
        except Exception as e:
            answers.put(("failed", search_id, str(e), 0, time.time() - began))


@dataclass
class Running:
    """One search as the server sees it."""

    id: str
    job: str
    setup: str
    problem: NestProblem
    seconds: float
    done: Callable[[Running], None]
    start: list[Placement] = field(default_factory=list)
    """The layout to go on from."""
    best: NestResult | None = None
    curve: list[tuple[float, int, float]] = field(default_factory=list)
    """(seconds, sheets, material yield) at every improvement."""
    limit: float = 1.0
    """No layout can have a higher yield."""
    steps: int = 0
    elapsed: float = 0.0
    state: str = "waiting"
    message: str = ""
    ticket: int = 0
    """Counts searches; its stop flag is found by it."""

    @property
    def over(self) -> bool:
        """Has it ended, in whichever way?"""
        return self.state not in ("waiting", "running")

    def __post_init__(self) -> None:
        self.worth = Worth(self.problem)
        self.limit = best_yield(self.problem, self.worth)


class NestWorker:
    """Owns the worker process; searches are started, watched and stopped here."""

    def __init__(self) -> None:
        self._context = mp.get_context("spawn")
        self._lock = threading.Lock()
        self._process: Any = None
        self._searches: dict[str, Running] = {}
        self._tickets = 0

    def _ensure(self) -> None:
        if self._process is not None and self._process.is_alive():
            return
        self._tasks, self._answers, self._flags = (
            self._context.Queue(),
            self._context.Queue(),
            self._context.RawArray("b", FLAGS),
        )
        self._process = self._context.Process(
            target=_work, args=(self._tasks, self._answers, self._flags, os.getpid()), daemon=True
        )
        self._process.start()
        threading.Thread(target=self._listen, args=(self._process, self._answers), daemon=True).start()

    def warm(self) -> None:
        """Start the worker ahead of the first search."""
        with self._lock:
            self._ensure()

    def start(self, running: Running, seed: int) -> None:
        """Queue a search; ``running.done`` is called when it has ended."""
        with self._lock:
            self._ensure()
            self._forget_old()
            self._tickets += 1
            running.ticket = self._tickets
            self._flags[running.ticket % FLAGS] = 0
            self._searches[running.id] = running
            start = [p.model_dump(by_alias=True) for p in running.start]
            self._tasks.put(
                (
                    running.id,
                    running.ticket,
                    running.problem.model_dump_json(by_alias=True),
                    seed,
                    running.seconds,
                    start,
                )
            )

    def _forget_old(self) -> None:
        """Searches that ended long ago go; what became of them is in the plan."""
        ended = [r.id for r in self._searches.values() if r.over]
        for old in ended[:-ENDED]:
            del self._searches[old]

    def get(self, search_id: str) -> Running | None:
        """A search by id."""
        return self._searches.get(search_id)

    def busy(self, job: str, setup: str) -> Running | None:
        """The search that runs or waits for a setup, if any."""
        return next(
            (r for r in list(self._searches.values()) if (r.job, r.setup) == (job, setup) and not r.over),
            None,
        )

    def running(self) -> list[Running]:
        """Searches that run or wait, in the order they were asked for."""
        with self._lock:
            live = [r for r in self._searches.values() if not r.over]
        return sorted(live, key=lambda r: r.ticket)

    def ahead(self, running: Running) -> int:
        """How many searches a waiting one waits for."""
        return sum(not r.over and r.ticket < running.ticket for r in list(self._searches.values()))

    def stop(self, running: Running) -> None:
        """Stop one search, whether it runs or waits; what it has found is kept. Others go on."""
        self._flags[running.ticket % FLAGS] = 1

    def close(self) -> None:
        """End the worker process."""
        if self._process is not None and self._process.is_alive():
            self._flags[:] = [1] * FLAGS
            self._tasks.put(None)
            self._process.join(2)
            if self._process.is_alive():
                self._process.terminate()

    def _listen(self, process: Any, answers: Any) -> None:
        while True:
            try:
                kind, search_id, body, steps, elapsed = answers.get(timeout=1.0)
            except queue.Empty:
                if not process.is_alive():
                    for r in self._searches.values():
                        if not r.over:
                            r.state, r.message = (
                                "failed",
                                "the worker ended unexpectedly; start the nest again",
                            )
                    return
                continue
            except (EOFError, OSError):
                return
            running = self._searches.get(search_id)
            if running is None:
                continue
            running.steps, running.elapsed = steps, elapsed
            if kind == "began":
                running.state = "running"
            elif kind == "best" and body:
                running.best = NestResult.model_validate_json(body)
                uses = running.best.sheets
                running.curve.append((elapsed, len(uses), running.worth.material_yield(uses)))
            elif kind == "done":
                self._finish(running)
            elif kind == "failed":
                running.state, running.message = "failed", body

    @staticmethod
    def _finish(running: Running) -> None:
        try:
            running.done(running)
        except Exception as e:
            running.state, running.message = "failed", str(e)
