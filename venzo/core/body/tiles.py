"""How the stock body is divided: into square tiles of cells, kept only where something was cut."""

from __future__ import annotations

TILE = 64
"""Cells along a tile's side."""
