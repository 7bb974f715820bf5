"""Derived results that outlive the process: a bounded cache beside the shop's database. Nothing in it is
needed: it can be deleted at any time, and whatever is wrong with it costs only the time to reckon again.
"""

from __future__ import annotations

import hashlib
import io
import logging
import pickle
import sqlite3
import threading
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path
from queue import Empty, Queue
from typing import Any

import numpy
import shapely

import venzo

FILE = "derived.db"
MOST = 400_000_000
"""Bytes that kept results may take on disk; those used longest ago go first."""
LARGEST = 40_000_000
"""Bytes; a result larger than this is not kept."""
WAITING = 100_000_000
"""Bytes that may wait to be written; what comes on top is not kept."""
IDLE = 20.0
"""s; so often it is noted which results were used."""
_PLAIN = {
    ("builtins", "set"),
    ("builtins", "frozenset"),
    ("builtins", "complex"),
    ("builtins", "slice"),
    ("builtins", "bytearray"),
    ("collections", "OrderedDict"),
    ("collections", "defaultdict"),
    ("numpy", "ndarray"),
    ("numpy", "dtype"),
    ("numpy._core.multiarray", "_reconstruct"),
    ("numpy._core.multiarray", "scalar"),
    ("numpy._core.numeric", "_frombuffer"),
    ("shapely.io", "from_wkb"),
    ("shapely.geometry.polygon", "_unpickle_linearring"),
}
"""What results are made of beside Venzo's own values; nothing else is ever loaded from a file."""
_ROOMS = ("venzo.core.", "venzo.desk.", "venzo.api.documents.")
"""Where classes of results are at home."""


class _Loader(pickle.Unpickler):
    """Loads Venzo's own values, arrays and geometry, and calls nothing else that a file might name."""

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) in _PLAIN:
            return super().find_class(module, name)
        if module.startswith(_ROOMS):
            found = super().find_class(module, name)
            if isinstance(found, type):
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is not loaded from a file")


@cache
def of_this_version() -> str:
    """Digest of all that results are made by: the source of the core and the formats, and the libraries that
    reckon for them. Another version never sees this one's results.
    """
    about = hashlib.sha256(f"{numpy.__version__} {shapely.__version__} {shapely.geos_version}".encode())
    root = Path(venzo.__file__).parent
    for file in sorted(f for room in ("core", "formats", "desk") for f in (root / room).rglob("*.py")):
        about.update(str(file.relative_to(root)).encode())
        about.update(file.read_bytes())
    return about.hexdigest()[:16]


