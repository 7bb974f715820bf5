"""Long questions answered elsewhere: in one niced process beside the server, or on a cluster where the shop
has one. Both hear the same stop, tell the same progress and best so far, and give the same answer by steps.

``VENZO_DASK=tcp://host:port`` names the scheduler of a Dask cluster; its workers need only this package.
"""

from __future__ import annotations

import contextlib
import multiprocessing as mp
import os
import threading
import time
from concurrent.futures import Future, ProcessPoolExecutor
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

from venzo.core.nesting.questions import ASKED, Answer, Asked, answer
from venzo.core.snags import BadInput

DASK = "VENZO_DASK"
FLAGS = 1024
"""Stop flags shared with the local process; questions take them in turn."""
LOOK = 0.5
"""s between two looks at a stop flag across a network."""
CONNECT = 5.0
"""s until a cluster that does not answer is said to be away."""
State = Literal["waiting", "running", "done", "stopped", "failed"]


@dataclass
class Task:
    """A question on its way: how far it is (0 to 1), the best so far, and at last its answer or why there is
    none.
    """

    number: int
    asked: Asked
    state: State = "waiting"
    share: float = 0.0
    best: Answer | None = None
    answer: Answer | None = None
    fault: str = ""
    began: float = field(default_factory=time.monotonic)
    over: threading.Event = field(default_factory=threading.Event)

    def hear(self, share: float, best: Answer | None) -> None:
        """Word from wherever it is answered."""
        if self.over.is_set():
            return
        self.state, self.share = "running", max(self.share, share)
        self.best = best or self.best

    def end(self, found: Answer | None, fault: str = "") -> None:
        """It is answered, or never will be."""
        self.answer, self.fault = found, fault
        self.state = "failed" if found is None else "stopped" if found.cut_short else "done"
        self.share = 1.0 if found is not None else self.share
        self.over.set()


class Executor(Protocol):
    """Where questions are answered."""

    def submit(self, asked: Asked) -> Task:
        """Ask; the task tells how it stands from then on."""

    def stop(self, task: Task) -> None:
        """What is found by then is the answer."""

    def close(self) -> None:
        """Let go of whatever answers."""


# -- beside the server -----------------------------------------------------------

_flags: Any = None
_words: Any = None


def _begin(flags: Any, words: Any, parent: int) -> None:
    """Once in the process that answers: it gives way to all else and ends with the server."""
    global _flags, _words
    _flags, _words = flags, words
    with contextlib.suppress(OSError):
        os.nice(15)

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1.0)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


def _answer_here(number: int, text: bytes) -> bytes:
    def tell(share: float, best: Answer | None) -> None:
        _words.put((number, share, best.model_dump_json() if best else ""))

    found = answer(ASKED.validate_json(text), lambda: bool(_flags[number % FLAGS]), tell)
    return found.model_dump_json(by_alias=True).encode()


