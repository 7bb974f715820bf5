"""A file as an answer."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import Response


def download(body: bytes, name: str, kind: str) -> Response:
    """A body with the name that the browser saves it under."""
    return Response(
        body, media_type=kind, headers={"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