class Derived:
    """The derived results kept in a folder, as a keeper of ``venzo.core.memo``. They are written behind, by a
    thread of their own.
    """

    def __init__(self, folder: Path, most: int = MOST, version: str = ""):
        self.file = folder / FILE
        self.most = most
        self.version = version or of_this_version()
        self._there: set[tuple[str, str]] = set()
        self._used: set[tuple[str, str]] = set()
        self._lock = threading.Lock()
        self._queue: Queue[tuple[str, str, bytes] | None] = Queue()
        self._waiting = 0
        self._counting = threading.Lock()
        self._base = self._open() or self._anew()
        self._writer = threading.Thread(target=self._write, name="derived", daemon=True)
        self._writer.start()

    def find(self, stage: str, key: str) -> Any:
        """The result of a stage, or None where none is kept or it cannot be read."""
        if (stage, key) not in self._there:
            return None
        try:
            with self._lock:
                if self._base is None:
                    return None
                row = self._base.execute(
                    "SELECT value FROM derived WHERE stage = ? AND key = ?", (stage, key)
                ).fetchone()
            if row is None:
                raise LookupError(f"no row {stage} {key}")
            value = _Loader(io.BytesIO(row[0])).load()
        except Exception as e:  # whatever it is, the result can be made again
            logging.getLogger("venzo").warning("a kept result (%s) cannot be read: %s", stage, e)
            self._there.discard((stage, key))
            return None
        self._used.add((stage, key))
        return value

    def keep(self, stage: str, key: str, value: Any) -> None:
        """Keep a result. It is packed here and now, before others see it and it remembers more about itself;
        it is written behind.
        """
        try:
            data = pickle.dumps(value, pickle.HIGHEST_PROTOCOL)
            if len(data) <= LARGEST and self._may_wait(len(data)):
                self._queue.put((stage, key, data))
        except Exception as e:  # a lambda, a lock, a part of it that grows meanwhile
            logging.getLogger("venzo").warning("a result (%s) cannot be kept: %s", stage, e)

    def settle(self, seconds: float = 30.0) -> bool:
        """Wait until all that was handed in is written; False where that takes longer."""
        until = time.monotonic() + seconds
        with self._queue.all_tasks_done:
            while self._queue.unfinished_tasks:
                left = until - time.monotonic()
                if left <= 0 or not self._queue.all_tasks_done.wait(left):
                    return False
        return True

    def close(self) -> None:
        """Write what waits, remember what was used, and let go of the file."""
        self._queue.put(None)
        self._writer.join(30)
        self._guarded(self._note_use)
        with self._lock:
            if self._base is not None:
                self._base.close()
                self._base = None

    @property
    def size(self) -> int:
        """Bytes of all that is kept."""
        with self._lock:
            if self._base is None:
                return 0
            return int(self._base.execute("SELECT coalesce(sum(bytes), 0) FROM derived").fetchone()[0])

    def _open(self) -> sqlite3.Connection | None:
        """The file with what this version keeps; None where it cannot be used."""
        base: sqlite3.Connection | None = None
        try:
            base = sqlite3.connect(self.file, timeout=5, check_same_thread=False, isolation_level=None)
            base.execute("PRAGMA journal_mode=WAL")
            base.execute("PRAGMA synchronous=OFF")  # what a crash takes is made again
            base.execute(
                "CREATE TABLE IF NOT EXISTS derived (stage TEXT, key TEXT, version TEXT, bytes INTEGER,"
                " used REAL, value BLOB, PRIMARY KEY (stage, key))"
            )
            base.execute("DELETE FROM derived WHERE version != ?", (self.version,))
            self._there = set(base.execute("SELECT stage, key FROM derived"))
            return base
        except sqlite3.Error as e:
            logging.getLogger("venzo").warning("%s cannot be used: %s", self.file, e)
            if base is not None:
                base.close()
            return None

    def _anew(self) -> sqlite3.Connection | None:
        """A new file in place of one that is damaged."""
        try:
            for end in ("", "-wal", "-shm"):
                Path(f"{self.file}{end}").unlink(missing_ok=True)
        except OSError:
            return None
        return self._open()

    def _write(self) -> None:
        while True:
            try:
                task = self._queue.get(timeout=IDLE)
            except Empty:
                self._guarded(self._note_use)
                continue
            try:
                if task is None:
                    return
                self._may_wait(-len(task[2]))
                self._guarded(lambda task=task: self._put(*task))  # type: ignore[misc]
            finally:
                self._queue.task_done()

    def _may_wait(self, size: int) -> bool:
        """Reckon with so many bytes more that wait; False where that is too much."""
        with self._counting:
            if self._waiting + size > WAITING:
                return False
            self._waiting += size
            return True

    def _guarded(self, work: Callable[[], None]) -> None:
        """Do something that may fail without harm: a full disk, a file taken away."""
        try:
            work()
        except Exception as e:
            logging.getLogger("venzo").warning("%s: a result is not kept: %s", self.file, e)

    def _put(self, stage: str, key: str, data: bytes) -> None:
        _Loader(io.BytesIO(data)).load()  # what could not be read again is not kept
        with self._lock:
            if self._base is None:
                return
            self._base.execute(
                "INSERT OR REPLACE INTO derived VALUES (?, ?, ?, ?, ?, ?)",
                (stage, key, self.version, len(data), time.time(), data),
            )
        self._there.add((stage, key))
        self._make_room()

    def _make_room(self) -> None:
        """Drop what was used longest ago until the rest fits."""
        if self.size <= self.most:
            return
        self._note_use()
        with self._lock:
            assert self._base is not None
            kept, gone = 0, []
            for stage, key, size in self._base.execute(
                "SELECT stage, key, bytes FROM derived ORDER BY used DESC"
            ):
                kept += size
                if kept > self.most * 0.8:
                    gone.append((stage, key))
            self._base.executemany("DELETE FROM derived WHERE stage = ? AND key = ?", gone)
        self._there.difference_update(gone)

    def _note_use(self) -> None:
        used, self._used = self._used, set()
        with self._lock:
            if self._base is not None and used:
                self._base.executemany(
                    "UPDATE derived SET used = ? WHERE stage = ? AND key = ?",
                    [(time.time(), *at) for at in used],
                )