class LocalExecutor:
    """One spawned process, made when first asked; further questions wait. Two that each search would fight
    for the cores and both be slower.
    """

    def __init__(self) -> None:
        self._context = mp.get_context("spawn")
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._tasks: dict[int, Task] = {}
        self._number = 0

    def _ensure(self) -> ProcessPoolExecutor:
        if self._pool is None:
            self._flags = self._context.RawArray("b", FLAGS)
            self._words = self._context.Queue()
            self._pool = ProcessPoolExecutor(
                1, self._context, _begin, (self._flags, self._words, os.getpid())
            )
            threading.Thread(target=self._listen, args=(self._words,), daemon=True).start()
        return self._pool

    def submit(self, asked: Asked) -> Task:
        """Ask; it waits for those asked before."""
        with self._lock:
            pool = self._ensure()
            self._number += 1
            task = Task(self._number, asked)
            self._flags[task.number % FLAGS] = 0
            self._tasks[task.number] = task
            future = pool.submit(_answer_here, task.number, ASKED.dump_json(asked, by_alias=True))
        future.add_done_callback(lambda f: self._ended(task, f))
        return task

    def _ended(self, task: Task, future: Future[bytes]) -> None:
        self._tasks.pop(task.number, None)
        if future.cancelled():
            task.end(None, "stopped before it began")
            return
        fault = future.exception()
        if fault is None:
            task.end(Answer.model_validate_json(future.result()))
            return
        with self._lock:
            if not isinstance(fault, BadInput):
                self._pool = None  # the next question gets a process of its own
        words = str(fault) if isinstance(fault, BadInput) else "the process that searched ended; ask again"
        task.end(None, words)

    def _listen(self, words: Any) -> None:
        while True:
            try:
                number, share, best = words.get()
            except (EOFError, OSError):
                return
            if number == 0:
                return
            task = self._tasks.get(number)
            if task is not None:
                task.hear(share, Answer.model_validate_json(best) if best else None)

    def stop(self, task: Task) -> None:
        """Stop one, whether it runs or waits."""
        if self._pool is not None:
            self._flags[task.number % FLAGS] = 1

    def close(self) -> None:
        """End the process."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            self._flags[:] = [1] * FLAGS
            self._words.put((0, 0.0, ""))
            pool.shutdown(wait=True, cancel_futures=True)


# -- on a cluster ------------------------------------------------------------------


def _answer_on_worker(name: str, text: bytes) -> bytes:
    """On a worker of the cluster: stop and progress cross the wire."""
    from distributed import Event, get_worker

    worker, flag = get_worker(), Event(f"{name}-stop")
    looked, stopped = 0.0, False

    def stop() -> bool:
        nonlocal looked, stopped
        now = time.monotonic()
        if not stopped and now - looked > LOOK:
            looked, stopped = now, flag.is_set()
        return stopped

    def tell(share: float, best: Answer | None) -> None:
        worker.log_event(name, [share, best.model_dump_json() if best else ""])

    found = answer(ASKED.validate_json(text), stop, tell)
    return found.model_dump_json(by_alias=True).encode()


class DaskExecutor:
    """The workers of a Dask cluster, as many questions at a time as it has threads. A worker that dies
    gives its questions to the others; by steps the answer is the same.

    Raises:
        BadInput: ``distributed`` is not installed, or no scheduler answers.
    """

    def __init__(self, address: str):
        try:
            from distributed import Client
        except ImportError as e:
            raise BadInput(
                f"{DASK}={address}: the package 'distributed' is not installed here; install it,"
                f" or unset {DASK}"
            ) from e
        try:
            self._client = Client(address, timeout=CONNECT, set_as_default=False, name="venzo")
        except (OSError, TimeoutError, ValueError) as e:
            raise BadInput(f"{DASK}={address}: no scheduler answers there; start it, or unset {DASK}") from e
        self._numbers = 0
        self._lock = threading.Lock()
        self._futures: dict[int, Any] = {}

    def _name(self, task: Task) -> str:
        return f"venzo-{id(self)}-{os.getpid()}-{task.number}"

    def submit(self, asked: Asked) -> Task:
        """Ask the cluster."""
        with self._lock:
            self._numbers += 1
            task = Task(self._numbers, asked)
        name = self._name(task)

        def hear(event: Any) -> None:
            share, best = event[1]
            task.hear(share, Answer.model_validate_json(best) if best else None)

        self._client.subscribe_topic(name, hear)
        future = self._client.submit(
            _answer_on_worker, name, ASKED.dump_json(asked, by_alias=True), key=name, pure=False
        )
        self._futures[task.number] = future
        future.add_done_callback(lambda f: self._ended(task, f))
        return task

    def _ended(self, task: Task, future: Any) -> None:
        self._futures.pop(task.number, None)
        with contextlib.suppress(Exception):
            self._client.unsubscribe_topic(self._name(task))
        if future.status == "finished":
            task.end(Answer.model_validate_json(future.result()))
        elif future.status == "cancelled":
            task.end(None, "stopped before it began")
        else:
            fault = future.exception()
            words = str(fault) if isinstance(fault, BadInput) else f"the cluster gave it up: {fault}"
            task.end(None, words)

    def stop(self, task: Task) -> None:
        """Stop one, whether it runs or waits."""
        from distributed import Event

        Event(f"{self._name(task)}-stop", client=self._client).set()

    def close(self) -> None:
        """Let go of the cluster; what runs there ends."""
        for future in list(self._futures.values()):
            with contextlib.suppress(Exception):
                future.cancel()
        self._client.close()


def executor(address: str | None = None) -> Executor:
    """The executor that the environment names: a cluster, or a process beside the server.

    Raises:
        BadInput: the cluster is not there.
    """
    named = address if address is not None else os.environ.get(DASK, "")
    return DaskExecutor(named) if named else LocalExecutor()
