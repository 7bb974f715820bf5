"""Models of reliefs, kept as blobs."""

from __future__ import annotations

from collections.abc import Mapping

from cachetools import LRUCache

from venzo.core.relief.kept_surface import packed, unpacked
from venzo.core.relief.mesh import Mesh
from venzo.store.blobs import Blobs

MOST = 8
"""Models that are remembered."""


class Surfaces(Mapping[str, Mesh]):
    """Models of reliefs by digest, read from the blobs; the last few are remembered."""

    def __init__(self, blobs: Blobs):
        self._blobs = blobs
        self._kept: LRUCache[str, Mesh] = LRUCache(MOST)

    def __getitem__(self, digest: str) -> Mesh:
        found = self._kept.get(digest)
        if found is None:
            found = self._kept[digest] = unpacked(self._blobs.get(digest), "relief")
        return found

    def __iter__(self):
        return iter(self._kept)

    def __len__(self) -> int:
        return len(self._kept)

    def put(self, mesh: Mesh) -> str:
        """Store a model; returns its digest."""
        return self._blobs.put(packed(mesh))
