"""Drawings read in a process of their own, with limits on time and memory, so that no file can hold up or
bring down the server.
"""

from __future__ import annotations

import contextlib
import multiprocessing as mp
import os
import threading
import time
from collections.abc import Sequence
from multiprocessing.connection import Connection
from typing import Any

from venzo.core.parts.intake import HowRead, Intake
from venzo.core.parts.layers import LayerRule
from venzo.core.snags import BadInput

SECONDS = 180.0
"""A drawing that takes longer is given up; the largest that is read, 100,000 entities, takes under a
minute.
"""
MEMORY = 1_500
"""MB of resident memory."""
LOOK = 0.05
"""Seconds between two looks at a reading."""


def _work(pipe: Connection, parent: int) -> None:
    """The reading process: one file after the other, until the server is gone."""
    from venzo.core.parts.intake import take_in
    from venzo.formats.drawing_file import read_file

    with contextlib.suppress(OSError):
        os.nice(5)
    while True:
        while not pipe.poll(1.0):
            if os.getppid() != parent:
                return
        try:
            data, name, how, rules = pipe.recv()
        except EOFError:
            return
        try:
            pipe.send((True, take_in(read_file(data, name), name, how, rules=rules)))
        except BadInput as e:
            pipe.send((False, str(e)))
        except MemoryError:
            pipe.send((False, f"{name}: it takes more memory than there is; split the drawing"))
        except Exception as e:
            pipe.send(
                (
                    False,
                    (
                        f"{name}: it could not be read ({type(e).__name__}:"
                        f" {' '.join(str(e).split())[:120]}); export it again"
                    ),
                )
            )


class Reader:
    """Owns the reading process; one file is read at a time."""

    def __init__(self, seconds: float = SECONDS, memory: int = MEMORY) -> None:
        self.seconds, self.memory = seconds, memory
        self._context = mp.get_context("spawn")
        self._lock = threading.Lock()
        self._process: Any = None
        self._pipe: Connection | None = None

    def _ensure(self) -> Connection:
        if self._process is None or not self._process.is_alive() or self._pipe is None:
            self._pipe, theirs = self._context.Pipe()
            self._process = self._context.Process(target=_work, args=(theirs, os.getpid()), daemon=True)
            self._process.start()
            theirs.close()
        return self._pipe

    def warm(self) -> None:
        """Start the process ahead of the first file."""
        with self._lock:
            self._ensure()

    def read(self, data: bytes, name: str, how: HowRead, rules: Sequence[LayerRule]) -> Intake:
        """What ``take_in`` makes of a file.

        Raises:
            BadInput: as ``take_in`` does, or the file takes longer or more memory than it may.
        """
        with self._lock:
            pipe = self._ensure()
            try:
                pipe.send((data, name, how, tuple(rules)))
            except OSError:  # it ended just now: once more to a new one
                self.close()
                pipe = self._ensure()
                pipe.send((data, name, how, tuple(rules)))
            until = time.monotonic() + self.seconds
            while not pipe.poll(LOOK):
                if not self._process.is_alive():
                    raise self._end(f"{name}: its reading broke off; export the drawing again, or split it")
                if time.monotonic() > until:
                    raise self._end(
                        f"{name}: it takes more than {self.seconds:.0f} s to read; split the drawing, or"
                        " export it again with fewer and simpler lines"
                    )
                if _resident(self._process.pid) > self.memory:
                    raise self._end(
                        f"{name}: it takes more than {self.memory:,} MB of memory to read; split the drawing"
                    )
            try:
                fine, got = pipe.recv()
            except (EOFError, OSError) as e:
                raise self._end(
                    f"{name}: its reading broke off; export the drawing again, or split it"
                ) from e
            if not fine:
                raise BadInput(got)
            return got

    def _end(self, why: str) -> BadInput:
        """Kill the process; the next file gets a new one."""
        self.close()
        return BadInput(why)

    def close(self) -> None:
        """End the process."""
        if self._process is not None and self._process.is_alive():
            self._process.kill()
            self._process.join(2)
        self._process = None


def _resident(pid: int) -> float:
    """MB of memory that a process holds; 0 where that cannot be told."""
    try:
        with open(f"/proc/{pid}/statm") as f:
            return int(f.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
    except (OSError, ValueError, IndexError):
        return 0.0
