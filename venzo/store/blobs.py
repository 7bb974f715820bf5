"""Files and geometry by content digest: written and flushed to disk before any plan names them."""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Iterator
from pathlib import Path

from venzo.core.parts.drawing import LARGEST_FILE
from venzo.core.snags import BadInput

_DIGEST = re.compile(r"[0-9a-f]{32}")


class Blobs:
    """A folder of immutable blobs, each at most 64 MB."""

    def __init__(self, folder: Path):
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def put(self, data: bytes) -> str:
        """Store bytes and return their digest; on disk (fsync) when this returns."""
        return self.put_as(hashlib.sha256(data).hexdigest()[:32], data)

    def put_as(self, digest: str, data: bytes) -> str:
        """Store bytes under a digest computed by the caller."""
        if len(data) > LARGEST_FILE:
            raise BadInput(f"{len(data) / 1e6:.0f} MB is over the limit of {LARGEST_FILE // 1024**2} MB")
        path = self._path(digest)
        if not path.exists():
            part = path.with_suffix(f".{os.getpid()}.part")
            with open(part, "wb") as f:
                f.write(data)
                f.flush()
                os.fsync(f.fileno())
            part.rename(path)
            folder = os.open(self.folder, os.O_RDONLY)
            try:
                os.fsync(folder)
            finally:
                os.close(folder)
        return digest

    def get(self, digest: str) -> bytes:
        """The bytes of a digest; KeyError when there are none."""
        try:
            return self._path(digest).read_bytes()
        except FileNotFoundError:
            raise KeyError(digest) from None

    def collect(self, wanted: set[str]) -> int:
        """Remove blobs that nothing refers to; returns how many."""
        gone = 0
        for path in self._all():
            if path.name not in wanted:
                path.unlink()
                gone += 1
        return gone

    def _all(self) -> Iterator[Path]:
        return (p for p in self.folder.iterdir() if _DIGEST.fullmatch(p.name) or p.suffix == ".part")

    def _path(self, digest: str) -> Path:
        if not _DIGEST.fullmatch(digest):
            raise KeyError(digest)
        return self.folder / digest
