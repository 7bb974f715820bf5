"""Derived results that outlive the process: a bounded cache beside the shop's database. Nothing in it is
needed: it can be deleted at any time, and whatever is wrong with it costs only the time to reckon again.
"""

from __future__ import annotations

import hashlib
import io
import logging
import pickle
import sqlite3
import sys
import threading
import time
from collections import deque
from collections.abc import Callable
from functools import cache, partial
from importlib import metadata
from pathlib import Path
from typing import Any

import shapely

import venzo
from venzo.core.memo import quiet

FILE = "derived.db"
MOST = 400_000_000
"""Bytes that kept results may take on disk; those used longest ago go first."""
LARGEST = 40_000_000
"""Bytes; a result larger than this is not kept."""
RECKONING = ("numpy", "scipy", "numba", "shapely", "pyclipr", "pyvoronoi", "ezdxf", "pydantic")
"""Libraries of which another version may come to other results."""
WAITING = 200_000_000
"""Bytes that results which wait to be written may hold in memory."""
QUIET = 1.5
"""s after the last edit before anything is packed: packing holds everything else up, a tenth of a second for
a large sheet.
"""
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


def _packed(value: Any) -> bytes:
    """A result as bytes; tried again where another thread made it remember more about itself meanwhile."""
    for _ in range(3):
        try:
            return pickle.dumps(value, pickle.HIGHEST_PROTOCOL)
        except RuntimeError:
            continue
    return pickle.dumps(value, pickle.HIGHEST_PROTOCOL)


@cache
def of_this_version() -> str:
    """Digest of all that results are made by: the source, and the libraries that reckon for it. Another
    version never sees this one's results.
    """
    with_ = [f"{name} {metadata.version(name)}" for name in RECKONING]
    about = hashlib.sha256(f"{sys.version_info[:2]} {shapely.geos_version} {with_}".encode())
    root = Path(venzo.__file__).parent
    for file in sorted(root.rglob("*.py")):
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
        self._more = threading.Condition()
        self._waiting: deque[tuple[str, str, Any, int]] = deque()
        self._burden = 0
        self._at_work = self._ended = False
        self._hurry = 0
        self._base = self._opened()
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
                    "SELECT value FROM derived WHERE stage = ? AND key = ? AND version = ?",
                    (stage, key, self.version),
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

    def keep(self, stage: str, key: str, value: Any, heavy: int) -> None:
        """Keep a result: it is packed and written behind, when nobody waits for anything; where too much
        waits, what came first is not kept.
        """
        if heavy > LARGEST:
            return
        with self._more:
            self._waiting.append((stage, key, value, heavy))
            self._burden += heavy
            while self._burden > WAITING:
                self._burden -= self._waiting.popleft()[3]
            self._more.notify()

    def settle(self, seconds: float = 30.0) -> bool:
        """Wait until all that was handed in is written, now; False where that takes longer."""
        with self._more:
            self._hurry += 1
            self._more.notify_all()
            done = self._more.wait_for(lambda: not self._waiting and not self._at_work, seconds)
            self._hurry -= 1
        return done

    def close(self) -> None:
        """Write what waits, remember what was used, and let go of the file."""
        self.settle(5.0)
        with self._more:
            self._ended = True
            self._more.notify_all()
        self._writer.join(5.0)
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

    def _opened(self) -> sqlite3.Connection | None:
        """The file, begun anew where it is damaged; None where it cannot be used now."""
        try:
            return self._open()
        except sqlite3.Error as e:
            logging.getLogger("venzo").warning("%s cannot be used: %s", self.file, e)
            if "locked" in str(e):  # another process writes at this moment, and needs it
                return None
        try:
            for end in ("", "-wal", "-shm"):
                Path(f"{self.file}{end}").unlink(missing_ok=True)
            return self._open()
        except (OSError, sqlite3.Error):
            return None

    def _open(self) -> sqlite3.Connection:
        """The file with what this version keeps."""
        base = sqlite3.connect(self.file, timeout=5, check_same_thread=False, isolation_level=None)
        try:
            base.execute("PRAGMA journal_mode=WAL")
            base.execute("PRAGMA synchronous=OFF")  # what a crash takes is made again
            base.execute(
                "CREATE TABLE IF NOT EXISTS derived (stage TEXT, key TEXT, version TEXT, bytes INTEGER,"
                " used REAL, value BLOB, PRIMARY KEY (stage, key))"
            )
            base.execute("DELETE FROM derived WHERE version != ?", (self.version,))
            self._there = set(base.execute("SELECT stage, key FROM derived"))
        except sqlite3.Error:
            base.close()
            raise
        return base

    def _write(self) -> None:
        while True:
            with self._more:
                if not self._more.wait_for(lambda: self._waiting or self._ended, IDLE):
                    pass
                elif self._ended:
                    return
                self._more.wait_for(lambda: self._hurry or self._ended or quiet(QUIET), QUIET)
                ready = self._waiting and (self._hurry or quiet(QUIET))
                task = self._waiting.popleft() if ready else None
                self._at_work = task is not None
                self._burden -= task[3] if task else 0
            if task is not None:
                self._guarded(partial(self._put, *task[:3]))
            elif not self._waiting:
                self._guarded(self._note_use)
            with self._more:
                self._at_work = False
                self._more.notify_all()

    def _guarded(self, work: Callable[[], None]) -> None:
        """Do something that may fail without harm: a full disk, a file taken away, a value that cannot be
        packed.
        """
        try:
            work()
        except Exception as e:
            logging.getLogger("venzo").warning("%s: a result is not kept: %s", self.file, e)

    def _put(self, stage: str, key: str, value: Any) -> None:
        data = _packed(value)
        if len(data) > LARGEST:
            return
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
