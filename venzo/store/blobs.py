"""Files and geometry by content digest: written and flushed to disk before any plan names them."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from venzo.core.parts.drawing import LARGEST_FILE
from venzo.core.snags import BadInput
from venzo.store.faults import MissingBlob

_DIGEST = re.compile(r"[0-9a-f]{32}")


class Blobs:
    """A folder of immutable blobs, each at most 64 MB."""

    def __init__(self, folder: Path):
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    @staticmethod
    def name(data: bytes) -> str:
        """The digest that bytes are stored under."""
        return hashlib.sha256(data).hexdigest()[:32]

    def put(self, data: bytes) -> str:
        """Store bytes and return their digest; on disk (fsync) when this returns."""
        return self.put_as(self.name(data), data)

    def put_as(self, digest: str, data: bytes) -> str:
        """Store bytes under a digest computed by the caller."""
        if len(data) > LARGEST_FILE:
            raise BadInput(f"{len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB")
        path = self._path(digest)
        if path.exists():
            os.utime(path)  # asked for again: not one of those that nothing will name
        else:
            handle, name = tempfile.mkstemp(
                suffix=".part", dir=self.folder
            )  # a name of its own: equal files may come at the same time
            part = Path(name)
            try:
                with os.fdopen(handle, "wb") as f:
                    f.write(data)
                    f.flush()
                    os.fsync(f.fileno())
                part.rename(path)
            except BaseException:
                part.unlink(missing_ok=True)
                raise
            folder = os.open(self.folder, os.O_RDONLY)
            try:
                os.fsync(folder)
            finally:
                os.close(folder)
        return digest

    def get(self, digest: str) -> bytes:
        """The bytes of a file by its digest, which is checked.

        Raises:
            MissingBlob: there are none, or they are not those that were stored.
        """
        data = self.raw(digest)
        if self.name(data) != digest:
            raise MissingBlob(digest, "was altered in")
        return data

    def raw(self, digest: str) -> bytes:
        """The bytes kept under a digest that the caller checks.

        Raises:
            MissingBlob: there are none.
        """
        try:
            return self._path(digest).read_bytes()
        except FileNotFoundError:
            raise MissingBlob(digest) from None

    def collect(self, wanted: set[str], older: float = 0.0) -> int:
        """Remove blobs that nothing refers to and that are ``older`` than so many seconds (a newer one may be
        on its way into a plan); returns how many.
        """
        gone, now = 0, time.time()
        for path in self._all():
            if path.name not in wanted and now - path.stat().st_mtime >= older:
                path.unlink(missing_ok=True)
                gone += 1
        return gone

    def _all(self) -> Iterator[Path]:
        return (p for p in self.folder.iterdir() if _DIGEST.fullmatch(p.name) or p.suffix == ".part")

    def _path(self, digest: str) -> Path:
        if not _DIGEST.fullmatch(digest):
            raise MissingBlob(digest)
        return self.folder / digest
